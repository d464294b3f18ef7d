// What stands under the boat, heard by the beam that looks down, on pings worked by hand; and which grains
// beside the boat are weeds, on a ground drawn by hand.
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

// Two fields of grains, hung together by a strip along the north. The boat met growth in the western one; in
// the strip it looked down on bare ground.
struct TwoFields {
    GroundRaster raster;
    std::vector<float> best, ground, rough;
    std::vector<EastNorth> growth, bare_ground{{6, 17}, {7, 17}, {8, 17}, {36, 5}, {36, 10}, {36, 15}};
    TwoFields() {
        raster.north_m = 20;
        raster.columns = 160;
        raster.rows = 80;
        best.assign(raster.cells(), 0);
        ground = rough = best;
        for (std::size_t y = 0; y < raster.rows; y += 4)
            for (std::size_t x = 0; x < raster.columns; x += 4) {
                const double east = raster.east_of(x), north = raster.north_of(y);
                if (in_west(east, north) || in_east(east, north) || in_strip(east, north))
                    best[y * raster.columns + x] = 15;
            }
        for (double north = 4; north < 11; north += 0.5)
            growth.push_back({3.5, north});
    }
    static bool in_west(double e, double n) { return e > 1 && e < 6 && n > 2 && n < 19; }
    static bool in_east(double e, double n) { return e > 9 && e < 14 && n > 2 && n < 19; }
    static bool in_strip(double e, double n) { return e > 1 && e < 14 && n > 15 && n < 19; }
    double told(bool (*in)(double, double), const std::vector<EastNorth> &bare) const {
        const auto weeds = weeds_of(raster, best, ground, rough, 20, growth, bare);
        double cells = 0, those = 0;
        for (std::size_t i = 0; i < raster.cells(); ++i) {
            const double e = raster.east_of(i % raster.columns), n = raster.north_of(i / raster.columns);
            if (!in(e, n) || n > 11)
                continue;
            cells += 1;
            those += weeds[i];
        }
        return those / cells;
    }
};

TEST(WeedsOf, APieceThatHangsTogetherWithABedOnlyAcrossBareGroundIsNone) {
    const TwoFields lake;
    EXPECT_GT(lake.told(TwoFields::in_west, lake.bare_ground), 0.75);
    EXPECT_EQ(lake.told(TwoFields::in_east, lake.bare_ground), 0);
    EXPECT_GT(lake.told(TwoFields::in_east, {}), 0.75) << "where the boat did not look it is one bed";
}

// Coarse ground in a fine band has grains too: what abeam of bare ground is as usual tells no weeds.
TEST(WeedsOf, GrainsAsTheBareGroundHasThemAreNone) {
    auto lake = TwoFields();
    for (std::size_t y = 0; y < lake.raster.rows; y += 4)
        for (std::size_t x = 0; x < lake.raster.columns; x += 4)
            lake.best[y * lake.raster.columns + x] = 15;
    EXPECT_EQ(lake.told(TwoFields::in_west, lake.bare_ground), 0);
    EXPECT_GT(lake.told(TwoFields::in_west, {}), 0.75);
}

TEST(WeedsOf, WithoutGrowthUnderTheBoatGrainsAreNone) {
    auto lake = TwoFields();
    lake.growth = {{3.5, 4}, {3.5, 5}};
    EXPECT_EQ(lake.told(TwoFields::in_west, {}), 0);
}

} // namespace
