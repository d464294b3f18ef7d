// The chart: rows laid on the ground beside real time and beside GDAL's nearest-neighbour grid on the same
// samples, and what follows from them.
#include "bottom/hardness.hpp"
#include "recording/nmea_feed.hpp"
#include "sim/sounder.hpp"

#include <benchmark/benchmark.h>
#include <gdal_alg.h>

using namespace heron;

namespace {

constexpr std::size_t rows = 1200;

const Scan &sailed() {
    static Scan scan(1u << 30);
    if (scan.end() == 0) {
        sim::Sounder sounder(*sim::read_scene_file(HERON_LAKES "/ellemoor.json"), 1'800'000'000LL * ns_per_s);
        scan.installation = sounder.scene().boat.installation;
        NmeaFeed feed;
        while (scan.end() < rows) {
            auto e = sounder.next();
            for (auto &line : e.sentences)
                feed.take(line, e.time, scan.nav);
            if (e.ping) {
                std::erase_if(e.ping->ping.beams, [](const Beam &b) { return b.side == Side::down; });
                scan.push({std::move(e.ping->ping), std::nullopt, e.ping->settings});
            }
        }
    }
    return scan;
}

const GroundCurve &curve() {
    static const GroundCurve learned = [] {
        GroundCurve c;
        for (std::size_t row = 0; row < rows; ++row)
            c.add(sailed(), row);
        c.settle();
        return c;
    }();
    return learned;
}

UtmZone zone() {
    return *utm_zone_of(sailed().nav.positions().front().place);
}

double sailed_s() {
    return seconds_between(sailed().facts(0).time, sailed().facts(rows - 1).time);
}

// Learned and laid: what a mosaic costs.
void mosaic(benchmark::State &state) {
    sailed();
    for (auto _ : state) {
        GroundCurve c;
        for (std::size_t row = 0; row < rows; ++row)
            c.add(sailed(), row);
        c.settle();
        GroundMap map(zone(), 0.25);
        for (std::size_t row = 0; row < rows; ++row)
            map.add(sailed(), row, c);
        benchmark::DoNotOptimize(map.tiles().size());
    }
    state.counters["times_real_time"] =
        benchmark::Counter(sailed_s() * static_cast<double>(state.iterations()), benchmark::Counter::kIsRate);
}

// The baseline: the same samples through GDAL's nearest neighbour, onto as many cells. Every twentieth sample
// alone: with all of them it takes minutes.
void gdal_nearest(benchmark::State &state) {
    std::vector<double> x, y, z;
    std::vector<float> levels;
    for (std::size_t row = 0; row < rows; ++row) {
        const auto fix = sailed().nav.fix_at(sailed().facts(row).time);
        if (!fix || !sailed().bottom(row).found)
            continue;
        const auto at = to_utm(zone(), transducer_place(fix->pose, sailed().installation));
        for (const auto &b : sailed().ping(row).beams) {
            curve().ground_of(sailed(), row, b, levels);
            const double a = sailed().bottom(row).altitude_m,
                         bearing = (fix->pose.heading_deg + nominal_azimuth_deg(b.side)) / degrees_per_radian;
            for (std::size_t k = row % 20; k < levels.size(); k += 20) {
                if (!(levels[k] == levels[k]))
                    continue;
                const double r = sailed().ping(row).slant_m(static_cast<double>(k)),
                             g = std::sqrt(std::max(0.0, r * r - a * a));
                x.push_back(at.east_m + g * std::sin(bearing));
                y.push_back(at.north_m + g * std::cos(bearing));
                z.push_back(static_cast<double>(levels[k]));
            }
        }
    }
    const auto [west, east] = std::minmax_element(x.begin(), x.end());
    const auto [south, north] = std::minmax_element(y.begin(), y.end());
    const auto columns = static_cast<GUInt32>((*east - *west) / 0.25),
               lines = static_cast<GUInt32>((*north - *south) / 0.25);
    GDALGridNearestNeighborOptions options{};
    options.nSizeOfStructure = sizeof options;
    options.dfRadius1 = options.dfRadius2 = 0.5;
    std::vector<float> out(static_cast<std::size_t>(columns) * lines);
    for (auto _ : state)
        GDALGridCreate(GGA_NearestNeighbor, &options, static_cast<GUInt32>(x.size()), x.data(), y.data(),
                       z.data(), *west, *east, *south, *north, columns, lines, GDT_Float32, out.data(),
                       nullptr, nullptr);
    state.counters["samples"] = static_cast<double>(x.size());
    state.counters["times_real_time"] =
        benchmark::Counter(sailed_s() * static_cast<double>(state.iterations()), benchmark::Counter::kIsRate);
}

// Hardness, roughness and classes of that ground, in cells of half a metre as the sheet has them.
void hardness_of_the_sheet(benchmark::State &state) {
    GroundMap map(zone(), 0.25);
    for (std::size_t row = 0; row < rows; ++row)
        map.add(sailed(), row, curve());
    for (auto _ : state)
        benchmark::DoNotOptimize(hardness_of(map.coarser(2)).level_db.data());
}

BENCHMARK(mosaic)->Unit(benchmark::kMillisecond);
BENCHMARK(gdal_nearest)->Unit(benchmark::kMillisecond);
BENCHMARK(hardness_of_the_sheet)->Unit(benchmark::kMillisecond);

} // namespace
