// The second look: what is planned keeps off, is worth its way, and steers there.
#include "look/second_look.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

Contact doubtful(Kind one, double chance, Kind other) {
    Contact c;
    c.chances = {};
    c.chances[static_cast<std::size_t>(one)] = chance;
    c.chances[static_cast<std::size_t>(other)] = 0.95 - chance;
    c.chances[0] = 0.05;
    c.kind = one;
    c.family = family_of(one);
    c.confidence = chance;
    c.ground_m = {12, 0.3};
    c.depth_m = 5;
    c.height_m = Estimate{0.9, 0.15};
    c.place = LocatedPoint{{46.5, -21.25}, {0.5, 0.5, 0}};
    return c;
}
SecondLookRequest request(const Contact &c) {
    SecondLookRequest q;
    q.contact = &c;
    q.gear = usual_gear();
    q.water.shallowest_m = q.water.deepest_m = 5;
    q.first_heading_deg = 0;
    return q;
}

} // namespace

TEST(SecondLook, SettlesFishOrStump) {
    const auto c = doubtful(Kind::stump, 0.5, Kind::fish);
    const auto look = plan_second_look(request(c), UnitSystem::metres);
    ASSERT_TRUE(look);
    EXPECT_GT(look->sure_then, look->sure_now + 0.1);
    EXPECT_LE(look->sure_then, 1);
    EXPECT_EQ(look->expected.size(), 2u);
    // From across: a pass from the same bearing says less.
    auto same = *look;
    same.heading_deg = 0;
    EXPECT_GE(sure_after(request(c), *look), sure_after(request(c), same));
}

// What is sure already earns no second pass.
TEST(SecondLook, NothingToGain) {
    auto sure = doubtful(Kind::boulder, 0.94, Kind::brush);
    sure.chances[static_cast<std::size_t>(Kind::boulder)] = 0.985;
    sure.chances[static_cast<std::size_t>(Kind::brush)] = 0.01;
    sure.chances[0] = 0.005;
    EXPECT_FALSE(plan_second_look(request(sure), UnitSystem::metres));
    auto nowhere = doubtful(Kind::stump, 0.5, Kind::fish);
    nowhere.place.reset();
    EXPECT_FALSE(plan_second_look(request(nowhere), UnitSystem::metres));
}

// A tree that may reach the surface is never passed over, nor is anything else that does.
TEST(SecondLook, NeverOverWhatReachesUp) {
    auto c = doubtful(Kind::tree, 0.5, Kind::fish_group);
    c.height_m = Estimate{4.2, 0.3};
    const auto look = plan_second_look(request(c), UnitSystem::metres);
    ASSERT_TRUE(look);
    EXPECT_FALSE(look->over);
    EXPECT_GE(look->ground_m, 8);
}

RC_GTEST_PROP(SecondLook, KeepsOff, ()) {
    const auto c = doubtful(Kind::stump, *rc::gen::inRange(30, 60) / 100.0, Kind::fish);
    auto q = request(c);
    const LocalPlane plane(c.place->place);
    const int n = *rc::gen::inRange(0, 4);
    for (int i = 0; i < n; ++i)
        q.keep_off.push_back({plane.to_globe({static_cast<double>(*rc::gen::inRange(-40, 40)),
                                              static_cast<double>(*rc::gen::inRange(-40, 40))}),
                              6, "stump"});
    const auto look = plan_second_look(q, UnitSystem::metres);
    if (!look)
        return;
    const auto a = plane.to_plane(look->start), b = plane.to_plane(look->end);
    for (const auto &k : q.keep_off) {
        const auto p = plane.to_plane(k.place);
        for (double t = 0; t <= 1; t += 0.02)
            RC_ASSERT(std::hypot(a.east_m + t * (b.east_m - a.east_m) - p.east_m,
                                 a.north_m + t * (b.north_m - a.north_m) - p.north_m) > 5.9);
    }
    // The line passes the thing at the distance that was planned, on the side that was told.
    const double h = look->heading_deg / degrees_per_radian;
    const double right = -a.east_m * std::cos(h) + a.north_m * std::sin(h); // of the thing, from the line
    RC_ASSERT(std::fabs(std::fabs(right) - (look->over ? 0 : look->ground_m)) < 0.05);
    if (!look->over)
        RC_ASSERT((right > 0) == (look->side == Side::starboard));
}

// In clear water the boat stays away from what may be fish.
TEST(SecondLook, StandsOffInClearWater) {
    const auto c = doubtful(Kind::fish, 0.5, Kind::brush);
    auto q = request(c);
    q.water.suspended_db = -78;
    const auto look = plan_second_look(q, UnitSystem::metres);
    ASSERT_TRUE(look);
    EXPECT_FALSE(look->over);
    EXPECT_GE(look->ground_m, 10);
}

TEST(SecondLook, SteersThere) {
    SecondLook look;
    look.thing = {46.5, -21.25};
    const LocalPlane plane(look.thing);
    look.heading_deg = 90; // east, the thing 10 m to the left: the line runs 10 m south of it
    look.side = Side::port;
    look.ground_m = 10;
    look.setting.range_m = 20;
    look.start = plane.to_globe({-35, -10});
    look.end = plane.to_globe({35, -10});
    auto cue = steer(look, plane.to_globe({-20, -14}), 80);
    EXPECT_NEAR(cue.to_go_m, 20, 0.05);
    EXPECT_NEAR(cue.off_line_m, -4, 0.05); // the line lies to the left
    EXPECT_NEAR(cue.turn_deg, 10, 0.01);
    EXPECT_EQ(cue.side, Side::port);
    EXPECT_FALSE(cue.abeam);
    cue = steer(look, plane.to_globe({0, -10.5}), 91);
    EXPECT_TRUE(cue.abeam);
    EXPECT_TRUE(cue.on_line);
    EXPECT_NEAR(cue.thing_m, 10.5, 0.05);
    EXPECT_LT(steer(look, plane.to_globe({12, -10}), 90).to_go_m, -11);
}

TEST(SecondLook, KnowsWhatReachesUp) {
    auto low = doubtful(Kind::stump, 0.7, Kind::fish), high = low;
    high.height_m = Estimate{4, 0.2};
    auto cut = low;
    cut.height_at_least = true;
    EXPECT_THAT(near_surface({low, high, cut}), testing::SizeIs(2));
}

// Boulder or stump: what tells them apart is the stature, and that wants a fine cell near by rather than a
// coarse one far off.
TEST(SecondLook, TellsBoulderFromStumpByAFinePass) {
    const auto c = doubtful(Kind::boulder, 0.5, Kind::stump);
    const auto look = plan_second_look(request(c), UnitSystem::metres);
    ASSERT_TRUE(look);
    EXPECT_GT(look->sure_then, look->sure_now + 0.05);
    auto coarse = *look;
    coarse.over = false;
    coarse.setting = {45, 0, 1.8};
    coarse.ground_m = 35;
    EXPECT_GT(sure_after(request(c), *look), sure_after(request(c), coarse));
}
