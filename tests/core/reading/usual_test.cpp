// What figures usually are in a recording, and what is left of them without it.
#include "reading/usual.hpp"

#include <cmath>
#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

constexpr auto peak = feature_named("peak"), length = feature_named("length");

Features with_peak(double value) {
    Features f{};
    f[peak] = value;
    f[length] = 1;
    return f;
}

} // namespace

TEST(UsualFigures, EachFigureNamedIsOne) {
    for (const auto name : figures_of_the_scene)
        EXPECT_LT(feature_named(name), feature_count) << name;
}

TEST(UsualFigures, FewAreHeldToWhatIsUsualAnywhere) {
    UsualFigures usual;
    const auto anywhere = with_peak(2);
    EXPECT_DOUBLE_EQ(usual.of(Zone::ground, anywhere)[peak], 2);
    EXPECT_DOUBLE_EQ(usual.of(Zone::ground, anywhere)[length], 0) << "the thing's own";
    for (int i = 0; i < 10; ++i)
        usual.add(Zone::ground, with_peak(6));
    EXPECT_DOUBLE_EQ(usual.of(Zone::ground, anywhere)[peak], 4)
        << "ten of them weigh as much as all the rest";
    EXPECT_DOUBLE_EQ(usual.of(Zone::water, anywhere)[peak], 2) << "each zone by itself";
    for (int i = 0; i < 5000; ++i)
        usual.add(Zone::ground, with_peak(6));
    EXPECT_NEAR(usual.of(Zone::ground, anywhere)[peak], 6, 0.03);
    // Steps under the track are weighed by themselves.
    usual.add(Zone::track, with_peak(9));
    EXPECT_DOUBLE_EQ(usual.of(Zone::track, anywhere)[peak], 0);
}

// More gain, another averaging: all figures of the scene move, and what is weighed hardly does.
RC_GTEST_PROP(UsualFigures, WhatMovesThemAllIsTakenOut, (int seed)) {
    std::mt19937 random(static_cast<unsigned>(seed));
    std::normal_distribution<double> spread(0, 1);
    const double moved = spread(random) * 3;
    UsualFigures a, b;
    Features one{}, other{};
    for (int i = 0; i < 300; ++i) {
        one = with_peak(spread(random));
        other = with_peak(one[peak] + moved);
        a.add(Zone::dark, one);
        b.add(Zone::dark, other);
    }
    const Features anywhere{};
    const auto p = over_usual(one, a.of(Zone::dark, anywhere)),
               q = over_usual(other, b.of(Zone::dark, anywhere));
    RC_ASSERT(std::fabs(p[peak] - q[peak]) <= 0.04 * std::fabs(moved) + 1e-9);
    RC_ASSERT(p[length] == q[length]);
}
