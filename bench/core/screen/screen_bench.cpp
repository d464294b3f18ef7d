// Pictures and films of screens.
#include "screen/film.hpp"
#include "screen/picture_reading.hpp"
#include "sim/screens.hpp"

#include <benchmark/benchmark.h>
#include <opencv2/imgproc.hpp>

namespace {

using namespace heron;

// Thirty pictures of a screen of 1280 by 720 that scrolls by three rows.
const std::vector<ScreenPicture> &pictures(ScreenCalibration &calibration) {
    static ScreenCalibration kept;
    static const std::vector<ScreenPicture> all = [] {
        auto scene = sim::read_scene_file(HERON_LAKES "/ellemoor.json");
        sim::ScreenOptions o;
        o.layout = 1;
        sim::SimulatedScreen screen(std::move(*scene), o);
        screen.advance(720);
        std::vector<ScreenPicture> some;
        for (int i = 0; i < 30; ++i) {
            some.push_back(screen.shown());
            screen.advance(3);
        }
        kept = screen.calibration();
        return some;
    }();
    calibration = kept;
    return all;
}

// Against phase correlation of the panel's grey alone.
void film_picture_taken(benchmark::State &state) {
    ScreenCalibration c;
    const auto &all = pictures(c);
    for (auto _ : state) {
        FilmTaker taker(c, [](const LevelRow &row, double) { benchmark::DoNotOptimize(row.data()); });
        for (std::size_t i = 0; i < all.size(); ++i)
            taker.add(all[i], static_cast<double>(i) / 30);
    }
    state.counters["ms_a_picture"] =
        benchmark::Counter(static_cast<double>(state.iterations() * 30) / 1000,
                           benchmark::Counter::kIsRate | benchmark::Counter::kInvert);
}
BENCHMARK(film_picture_taken)->Unit(benchmark::kMillisecond);

void phase_correlation_alone(benchmark::State &state) {
    ScreenCalibration c;
    const auto &all = pictures(c);
    const auto grey = [](const ScreenPicture &p) {
        cv::Mat g, f;
        cv::cvtColor(cv::Mat(p.height, p.width, CV_8UC3, const_cast<Rgb *>(p.pixels.data())), g,
                     cv::COLOR_RGB2GRAY);
        g.convertTo(f, CV_32F);
        return f;
    };
    for (auto _ : state) {
        auto before = grey(all.front());
        for (const auto &p : all) {
            auto now = grey(p);
            benchmark::DoNotOptimize(cv::phaseCorrelate(before, now));
            before = now;
        }
    }
}
BENCHMARK(phase_correlation_alone)->Unit(benchmark::kMillisecond);

void picture_straightened_and_read(benchmark::State &state) {
    ScreenCalibration c;
    const auto &all = pictures(c);
    auto corners = c.corners;
    const auto photo = sim::photographed(all.front(), corners, 3);
    auto by_hand = c;
    by_hand.corners = corners;
    by_hand.width = photo.width;
    by_hand.height = photo.height;
    by_hand.ramp.clear();
    for (auto _ : state)
        benchmark::DoNotOptimize(read_picture(photo, by_hand, 0, "bench"));
}
BENCHMARK(picture_straightened_and_read)->Unit(benchmark::kMillisecond);

} // namespace
