#include "tuning/advice.hpp"
#include "waters.hpp"

#include "units/units.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;
using testing::HasSubstr;

namespace {

using test::lake;
const auto bush = SmallestThing::bush(1);
const auto fish = SmallestThing::fish(0.3);

} // namespace

// A hard bottom in clear water carries the range farther out than mud in muddy water.
TEST(Advice, RangeShrinksWithTheWater) {
    const auto gear = usual_gear();
    const auto good = advise(gear, lake(5, BottomType::gravel), bush, Purpose::search_wide),
               bad = advise(gear, lake(5, BottomType::silt, -56), bush, Purpose::search_wide);
    EXPECT_GT(good.yield.setting.range_m, 1.3 * bad.yield.setting.range_m);
    EXPECT_GT(good.yield.ground_per_minute_m2, bad.yield.ground_per_minute_m2);
    EXPECT_LE(bad.yield.farthest_m, bad.yield.edge_m);
}

// Nothing tried at random is worth more than what is advised by more than what the tie for the shorter range
// gives away.
RC_GTEST_PROP(Advice, NoSettingIsWorthMore, ()) {
    const auto gear = usual_gear();
    const auto water = lake(*rc::gen::inRange(15, 130) / 10.0,
                            *rc::gen::element(BottomType::silt, BottomType::sand, BottomType::rock),
                            -*rc::gen::inRange(54, 80));
    const auto thing = *rc::gen::arbitrary<bool>() ? bush : fish;
    const auto a = advise(gear, water, thing, Purpose::search_wide);
    const Setting other{*rc::gen::inRange(60, 600) / 10.0, static_cast<std::size_t>(*rc::gen::inRange(0, 3)),
                        *rc::gen::inRange(6, 22) / 10.0};
    RC_ASSERT(yield_of(gear, water, thing, other).worth_m2 <= a.objective * 1.05 + 1);
    RC_ASSERT(a.slowest_m_s <= a.yield.setting.speed_m_s + 1e-9);
    RC_ASSERT(a.fastest_m_s >= a.yield.setting.speed_m_s - 1e-9);
    RC_ASSERT(a.yield.pings_on_thing >= least_pings || a.yield.ground_per_minute_m2 == 0);
}

TEST(Advice, PurposesDifferAsTheySay) {
    const auto gear = usual_gear();
    const auto water = lake(6);
    const auto wide = advise(gear, water, bush, Purpose::search_wide),
               fine = advise(gear, water, bush, Purpose::finest_always),
               inspect = advise(gear, water, bush, Purpose::inspect),
               both = advise(gear, water, bush, Purpose::wide_then_fine);
    EXPECT_EQ(fine.yield.setting.band, 2u);
    EXPECT_GE(wide.yield.worth_m2, fine.yield.worth_m2 * 0.98);
    EXPECT_GT(inspect.yield.cells_on_thing, 1.5 * wide.yield.cells_on_thing);
    EXPECT_LT(inspect.yield.setting.range_m, wide.yield.setting.range_m);
    EXPECT_EQ(both.yield.setting.band, wide.yield.setting.band);
    EXPECT_EQ(both.second.setting.range_m, inspect.yield.setting.range_m);
    EXPECT_GT(both.objective, minutes_for(wide.yield, 1e4));
}

TEST(Advice, AnAreaTakesItsLanesAndTurns) {
    Yield y;
    y.lane_m = 25;
    y.setting.speed_m_s = 2;
    y.ground_per_minute_m2 = 1;
    EXPECT_EQ(lanes_for(y, 1e4), 4);
    EXPECT_NEAR(minutes_for(y, 1e4, 30), (4 * 50 + 3 * 30) / 60.0, 1e-9);
    y.lane_m = 0;
    EXPECT_EQ(minutes_for(y, 1e4), 0) << "what covers nothing takes no time";
}

TEST(Advice, TwoSonarsOnOneBandAreTold) {
    EXPECT_TRUE(bands_clash(800e3, 45e3, 770e3, 45e3));
    EXPECT_FALSE(bands_clash(455e3, 25e3, 800e3, 45e3));
    EXPECT_TRUE(bands_clash(200e3, 0, 205e3, 0)) << "the skirts of the filters";
}

