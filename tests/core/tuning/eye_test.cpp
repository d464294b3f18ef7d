#include "tuning/eye.hpp"

#include "tuning/advice.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using namespace heron;

// The search model's own half and its formula worked by hand at two, three times the criterion.
TEST(Eye, TellsHalfAtTheCriterionAndMoreBeyond) {
    EXPECT_DOUBLE_EQ(told_in_the_end(cycles_to_recognise), 0.5);
    EXPECT_NEAR(told_in_the_end(6), 0.94490, 1e-5);   // 2^4.1
    EXPECT_NEAR(told_in_the_end(1.5), 0.10773, 1e-5); // 0.5^3.05
    EXPECT_NEAR(told_within(3, 2), 0.12741, 1e-5);    // 0.5·(1 − e^(−2·0.5/3.4))
    EXPECT_NEAR(told_within(9, 2), 0.58320, 1e-5);    // 0.99490·(1 − e^(−2·3/6.8))
    EXPECT_EQ(told_within(0), 0);
    EXPECT_DOUBLE_EQ(cycles_over(1.2, 0.6, 0.1, 0.2), 3) << "twelve by three pixels: six over the mean";
}

RC_GTEST_PROP(Eye, MorePixelsAndMoreTimeNeverTellLess, ()) {
    const double cycles = *rc::gen::inRange(0, 400) / 20.0, seconds = *rc::gen::inRange(1, 100) / 10.0;
    RC_ASSERT(told_within(cycles + 0.1, seconds) >= told_within(cycles, seconds) - 1e-12);
    RC_ASSERT(told_within(cycles, seconds + 0.1) >= told_within(cycles, seconds));
    RC_ASSERT(told_within(cycles, seconds) <= told_in_the_end(cycles));
    RC_ASSERT(std::fabs(told_in_a_glance(cycles) - told_within(cycles)) < 1e-3);
}

namespace {

WaterState fifteen_feet() {
    WaterState w;
    w.shallowest_m = w.deepest_m = 4.6;
    w.bottom = BottomType::sand;
    return w;
}

} // namespace

// Over fifteen feet of water the trade sets 60 to 100 ft each side, at most 130 (common practice, no
// published source). Nothing was fitted to that.
TEST(AdviceForTheEye, ComesNearTheTradesRuleWhereTheProgramGoesBeyondIt) {
    const auto bush = SmallestThing::bush(1);
    const auto eye = advise(usual_gear(), fifteen_feet(), bush, Purpose::search_wide, 2.2, ReadBy::eye),
               program =
                   advise(usual_gear(), fifteen_feet(), bush, Purpose::search_wide, 2.2, ReadBy::program);
    EXPECT_GT(eye.yield.setting.range_m, 60 * 0.3048);
    EXPECT_LT(eye.yield.setting.range_m, 100 * 0.3048);
    EXPECT_GT(program.yield.setting.range_m, 1.2 * eye.yield.setting.range_m);
    EXPECT_GT(eye.yield.eye_sees, 1.5 * program.yield.eye_sees);
    EXPECT_GE(program.yield.worth_m2, eye.yield.worth_m2);
    EXPECT_GE(eye.yield.eye_worth_m2, program.yield.eye_worth_m2);
    EXPECT_THAT(reasons_for(eye, usual_gear(), fifteen_feet(), bush, true).range,
                testing::HasSubstr("pixels"));
}

TEST(AdviceForTheEye, AScreenOfMorePixelsCarriesFarther) {
    auto coarse = usual_gear(), fine = usual_gear();
    coarse.screen_pixels = 320;
    fine.screen_shows_both = false;
    fine.screen_pixels = 1280;
    const auto range = [&](const Gear &gear, ReadBy by) {
        return advise(gear, fifteen_feet(), SmallestThing::bush(1), Purpose::search_wide, 2.2, by)
            .yield.setting.range_m;
    };
    EXPECT_LT(range(coarse, ReadBy::eye), range(fine, ReadBy::eye));
    EXPECT_EQ(range(coarse, ReadBy::program), range(fine, ReadBy::program)) << "no matter for the program";
    EXPECT_EQ(fine.pixels_a_side(), 1280);
    EXPECT_EQ(coarse.pixels_a_side(), 160);
}

// Surveyors tow their transducer at 8 to 20 hundredths of the range over the bottom.
TEST(AdviceForTheEye, TheSurveyorsCheckStandsBesideIt) {
    const auto gear = usual_gear();
    Setting s;
    s.range_m = 43;
    EXPECT_NEAR(altitude_of_range_percent(gear, fifteen_feet(), s), 10, 1e-9);
}

// In thin water sound comes by the surface: the same range shows less of a shadow over 1.5 m than over 6 m.
TEST(BySurface, ThinWaterTurnsToHazeFarOut) {
    const auto gear = usual_gear();
    auto thin = fifteen_feet(), deep = thin;
    thin.shallowest_m = thin.deepest_m = 1.5;
    deep.shallowest_m = deep.deepest_m = 6;
    const BySurface over_thin(gear, thin, 1, 1.5), over_deep(gear, deep, 1, 6);
    EXPECT_GT(over_thin.at(25), 5 * over_deep.at(25));
    EXPECT_GT(over_thin.at(25), over_thin.at(8));
    auto calm = thin;
    calm.wind_m_s = 0;
    auto windy = thin;
    windy.wind_m_s = 5;
    EXPECT_LT(BySurface(gear, calm, 1, 1.5).at(25), BySurface(gear, windy, 1, 1.5).at(25))
        << "the surface throws more back than calm water sends by it";
}
