#include "bottom/map_of_file.hpp"

#include "recording/nmea_log.hpp"
#include "recording/recording.hpp"
#include "trip/open_trip.hpp"

#include <algorithm>
#include <array>
#include <filesystem>

namespace heron {
namespace {

using Rows = std::function<void(const Scan &scan, std::size_t row)>;

Fault broken_off() {
    return {told("charting was broken off"), told("nothing was written"), told("")};
}

// Every settled row of a file's streams, one after the other. `nav` gets the track.
Result<void> each_row(const std::string &file, double positions_late_s, std::vector<std::string> *warnings,
                      NavTrack *nav, const MapProgress &progress, const Rows &take) {
    if (file.ends_with(TripFile::suffix)) {
        auto trip = TripFile::open_read_only(file);
        if (!trip)
            return tl::unexpected(trip.error());
        for (const auto stream : all_streams) {
            Scan scan;
            Overview overview;
            if (auto opened = open_into(*trip, scan, overview, stream); !opened)
                return tl::unexpected(opened.error());
            scan.nav.positions_late_s += positions_late_s;
            if (nav != nullptr)
                *nav = scan.nav;
            for (auto row = scan.first(); row < scan.end(); ++row) {
                take(scan, row);
                if (row % 256 != 0)
                    continue;
                scan.trim();
                if (progress && !progress(static_cast<double>(row) / static_cast<double>(scan.end())))
                    return tl::unexpected(broken_off());
            }
        }
        return {};
    }
    const auto recording = RecordingReader::open(file);
    if (!recording)
        return tl::unexpected(recording.error());
    if (warnings != nullptr)
        *warnings = recording->warnings();
    if (nav != nullptr)
        *nav = recording->head().nav;
    std::array<Scan, stream_count> scans;
    std::array<std::size_t, stream_count> taken{};
    for (auto &scan : scans) {
        scan.nav = recording->head().nav;
        scan.nav.positions_late_s = positions_late_s;
        scan.installation = recording->head().installation;
    }
    const auto go = [&](std::size_t stream, std::size_t end) {
        for (; taken[stream] < end; ++taken[stream])
            if (scans[stream].holds(taken[stream]))
                take(scans[stream], taken[stream]);
    };
    for (std::size_t i = 0; i < recording->size(); ++i) {
        auto ping = recording->ping(i);
        if (!ping)
            continue;
        const auto stream = static_cast<std::size_t>(stream_of(*ping));
        scans[stream].push({std::move(*ping), std::nullopt, {}});
        if (scans[stream].end() % 256 != 0)
            continue;
        go(stream, scans[stream].settled_until());
        if (progress && !progress(static_cast<double>(i) / static_cast<double>(recording->size())))
            return tl::unexpected(broken_off());
    }
    for (std::size_t stream = 0; stream < stream_count; ++stream)
        go(stream, scans[stream].end());
    return {};
}

// The middle of the track tells the zone.
std::optional<GeoPoint> middle_of(const NavTrack &nav) {
    const auto &all = nav.positions();
    if (all.empty())
        return std::nullopt;
    return all[all.size() / 2].place;
}

tl::unexpected<Fault> refused(const std::string &file, const std::string &why) {
    return fail(file + ": " + why, told("nothing was written"),
                told("a chart needs sonar with positions and headings, or depths with positions"));
}

bool is_log(const std::string &file) {
    return file.ends_with(".nmea") || file.ends_with(".log") || file.ends_with(".txt");
}

} // namespace

std::optional<double> level_told_in(const std::string &file, UnitSystem system) {
    if (!file.ends_with(TripFile::suffix))
        return std::nullopt;
    const auto trip = TripFile::open_read_only(file);
    const auto conditions = trip ? trip->conditions() : std::nullopt;
    return conditions ? parse_length_m(conditions->level, system) : std::nullopt;
}

bool is_chartable(const std::string &file) {
    return file.ends_with(".nc") || file.ends_with(TripFile::suffix) || file.ends_with(".nmea");
}

Result<GroundMap> map_of_file(const std::string &file, std::optional<UtmZone> zone, double cell_m,
                              std::vector<std::string> &warnings, const MapProgress &progress,
                              const RowChoice &choice, ClockCheck *clocks, double positions_late_s) {
    NavTrack nav;
    std::array<GroundCurve, 2> curves; // the sides', the head's
    const auto which = [](const Scan &scan, std::size_t row) -> std::size_t {
        return scan.ping(row).beam(Side::around) != nullptr ? 1 : 0;
    };
    std::size_t rows = 0, chosen = 0;
    GroundMap heard(UtmZone(), cell_m); // nothing but which bands and days there are
    Installation installation;
    if (is_log(file)) {
        auto track = track_of_log(file);
        if (!track)
            return tl::unexpected(track.error());
        if (track->depths().empty())
            warnings.push_back(told("{}: no depth is told", file));
        nav = std::move(*track);
    } else if (auto learned = each_row(
                   file, positions_late_s, &warnings, &nav,
                   progress ? MapProgress([&](double share) { return progress(share / 2); }) : progress,
                   [&](const Scan &scan, std::size_t row) {
                       installation = scan.installation;
                       ++rows;
                       heard.note(scan, row);
                       if (!choice.takes(scan, row))
                           return;
                       curves[which(scan, row)].add(scan, row);
                       ++chosen;
                   });
               !learned) {
        return tl::unexpected(learned.error());
    }
    if (rows == 0 && nav.depths().empty())
        return refused(file, told("it holds no pings"));
    const auto middle = middle_of(nav);
    if (!middle)
        return refused(file, told("no position is known"));
    if (!zone) {
        const auto own = utm_zone_of(*middle);
        if (!own)
            return refused(file, own.error().happened);
        zone = *own;
    }
    GroundMap map(*zone, cell_m);
    map.merge(heard);
    if (rows > 0 && chosen == 0) {
        warnings.push_back(told("{}: none of its pings is of the band and the day that were chosen", file));
        return map;
    }
    if (rows > 0) {
        for (auto &curve : curves)
            curve.settle();
        if (auto laid = each_row(
                file, positions_late_s, nullptr, nullptr,
                progress ? MapProgress([&](double share) { return progress(0.5 + share / 2); }) : progress,
                [&](const Scan &scan, std::size_t row) {
                    if (!choice.takes(scan, row))
                        return;
                    map.add(scan, row, curves[which(scan, row)]);
                    if (clocks != nullptr)
                        clocks->add(scan, row, curves[which(scan, row)]);
                });
            !laid)
            return tl::unexpected(laid.error());
    }
    if (map.soundings().empty())
        map.add_soundings(nav, installation);
    if (map.empty() && map.soundings().empty())
        return refused(file, told("no row has a place, a heading and a bottom, and no depth a place"));
    return map;
}

} // namespace heron
