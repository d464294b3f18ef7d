// What the picture teaches about noise: solved back from where the bottom sank into it.
#include "tuning/learned_noise.hpp"
#include "waters.hpp"

#include "tuning/advice.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

using test::lake;

} // namespace

// The equation solved backwards gives the noise that was put in.
RC_GTEST_PROP(LearnedNoise, IsWhatWasPutIn, ()) {
    const auto gear = usual_gear();
    const double noise = *rc::gen::inRange(4, 25), depth = *rc::gen::inRange(3, 12);
    auto water = lake(depth);
    const Setting setting{60, gear.bands.size() / 2, 1.4};
    const double quiet = useful_range_m(gear, water, setting, depth);
    water.noise_db = noise;
    const double seen = useful_range_m(gear, water, setting, depth);
    // Where nothing changes, or all of the range is lost, nothing can be told.
    RC_PRE(seen < 0.95 * quiet && seen > 1.3 * depth);
    water.noise_db = 0;
    RC_ASSERT(std::fabs(noise_from_reach(gear, water, setting, depth, seen) - noise) < 1.5);
}

TEST(LearnedNoise, IsNoneWhereAsMuchWasSeenAsExpected) {
    const auto gear = usual_gear();
    const Setting setting{40, 0, 1.4};
    EXPECT_EQ(noise_from_reach(gear, lake(6), setting, 6, useful_range_m(gear, lake(6), setting, 6)), 0);
    EXPECT_EQ(noise_from_reach(gear, lake(6), setting, 6, 1000), 0);
}

// Prepare said 186 ft where Scan asked for 144: with what was learned both say less than before, and one
// figure.
TEST(LearnedNoise, BringsTheAdviceDownToWhatWasSeen) {
    const auto gear = usual_gear();
    auto water = lake(5);
    const auto thing = SmallestThing::bush(1);
    const auto before = advise(gear, water, thing, Purpose::search_wide);
    const Setting setting{before.yield.setting.range_m, before.yield.setting.band, 1.4};
    const double seen = 0.6 * useful_range_m(gear, water, setting, 5);
    water.noise_db = noise_from_reach(gear, water, setting, 5, seen);
    EXPECT_GT(water.noise_db, 2);
    EXPECT_NEAR(useful_range_m(gear, water, setting, 5), seen, 0.05 * seen);
    const auto after = advise(gear, water, thing, Purpose::search_wide);
    EXPECT_LE(after.yield.setting.range_m, before.yield.setting.range_m);
    EXPECT_LT(after.yield.worth_m2, before.yield.worth_m2);
}
