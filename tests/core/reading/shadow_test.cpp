#include "reading/shadow.hpp"

#include "geo/position.hpp"
#include "units/units.hpp"

#include <cmath>
#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

// Where the echo top and the shadow end of a thing lie, by drawing the ray: the thing stands `height` over a
// plane bottom at horizontal distance g; independent of the formulas under test.
struct Drawn {
    double top, end;
};
Drawn draw(double altitude, double slope_deg, double g, double height) {
    const double t = std::tan(slope_deg / degrees_per_radian);
    const double z_top = altitude - g * t - height;
    // The ray (s·g, s·z_top) meets the bottom where s·z_top = altitude − s·g·t.
    const double s = altitude / (z_top + g * t);
    return {std::hypot(g, z_top), s * std::hypot(g, z_top)};
}

} // namespace

// Worked by hand; the construction (similar triangles under one grazing ray) is that of the side-scan chapter
// of the Hydrographic Manual of the IHO (C-13, chapter 4), from memory.
TEST(Shadow, HandWorkedCases) {
    const BottomPlane bottom{20, 0.1, 0, 2};
    const auto s = read_shadow(43.0813, 53.8516, 0.05, bottom);
    ASSERT_TRUE(s);
    EXPECT_NEAR(s->height_m.value, 4.000, 0.001);
    EXPECT_NEAR(s->ground_m.value, 40.000, 0.002);
    EXPECT_NEAR(s->shadow_ground_m, 50.000, 0.002);
    const auto fish = read_shadow(32.3110, 48.4665, 0.05, {18, 0.1, 0, 2});
    ASSERT_TRUE(fish);
    EXPECT_NEAR(fish->height_m.value, 6.000, 0.001);
    EXPECT_NEAR(fish->ground_m.value, 30.000, 0.002);
}

TEST(Shadow, HeightIsExactOnAPlaneSlope) {
    for (const double slope : {-12.0, -8.0, -4.0, 0.0, 4.0, 8.0, 12.0}) {
        const auto ray = draw(20, slope, 40, 4);
        const auto s = read_shadow(ray.top, ray.end, 0.05, {20, 0.1, slope, 2});
        ASSERT_TRUE(s) << slope;
        EXPECT_NEAR(s->height_m.value, 4, 1e-9) << slope;
        EXPECT_NEAR(s->ground_m.value, 40, 1e-9) << slope;
    }
}

RC_GTEST_PROP(Shadow, HeightAndDistanceComeBackOnAnySlope, ()) {
    const double altitude = *rc::gen::inRange(100, 2000) / 100.0, slope = *rc::gen::inRange(-120, 121) / 10.0;
    const double g = *rc::gen::inRange(100, 4000) / 100.0, share = *rc::gen::inRange(5, 80) / 100.0;
    const double depth = altitude - g * std::tan(slope / degrees_per_radian);
    RC_PRE(depth > 0.5);
    // Uphill, nearer than the foot of the perpendicular on the slope, two places have one range.
    RC_PRE(g > altitude * std::sin(slope / degrees_per_radian) * std::cos(slope / degrees_per_radian));
    const double height = depth * share;
    const auto ray = draw(altitude, slope, g, height);
    RC_PRE(ray.end > ray.top && ray.end < 500);
    const auto s = read_shadow(ray.top, ray.end, 0.05, {altitude, 0.1, slope, 2});
    RC_ASSERT(s.has_value());
    RC_ASSERT(std::fabs(s->height_m.value - height) < 1e-6 * (1 + height));
    RC_ASSERT(std::fabs(s->ground_m.value - g) < 1e-6 * (1 + g));
}

// The shortcut in common use puts things too near: 38.16 for the first (true 40), 26.83 for the fish (true
// 30).
TEST(Shadow, TheCommonShortcutIsWrong) {
    EXPECT_NEAR(ground_by_shortcut_m(43.0813, 20), 38.16, 0.01);
    EXPECT_NEAR(ground_by_shortcut_m(32.3110, 18), 26.83, 0.01);
}

