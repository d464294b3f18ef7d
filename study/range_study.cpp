#include "reading_study.hpp"

#include "parallel.hpp"
#include "score.hpp"

#include "tuning/advice.hpp"

#include <array>
#include <cmath>
#include <fmt/format.h>
#include <mutex>

namespace heron::study {
namespace {

constexpr double widest_m = 50, minute_s = 60;

// One lake of each depth and ground, planted as wide as any of the ranges reaches.
std::vector<ReadingScene> waters() {
    std::vector<ReadingScene> all;
    for (const double depth : {2.5, 4.6, 7.5, 11.0})
        for (const char *ground : {"silt", "sand", "gravel"}) {
            ReadingScene r;
            r.seed = 90'000 + static_cast<std::uint32_t>(depth * 10) * 17 + ground[1];
            r.name = fmt::format("{} {:.1f} m", ground, depth);
            r.fitting = false;
            r.depth_m = depth;
            r.ground = ground;
            r.looks = 3;
            r.range_m = widest_m;
            r.crowding = 3;
            r.making = drawn_making(r.seed);
            all.push_back(r);
        }
    return all;
}

} // namespace

// The same lake, run at the same pace, at the range that each way of choosing comes to.
std::string range_study(unsigned threads) {
    const auto lakes = waters();
    const auto gear = usual_gear();
    const std::array<std::string, 4> ways{"the trade: three times the depth", "advised for the eye",
                                          "advised for the program", "as far as the lake was planted"};
    struct Tally {
        Score score;
        double minutes = 0, range = 0;
        int n = 0;
    };
    std::array<Tally, ways.size()> tallies;
    std::mutex mutex;
    in_parallel(lakes.size(), threads, [&](std::size_t i) {
        auto r = lakes[i];
        WaterState water;
        water.shallowest_m = water.deepest_m = r.depth_m;
        water.bottom = bottom_of(r);
        const auto thing = SmallestThing::bush(1);
        const auto asked = [&](ReadBy by) {
            return advise(gear, water, thing, Purpose::search_wide, fastest_search_m_s, by)
                .yield.setting.range_m;
        };
        const std::array ranges{3 * r.depth_m, asked(ReadBy::eye), asked(ReadBy::program), widest_m};
        for (std::size_t w = 0; w < ways.size(); ++w) {
            r.sounded_to_m = std::min(ranges[w], widest_m);
            const auto s = sound(r);
            // Whatever lies beyond the range is none of the reader's.
            const auto one = score(read_all(s.scan, KindModel::shipped()), s.things, s.plane, 0.5);
            const std::lock_guard hold(mutex);
            auto &t = tallies[w];
            t.score.add(one);
            t.minutes += r.length_m / r.speed_m_s / minute_s;
            t.range += r.sounded_to_m;
            ++t.n;
        }
        fmt::print(stderr, ".");
    });
    std::string out = "| range | mean | things found and of the right family, a minute | kinds right among "
                      "them | precision |\n"
                      "|---|---|---|---|---|\n";
    for (std::size_t w = 0; w < ways.size(); ++w) {
        const auto &t = tallies[w];
        out += fmt::format("| {} | {:.0f} m | {:.1f} | {:.2f} | {:.2f} |\n", ways[w],
                           t.range / std::max(1, t.n), t.score.family / std::max(0.1, t.minutes),
                           t.score.kind / std::max(1.0, t.score.kind_of),
                           t.score.right / std::max(1.0, t.score.contacts));
    }
    return out;
}

} // namespace heron::study
