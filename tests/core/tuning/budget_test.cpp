#include "tuning/advice.hpp"
#include "tuning/budget.hpp"
#include "waters.hpp"

#include "lake.hpp"
#include "programs.hpp"
#include "units/units.hpp"
#include "water/water.hpp"

#include <cmath>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <sstream>

using namespace heron;

namespace {

using test::lake;

} // namespace

// Urick (1983), worked by a script of its own with numpy and the library of TEOS-10.
TEST(SonarEquation, TermsAgreeWithAnIndependentScript) {
    struct Case {
        double r, a, f, width, band, t, lambert, fish;
    };
    const std::vector<Case> cases{{12, 4.5, 455e3, 1.2, 25e3, 15, -28, 0.3},
                                  {25, 6.0, 800e3, 0.8, 45e3, 8, -20, 0.5},
                                  {40, 3.0, 1200e3, 0.55, 60e3, 22, -35, 0.12},
                                  {6.2, 6.0, 770e3, 0.8, 45e3, 14, -12, 1.1}};
    const test::Folder folder;
    {
        std::ofstream in(folder.file("cases"));
        for (const auto &c : cases)
            in << c.r << ' ' << c.a << ' ' << c.f << ' ' << c.width << ' ' << c.band << ' ' << c.t << ' '
               << c.lambert << ' ' << c.fish << '\n';
    }
    const auto ran =
        test::run("/usr/bin/python3 " HERON_TESTS "/core/tuning/sonar_equation.py < " + folder.file("cases"));
    ASSERT_EQ(ran.code, 0) << ran.out;
    std::istringstream out(ran.out);
    using namespace sonar_equation;
    for (const auto &c : cases) {
        double speed = 0, loss = 0, area = 0, bottom = 0, love = 0;
        ASSERT_TRUE(out >> speed >> loss >> area >> bottom >> love) << ran.out;
        const double grazing = std::asin(c.a / c.r);
        EXPECT_NEAR(two_way_loss_db(c.r, absorption_fresh_db_per_m(c.f, c.t)), loss, 0.01);
        EXPECT_NEAR(cell_area_db(c.r, grazing, c.width / degrees_per_radian,
                                 sound_speed_fresh_m_s(c.t) / (2 * c.band)),
                    area, 0.01);
        EXPECT_NEAR(lambert_db(c.lambert, grazing), bottom, 0.01);
        EXPECT_NEAR(fish_strength_db(c.fish, c.f), love, 0.01);
    }
}

// By definition: half power once at half of the width, so a quarter (6.02 dB) there and back.
TEST(SonarEquation, TheBeamFallsToHalfPowerAtHalfItsWidth) {
    EXPECT_NEAR(sonar_equation::beam_loss_db(26, 52), 6.02, 0.01);
    EXPECT_EQ(sonar_equation::beam_loss_db(0, 52), 0);
    EXPECT_NEAR(sonar_equation::beam_loss_db(-13, 52), 6.02 / 4, 0.01);
}

// Two exponential intensities: P(X > Y) = a/(a+b), tried with a million draws.
TEST(SonarEquation, SeparationIsTheAreaUnderTheCurveOfTwoExponentials) {
    std::mt19937 random(4);
    std::exponential_distribution<double> one(1);
    for (const double ratio : {1.0, 2.0, 10.0}) {
        int more = 0;
        constexpr int n = 200'000;
        for (int i = 0; i < n; ++i)
            more += ratio * one(random) > one(random);
        EXPECT_NEAR(static_cast<double>(more) / n, sonar_equation::separation_of_speckle(ratio, 1), 0.005);
    }
}

