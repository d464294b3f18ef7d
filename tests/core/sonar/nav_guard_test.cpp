#include "sonar/nav_guard.hpp"

#include "sonar/clock_difference.hpp"

#include <cmath>
#include <gtest/gtest.h>
#include <random>

using namespace heron;

namespace {

constexpr GeoPoint home{46.5, -21.25};
UnixNs second(double seconds) {
    return static_cast<UnixNs>(seconds * 1e9);
}
PositionSample position(double t, double east_of_home, double speed = 1.5) {
    PositionSample p;
    p.time = second(t);
    p.place = point_along(home, 90, east_of_home);
    p.speed_m_s = speed;
    return p;
}
AttitudeSample heading(double t, double degrees) {
    AttitudeSample a;
    a.time = second(t);
    a.heading_deg = degrees;
    return a;
}

} // namespace

TEST(NavGuard, ALeapOf300MetresIsHeldBackAndForgottenWhenItEnds) {
    NavGuard guard;
    NavTrack track;
    for (double t = 0; t < 20; t += 0.2) {
        const bool leaps = t > 8 && t < 10;
        guard.take(position(t, 1.5 * t + (leaps ? 300 : 0)), track);
        if (t > 8.3 && t < 9.9)
            EXPECT_EQ(guard.positions(), NavGuard::State::leaping);
    }
    EXPECT_EQ(guard.positions(), NavGuard::State::fine);
    for (const auto &p : track.positions())
        EXPECT_LT(leg_between(home, p.place).distance_m, 40);
    // Nothing is broken: the true places before and after join.
    for (const auto &p : track.positions())
        EXPECT_FALSE(p.broken_before);
}

TEST(NavGuard, ALeapThatStaysIsBelievedAndNotBridged) {
    NavGuard guard;
    NavTrack track;
    for (double t = 0; t < 20; t += 0.2)
        guard.take(position(t, 1.5 * t + (t > 8 ? 300 : 0)), track);
    EXPECT_EQ(guard.positions(), NavGuard::State::fine);
    EXPECT_NEAR(leg_between(home, track.positions().back().place).distance_m, 300 + 1.5 * 19.8, 1);
    int breaks = 0;
    for (const auto &p : track.positions())
        breaks += p.broken_before;
    EXPECT_EQ(breaks, 1);
    // No place is invented between the two.
    for (double t = 7.9; t < 8.3; t += 0.02)
        if (const auto p = track.position_at(second(t))) {
            const double d = leg_between(home, p->place).distance_m;
            EXPECT_TRUE(d < 20 || d > 300) << d;
        }
}

TEST(NavGuard, AFrozenReceiverAndAFrozenCompassAreNoticed) {
    NavGuard guard;
    NavTrack track;
    std::mt19937 random(3);
    std::normal_distribution<double> jitter(0, 0.5);
    for (double t = 0; t < 30; t += 0.2) {
        guard.take(position(t, 1.5 * std::min(t, 10.0)), track);
        guard.take(heading(t, t < 10 ? 90 + std::round(10 * jitter(random)) / 10 : 90.3), track);
    }
    EXPECT_EQ(guard.positions(), NavGuard::State::frozen);
    EXPECT_EQ(guard.headings(), NavGuard::State::frozen);
    EXPECT_FALSE(track.position_at(second(25))) << "a frozen place is none";
    EXPECT_FALSE(track.attitude_at(second(25)));
    guard.take(position(30, 45), track);
    guard.take(heading(30, 91), track);
    EXPECT_EQ(guard.positions(), NavGuard::State::fine);
    EXPECT_EQ(guard.headings(), NavGuard::State::fine);
}

TEST(NavGuard, ABoatAtTheDockIsNotFrozen) {
    NavGuard guard;
    NavTrack track;
    for (double t = 0; t < 20; t += 0.2) {
        guard.take(position(t, 0, 0.02), track);
        guard.take(heading(t, 180), track); // a compass that never jittered may stand still
    }
    EXPECT_EQ(guard.positions(), NavGuard::State::fine);
    EXPECT_EQ(guard.headings(), NavGuard::State::fine);
    EXPECT_TRUE(track.position_at(second(19)));
}

TEST(ClockDifference, IsTheMedianOfAMinuteWhateverTheCables) {
    ClockDifference clocks;
    std::mt19937 random(7);
    std::exponential_distribution<double> late(50); // 20 ms on the way
    EXPECT_FALSE(clocks.seconds());
    // The sounder's clock is 2.75 s behind the receiver's; both count from other days.
    const UnixNs receiver = 1'000'000 * ns_per_s, sounder = receiver - second(2.75);
    double next_position = 0, next_ping = 0;
    while (next_ping < 60) {
        if (next_position < next_ping) {
            clocks.position(second(500 + next_position + late(random)), receiver + second(next_position));
            next_position += 0.2;
        } else {
            clocks.ping(second(500 + next_ping + late(random)), sounder + second(next_ping));
            next_ping += 0.05;
        }
    }
    ASSERT_TRUE(clocks.seconds());
    EXPECT_NEAR(*clocks.seconds(), 2.75, 0.03);
    // The receiver falls silent: nothing new is said of it.
    clocks.clear();
    clocks.ping(second(700), sounder);
    EXPECT_FALSE(clocks.seconds());
}

TEST(ClockDifference, FollowsAClockThatIsStepped) {
    ClockDifference clocks;
    for (double t = 0; t < 100; t += 0.1) {
        clocks.position(second(t), second(t));
        clocks.ping(second(t + 0.01), second(t + (t > 30 ? 3600 : 0)));
    }
    ASSERT_TRUE(clocks.seconds());
    EXPECT_NEAR(*clocks.seconds(), -3600, 0.05);
}
