#include "read_command.hpp"

#include "chart_command.hpp"
#include "refuse.hpp"

#include "exchange/results_geojson.hpp"
#include "files/atomic_file.hpp"
#include "reading/reader.hpp"
#include "reading/sweep_reader.hpp"
#include "recording/damaged_pings.hpp"
#include "recording/recording.hpp"
#include "trip/open_trip.hpp"

#include <algorithm>
#include <array>
#include <filesystem>
#include <fmt/format.h>
#include <functional>
#include <optional>
#include <unistd.h>

namespace heron::cli {
namespace {

namespace fs = std::filesystem;

struct Reading {
    std::vector<Contact> contacts;
    std::vector<Stretch> track;
    std::vector<std::string> warnings;
};

using Progress = std::function<void(double share)>;

// What the scan holds in memory is bounded; contacts are taken as rows settle. Where the turns of a head tell
// that the heading comes late, all is read once more with that put right.
Result<Reading> read_one(const std::string &file, const Progress &progress,
                         std::optional<double> compass_late_s = std::nullopt) {
    Reading r;
    Reader reader; // in the blocks that docs/accuracy.md measured
    SweepReader sweeps;
    std::vector<Contact> turns; // what the turns of a head showed
    std::optional<double> late_s;
    const auto again = [&]() -> Result<Reading> {
        if (!late_s || compass_late_s)
            return std::move(r);
        auto right = read_one(file, progress, late_s);
        if (right)
            right->warnings = std::move(r.warnings);
        return right;
    };
    const auto add = [](std::vector<Contact> &to, std::vector<Contact> some) {
        to.insert(to.end(), std::make_move_iterator(some.begin()), std::make_move_iterator(some.end()));
    };
    const auto finish = [&](const Scan &side, const Scan &around) {
        add(r.contacts, reader.advance(side, true));
        r.contacts = join_contacts(std::move(r.contacts), ReaderSettings().least_confidence);
        add(turns, sweeps.advance(around, true));
        add(r.contacts, join_sweeps(turns, sweeps.views(), ReaderSettings().least_confidence));
        late_s = sweeps.check().findings().heading_late_s;
        for (const auto &fault : say(sweeps.check().findings()))
            r.warnings.push_back(fault.line());
        const auto &longer = side.empty() ? around : side;
        r.track = stretches(longer, 0, longer.end());
    };
    constexpr std::size_t at_once = 512;
    if (file.ends_with(TripFile::suffix)) {
        auto trip = TripFile::open_read_only(file);
        if (!trip)
            return tl::unexpected(trip.error());
        std::array<Scan, stream_count> scans;
        for (const auto stream : all_streams) {
            Overview overview;
            if (auto opened = open_into(*trip, scans[static_cast<std::size_t>(stream)], overview, stream);
                !opened)
                return tl::unexpected(opened.error());
        }
        if (scans[0].empty() && scans[1].empty())
            return fail(file + ": the trip holds no pings", "", "nothing can be read of it");
        scans[1].nav.compass_late_s = compass_late_s.value_or(0);
        finish(scans[0], scans[1]);
        return again();
    }
    const auto recording = RecordingReader::open(file);
    if (!recording)
        return tl::unexpected(recording.error());
    r.warnings = recording->warnings();
    std::array<Scan, stream_count> scans;
    for (auto &scan : scans) {
        scan.nav = recording->head().nav;
        scan.installation = recording->head().installation;
    }
    scans[1].nav.compass_late_s = compass_late_s.value_or(0);
    DamagedPings damaged;
    for (std::size_t i = 0; i < recording->size(); ++i) {
        auto ping = recording->ping(i);
        if (!ping) {
            damaged.add(std::move(ping.error()));
            continue;
        }
        const auto stream = stream_of(*ping);
        auto &scan = scans[static_cast<std::size_t>(stream)];
        scan.push({std::move(*ping), std::nullopt, {}});
        if (scan.end() % at_once == 0) {
            if (stream == StreamId::around)
                add(turns, sweeps.advance(scan, false));
            else
                add(r.contacts, reader.advance(scan, false));
            progress(static_cast<double>(i) / static_cast<double>(recording->size()));
        }
    }
    if (scans[0].end() + scans[1].end() == 0)
        return tl::unexpected(damaged.as_refusal());
    damaged.tell(r.warnings);
    finish(scans[0], scans[1]);
    return again();
}

Result<std::size_t> read_to(const std::string &in, const std::string &marks, const std::string &track,
                            const std::string &bottom, const Progress &progress) {
    auto reading = read_one(in, progress);
    if (!reading)
        return tl::unexpected(reading.error());
    std::size_t left_out = 0;
    const auto text = geojson_from_contacts(reading->contacts, &left_out);
    if (left_out > 0)
        reading->warnings.push_back(told("{} contacts have no place and were left out", left_out));
    for (const auto &w : reading->warnings)
        fmt::print(stderr, "warning: {}\n", w);
    std::vector<std::string> written;
    const auto keep_none = [&written](const Fault &fault) {
        std::error_code ignored;
        for (const auto &w : written)
            fs::remove(w, ignored);
        return tl::unexpected(fault);
    };
    if (!bottom.empty()) {
        std::vector<std::string> more;
        if (auto charted = write_bottom(in, bottom, 0.25, more); !charted)
            return tl::unexpected(charted.error());
        for (const auto &w : more)
            if (const auto &said = reading->warnings; std::find(said.begin(), said.end(), w) == said.end())
                fmt::print(stderr, "warning: {}\n", w);
        written.push_back(bottom);
    }
    if (!track.empty()) {
        if (auto done = write_file_atomically(track, geojson_from_stretches(reading->track)); !done)
            return keep_none(done.error());
        written.push_back(track);
    }
    if (auto done = write_file_atomically(marks, text); !done)
        return keep_none(done.error());
    return reading->contacts.size() - left_out;
}

int read_folder(const ReadOptions &o) {
    std::vector<fs::path> files;
    std::error_code error;
    for (const auto &e : fs::directory_iterator(o.in, error))
        if (e.path().extension() == ".nc" || e.path().string().ends_with(TripFile::suffix))
            files.push_back(e.path());
    if (error || files.empty())
        return refuse({fmt::format("{} holds no recording (.nc) and no trip ({})", o.in, TripFile::suffix),
                       "", "name another folder"});
    std::sort(files.begin(), files.end());
    fs::create_directories(o.marks, error);
    if (error)
        return refuse(
            {fmt::format("{} cannot be made: {}", o.marks, error.message()), "", "choose another folder"});
    std::size_t refused = 0, passed = 0;
    for (std::size_t i = 0; i < files.size(); ++i) {
        const auto out = fs::path(o.marks) / (files[i].stem().string() + ".geojson");
        if (fs::exists(out) && fs::last_write_time(out, error) >= fs::last_write_time(files[i], error)) {
            ++passed;
            continue;
        }
        const auto n = read_to(files[i].string(), out.string(), {}, {}, [](double) {});
        if (n) {
            if (!o.quiet)
                fmt::print("{} of {}  {}: {} contacts\n", i + 1, files.size(), files[i].filename().string(),
                           *n);
        } else {
            refuse(n.error());
            ++refused;
        }
        std::fflush(stdout);
    }
    if (!o.quiet && passed > 0)
        fmt::print("{} had been read before\n", passed);
    if (refused > 0)
        fmt::print(stderr, "warning: {} of {} files were refused, the others were read\n", refused,
                   files.size());
    return refused == files.size() ? 2 : 0;
}

} // namespace

int read(const ReadOptions &o) {
    if (fs::is_directory(o.in)) {
        if (!o.track.empty() || !o.bottom.empty())
            return refuse({"--track and --bottom go with one recording, not with a folder",
                           "nothing was written", "read that recording alone"});
        return read_folder(o);
    }
    const bool shows = !o.quiet && ::isatty(STDERR_FILENO) != 0;
    const auto n = read_to(o.in, o.marks, o.track, o.bottom, [&](double share) {
        if (shows)
            fmt::print(stderr, "\r{:3.0f} %", 100 * share);
    });
    if (shows)
        fmt::print(stderr, "\r     \r");
    if (!n)
        return refuse(n.error());
    if (!o.quiet)
        fmt::print("{} contacts written to {}\n", *n, o.marks);
    return 0;
}

} // namespace heron::cli
