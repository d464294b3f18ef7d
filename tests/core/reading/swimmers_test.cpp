// What swims is followed from turn to turn: the filter worked by hand, tracks through clutter, what stands
// left alone.
#include "reading/swimmers.hpp"

#include <algorithm>
#include <cmath>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

const LocalPlane plane({46.5, -21.25});

Contact fish_at(double east, double north, std::size_t turn, double seconds, double real = 0.6) {
    Contact c;
    c.side = Side::around;
    c.leg = static_cast<std::uint16_t>(turn);
    c.time = static_cast<UnixNs>(seconds * 1e9);
    c.place = LocatedPoint{plane.to_globe({east, north}), {0.1, 0, 0.1}};
    c.chances[0] = 1 - real;
    c.chances[static_cast<std::size_t>(Kind::fish)] = real;
    c.length_m = 0.6;
    settle_kind(c);
    return c;
}

} // namespace

// Worked by hand: at rest at 0 with variances 1 (place) and 0.25 (speed), two seconds on without noise the
// place has 1 + 4 x 0.25 = 2 and with the speed 2 x 0.25 = 0.5. A look at 3 of variance 1 weighs 2/3: place
// 2, speed 0.5 x 3/3 = 0.5; what is left: 2/3, 0.5/3 and 0.25 - 0.5 x 0.5/3 = 1/6.
TEST(AxisFilter, IsTheOneWorkedByHand) {
    AxisFilter f{0, 0, {1, 0, 0.25}};
    f.predict(2, 0);
    EXPECT_NEAR(f.covariance[0], 2, 1e-12);
    EXPECT_NEAR(f.covariance[1], 0.5, 1e-12);
    f.correct(3, 1);
    EXPECT_NEAR(f.place, 2, 1e-12);
    EXPECT_NEAR(f.speed, 0.5, 1e-12);
    EXPECT_NEAR(f.covariance[0], 2.0 / 3, 1e-12);
    EXPECT_NEAR(f.covariance[1], 1.0 / 6, 1e-12);
    EXPECT_NEAR(f.covariance[2], 1.0 / 6, 1e-12);
    // Noise: q t^3/3, q t^2/2, q t.
    AxisFilter g{0, 0, {0, 0, 0}};
    g.predict(3, 2);
    EXPECT_NEAR(g.covariance[0], 18, 1e-12);
    EXPECT_NEAR(g.covariance[1], 9, 1e-12);
    EXPECT_NEAR(g.covariance[2], 6, 1e-12);
}

TEST(SwimmerTracker, FollowsAFishThroughClutter) {
    std::mt19937 random(3);
    std::normal_distribution<double> off(0, 0.25);
    std::uniform_real_distribution<double> anywhere(-15, 15);
    SwimmerTracker tracker;
    constexpr double speed_e = 0.25, speed_n = -0.15;
    for (std::size_t turn = 0; turn < 10; ++turn) {
        const double t = 8.0 * static_cast<double>(turn) + 1;
        std::vector<Contact> looks{
            fish_at(-8 + speed_e * t + off(random), 6 + speed_n * t + off(random), turn, t)};
        for (int i = 0; i < 2; ++i)
            looks.push_back(fish_at(anywhere(random), anywhere(random), turn, t, 0.3));
        if (turn == 5)
            looks.erase(looks.begin()); // once it is not seen
        tracker.take(looks, {});
    }
    const auto all = tracker.swimmers();
    ASSERT_FALSE(all.empty());
    const auto &best = *std::max_element(all.begin(), all.end(),
                                         [](const auto &a, const auto &b) { return a.looks < b.looks; });
    EXPECT_GE(best.looks, 8);
    EXPECT_NEAR(best.speed_m_s(), std::hypot(speed_e, speed_n), 0.06);
    EXPECT_NEAR(wrap_180(best.course_deg() - 121), 0, 15);
    const auto there = plane.to_plane(tracker.plane()->to_globe(best.at(5)));
    EXPECT_NEAR(there.east_m, -8 + speed_e * 78, 0.6);
    EXPECT_NEAR(there.north_m, 6 + speed_n * 78, 0.6);
    EXPECT_GT(best.place_sd_m(20), best.place_sd_m(0));
}

TEST(SwimmerTracker, WhatStandsIsNoSwimmer) {
    std::mt19937 random(4);
    std::normal_distribution<double> off(0, 0.15);
    std::vector<Contact> all;
    for (std::size_t turn = 0; turn < 10; ++turn)
        all.push_back(fish_at(5 + off(random), 5 + off(random), turn, 8.0 * static_cast<double>(turn) + 1));
    const auto standing = standing_places(all);
    EXPECT_GE(standing.size(), 8u);
    SwimmerTracker told, unaware;
    for (const auto &c : all) {
        told.take({c}, standing);
        unaware.take({c}, {}); // nor where nobody says that it stands
    }
    EXPECT_TRUE(told.swimmers().empty());
    EXPECT_TRUE(unaware.swimmers().empty());
}

TEST(SwimmerTracker, NothingSwimsFasterThanFish) {
    SwimmerTracker tracker;
    for (std::size_t turn = 0; turn < 8; ++turn) {
        const double t = 8.0 * static_cast<double>(turn) + 1;
        tracker.take({fish_at(3 * t, 0, turn, t)}, {});
    }
    EXPECT_TRUE(tracker.swimmers().empty());
}

RC_GTEST_PROP(AxisFilter, DoubtStaysLawful, ()) {
    AxisFilter f;
    for (int i = 0; i < 20; ++i) {
        f.predict(*rc::gen::inRange(0, 300) / 10.0, *rc::gen::inRange(0, 100) / 1000.0);
        f.correct(*rc::gen::inRange(-300, 300) / 10.0, *rc::gen::inRange(1, 30) / 10.0);
        const auto &[pp, ps, ss] = f.covariance;
        RC_ASSERT(pp > 0 && ss >= 0);
        RC_ASSERT(ps * ps <= pp * ss * (1 + 1e-6) + 1e-12);
    }
}
