#include "chart_command.hpp"

#include "refuse.hpp"

#include "exchange/chart_files.hpp"
#include "recording/recording.hpp"
#include "trip/open_trip.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>
#include <fmt/format.h>

namespace heron::cli {
namespace {

namespace fs = std::filesystem;

using Rows = std::function<void(const Scan &scan, std::size_t row)>;

// Every settled row of a file's streams, one after the other.
Result<void> each_row(const std::string &file, std::vector<std::string> *warnings, const Rows &take) {
    if (file.ends_with(TripFile::suffix)) {
        auto trip = TripFile::open_read_only(file);
        if (!trip)
            return tl::unexpected(trip.error());
        for (const auto stream : all_streams) {
            Scan scan;
            Overview overview;
            if (auto opened = open_into(*trip, scan, overview, stream); !opened)
                return tl::unexpected(opened.error());
            for (auto row = scan.first(); row < scan.end(); ++row) {
                take(scan, row);
                if (row % 256 == 0)
                    scan.trim();
            }
        }
        return {};
    }
    const auto recording = RecordingReader::open(file);
    if (!recording)
        return tl::unexpected(recording.error());
    if (warnings != nullptr)
        *warnings = recording->warnings();
    std::array<Scan, stream_count> scans;
    std::array<std::size_t, stream_count> taken{};
    for (auto &scan : scans) {
        scan.nav = recording->head().nav;
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
        if (scans[stream].end() % 256 == 0)
            go(stream, scans[stream].settled_until());
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

void print_warnings(const std::vector<std::string> &warnings) {
    for (const auto &w : warnings)
        fmt::print(stderr, "warning: {}\n", w);
}

Result<std::vector<std::string>> files_of(const std::vector<std::string> &in) {
    std::vector<std::string> files;
    for (const auto &name : in) {
        if (!fs::is_directory(name)) {
            files.push_back(name);
            continue;
        }
        std::error_code error;
        std::vector<std::string> some;
        for (const auto &e : fs::directory_iterator(name, error))
            if (e.path().extension() == ".nc" || e.path().string().ends_with(TripFile::suffix))
                some.push_back(e.path().string());
        if (error || some.empty())
            return fail(told("{} holds no recording (.nc) and no trip ({})", name, TripFile::suffix),
                        told("nothing was written"), told("name another folder"));
        std::sort(some.begin(), some.end());
        files.insert(files.end(), some.begin(), some.end());
    }
    return files;
}

} // namespace

Result<GroundMap> map_file(const std::string &file, std::optional<UtmZone> zone, double cell_m,
                           std::vector<std::string> &warnings) {
    std::array<GroundCurve, 2> curves; // the sides', the head's
    const auto which = [](const Scan &scan, std::size_t row) -> std::size_t {
        return scan.ping(row).beam(Side::around) != nullptr ? 1 : 0;
    };
    std::size_t rows = 0;
    std::optional<GeoPoint> middle;
    if (auto learned = each_row(file, &warnings,
                                [&](const Scan &scan, std::size_t row) {
                                    if (!middle)
                                        middle = middle_of(scan.nav);
                                    curves[which(scan, row)].add(scan, row);
                                    ++rows;
                                });
        !learned)
        return tl::unexpected(learned.error());
    const auto refused = [&](const std::string &why) {
        return fail(file + ": " + why, told("nothing was written"),
                    told("a chart needs sonar with positions and headings"));
    };
    if (rows == 0)
        return refused(told("it holds no pings"));
    if (!middle)
        return refused(told("no position is known"));
    if (!zone) {
        const auto own = utm_zone_of(*middle);
        if (!own)
            return refused(own.error().happened);
        zone = *own;
    }
    for (auto &curve : curves)
        curve.settle();
    GroundMap map(*zone, cell_m);
    if (auto laid = each_row(
            file, nullptr,
            [&](const Scan &scan, std::size_t row) { map.add(scan, row, curves[which(scan, row)]); });
        !laid)
        return tl::unexpected(laid.error());
    if (map.empty())
        return refused(told("no row has a place, a heading and a bottom"));
    return map;
}

Result<void> write_bottom(const std::string &file, const std::string &out, double cell_m,
                          std::vector<std::string> &warnings) {
    const auto map = map_file(file, std::nullopt, cell_m, warnings);
    if (!map)
        return tl::unexpected(map.error());
    const auto h = hardness_of(*map);
    return write_geotiff(out, h.raster, {{"hardness", h.hardness}, {"roughness", h.roughness}});
}

int chart(const ChartOptions &o) {
    if (o.mosaic.empty() && o.hardness.empty() && o.depth.empty() && o.package.empty())
        return refuse({told("no output is named"), told("nothing was written"),
                       told("name --mosaic, --hardness, --depth or --package")});
    const auto files = files_of(o.in);
    if (!files)
        return refuse(files.error());
    std::optional<GroundMap> map;
    std::size_t refused = 0;
    Fault last;
    for (const auto &file : *files) {
        std::vector<std::string> warnings;
        auto one = map_file(file, map ? std::optional(map->zone()) : std::nullopt, o.cell_m, warnings);
        print_warnings(warnings);
        if (!one) {
            ++refused;
            last = one.error();
            if (files->size() > 1)
                fmt::print(stderr, "warning: {}\n", one.error().line());
            continue;
        }
        if (map)
            map->merge(*one);
        else
            map = std::move(*one);
    }
    if (!map)
        return refuse(last);
    const auto h = hardness_of(*map);
    std::vector<std::string> written;
    const auto write = [&](const std::string &file, const Result<void> &done) {
        if (done) {
            written.push_back(file);
            return true;
        }
        std::error_code ignored;
        for (const auto &w : written)
            fs::remove(w, ignored);
        refuse(done.error());
        return false;
    };
    if (!o.mosaic.empty()) {
        const auto level = best_levels(*map, h.raster);
        if (!write(o.mosaic, write_geotiff(o.mosaic, h.raster, {{"level_db", level}})))
            return 2;
    }
    if (!o.hardness.empty() &&
        !write(o.hardness,
               write_geotiff(o.hardness, h.raster, {{"hardness", h.hardness}, {"roughness", h.roughness}})))
        return 2;
    const auto grid = depth_grid(map->soundings(), map->zone());
    if (!o.depth.empty() && !write(o.depth, write_geotiff(o.depth, grid.raster,
                                                          {{"depth_m", grid.depth_m}, {"sd_m", grid.sd_m}})))
        return 2;
    if (!o.package.empty() &&
        !write(o.package, write_chart_package(o.package, package_of(*map, h, grid, o.contour_m))))
        return 2;
    if (refused > 0)
        fmt::print(stderr, "warning: {} of {} files were refused, the others were charted\n", refused,
                   files->size());
    if (!o.quiet)
        fmt::print("{} of {} files charted, {:.1f} ha\n", files->size() - refused, files->size(),
                   static_cast<double>(
                       std::count_if(h.hardness.begin(), h.hardness.end(), [](float v) { return v == v; })) *
                       o.cell_m * o.cell_m / 1e4);
    return 0;
}

} // namespace heron::cli
