// Joining: the assignment against scipy, one thing from several legs, never two into one.
#include "files/json.hpp"
#include "programs.hpp"
#include "reading/assign.hpp"
#include "reading/corrections.hpp"
#include "reading/join.hpp"

#include <fmt/format.h>
#include <fstream>
#include <gmock/gmock.h>
#include <numeric>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

Contact seen(double east, double north, std::uint16_t leg, Kind kind, double chance, double heading = 0) {
    static const LocalPlane plane({46.5, -21.25});
    Contact c;
    c.place = LocatedPoint{plane.to_globe({east, north}), {0.2, 0, 0.2}};
    c.leg = leg;
    c.row = leg * 1000u + static_cast<std::size_t>(std::fabs(north) * 3);
    c.chances[static_cast<std::size_t>(kind)] = chance;
    c.chances[0] = 1 - chance;
    c.kind = kind;
    c.family = family_of(kind);
    c.confidence = chance;
    c.ground_m = {10, 0.3};
    c.length_m = 0.8;
    c.heading_deg = heading;
    c.height_m = Estimate{0.8, 0.2};
    return c;
}

} // namespace

// scipy.optimize.linear_sum_assignment on the same matrices; "alone" as further columns of equal cost.
TEST(Assign, AgreesWithScipy) {
    std::mt19937 random(3);
    std::uniform_real_distribution<double> cost(0, 2);
    nlohmann::json cases = nlohmann::json::array();
    std::vector<double> mine;
    for (int i = 0; i < 60; ++i) {
        const auto rows = 1 + random() % 9, columns = random() % 9;
        std::vector<double> c(rows * columns);
        for (auto &v : c)
            v = cost(random);
        const auto chosen = assign(c, rows, columns, 1);
        double total = 0;
        for (std::size_t r = 0; r < rows; ++r)
            total += chosen[r] < 0 ? 1 : c[r * columns + static_cast<std::size_t>(chosen[r])];
        mine.push_back(total);
        cases.push_back({{"rows", rows}, {"columns", columns}, {"cost", c}});
    }
    const test::Folder folder;
    std::ofstream(folder.file("cases.json")) << cases.dump();
    std::ofstream(folder.file("ask.py")) << R"(
import json, sys
import numpy as np
from scipy.optimize import linear_sum_assignment
for c in json.load(open(sys.argv[1])):
    m = np.array(c["cost"]).reshape(c["rows"], c["columns"])
    m = np.hstack([m, np.ones((c["rows"], c["rows"]))])
    i, j = linear_sum_assignment(m)
    print(repr(float(m[i, j].sum())))
)";
    const auto ran = test::run("/usr/bin/python3 " + folder.file("ask.py") + " " + folder.file("cases.json"));
    ASSERT_EQ(ran.code, 0) << ran.out;
    std::istringstream lines(ran.out);
    for (const double total : mine) {
        double scipy = 0;
        ASSERT_TRUE(lines >> scipy);
        EXPECT_NEAR(total, scipy, 1e-9);
    }
}

RC_GTEST_PROP(Assign, NoColumnTwiceAndNoPairDearerThanAlone, ()) {
    const auto rows = *rc::gen::inRange<std::size_t>(0, 8), columns = *rc::gen::inRange<std::size_t>(0, 8);
    const auto whole = *rc::gen::container<std::vector<int>>(rows * columns, rc::gen::inRange(0, 300));
    std::vector<double> cost(whole.begin(), whole.end());
    for (auto &v : cost)
        v /= 100;
    const auto chosen = assign(cost, rows, columns, 1);
    std::set<int> taken;
    for (std::size_t r = 0; r < rows; ++r)
        if (chosen[r] >= 0) {
            RC_ASSERT(taken.insert(chosen[r]).second);
            RC_ASSERT(cost[r * columns + static_cast<std::size_t>(chosen[r])] <= 1);
        }
}

