// What the settings of the head buy: worked by hand; advice against what the trade says.
#include "around/turning_budget.hpp"
#include "units/units.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using namespace heron;
using testing::HasSubstr;

// Worked by hand: 200 rays of 1.8 degrees at 16 a second are a turn in 12.5 s; at 18.288 m (60 ft) they stand
// 18.288 x 1.8 x pi/180 = 0.5745 m apart; at 0.5 m/s the boat goes 6.25 m meanwhile.
TEST(TurningBudget, IsGeometry) {
    const auto b = turning_budget(Turning{1.8, 3, 0, 360}, metres_from_feet(60), 1 / 16.0, 1.3, 0.5);
    EXPECT_NEAR(b.turn_s, 12.5, 1e-9);
    EXPECT_NEAR(b.step_at_rim_m, 0.5745, 1e-4);
    EXPECT_NEAR(b.ray_at_rim_m, 0.4149, 1e-4);
    EXPECT_NEAR(b.moved_a_turn_m, 6.25, 1e-9);
    EXPECT_DOUBLE_EQ(b.smallest_m, b.step_at_rim_m);
    // A sector comes back after the way there and back.
    EXPECT_NEAR(turning_budget(Turning{1.8, 3, -45, 90}, 18, 1 / 16.0, 1.3, 0).turn_s, 2 * 50 / 16.0, 1e-9);
}

// Common practice, no published source: 60 to 70 ft in 10 ft of water or less, 80 to 100 ft deeper.
TEST(TurningAdvice, AgreesWithTheTradeWhereItIsFirm) {
    TurningQuestion q;
    q.width_deg = 1.3;
    q.longest_cast_m = metres_from_feet(75);
    q.thing_m = 0.65;
    q.depth_m = metres_from_feet(9);
    EXPECT_NEAR(feet_from_metres(advise_turning(q).range_m), 63, 5);
    EXPECT_THAT(advise_turning(q).why, HasSubstr("eight degrees"));
    EXPECT_THAT(advise_turning(q).trade, HasSubstr("60 to 70 ft"));
    q.depth_m = metres_from_feet(18);
    EXPECT_NEAR(feet_from_metres(advise_turning(q).range_m), 90, 10);
    q.purpose = CirclePurpose::longest_cast;
    q.longest_cast_m = metres_from_feet(120);
    EXPECT_NEAR(feet_from_metres(advise_turning(q).range_m), 120, 1);
    // Standing: slow and fine. Along a bank: faster.
    EXPECT_LE(advise_turning(q).turning.pace, 2);
    EXPECT_NEAR(advise_turning(q).turning.step_deg, 0.9, 1e-9);
    q.speed_m_s = 1.2;
    EXPECT_GE(advise_turning(q).turning.pace, 4);
}

RC_GTEST_PROP(TurningAdvice, IsWithinWhatAHeadCanDo, ()) {
    TurningQuestion q;
    q.depth_m = *rc::gen::inRange(5, 400) / 10.0;
    q.speed_m_s = *rc::gen::inRange(0, 40) / 10.0;
    q.longest_cast_m = *rc::gen::inRange(50, 400) / 10.0;
    q.width_deg = *rc::gen::inRange(3, 50) / 10.0;
    q.purpose =
        *rc::gen::element(CirclePurpose::objects, CirclePurpose::longest_cast, CirclePurpose::along_a_bank);
    const auto a = advise_turning(q);
    RC_ASSERT(a.range_m >= 6 && a.range_m <= 60);
    RC_ASSERT(a.turning.pace >= 1 && a.turning.pace <= 5);
    RC_ASSERT(a.turning.step_deg > 0.8 && a.turning.step_deg < 5.5);
    RC_ASSERT(!a.why.empty() && !a.trade.empty());
}
