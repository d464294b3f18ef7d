// A trip of eight hours: kept, opened to a picture, jumped in, played. 500,000 pings of two sides with 1,000
// samples; the stand-in sounds twenty minutes of them, which are kept again and again with the time going on.
#include "parts/picture_view.hpp"
#include "places.hpp"
#include "sim/sounder.hpp"
#include "trip/journal.hpp"
#include "tuning/tuner.hpp"
#include "until.hpp"
#include "views/scan/scan_view.hpp"
#include "window/main_window.hpp"

#include <QApplication>
#include <QElapsedTimer>
#include <QTemporaryDir>
#include <benchmark/benchmark.h>
#include <cstdlib>
#include <fstream>
#include <functional>

using namespace heron;
using namespace heron::app;

namespace {

constexpr UnixNs began = 1'800'000'000LL * ns_per_s;

// The most memory held since the last call, in megabytes.
double peak_mb() {
    std::ifstream status("/proc/self/status");
    std::string word;
    double kb = 0;
    while (status >> word)
        if (word == "VmHWM:")
            status >> kb;
    std::ofstream("/proc/self/clear_refs") << "5";
    return kb / 1024;
}

std::size_t rows_wanted() {
    const char *asked = std::getenv("HERON_LONG_ROWS");
    return asked != nullptr ? static_cast<std::size_t>(std::atoll(asked)) : 500'000;
}

// What the stand-in sounds: rows, and the track that its receiver tells.
struct Stretch {
    std::vector<SoundedRow> rows;
    NavTrack nav;
    Installation installation;
    UnixNs long_ns = 0;
};
const Stretch &sounded() {
    static const Stretch all = [] {
        Stretch s;
        sim::Sounder sounder(*sim::read_scene_file(HERON_LAKES "/ellemoor.json"), began);
        s.installation = sounder.scene().boat.installation;
        NmeaFeed feed;
        while (s.rows.size() < 20'000) {
            auto e = sounder.next();
            for (auto &line : e.sentences)
                feed.take(line, e.time, s.nav);
            if (e.ping)
                s.rows.push_back({std::move(e.ping->ping), std::nullopt, e.ping->settings});
        }
        s.long_ns = s.rows.back().ping.time - began + ns_per_s / 20;
        return s;
    }();
    return all;
}

// The trip, made once; HERON_LONG_TRIP names a file to keep it in.
struct LongTrip {
    QTemporaryDir folder;
    std::string path;
    double peak_while_sounding_mb = 0;
    LongTrip() {
        const char *kept = std::getenv("HERON_LONG_TRIP");
        path = kept != nullptr ? kept : folder.filePath(QStringLiteral("long.trip.gpkg")).toStdString();
        if (std::filesystem::exists(path))
            return;
        const auto &s = sounded();
        peak_mb();
        auto trip = TripFile::create(path, {"Ellemoor Water", "heron-sounder", began, s.installation});
        Journal journal(std::move(*trip),
                        [](const Fault &f) { std::fprintf(stderr, "%s\n", f.line().c_str()); });
        const auto look = TripFile::open_read_only(path);
        Scan scan;
        scan.installation = s.installation;
        scan.set_fetch([&](std::size_t first, std::size_t count) { return look->fetch(first, count); });
        Overview overview;
        std::size_t known = 0, lines = 0;
        std::size_t written[4] = {};
        for (UnixNs later = 0; scan.end() < rows_wanted(); later += s.long_ns) {
            for (const auto &p : s.nav.positions()) {
                auto sample = p;
                sample.time += later;
                scan.nav.add(sample);
            }
            for (const auto &a : s.nav.attitudes()) {
                auto sample = a;
                sample.time += later;
                scan.nav.add(sample);
            }
            for (const auto &row : s.rows) {
                auto next = row;
                next.ping.time += later;
                overview.add(next.ping);
                journal.sounded(next);
                scan.push(std::move(next));
                if (scan.end() % 2000 == 0) {
                    TripFile::Knowledge k;
                    k.first_row = known;
                    for (; known < scan.settled_until(); ++known)
                        k.facts.push_back(scan.facts(known));
                    k.settings = scan.all_settings();
                    for (; written[0] < scan.nav.positions().size(); ++written[0])
                        k.nav.add(scan.nav.positions()[written[0]]);
                    for (; written[1] < scan.nav.attitudes().size(); ++written[1])
                        k.nav.add(scan.nav.attitudes()[written[1]]);
                    k.overview.assign(overview.lines(0).begin() + static_cast<std::ptrdiff_t>(lines),
                                      overview.lines(0).end());
                    lines = overview.lines(0).size();
                    journal.known(std::move(k));
                    journal.flush();
                    scan.trim();
                }
            }
        }
        journal.flush();
        peak_while_sounding_mb = peak_mb();
    }
};
LongTrip &long_trip() {
    static LongTrip trip;
    return trip;
}

// Half a second of pings, as the journal writes them.
void journal_a_ping(benchmark::State &state) {
    const QTemporaryDir folder;
    const auto &s = sounded();
    auto trip = TripFile::create(folder.filePath(QStringLiteral("a.trip.gpkg")).toStdString(),
                                 {"Ellemoor Water", "heron-sounder", began, s.installation});
    constexpr std::size_t rows = 10;
    std::size_t at = 0, first = 0;
    for ([[maybe_unused]] const auto _ : state) {
        TripFile::Batch batch;
        batch.first_row = first;
        for (std::size_t i = 0; i < rows; ++i)
            batch.rows.push_back(s.rows[at + i]);
        QElapsedTimer clock;
        clock.start();
        if (!trip->append(batch))
            state.SkipWithError("the trip could not be written");
        state.SetIterationTime(static_cast<double>(clock.nsecsElapsed()) * 1e-9 / rows);
        first += rows;
        at = (at + rows) % (s.rows.size() - rows);
    }
}
BENCHMARK(journal_a_ping)->UseManualTime()->Iterations(1000)->Unit(benchmark::kMicrosecond);

// The same samples as they come, one insert for as many pings, in the same mode.
void one_insert_of_the_same_bytes(benchmark::State &state) {
    const QTemporaryDir folder;
    const auto &s = sounded();
    auto db =
        Database::open(folder.filePath(QStringLiteral("a.sqlite")).toStdString(), Database::Mode::create);
    db->run("PRAGMA journal_mode = WAL");
    db->run("PRAGMA synchronous = FULL");
    db->run("CREATE TABLE t(id INTEGER PRIMARY KEY, bytes BLOB)");
    constexpr std::size_t rows = 10;
    std::size_t at = 0;
    for ([[maybe_unused]] const auto _ : state) {
        std::vector<std::uint8_t> bytes;
        for (std::size_t i = 0; i < rows; ++i)
            for (const auto &b : s.rows[at + i].ping.beams)
                for (const auto code : b.code)
                    bytes.push_back(static_cast<std::uint8_t>(code));
        QElapsedTimer clock;
        clock.start();
        auto insert = db->prepare("INSERT INTO t(bytes) VALUES(?)");
        insert.bind_blob(1, bytes);
        insert.run();
        state.SetIterationTime(static_cast<double>(clock.nsecsElapsed()) * 1e-9 / rows);
        at = (at + rows) % (s.rows.size() - rows);
    }
}
BENCHMARK(one_insert_of_the_same_bytes)->UseManualTime()->Iterations(1000)->Unit(benchmark::kMicrosecond);

struct TripWindow {
    Program program;
    MainWindow window{program, allPlaces()};
    bool painted = false;
    TripWindow() {
        window.resize(1280, 800);
        window.show();
        window.go(place::scan);
        QObject::connect(&window.view<ScanView>().picture(), &PictureView::painted, &window,
                         [this] { painted = true; });
        QApplication::processEvents();
    }
    void until_painted() {
        painted = false;
        until([&] { return painted; });
    }
};

void open_eight_hours_to_a_picture(benchmark::State &state) {
    const auto path = QString::fromStdString(long_trip().path);
    peak_mb();
    for ([[maybe_unused]] const auto _ : state) {
        TripWindow w;
        QElapsedTimer clock;
        clock.start();
        w.program.session.sources.openTrip(path);
        w.until_painted();
        state.SetIterationTime(static_cast<double>(clock.nsecsElapsed()) * 1e-9);
        state.counters["rows"] = static_cast<double>(w.program.session.shown.scan().end());
    }
    state.counters["peak_mb"] = peak_mb();
    if (long_trip().peak_while_sounding_mb > 0)
        state.counters["peak_sounding_mb"] = long_trip().peak_while_sounding_mb;
}
BENCHMARK(open_eight_hours_to_a_picture)->UseManualTime()->Iterations(5)->Unit(benchmark::kMillisecond);

void jump_anywhere_in_eight_hours(benchmark::State &state) {
    TripWindow w;
    w.program.session.sources.openTrip(QString::fromStdString(long_trip().path));
    w.until_painted();
    std::size_t to = 1;
    double longest = 0;
    for ([[maybe_unused]] const auto _ : state) {
        to = (to * 48271 + 11) % w.program.session.shown.scan().end();
        QElapsedTimer clock;
        clock.start();
        w.window.view<ScanView>().picture().goTo(to);
        w.until_painted();
        const double s = static_cast<double>(clock.nsecsElapsed()) * 1e-9;
        longest = std::max(longest, s);
        state.SetIterationTime(s);
    }
    state.counters["longest_ms"] = longest * 1e3;
}
BENCHMARK(jump_anywhere_in_eight_hours)->UseManualTime()->Iterations(60)->Unit(benchmark::kMillisecond);

void play_eight_hours(benchmark::State &state) {
    TripWindow w;
    w.program.session.sources.openTrip(QString::fromStdString(long_trip().path));
    w.until_painted();
    peak_mb();
    for ([[maybe_unused]] const auto _ : state) {
        w.program.session.playback.setSpeed(1000);
        w.program.session.playback.playFrom(0);
        until([&] { return w.program.session.sources.flow() == Sources::Flow::ended; });
    }
    state.counters["peak_mb"] = peak_mb();
    state.counters["times_real"] =
        benchmark::Counter(seconds_between(w.program.session.shown.scan().facts(0).time,
                                           w.program.session.shown.scan().newest().time),
                           benchmark::Counter::kIsIterationInvariantRate);
}
BENCHMARK(play_eight_hours)->Iterations(1)->UseRealTime()->Unit(benchmark::kSecond);

} // namespace