TEST(Advice, ReasonsCarryTheirFigures) {
    const auto gear = usual_gear();
    const auto water = lake(6);
    const auto a = advise(gear, water, fish, Purpose::search_wide);
    const auto r = reasons_for(a, gear, water, fish, true);
    EXPECT_THAT(r.range, HasSubstr("ft"));
    EXPECT_THAT(r.range, HasSubstr("fish"));
    EXPECT_THAT(r.band, HasSubstr("dB"));
    EXPECT_THAT(r.speed, HasSubstr("pings a second"));
    EXPECT_THAT(reasons_for(a, gear, water, fish, false).lane, HasSubstr(" m"));
    const auto rule = rules_of_thumb(gear, water, Purpose::search_wide);
    EXPECT_EQ(rule.range_low_m, 18);
    EXPECT_EQ(rule.band, 0u);
    EXPECT_EQ(rules_of_thumb(gear, water, Purpose::inspect).band, 2u);
    EXPECT_NEAR(rule.speed_low_m_s, m_s_from_mph(2), 1e-9);
}

TEST(Advice, TheGainFollowsTheBottom) {
    auto gear = usual_gear();
    EXPECT_EQ(advise(gear, lake(5), bush, Purpose::search_wide).gain, -1) << "its levels are not known";
    gear.level_at_zero_db = 30;
    const auto silt = advise(gear, lake(5, BottomType::silt), bush, Purpose::finest_always),
               rock = advise(gear, lake(5, BottomType::rock), bush, Purpose::finest_always);
    EXPECT_GT(silt.gain, rock.gain);
}

TEST(Gear, GoesThroughItsFileAndBack) {
    auto gear = usual_gear();
    gear.name = "stern, on the transom";
    gear.tilt_deg = 27.5;
    gear.level_at_zero_db = 12;
    const auto back = gear_from_json(gear_to_json(gear));
    ASSERT_TRUE(back);
    EXPECT_EQ(*back, gear);
}

TEST(Gear, WhatIsOutOfBoundsIsNamed) {
    auto text = gear_to_json(usual_gear());
    const auto refused = [&](const std::string &from, const std::string &to) {
        auto bad = text;
        const auto at = bad.find(from);
        EXPECT_NE(at, std::string::npos) << from;
        bad.replace(at, from.size(), to);
        const auto gear = gear_from_json(bad);
        return gear ? std::string() : gear.error().line();
    };
    EXPECT_THAT(refused("\"tilt_deg\":30.0", "\"tilt_deg\":300"), HasSubstr("tilt_deg"));
    EXPECT_THAT(refused("\"along_deg\":1.2", "\"along_deg\":-1"), HasSubstr("along_deg"));
    EXPECT_THAT(refused("\"bands\"", "\"bonds\""), HasSubstr("bands"));
    EXPECT_FALSE(gear_from_json("").has_value());
    EXPECT_FALSE(gear_from_json("[1,2").has_value());
}

TEST(FuzzGear, NoTextBreaksIt) {
    const auto good = gear_to_json(usual_gear());
    std::mt19937 random(1);
    for (int i = 0; i < 4000; ++i) {
        auto bad = good;
        for (int n = 1 + static_cast<int>(random() % 4); n > 0; --n)
            bad[random() % bad.size()] = static_cast<char>(random() % 96 + 32);
        if (const auto gear = gear_from_json(bad))
            EXPECT_GT(gear->bands.size(), 0u);
    }
}

// One table of yields serves all purposes and readers, and a band by itself: as if each were computed for
// itself.
TEST(Advice, IsTheSameFromATableOfYieldsAndForABandAlone) {
    const auto gear = usual_gear();
    WaterState water;
    const auto thing = SmallestThing::bush(0.8);
    Yields yields(gear, water, thing);
    for (const auto by : {ReadBy::eye, ReadBy::program})
        for (const auto purpose : all_purposes) {
            const auto shared = advise(yields, purpose, fastest_search_m_s, by),
                       own = advise(gear, water, thing, purpose, fastest_search_m_s, by);
            EXPECT_EQ(shared.yield.setting.range_m, own.yield.setting.range_m);
            EXPECT_EQ(shared.yield.setting.band, own.yield.setting.band);
            EXPECT_DOUBLE_EQ(shared.objective, own.objective);
            for (std::size_t b = 0; b < gear.bands.size(); ++b) {
                auto one = gear;
                one.bands = {gear.bands[b]};
                const auto alone = advise(one, water, thing, purpose, fastest_search_m_s, by),
                           within = advise(yields, purpose, fastest_search_m_s, by, b);
                EXPECT_EQ(within.yield.setting.range_m, alone.yield.setting.range_m);
                EXPECT_EQ(within.yield.setting.band, b);
                EXPECT_DOUBLE_EQ(within.objective, alone.objective);
                EXPECT_EQ(within.gain, alone.gain);
            }
        }
}
