#include "screen_command.hpp"

#include "loopback_port.hpp"
#include "refuse.hpp"

#include "exchange/results_geojson.hpp"
#include "files/atomic_file.hpp"
#include "recording/nmea_log.hpp"
#include "recording/write_recording.hpp"
#include "screen/film.hpp"
#include "screen/guess.hpp"
#include "screen/screen_sounder.hpp"

#include <algorithm>
#include <chrono>
#include <csignal>
#include <filesystem>
#include <fmt/format.h>
#include <limits>
#include <thread>

namespace heron::cli {
namespace {

namespace fs = std::filesystem;

Result<ScreenCalibration> calibration_in(const std::string &file) {
    const auto text = read_whole_file(file, 1u << 20);
    if (!text)
        return tl::unexpected(text.error());
    return calibration_from_json(*text);
}

// When a file was last written: the only time that every file has.
UnixNs time_of(const fs::path &file) {
    std::error_code error;
    const auto written = fs::last_write_time(file, error);
    if (error)
        return 0;
    return std::chrono::duration_cast<std::chrono::nanoseconds>(
               std::chrono::file_clock::to_sys(written).time_since_epoch())
        .count();
}

bool is_picture(const fs::path &file) {
    auto end = file.extension().string();
    std::transform(end.begin(), end.end(), end.begin(), [](unsigned char c) { return std::tolower(c); });
    return end == ".png" || end == ".jpg" || end == ".jpeg" || end == ".webp" || end == ".tif" ||
           end == ".tiff";
}

Result<std::size_t> read_one(const fs::path &file, const ScreenCalibration &calibration,
                             const std::string &marks, const std::string &recording) {
    const auto opened = open_picture(file);
    if (!opened)
        return tl::unexpected(opened.error());
    const auto name = file.filename().string();
    const auto newest = time_of(file);
    const auto rows = rows_of(opened->picture, calibration, newest, name);
    if (!rows)
        return tl::unexpected(rows.error());
    const auto reading = read_rows(*rows, calibration);
    for (const auto *all : {&opened->warnings, &reading.warnings})
        for (const auto &w : *all)
            fmt::print(stderr, "warning: {}\n", w);
    if (!recording.empty())
        if (auto done = write_recording(recording, rows->recording.head, rows->recording.pings); !done)
            return tl::unexpected(done.error());
    if (!marks.empty())
        if (auto done = write_file_atomically(marks, geojson_from_picture(reading.contacts)); !done)
            return tl::unexpected(done.error());
    return reading.contacts.size();
}

int write_guess(const PictureOptions &o) {
    auto opened = open_picture(o.in);
    if (!opened)
        return refuse(opened.error());
    const auto guess = guess_screen(opened->picture);
    if (!guess)
        return refuse({told("no sonar panel is seen in {}", o.in), told("nothing was written"),
                       told("write the corners by hand: docs/screens.md")});
    ScreenCalibration c;
    c.source = fs::path(o.in).stem().string();
    c.width = opened->picture.width;
    c.height = opened->picture.height;
    c.corners = guess->corners;
    if (guess->circle)
        c.circle_bow_deg = 0;
    c.newest = guess->newest;
    c.middle = guess->middle;
    if (guess->photographed)
        c.pixel_sd = by_hand_pixels;
    c.range_m = o.range_m;
    if (auto done = write_file_atomically(o.guess, calibration_to_json(c)); !done)
        return refuse(done.error());
    if (!o.quiet)
        fmt::print("written to {}: see to newest, range_m, along_m before reading\n", o.guess);
    return 0;
}

} // namespace

int picture(const PictureOptions &o) {
    if (!o.guess.empty())
        return write_guess(o);
    if (o.calibration.empty() || (o.marks.empty() && o.recording.empty()))
        return refuse({told("a calibration and an output are needed"), told("nothing was read"),
                       told("name --calibration, and --marks or --recording")});
    const auto calibration = calibration_in(o.calibration);
    if (!calibration)
        return refuse(calibration.error());
    if (!fs::is_directory(o.in)) {
        const auto n = read_one(o.in, *calibration, o.marks, o.recording);
        if (!n)
            return refuse(n.error());
        if (!o.quiet)
            fmt::print("{} contacts in {}\n", *n, o.in);
        return 0;
    }
    std::vector<fs::path> files;
    std::error_code error;
    for (const auto &e : fs::directory_iterator(o.in, error))
        if (is_picture(e.path()))
            files.push_back(e.path());
    if (error || files.empty())
        return refuse(
            {told("{} holds no picture", o.in), told("nothing was read"), told("name another folder")});
    std::sort(files.begin(), files.end());
    fs::create_directories(o.marks.empty() ? o.recording : o.marks, error);
    std::size_t refused = 0;
    for (const auto &file : files) {
        const auto out = [&](const std::string &folder, const char *end) {
            return folder.empty() ? std::string()
                                  : (fs::path(folder) / (file.stem().string() + end)).string();
        };
        const auto n = read_one(file, *calibration, out(o.marks, ".geojson"), out(o.recording, ".nc"));
        if (n && !o.quiet)
            fmt::print("{}: {} contacts\n", file.filename().string(), *n);
        if (!n) {
            refuse(n.error());
            ++refused;
        }
    }
    return refused == files.size() ? 2 : 0;
}

namespace {

volatile std::sig_atomic_t asked_to_end = 0;

// The time of the first picture is now: whoever listens takes it for a device that sounds.
int sound_live(const FilmCommandOptions &o, FilmOptions options) {
    using Clock = std::chrono::steady_clock;
    auto pings = LoopbackPort::open(*o.sounder_port), words = LoopbackPort::open(o.nmea_port);
    if (!pings || !words)
        return refuse(pings ? words.error() : pings.error());
    const bool device = fs::is_character_file(o.in);
    options.most_seconds = std::numeric_limits<double>::infinity(); // nothing of it is held
    if (o.start.empty())
        options.start = std::chrono::duration_cast<std::chrono::nanoseconds>(
                            std::chrono::system_clock::now().time_since_epoch())
                            .count();
    ScreenSounder sounder(options.calibration, options.start);
    pings->greeting = [&] {
        auto first = sounder.hello();
        const auto settings = sounder.settings();
        first.insert(first.end(), settings.begin(), settings.end());
        return first;
    };
    pings->answer = [&] { return sounder.settings(); };
    if (auto there = first_picture(o.in); !there)
        return refuse(there.error());
    fmt::print("pings on {}, NMEA 0183 on {}\n", pings->number(), words->number());
    std::fflush(stdout);
    const auto turn = [&] {
        pings->turn();
        words->turn();
    };
    bool narrow = false;
    FilmWatch watch;
    watch.row = [&](const FilmRow &row) {
        const auto frames = sounder.ping(row);
        narrow = frames.empty();
        pings->send(frames);
        if (const auto speed = sounder.speed_sentence(row.at_s); !speed.empty())
            words->send(speed);
        return !narrow;
    };
    watch.figure = [&](double at_s, const Figure &f) { words->send(sounder.sentence(at_s, f)); };
    // A film begins when somebody listens.
    constexpr auto nap = std::chrono::milliseconds(10);
    std::optional<Clock::time_point> began;
    watch.go_on = [&](double at_s, double) {
        turn();
        while (!device && asked_to_end == 0 &&
               (began ? Clock::now() < *began + std::chrono::duration<double>(at_s / o.speed_up)
                      : pings->listeners() == 0)) {
            std::this_thread::sleep_for(nap);
            turn();
        }
        if (!began)
            began = Clock::now();
        return true;
    };
    const auto facts = look_through(o.in, options, watch);
    if (!facts)
        return refuse(facts.error());
    if (narrow)
        return refuse({told("neither side of the middle is as wide as 24 pixels"), told("nothing was read"),
                       told("see where the boat's line runs on the panel")});
    pings->finish();
    words->finish();
    for (const auto &w : facts->warnings)
        fmt::print(stderr, "warning: {}\n", w);
    if (!o.quiet)
        fmt::print("{} rows from {} pictures\n", facts->rows, facts->pictures);
    return 0;
}

} // namespace

int film(const FilmCommandOptions &o) {
    const auto calibration = calibration_in(o.calibration);
    if (!calibration)
        return refuse(calibration.error());
    FilmOptions options;
    options.calibration = *calibration;
    options.follow = o.follow;
    options.start = time_of(o.in);
    if (!o.start.empty()) {
        const auto start = parse_rfc3339(o.start);
        if (!start)
            return refuse(
                {told("{} is no time", o.start), told("nothing was read"), told("2026-06-01T06:00:00Z is")});
        options.start = *start;
    }
    if (!o.nmea.empty()) {
        auto track = track_of_log(o.nmea);
        if (!track)
            return refuse(track.error());
        options.track = std::move(*track);
    }
    // Asked to end, it keeps what came: the only end that a device has.
    std::signal(SIGINT, [](int) { asked_to_end = 1; });
    std::signal(SIGTERM, [](int) { asked_to_end = 1; });
    options.enough = [] { return asked_to_end != 0; };
    if (o.sounder_port)
        return sound_live(o, std::move(options));
    if (o.recording.empty())
        return refuse({told("an output is needed"), told("nothing was read"),
                       told("name --recording, or --sounder to send its rows as they come")});
    const auto facts = record_film(o.in, options, o.recording);
    if (!facts)
        return refuse(facts.error());
    for (const auto &w : facts->warnings)
        fmt::print(stderr, "warning: {}\n", w);
    if (!o.quiet)
        fmt::print("{} rows from {} pictures, {:.1f} a second, written to {}\n", facts->rows, facts->pictures,
                   facts->rows_a_second, o.recording);
    if (!o.quiet && !options.calibration.figures.empty())
        for (const auto &box : options.calibration.figures)
            fmt::print("{}: {} told from the screen\n", name_of(box.of),
                       facts->figures[static_cast<std::size_t>(box.of)]);
    return 0;
}

} // namespace heron::cli
