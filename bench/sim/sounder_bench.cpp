// How much faster than real time the stand-in runs: 25 m of range, 20 pings a second, two sides of 1,000
// samples, over the demo lake, on one core.
#include "sim/sounder.hpp"

#include <benchmark/benchmark.h>

using namespace heron;

namespace {

void simulate_pings(benchmark::State &state) {
    auto scene = sim::read_scene_file(HERON_LAKES "/ellemoor.json");
    sim::Sounder sounder(std::move(*scene), 0);
    auto settings = sounder.settings();
    settings.range_m = 25;
    sounder.ask(settings);
    double simulated_s = 0;
    UnixNs last = 0;
    for ([[maybe_unused]] const auto _ : state) {
        sim::Sounder::Event event;
        do {
            event = sounder.next();
        } while (!event.ping);
        if (last != 0)
            simulated_s += seconds_between(last, event.time);
        last = event.time;
        benchmark::DoNotOptimize(event);
    }
    state.counters["times_real_time"] = benchmark::Counter(simulated_s, benchmark::Counter::kIsRate);
}
BENCHMARK(simulate_pings)->Unit(benchmark::kMicrosecond)->MinTime(5);

} // namespace
