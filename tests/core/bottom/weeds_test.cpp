// What stands under the boat, heard by the beam that looks down: on pings worked by hand.
#include "bottom/weeds.hpp"

#include <algorithm>
#include <gtest/gtest.h>
#include <random>

using namespace heron;

namespace {

constexpr double sides_say_m = 4, sample_m = 0.02;
constexpr int water_code = 20, growth_code = 120, ground_code = 220; // codes of a quarter of a decibel

// Both sides meet the bottom at four metres; the beam that looks down begins to hear it, and what stands on
// it, at ranges of its own.
Scan looked_down(double ground_from_m, double growth_from_m) {
    Scan scan;
    std::mt19937 random(7);
    std::uniform_int_distribution<int> noise(-12, 12);
    for (int n = 0; n < 60; ++n) {
        Ping p;
        p.time = 1'800'000'000LL * ns_per_s + n * (ns_per_s / 10);
        p.sound_speed_m_s = 1450;
        p.sample_interval_s = sample_m * 2 / 1450;
        p.first_sample_s = p.sample_interval_s / 2;
        p.frequency_hz = 770e3;
        for (const auto side : {Side::port, Side::starboard, Side::down}) {
            Beam b;
            b.side = side;
            b.width_along_deg = 0.8F;
            b.scale = {0, 0.25, 0, 255};
            for (std::size_t k = 0; k < 400; ++k) {
                const double r = p.slant_m(static_cast<double>(k));
                const int level = side != Side::down  ? (r < sides_say_m ? water_code : ground_code)
                                  : r < growth_from_m ? water_code
                                  : r < ground_from_m ? growth_code
                                                      : ground_code;
                b.code.push_back(static_cast<std::uint16_t>(std::clamp(level + noise(random), 0, 255)));
            }
            p.beams.push_back(std::move(b));
        }
        scan.push({std::move(p), std::nullopt, {}});
    }
    return scan;
}

// 0 where nothing grows.
double grown_m(double ground_from_m, double growth_from_m) {
    const auto under = under_the_boat(looked_down(ground_from_m, growth_from_m), 20);
    return !under ? -1 : under->grows ? under->stands_m : 0;
}

TEST(UnderTheBoat, BareGroundStandsNowhereAndWeedsAsHighAsTheyAre) {
    EXPECT_EQ(grown_m(4, 4), 0);
    for (const double high : {0.4, 0.8, 1.5})
        EXPECT_NEAR(grown_m(4, 4 - high), high, 0.12) << high;
}

// Rough ground begins some decimetres before what the two sides say: it is no growth.
TEST(UnderTheBoat, GroundThatLiesNearerThanTheSidesSayIsNoGrowth) {
    for (const double nearer : {0.15, 0.25, 0.3})
        EXPECT_EQ(grown_m(4 - nearer, 4 - nearer), 0) << nearer;
    EXPECT_NEAR(grown_m(3.75, 3.75 - 0.6), 0.85, 0.12) << "over what the sides say";
}

// As loud as the bottom, but farther up than rough ground lies: something stands there.
TEST(UnderTheBoat, WhatIsAsLoudAsTheBottomAMetreUpStands) {
    EXPECT_NEAR(grown_m(3, 3), 1, 0.12);
}

TEST(UnderTheBoat, WithoutABeamThatLooksDownNothingIsSaid) {
    Scan scan;
    for (int n = 0; n < 40; ++n) {
        Ping p;
        p.time = 1'800'000'000LL * ns_per_s + n * (ns_per_s / 10);
        p.sound_speed_m_s = 1450;
        p.sample_interval_s = sample_m * 2 / 1450;
        Beam b;
        b.side = Side::port;
        b.scale = {0, 0.25, 0, 255};
        b.code.assign(400, water_code);
        std::fill(b.code.begin() + 200, b.code.end(), std::uint16_t{ground_code});
        p.beams.push_back(b);
        scan.push({std::move(p), std::nullopt, {}});
    }
    EXPECT_FALSE(under_the_boat(scan, 20));
}

} // namespace