// The worked case: 1.2 m under the transducer, 17 m out, is 4.0 degrees of grazing, where Lambert leaves −23
// dB.
TEST(Budget, VeryShallowWaterReturnsLittleFromFarOut) {
    const auto gear = usual_gear();
    const auto b = budget_at(gear, lake(1.2 + gear.draught_m), SmallestThing::bush(1), {20, 1, 1.2},
                             1.2 + gear.draught_m, 17);
    EXPECT_NEAR(b.grazing_deg, 4.04, 0.01);
    EXPECT_NEAR(sonar_equation::lambert_db(0, b.grazing_deg / degrees_per_radian), -23.0, 0.1);
    // What of such a range is promised and not kept: over soft bottom most of it.
    const auto shallow = lake(1.5, BottomType::silt, -66);
    const Setting s{17, 2, 1.2};
    EXPECT_LT(useful_range_m(gear, shallow, s, 1.5), 10);
    EXPECT_GT(useful_range_m(gear, lake(6, BottomType::silt, -66), s, 6), 16);
}

// NOAA, Hydrographic Surveys Specifications and Deliverables (side scan: three pings on the smallest thing at
// any range; from memory). A metre at 25 m of range, pinged at 20 a second: 1 m / 3 · 20 = 6.7 m/s and more
// with the beam.
TEST(Budget, ThreePingsOnTheThing) {
    auto gear = usual_gear();
    gear.most_pings_a_second = 20;
    gear.bands[1].along_deg = 1e-6 + 0.05; // a beam of a line
    const auto thing = SmallestThing::bush(1);
    const double period = gear.ping_period_s(25, sound_speed_fresh_m_s(15));
    EXPECT_NEAR(period, 0.05, 1e-9); // 34 ms there and back and 4 of rest: its own rate is slower
    const auto b = budget_at(gear, lake(5), thing, {25, 1, 6.6}, 5, 2);
    EXPECT_NEAR(b.pings_on_thing, 3.03, 0.05);
    const auto y = yield_of(gear, lake(5), thing, {25, 1, 7.0});
    EXPECT_EQ(y.pings_on_thing < least_pings ? 0.0
              : y.nearest_m < 2              ? 1.0
                                             : 0.0,
              0.0)
        << "near the boat, where the beam is narrowest, nothing counts as covered";
    // Far out sound takes longer: 60 m there and back are 82 ms.
    EXPECT_NEAR(gear.ping_period_s(60, sound_speed_fresh_m_s(15)), 120 / 1465.96 + gear.rest_s, 1e-4);
}

// The idea of IHO S-44 (edition 6, from memory): 100 % of the bottom is searched. Lanes side by side leave no
// metre that is not covered from one of them, not even with the boat off its line by what is left for
// steering.
RC_GTEST_PROP(Budget, LanesLeaveNothingUncovered, ()) {
    const auto gear = usual_gear();
    const double depth = *rc::gen::inRange(15, 120) / 10.0;
    const Setting s{*rc::gen::inRange(100, 500) / 10.0, static_cast<std::size_t>(*rc::gen::inRange(0, 3)),
                    *rc::gen::inRange(6, 22) / 10.0};
    const auto y = yield_of(gear, lake(depth), SmallestThing::bush(1), s);
    RC_PRE(y.farthest_m > y.nearest_m + 4);
    const double off = *rc::gen::inRange(-60, 61) / 100.0; // each lane may be off by half a steering error
    const auto covered = [&](double at) {
        for (int lane = -3; lane <= 4; ++lane) {
            const double d = std::fabs(at - (lane * y.lane_m + (lane % 2 == 0 ? off : -off)));
            if (d >= y.nearest_m && d <= y.farthest_m)
                return true;
        }
        return false;
    };
    for (double at = 0; at < y.lane_m; at += 0.1)
        RC_ASSERT(covered(at));
}

