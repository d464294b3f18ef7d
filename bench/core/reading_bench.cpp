// Reading: two minutes of two sides with 1,000 samples, 20 pings a second; the baseline is real time.
#include "reading/reader.hpp"
#include "recording/nmea_feed.hpp"
#include "sim/sounder.hpp"

#include <benchmark/benchmark.h>

using namespace heron;

namespace {

Scan &sounded() {
    static Scan scan(1u << 30);
    if (scan.end() == 0) {
        sim::Sounder sounder(*sim::read_scene_file(HERON_LAKES "/ellemoor.json"), 1'800'000'000LL * ns_per_s);
        scan.installation = sounder.scene().boat.installation;
        NmeaFeed feed;
        while (scan.end() < 2400) {
            auto e = sounder.next();
            for (auto &line : e.sentences)
                feed.take(line, e.time, scan.nav);
            if (!e.ping)
                continue;
            std::erase_if(e.ping->ping.beams, [](const Beam &b) { return b.side == Side::down; });
            scan.push({std::move(e.ping->ping), std::nullopt, e.ping->settings});
        }
    }
    return scan;
}

void read_two_minutes(benchmark::State &state) {
    auto &scan = sounded();
    std::size_t found = 0;
    for ([[maybe_unused]] const auto _ : state) {
        Reader reader;
        found = join_contacts(reader.advance(scan, true)).size();
    }
    state.counters["contacts"] = static_cast<double>(found);
    state.counters["times_real"] = benchmark::Counter(seconds_between(scan.facts(0).time, scan.newest().time),
                                                      benchmark::Counter::kIsIterationInvariantRate);
}
BENCHMARK(read_two_minutes)->Unit(benchmark::kMillisecond);

void follow_the_bottom_of_two_minutes(benchmark::State &state) {
    auto &scan = sounded();
    for ([[maybe_unused]] const auto _ : state) {
        BottomTracker tracker;
        for (std::size_t n = 0; n < scan.end(); ++n)
            benchmark::DoNotOptimize(tracker.push(scan.ping(n)).size());
    }
    state.counters["times_real"] = benchmark::Counter(seconds_between(scan.facts(0).time, scan.newest().time),
                                                      benchmark::Counter::kIsIterationInvariantRate);
}
BENCHMARK(follow_the_bottom_of_two_minutes)->Unit(benchmark::kMillisecond);

} // namespace