// 15 m off, 5 m deep, 8°, 0.3 m tall: uphill (A = 7.1) the shadow is 0.66 m, downhill (A = 2.9) 1.74 m along
// the ground.
TEST(Shadow, IsShorterSeenUphill) {
    const double rise = 15 * std::tan(8 / degrees_per_radian);
    const auto length = [](double altitude, double slope) {
        const auto ray = draw(altitude, slope, 15, 0.3);
        const auto s = read_shadow(ray.top, ray.end, 0.01, {altitude, 0.1, slope, 2});
        return (s->shadow_ground_m - s->ground_m.value) / std::cos(slope / degrees_per_radian);
    };
    EXPECT_NEAR(length(5 + rise, 8), 0.66, 0.02);
    EXPECT_NEAR(length(5 - rise, -8), 1.74, 0.04);
}

TEST(Shadow, CutShadowSaysAtLeast) {
    const auto s = read_shadow(20, 25, 0.05, {5, 0.1, 0, 2}, true);
    ASSERT_TRUE(s);
    EXPECT_TRUE(s->at_least);
    EXPECT_NEAR(s->height_m.value, 5 * (1 - 20.0 / 25), 1e-12); // H ≥ A·(1 − r_t/R)
}

TEST(Shadow, NonsenseIsRefused) {
    EXPECT_FALSE(read_shadow(25, 20, 0.05, {5, 0.1, 0, 2}));
    EXPECT_FALSE(read_shadow(0, 20, 0.05, {5, 0.1, 0, 2}));
    EXPECT_FALSE(read_shadow(2, 4, 0.05, {5, 0.1, 0, 2})); // the end lies in the water
    EXPECT_FALSE(read_shadow(std::nan(""), 20, 0.05, {5, 0.1, 0, 2}));
}

// Common practice, no published source: 75 ft of range over 25 ft of water reaches 70.7 ft over ground, where
// the rule of thumb (range less depth) says 50; a lure that hangs straight down at 14 ft shows at 14 ft.
TEST(GroundRange, TheFiguresOfTheTrade) {
    const BottomPlane flat{metres_from_feet(25), 0.1, 0, 2};
    EXPECT_NEAR(feet_from_metres(*ground_range_m(metres_from_feet(75), flat)), 70.71, 0.01);
    EXPECT_FALSE(ground_range_m(metres_from_feet(14), flat)); // in the water column: no side distance
}

TEST(GroundRange, FirstReturnOfASlopeComesFromItsNearestPoint) {
    const BottomPlane slope{10, 0.1, 8, 2};
    EXPECT_NEAR(first_return_m(slope), 10 * std::cos(8 / degrees_per_radian), 1e-12);
    EXPECT_FALSE(ground_range_m(first_return_m(slope) - 0.01, slope));
    EXPECT_TRUE(ground_range_m(first_return_m(slope) + 0.01, slope));
}

// Monte Carlo: the stated σ against the spread of what comes out when the inputs are drawn with theirs.
TEST(Shadow, StatedDoubtMatchesTheSpreadOfDrawnInputs) {
    const BottomPlane bottom{6, 0.12, 3, 2};
    const auto ray = draw(6, 3, 14, 1.1);
    const auto s = read_shadow(ray.top, ray.end, 0.08, bottom);
    ASSERT_TRUE(s);
    std::mt19937 random(5);
    std::normal_distribution<double> normal;
    double h1 = 0, h2 = 0, g1 = 0, g2 = 0;
    constexpr int n = 40000;
    for (int i = 0; i < n; ++i) {
        const BottomPlane drawn{6 + 0.12 * normal(random), 0, 3 + 2 * normal(random), 0};
        const auto d =
            read_shadow(ray.top + 0.08 * normal(random), ray.end + 0.08 * normal(random), 0, drawn);
        ASSERT_TRUE(d);
        h1 += d->height_m.value;
        h2 += d->height_m.value * d->height_m.value;
        g1 += d->ground_m.value;
        g2 += d->ground_m.value * d->ground_m.value;
    }
    EXPECT_NEAR(s->height_m.sd, std::sqrt(h2 / n - h1 * h1 / n / n), 0.005);
    EXPECT_NEAR(s->ground_m.sd, std::sqrt(g2 / n - g1 * g1 / n / n), 0.02);
}