// What the resolution of a chirp is: c/(2B), 16.4 mm for 45 kHz at 1476 m/s... and over ground more, by the
// cosine of the grazing angle.
TEST(Budget, CellsGrowWithDistanceAlongAndShrinkAcross) {
    const auto gear = usual_gear();
    const auto near = budget_at(gear, lake(6), SmallestThing::bush(1), {30, 1, 1.2}, 6, 3),
               far = budget_at(gear, lake(6), SmallestThing::bush(1), {30, 1, 1.2}, 6, 25);
    EXPECT_GT(near.across_m, far.across_m);
    EXPECT_NEAR(far.across_m * std::cos(far.grazing_deg / degrees_per_radian),
                sound_speed_fresh_m_s(15) / 2 / 45e3, 1e-6);
    EXPECT_NEAR(far.along_m, far.slant_m * 0.8 / degrees_per_radian, 1e-9);
    EXPECT_LT(near.along_m, far.along_m);
    // A shadow by similar triangles: over 5.7 m of altitude, 1 m high at 3 m: 3·5.7/4.7 − 3.
    EXPECT_NEAR(near.shadow_m, 3 * 5.7 / 4.7 - 3, 1e-6);
}

TEST(Budget, WorseWaterNeverHelps) {
    const auto gear = usual_gear();
    for (std::size_t band = 0; band < 3; ++band)
        for (double g = 2; g < 40; g += 3) {
            const auto clear = budget_at(gear, lake(5), SmallestThing::fish(0.3), {45, band, 1.2}, 5, g),
                       muddy = budget_at(gear, lake(5, BottomType::sand, -54), SmallestThing::fish(0.3),
                                         {45, band, 1.2}, 5, g),
                       fast = budget_at(gear, lake(5), SmallestThing::fish(0.3), {45, band, 3.5}, 5, g);
            EXPECT_LE(muddy.separation, clear.separation + 1e-12);
            EXPECT_LE(fast.separation, clear.separation + 1e-12);
            EXPECT_LT(fast.pings_on_thing, clear.pings_on_thing);
        }
}

// The stand-in is no equation of ours: it walks rays over a bottom. What it hears of bare ground stands as
// far over its noise as the budget says, to within what its rough ground and its fan's shape leave.
TEST(Budget, ForetellsHowFarTheStandInsBottomStandsOverNoise) {
    const auto gear = test::gear_of_the_stand_in();
    for (const std::size_t band : {0u, 1u, 2u}) {
        const auto scene = test::scene_of(test::basin(5));
        sim::Acoustics acoustics(scene);
        acoustics.look_down(false);
        sim::BoatState boat;
        boat.at = {60, 20};
        SoundingSettings s;
        s.range_m = 40;
        s.frequency_hz = gear.bands[band].frequency_hz;
        s.tvg_log = 0;
        const auto water = lake(5);
        std::map<int, std::pair<double, int>> mean;
        for (std::uint32_t i = 0; i < 80; ++i) {
            boat.at.y += 0.4;
            const auto heard = acoustics.hear_levels(boat, s, i * 7919);
            const double absorption = absorption_fresh_db_per_m(s.frequency_hz, 14);
            for (std::size_t k = 0; k < heard.level_db[1].size(); ++k) {
                const double r = heard.ping.slant_m(static_cast<double>(k));
                auto &m = mean[static_cast<int>(r)];
                m.first +=
                    std::pow(10, (static_cast<double>(heard.level_db[1][k]) - 2 * absorption * r) / 10);
                ++m.second;
            }
        }
        for (const int r : {7, 10, 14, 19, 25}) {
            const double a = 5 - scene.boat.installation.draught_m(), mid = r + 0.5;
            auto w = water;
            w.temperature_c = 14;
            const auto b =
                budget_at(gear, w, SmallestThing::bush(1), {40, band, 1.2}, 5, std::sqrt(mid * mid - a * a));
            const double noise = 1 + std::pow(10, b.water_over_noise_db / 10);
            const double foretold = 10 * std::log10(std::pow(10, b.bottom_over_noise_db / 10) + noise);
            const double heard = 10 * std::log10(mean[r].first / mean[r].second);
            EXPECT_NEAR(heard, foretold, 3) << "band " << band << " at " << r << " m";
        }
    }
}
