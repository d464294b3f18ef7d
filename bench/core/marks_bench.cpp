// Marks: a hundred thousand looked through as somebody types, doubles proposed, a thousand taken in from
// another screen.
#include "files/identifier.hpp"
#include "marks/joining.hpp"
#include "marks/mark_store.hpp"
#include "sharing/replica.hpp"

#include <algorithm>
#include <benchmark/benchmark.h>
#include <filesystem>
#include <fmt/format.h>
#include <fstream>
#include <malloc.h>
#include <random>
#include <unistd.h>

using namespace heron;

namespace {

std::vector<Mark> many(std::size_t n) {
    std::mt19937 random(7);
    const auto share = [&] { return std::uniform_real_distribution<double>(0, 1)(random); };
    constexpr std::array<Kind, 5> kinds{Kind::stump, Kind::boulder, Kind::log, Kind::tree, Kind::rock_pile};
    std::vector<Mark> marks(n);
    for (std::size_t i = 0; i < n; ++i) {
        auto &m = marks[i];
        m.id = fmt::format("m-{}", i);
        m.kind = kinds[random() % kinds.size()];
        m.family = Family::structure;
        m.place = GeoPoint{46.5 + share() * 0.2, -21.25 + share() * 0.3};
        m.place_covariance = {1, 0, 1};
        m.note = fmt::format("seen from the {} in {} light, number {}", i % 2 == 0 ? "east" : "west",
                             i % 3 == 0 ? "low" : "high", i);
        m.name = i % 4 == 0 ? fmt::format("Larch stump {}", i) : "";
    }
    return marks;
}

// What finding does at each letter: all words of a mark in small letters, looked through.
void BM_find_among_100000(benchmark::State &state) {
    const auto marks = many(100'000);
    for (auto _ : state) {
        std::size_t found = 0;
        for (const auto &m : marks) {
            auto words = m.name + ' ' + m.note;
            std::transform(words.begin(), words.end(), words.begin(),
                           [](unsigned char c) { return std::tolower(c); });
            found += words.find("stump 77") != std::string::npos;
        }
        benchmark::DoNotOptimize(found);
    }
}
BENCHMARK(BM_find_among_100000)->Unit(benchmark::kMillisecond);

void BM_propose_joins_among_100000(benchmark::State &state) {
    const auto marks = many(100'000);
    for (auto _ : state)
        benchmark::DoNotOptimize(propose_joins(marks).size());
}
BENCHMARK(BM_propose_joins_among_100000)->Unit(benchmark::kMillisecond);

// A thousand marks said by one screen and taken in by another, through the words of the wire.
void BM_a_thousand_marks_shared(benchmark::State &state) {
    const auto marks = many(1000);
    for (auto _ : state) {
        Replica here("here"), there("there");
        for (const auto &m : marks) {
            const auto word = here.edit(m, 1'800'000'000LL * ns_per_s);
            const auto text = json_of(*word).dump();
            there.take(*shared_mark_of_json(text), 1'800'000'000LL * ns_per_s);
        }
        benchmark::DoNotOptimize(there.marks().size());
    }
}
BENCHMARK(BM_a_thousand_marks_shared)->Unit(benchmark::kMillisecond);

double resident_mb() {
    malloc_trim(0);
    std::ifstream statm("/proc/self/statm");
    double all = 0, resident = 0;
    statm >> all >> resident;
    return resident * static_cast<double>(sysconf(_SC_PAGESIZE)) / 1e6;
}

// A library of a hundred thousand marks, each with its picture: opened with the pictures left where they lie,
// and (the baseline) with all of them read.
void BM_open_100000_with_pictures(benchmark::State &state) {
    const auto path = std::filesystem::temp_directory_path() / fmt::format("heron-bench-{}.gpkg", getpid());
    {
        auto marks = many(100'000);
        std::mt19937 random(3);
        for (auto &m : marks) {
            std::vector<std::uint8_t> level(124 * 92);
            for (auto &v : level)
                v = static_cast<std::uint8_t>(random());
            m.chip = {124, 92, std::move(level)};
        }
        auto store = MarkStore::open(path);
        if (!store || !store->write({marks, {}}))
            state.SkipWithError("no library could be made");
    }
    const double before = resident_mb();
    for (auto _ : state) {
        const auto store = MarkStore::open(path);
        const auto marks = state.range(0) != 0 ? load_marks(store->database()) : store->load();
        state.PauseTiming();
        state.counters["memory_MB"] = resident_mb() - before;
        state.ResumeTiming();
        if (state.range(0) == 0) // a wall full of them
            for (std::size_t i = 0; i < 60; ++i)
                benchmark::DoNotOptimize((*marks)[i * 1000].chip.look()->level.data());
    }
    for (const char *tail : {"", "-wal", "-shm"})
        std::filesystem::remove(path.string() + tail);
}
BENCHMARK(BM_open_100000_with_pictures)
    ->ArgName("all_read")
    ->Arg(0)
    ->Arg(1)
    ->Iterations(1)
    ->Unit(benchmark::kMillisecond);

} // namespace