// On a bottom that is not plane the general rule must agree with the plane one where it is plane, and with
// the drawn ray where it bends.
TEST(Shadow, ProfileAgreesWithThePlaneAndWithADrawnRay) {
    BottomProfile plane;
    for (double g = 0; g <= 40; g += 0.5)
        plane.emplace_back(g, 8 - g * std::tan(5 / degrees_per_radian));
    const auto ray = draw(8, 5, 20, 1.5);
    const auto found = read_shadow_on(ray.top, ray.end, plane);
    ASSERT_TRUE(found);
    EXPECT_NEAR(found->first, 1.5, 1e-6);
    EXPECT_NEAR(found->second, 20, 1e-6);
    // A ledge: 6 m deep to 15 m out, then 8 m. A post 1 m tall at 10 m; its ray goes on to the deeper floor.
    const BottomProfile ledge{{0, 6}, {15, 6}, {15.5, 8}, {60, 8}};
    const double g = 10, z = 5, end = g * 8 / z; // the ray through (10, 5) meets 8 m at 16 m
    const auto low = read_shadow_on(std::hypot(g, z), std::hypot(end, 8.0), ledge);
    ASSERT_TRUE(low);
    EXPECT_NEAR(low->first, 1, 1e-6);
    EXPECT_NEAR(low->second, 10, 1e-6);
}

namespace {

// Slant ranges of top and shadow's end of a thing on any bottom, by walking along the grazing ray.
Drawn walk(const BottomPlane &b, double g, double height) {
    const double z = b.depth_at(g) - height;
    double s = 1;
    while (s * z < b.depth_at(s * g) && s < 20)
        s += 1e-5;
    return {std::hypot(g, z), s * std::hypot(g, z)};
}

} // namespace

// On a bottom that is not plane: a ledge between boat and thing, a bank behind it.
TEST(Shadow, OnABentBottomHeightAndPlaceFollowTheBend) {
    BottomPlane bent{5, 0.05, 0, 0.5, {{0, 0}, {6, 0}, {8, 2}, {20, 2}}};
    EXPECT_DOUBLE_EQ(bent.depth_at(4), 5);
    EXPECT_DOUBLE_EQ(bent.depth_at(7), 6);
    EXPECT_DOUBLE_EQ(bent.depth_at(30), 7) << "level beyond what is known";
    const auto ray = walk(bent, 12, 1.2);
    const auto s = read_shadow(ray.top, ray.end, 0.05, bent);
    ASSERT_TRUE(s);
    EXPECT_NEAR(s->height_m.value, 1.2, 0.01);
    EXPECT_NEAR(s->ground_m.value, 12, 0.01);
    // Taken as level it would be told too low, and too far off.
    const auto level = read_shadow(ray.top, ray.end, 0.05, {5, 0.05, 0, 0.5});
    ASSERT_TRUE(level);
    EXPECT_LT(level->height_m.value, 0.95);
    EXPECT_GT(level->ground_m.value, 12.4);
    EXPECT_GT(s->height_m.sd, level->height_m.sd) << "a bend is known less well than a plane";
}

RC_GTEST_PROP(Shadow, ComesBackOnAnyBend, ()) {
    const double altitude = *rc::gen::inRange(300, 1500) / 100.0;
    BottomPlane b{altitude, 0.05, *rc::gen::inRange(-40, 41) / 10.0, 0.5, {{0, 0}}};
    for (double g = 3; g < 30; g += 3)
        b.off.emplace_back(g, *rc::gen::inRange(-60, 61) / 100.0);
    const double g = *rc::gen::inRange(400, 2000) / 100.0;
    const double height = b.depth_at(g) * *rc::gen::inRange(5, 50) / 100.0;
    RC_PRE(b.depth_at(g) > 1 && height > 0.1);
    const auto ray = walk(b, g, height);
    RC_PRE(ray.end / ray.top < 10);
    // Where the ray meets the bottom the slant range has to be met once only.
    const auto met = ground_range_m(ray.end, b);
    RC_ASSERT(met.has_value());
    RC_PRE(std::fabs(*met - g * ray.end / ray.top) < 0.02);
    const auto s = read_shadow(ray.top, ray.end, 0.05, b);
    RC_ASSERT(s.has_value());
    RC_ASSERT(std::fabs(s->height_m.value - height) < 0.02);
    RC_ASSERT(std::fabs(s->ground_m.value - g) < 0.02);
}
