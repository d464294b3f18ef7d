// Where to hold: all that can be reached are, the hull keeps clear, the drift is met with the bow.
#include "around/hold_spot.hpp"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

HoldQuestion question() {
    HoldQuestion q;
    q.boat = usual_boat();
    q.head = {0, 0};
    q.thing = {20, 30};
    return q;
}

double angle(double a, double b) {
    return std::fabs(wrap_180(a - b));
}

} // namespace

TEST(HoldSpot, EverySeatReachesWhereTheirReachesAllowIt) {
    const auto spot = best_hold(question());
    ASSERT_TRUE(spot);
    EXPECT_EQ(spot->reached_from.size(), usual_boat().seats.size());
    EXPECT_NEAR(spot->short_m, std::hypot(spot->head.east_m - 20, spot->head.north_m - 30), 1e-9);
    for (const auto &c : spot->casts)
        EXPECT_GE(c.spare_m, 0.5);
    EXPECT_FALSE(spot->drift_from_deg);
}

TEST(HoldSpot, ADriftIsMetWithTheBowAndNeverFromAboveTheThing) {
    auto q = question();
    q.drift = Drift{{0.25, 0}}; // towards the east
    const auto spot = best_hold(q);
    ASSERT_TRUE(spot);
    EXPECT_EQ(spot->reached_from.size(), q.boat.seats.size());
    EXPECT_LE(angle(spot->heading_deg, 270), 60) << "the bow to the west, from where it comes";
    EXPECT_GT(spot->head.east_m, q.thing.east_m - 3) << "it does not come down on the thing";
    ASSERT_TRUE(spot->drift_from_deg);
    EXPECT_LE(std::fabs(*spot->drift_from_deg), 60);
}

TEST(HoldSpot, TheHullKeepsOffHazardsAndLinesOffSnags) {
    auto q = question();
    const auto free = best_hold(q);
    ASSERT_TRUE(free);
    q.obstacles = {{"ledge", free->head, 0.6, true}};
    const auto other = best_hold(q);
    ASSERT_TRUE(other);
    EXPECT_GT(std::hypot(other->head.east_m - free->head.east_m, other->head.north_m - free->head.north_m),
              4);
    // A snag between the spot and the thing moves the boat until no line passes it.
    q.obstacles = {{"stump", {(free->head.east_m + 20) / 2, (free->head.north_m + 30) / 2}, 0.6, false}};
    const auto clear = best_hold(q);
    ASSERT_TRUE(clear);
    for (const auto &c : clear->casts)
        EXPECT_TRUE(c.past.empty());
    // Hazards all about: nowhere to hold.
    q.obstacles.clear();
    for (int e = -30; e <= 30; e += 4)
        for (int n = -30; n <= 30; n += 4)
            q.obstacles.push_back({"stone", {20.0 + e, 30.0 + n}, 0.6, true});
    EXPECT_FALSE(best_hold(q));
}

TEST(HoldSpot, NoSeatNoSpot) {
    auto q = question();
    q.boat.seats.clear();
    EXPECT_FALSE(best_hold(q));
}

TEST(HoldSpot, DirectionsAreSaidInEightWords) {
    EXPECT_EQ(side_word(0), "ahead");
    EXPECT_EQ(side_word(-90), "the left");
    EXPECT_EQ(side_word(91), "the right");
    EXPECT_EQ(side_word(181), "astern");
    EXPECT_EQ(side_word(-40), "ahead on the left");
    EXPECT_EQ(side_word(359), "ahead");
}

// Turned as a whole, the question has the same answer turned.
RC_GTEST_PROP(HoldSpot, TurnsWithTheLake, ()) {
    const int turn = 10 * *rc::gen::inRange(0, 36);
    auto q = question();
    q.drift = Drift{{0.1 * *rc::gen::inRange(-3, 4), 0.1 * *rc::gen::inRange(-3, 4)}};
    const auto one = best_hold(q);
    const double t = turn / degrees_per_radian;
    const auto turned = [t](const EastNorth &p) {
        return EastNorth{p.east_m * std::cos(t) + p.north_m * std::sin(t),
                         -p.east_m * std::sin(t) + p.north_m * std::cos(t)};
    };
    auto r = q;
    r.thing = turned(q.thing);
    r.drift->m_s = turned(q.drift->m_s);
    const auto other = best_hold(r);
    RC_ASSERT(one && other);
    RC_ASSERT(one->reached_from.size() == other->reached_from.size());
    RC_ASSERT(std::fabs(one->short_m - other->short_m) < 0.6);
}

// Wind from the north-west pushes to the south-east, at 3.5 in a hundred of its speed: 6 m/s make 0.21 m/s.
TEST(HoldSpot, TheWindPushesABoatThatNobodyHolds) {
    const auto drift = leeway(315, 6);
    EXPECT_NEAR(drift.speed_m_s(), 0.21, 1e-9);
    EXPECT_NEAR(drift.towards_deg(), 135, 1e-9);
    EXPECT_NEAR(drift.m_s.east_m, 0.21 / std::sqrt(2.0), 1e-9);
    EXPECT_NEAR(drift.m_s.north_m, -0.21 / std::sqrt(2.0), 1e-9);
}