// The one-sigma ellipse against numpy's eigenvectors, and the share within it against scipy's chi-squared.
TEST(Ellipse, AgreesWithNumpyAndScipy) {
    const PlaceCovariance c{2.25, 0.8, 0.9};
    const auto e = ellipse_of(c);
    const auto ran = test::run(
        "/usr/bin/python3 -c \"import numpy as np; from scipy.stats import chi2; "
        "w, v = np.linalg.eigh([[2.25, .8], [.8, .9]]); "
        "print(w[1]**.5, w[0]**.5, np.degrees(np.arctan2(v[0,1], v[1,1])) % 180, chi2.cdf(4, 2))\"");
    ASSERT_EQ(ran.code, 0) << ran.out;
    double major = 0, minor = 0, bearing = 0, within = 0;
    std::istringstream(ran.out) >> major >> minor >> bearing >> within;
    EXPECT_NEAR(e.semi_major_m, major, 1e-9);
    EXPECT_NEAR(e.semi_minor_m, minor, 1e-9);
    EXPECT_NEAR(e.bearing_deg, bearing, 1e-6);
    // Twice its axes hold 86 in 100 of a Gaussian's points.
    std::mt19937 random(5);
    std::normal_distribution<double> unit;
    int inside = 0;
    constexpr int n = 20000;
    const double b = bearing / degrees_per_radian;
    for (int i = 0; i < n; ++i) {
        const double l21 = c.east_north / std::sqrt(c.east_east);
        const double x = unit(random), y = unit(random);
        const double east = std::sqrt(c.east_east) * x,
                     north = l21 * x + std::sqrt(c.north_north - l21 * l21) * y;
        const double along = east * std::sin(b) + north * std::cos(b),
                     across = east * std::cos(b) - north * std::sin(b);
        inside += std::pow(along / e.semi_major_m, 2) + std::pow(across / e.semi_minor_m, 2) < 4;
    }
    EXPECT_NEAR(static_cast<double>(inside) / n, within, 0.012);
}

TEST(Join, TwoLegsOfOneThingAreOneAndSurer) {
    const auto all =
        join_contacts({seen(0, 0, 0, Kind::stump, 0.7, 0), seen(0.6, 0.4, 1, Kind::stump, 0.7, 90)});
    ASSERT_EQ(all.size(), 1u);
    EXPECT_EQ(all[0].looks, 2);
    EXPECT_GT(all[0].confidence, 0.9);
    ASSERT_EQ(all[0].passes.size(), 1u);
    EXPECT_LT(all[0].height_m->sd, 0.2);
    EXPECT_LT(all[0].position_sd_m(), seen(0, 0, 0, Kind::stump, 0.7).position_sd_m());
    EXPECT_THAT(all[0].reasons, testing::Contains(testing::HasSubstr("2 looks")));
}

// A look from across says more than the same look again.
TEST(Join, ALookFromAcrossCountsMore) {
    auto across = seen(0, 0, 0, Kind::stump, 0.6, 0), along = across;
    combine_passes(across, seen(0, 0, 1, Kind::stump, 0.6, 90));
    combine_passes(along, seen(0, 0, 1, Kind::stump, 0.6, 180));
    const auto stump = static_cast<std::size_t>(Kind::stump);
    EXPECT_GT(across.chances[stump], along.chances[stump]);
    EXPECT_NEAR(std::accumulate(across.chances.begin(), across.chances.end(), 0.0), 1, 1e-9);
    EXPECT_DOUBLE_EQ(power_of_look(90), 0.75);
    EXPECT_DOUBLE_EQ(power_of_look(180), 0.45);
}

TEST(Join, LooksThatDisagreeLeaveDoubt) {
    auto c = seen(0, 0, 0, Kind::stump, 0.7, 0);
    combine_passes(c, seen(0, 0, 1, Kind::fish, 0.7, 90));
    settle_kind(c);
    EXPECT_LT(c.chances[static_cast<std::size_t>(Kind::stump)], 0.7);
}

