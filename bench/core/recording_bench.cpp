// Opening the sample of another making: to its first ping, and to its end; the baseline reads the file's
// bytes.
#include "picture/scan.hpp"
#include "recording/recording.hpp"

#include <benchmark/benchmark.h>
#include <fstream>
#include <iterator>

using namespace heron;

namespace {

const char *const sample = HERON_SAMPLES "/quarry-pool.nc";

void read_the_bytes(benchmark::State &state) {
    for ([[maybe_unused]] const auto _ : state) {
        std::ifstream in(sample, std::ios::binary);
        std::string bytes{std::istreambuf_iterator<char>(in), {}};
        benchmark::DoNotOptimize(bytes);
    }
}
BENCHMARK(read_the_bytes)->Unit(benchmark::kMillisecond);

void open_to_the_first_ping(benchmark::State &state) {
    for ([[maybe_unused]] const auto _ : state) {
        auto reader = RecordingReader::open(sample);
        benchmark::DoNotOptimize(reader->ping(0));
    }
}
BENCHMARK(open_to_the_first_ping)->Unit(benchmark::kMillisecond);

void read_and_track_the_bottom(benchmark::State &state) {
    for ([[maybe_unused]] const auto _ : state) {
        auto r = read_recording(sample);
        Scan scan;
        for (auto &p : r->pings)
            scan.push({std::move(p), std::nullopt, {}});
        benchmark::DoNotOptimize(scan.end());
    }
}
BENCHMARK(read_and_track_the_bottom)->Unit(benchmark::kMillisecond);

} // namespace
