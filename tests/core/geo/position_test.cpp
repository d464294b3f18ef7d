#include "geo/position.hpp"

#include "programs.hpp"

#include <cmath>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>
#include <sstream>

using namespace heron;

// The geodesic program that ships with GeographicLib (Karney 2013), asked for the same legs.
TEST(Geodesic, AgreesWithGeodSolve) {
    std::mt19937 random(3);
    std::uniform_real_distribution<double> lat(-80, 80), lon(-180, 180), bearing(0, 360), distance(0.5, 400);
    std::string asked;
    std::vector<std::pair<GeoPoint, Leg>> legs;
    for (int i = 0; i < 50; ++i) {
        legs.push_back({{lat(random), lon(random)}, {distance(random), bearing(random)}});
        const auto &[p, leg] = legs.back();
        asked += fmt::format("{:.12f} {:.12f} {:.12f} {:.6f}\\n", p.latitude_deg, p.longitude_deg,
                             leg.bearing_deg, leg.distance_m);
    }
    const auto ran = test::run("printf -- '" + asked + "' | GeodSolve -p 9");
    ASSERT_EQ(ran.code, 0) << ran.out;
    std::istringstream in(ran.out);
    for (const auto &[p, leg] : legs) {
        double la = 0, lo = 0, az = 0;
        ASSERT_TRUE(in >> la >> lo >> az);
        const auto q = point_along(p, leg.bearing_deg, leg.distance_m);
        EXPECT_NEAR(q.latitude_deg, la, 1e-10);
        EXPECT_NEAR(wrap_180(q.longitude_deg - lo), 0, 1e-10);
        const auto back = leg_between(p, q);
        EXPECT_NEAR(back.distance_m, leg.distance_m, 1e-6);
    }
}

RC_GTEST_PROP(LocalPlane, ThereAndBackIsTheSamePoint, ()) {
    const GeoPoint origin{*rc::gen::inRange(-7000, 7000) / 100.0, *rc::gen::inRange(-18000, 18000) / 100.0};
    const EastNorth p{*rc::gen::inRange(-50000, 50000) / 100.0, *rc::gen::inRange(-50000, 50000) / 100.0};
    const LocalPlane plane(origin);
    const auto q = plane.to_plane(plane.to_globe(p));
    RC_ASSERT(std::fabs(q.east_m - p.east_m) < 1e-6);
    RC_ASSERT(std::fabs(q.north_m - p.north_m) < 1e-6);
}

TEST(LeverArm, TurnsWithTheHeading) {
    const BodyOffset behind{-2, 0.5, 1};
    const auto north = turned(behind, 0), east = turned(behind, 90);
    EXPECT_NEAR(north.east_m, 0.5, 1e-12);
    EXPECT_NEAR(north.north_m, -2, 1e-12);
    EXPECT_NEAR(east.east_m, -2, 1e-12);
    EXPECT_NEAR(east.north_m, -0.5, 1e-12);
}

// A mast 2 m above the transducer, the boat heeled 10° to starboard: the transducer swings to port by 2·sin
// 10°.
TEST(LeverArm, RollSwingsWhatHangsBelow) {
    const auto swung = turned({0, 0, 2}, 0, 0, 10);
    EXPECT_NEAR(swung.east_m, -2 * std::sin(10 / degrees_per_radian), 1e-12);
    EXPECT_NEAR(swung.north_m, 0, 1e-12);
    // Bow up: what hangs below swings forward.
    EXPECT_NEAR(turned({0, 0, 2}, 0, 10, 0).north_m, 2 * std::sin(10 / degrees_per_radian), 1e-12);
}

TEST(LocateSample, LiesAbeamOfTheTransducer) {
    BoatPose pose;
    pose.antenna = {46.5, -21.25};
    pose.heading_deg = 30;
    Installation at;
    at.transducer = {-2, 0.3, 0.4};
    at.antenna = {0.5, 0, -1};
    const auto located = locate_sample(pose, at, 90, 20, 0.3);
    const auto leg = leg_between(transducer_place(pose, at), located.place);
    EXPECT_NEAR(leg.distance_m, 20, 1e-6);
    EXPECT_NEAR(leg.bearing_deg, 120, 1e-4);
    const auto port = locate_sample(pose, at, -90, 20, 0.3);
    EXPECT_NEAR(leg_between(port.place, located.place).distance_m, 40, 1e-4);
}

TEST(ErrorEllipse, IsLongAcrossTheBeamWhenTheHeadingIsDoubtful) {
    BoatPose pose;
    pose.antenna = {46.5, -21.25};
    pose.heading_deg = 0;
    pose.position_sd_m = 0.5;
    pose.heading_sd_deg =
        13; // course over ground at 1.3 m/s with 0.3 m/s of side drift: atan(0.3/1.3) = 13.0°
    pose.speed_m_s = 0;
    const auto e = ellipse_of(locate_sample(pose, {}, 90, 20, 0.3).covariance);
    EXPECT_NEAR(e.semi_major_m, std::hypot(0.5, 20 * 13 / degrees_per_radian), 1e-9);
    EXPECT_NEAR(e.semi_minor_m, std::hypot(0.5, 0.3), 1e-9);
    EXPECT_NEAR(std::fabs(wrap_180(2 * e.bearing_deg)), 0, 1e-6); // along the track, that is north (or south)
}

// Against a million draws: the share of points inside the 1σ ellipse of a plane normal law is 1 − exp(−1/2) =
// 0.3935.
TEST(ErrorEllipse, HoldsTheShareOfPointsThatTheoryAsks) {
    PlaceCovariance c;
    c.add_along(37, 2.0);
    c.add_along(127, 0.7);
    c.add_along(80, 0.5);
    const auto e = ellipse_of(c);
    std::mt19937 random(11);
    std::normal_distribution<double> normal;
    int inside = 0;
    constexpr int n = 200000;
    for (int i = 0; i < n; ++i) {
        const double a = 2.0 * normal(random), b = 0.7 * normal(random), d = 0.5 * normal(random);
        const auto part = [](double bearing, double v) {
            return EastNorth{v * std::sin(bearing / degrees_per_radian),
                             v * std::cos(bearing / degrees_per_radian)};
        };
        const double east = part(37, a).east_m + part(127, b).east_m + part(80, d).east_m;
        const double north = part(37, a).north_m + part(127, b).north_m + part(80, d).north_m;
        const double t = e.bearing_deg / degrees_per_radian;
        const double u = (east * std::sin(t) + north * std::cos(t)) / e.semi_major_m,
                     v = (east * std::cos(t) - north * std::sin(t)) / e.semi_minor_m;
        inside += u * u + v * v < 1;
    }
    EXPECT_NEAR(static_cast<double>(inside) / n, 0.3935, 0.005);
}