// However the legs of a field of things are ordered, and whatever their positions wander: each thing once, no
// two of one leg in one.
RC_GTEST_PROP(Join, NeverTwoOfOneLeg, ()) {
    const int things = *rc::gen::inRange(1, 9), legs = *rc::gen::inRange(1, 4);
    std::vector<Contact> all;
    for (int leg = 0; leg < legs; ++leg) {
        const double we = *rc::gen::inRange(-60, 61) / 100.0, wn = *rc::gen::inRange(-60, 61) / 100.0;
        for (int t = 0; t < things; ++t)
            all.push_back(seen(6.0 * t + we, 4.0 * (t % 2) + wn, static_cast<std::uint16_t>(leg),
                               t % 3 == 0 ? Kind::stump : Kind::boulder, 0.8, 90.0 * leg));
    }
    const auto joined = join_contacts(all);
    RC_ASSERT(joined.size() == static_cast<std::size_t>(things));
    for (const auto &c : joined) {
        RC_ASSERT(c.looks == legs);
        std::set<std::size_t> rows{c.row / 1000};
        for (const auto &p : c.passes)
            RC_ASSERT(rows.insert(p.row / 1000).second);
    }
}

// However the pits of a colony lie: one bed, in the middle of them, as long as they lie apart; another colony
// is another bed.
RC_GTEST_PROP(Join, PitsOfOneColonyAreOneBed, ()) {
    const int pits = *rc::gen::inRange(1, 6);
    const double step = *rc::gen::inRange(15, 35) / 10.0;
    std::vector<Contact> all;
    for (int i = 0; i < pits; ++i) {
        all.push_back(seen(step * i, 0, 0, Kind::bed, 0.6 + 0.07 * *rc::gen::inRange(0, 6), 0));
        all.back().length_m = 0.9;
    }
    all.push_back(seen(60, 0, 0, Kind::bed, 0.9, 0));
    const auto joined = join_contacts(all);
    RC_ASSERT(joined.size() == 2u);
    const LocalPlane plane({46.5, -21.25});
    double east = 1e9, length = 0;
    for (const auto &c : joined)
        if (const double e = plane.to_plane(c.place->place).east_m; e < east) {
            east = e;
            length = c.length_m.value_or(0);
        }
    RC_ASSERT(std::fabs(east - step * (pits - 1) / 2) < 0.1);
    RC_ASSERT(std::fabs(length - (step * (pits - 1) + 0.9)) < 0.1);
}

TEST(Join, PartsOfOneGroupAreOneAndFishApartAreNot) {
    auto a = seen(0, 0, 0, Kind::fish_group, 0.8), b = seen(2, 0, 0, Kind::fish_group, 0.7),
         c = seen(2, 5, 0, Kind::fish_group, 0.7);
    for (auto *g : {&a, &b, &c})
        g->length_m = 1.5;
    EXPECT_EQ(join_contacts({a, b}).size(), 1u) << "half a metre of water between them";
    EXPECT_EQ(join_contacts({a, c}).size(), 2u);
    EXPECT_EQ(join_contacts({seen(0, 0, 0, Kind::fish, 0.8), seen(2, 0, 0, Kind::fish, 0.8)}).size(), 2u);
}

// What was said to be nothing but ground takes with it what doubled it, and no more.
TEST(Join, WhatWasSaidToBeGroundLeavesNoDoubleBehind) {
    const auto at = [](double run, double confidence) {
        Contact c;
        c.zone = Zone::ground;
        c.run_m = run;
        c.ground_m = {10, 0.3};
        c.row = static_cast<std::size_t>(run * 10);
        c.chances[static_cast<std::size_t>(Kind::boulder)] = confidence;
        c.chances[0] = 1 - confidence;
        settle_kind(c);
        return c;
    };
    auto first = at(10, 0.9), doubled = at(10.4, 0.8), other = at(25, 0.7);
    EXPECT_EQ(join_contacts({first, doubled, other}).size(), 2u);
    apply_word(first, Kind::none);
    const auto left = join_contacts({first, doubled, other});
    ASSERT_EQ(left.size(), 1u);
    EXPECT_EQ(left[0].row, other.row);
    // A word goes before a greater chance.
    apply_word(first, Kind::stump);
    first.confidence = 0.6;
    const auto said = join_contacts({first, doubled, other});
    ASSERT_EQ(said.size(), 2u);
    EXPECT_EQ(said[0].said, Kind::stump);
}
