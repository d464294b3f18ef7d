// The circle: one ray laid, the whole painted, beside OpenCV's way from polar to Cartesian at the same size;
// and two minutes of turns read, beside real time.
#include "around/circle_raster.hpp"
#include "reading/sweep_reader.hpp"
#include "recording/nmea_feed.hpp"
#include "sim/sounder.hpp"

#include <benchmark/benchmark.h>
#include <opencv2/imgproc.hpp>

using namespace heron;

namespace {

constexpr int wide = 724, high = 690;

const Scan &turned() {
    static Scan scan(1u << 30);
    if (scan.end() == 0) {
        sim::Sounder sounder(*sim::read_scene_file(HERON_LAKES "/ellemoor.json"), 1'800'000'000LL * ns_per_s);
        auto side = sounder.settings();
        side.pinging = false;
        sounder.ask(side);
        auto head = sounder.head_settings();
        head.pinging = true;
        sounder.ask_head(head);
        sounder.put_on_hold();
        scan.installation = sounder.scene().boat.head_installation();
        NmeaFeed feed;
        while (scan.end() < 1500) { // two minutes at 12.5 a second
            auto e = sounder.next();
            for (auto &line : e.sentences)
                feed.take(line, e.time, scan.nav);
            if (e.ray)
                scan.push({std::move(e.ray->ping), std::nullopt, e.ray->settings});
        }
    }
    return scan;
}

struct Laid {
    Rays rays;
    CircleRaster raster{2048, 18.0 / 300};
    std::vector<float> levels;
    void lay(const PlacedRay &ray) {
        const auto &ping = turned().ping(ray.row);
        row_levels(ping, *ping.beam(Side::around), turned().bottom(ray.row), {}, AngleLevels(), nullptr,
                   nullptr, 0.4, levels);
        raster.lay(ray, ping, levels, Across::ground);
    }
};

void one_ray(benchmark::State &state) {
    Laid laid;
    laid.rays.follow(turned(), turned().end());
    std::size_t i = 0;
    for (auto _ : state)
        laid.lay(laid.rays.rays()[i++ % 200]);
}

void whole_circle(benchmark::State &state) {
    Laid laid;
    laid.rays.follow(turned(), turned().end());
    for (const auto &ray : laid.rays.rays())
        laid.lay(ray);
    std::array<std::uint32_t, 256> colours;
    for (std::size_t i = 0; i < 256; ++i)
        colours[i] = 0xFF000000U | static_cast<std::uint32_t>(i * 0x010101);
    std::vector<std::uint32_t> pixels(static_cast<std::size_t>(wide) * high);
    CircleLook look;
    look.head = look.middle = laid.rays.rays().back().at;
    look.metres_a_pixel = 18.0 / 300;
    look.newest = laid.raster.newest();
    for (auto _ : state)
        paint_circle(laid.raster, look, {-60, 50}, colours, 0xFFE6EAE5U, pixels.data(), wide, high);
}

void warp_polar(benchmark::State &state) {
    cv::Mat polar(200, 1000, CV_8UC4, cv::Scalar::all(90)), out;
    for (auto _ : state)
        cv::warpPolar(polar, out, {wide, high}, {wide / 2.0F, high / 2.0F}, 300,
                      static_cast<int>(cv::WARP_POLAR_LINEAR) + static_cast<int>(cv::WARP_INVERSE_MAP));
}

void turns_read(benchmark::State &state) {
    for (auto _ : state) {
        SweepReader reader;
        benchmark::DoNotOptimize(join_sweeps(reader.advance(turned(), true), reader.views(), 0.5));
    }
    state.counters["times real time"] =
        benchmark::Counter(120, benchmark::Counter::kIsIterationInvariantRate);
}

BENCHMARK(one_ray)->Unit(benchmark::kMicrosecond);
BENCHMARK(whole_circle)->Unit(benchmark::kMillisecond);
BENCHMARK(warp_polar)->Unit(benchmark::kMillisecond);
BENCHMARK(turns_read)->Unit(benchmark::kMillisecond);

} // namespace
