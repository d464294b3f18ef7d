// Clouds of bait, groups and beds of weeds: many grains where few are usual.
#include "reading/clusters.hpp"

#include "lake.hpp"
#include "reading/reader.hpp"

#include <cmath>
#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <numbers>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

// Level ground under a boat 5 m over it, sounded to 25 m over 60 m of track.
Swath level_swath() {
    Swath s;
    s.cell_m = 0.05;
    s.spacing_m = 0.1;
    for (int i = 0; i < 600; ++i) {
        s.rows.push_back(static_cast<std::size_t>(i));
        s.along_m.push_back(0.1 * i);
        s.edge_m.push_back(5);
        s.altitude_m.push_back(5);
        s.end_m.push_back(25);
    }
    s.ground.lines = s.lines();
    s.ground.columns = 400;
    return s;
}

constexpr double near_m = 2.4, far_m = 24.3; // over ground, about

// Grains anywhere with a chance alike, each as bright as any.
std::vector<BrightGrain> strewn(double a_m2, std::mt19937 &random) {
    std::uniform_real_distribution<double> along(0, 60), ground(near_m, far_m), db(3, 12);
    std::vector<BrightGrain> all(static_cast<std::size_t>(a_m2 * 60 * (far_m - near_m)));
    for (auto &g : all) {
        g.along_m = along(random);
        g.ground_m = ground(random);
        g.over_db = db(random);
    }
    return all;
}

void add_cloud(std::vector<BrightGrain> &all, double along, double ground, double radius, int n,
               std::mt19937 &random) {
    std::uniform_real_distribution<double> one(0, 1), db(12, 16);
    for (int i = 0; i < n; ++i) {
        const double turn = 2 * std::numbers::pi * one(random), out = radius * std::sqrt(one(random));
        BrightGrain g;
        g.along_m = along + out * std::sin(turn);
        g.ground_m = ground + out * std::cos(turn);
        g.over_db = db(random);
        all.push_back(g);
    }
}

} // namespace

// Kulldorff (1997) for Poisson's counts, worked by hand: 12 where 2 are usual, 12 ln 6 − 10 = 11.501.
TEST(Clusters, TheRatioIsThatOfTheScanStatistic) {
    EXPECT_NEAR(cluster_z(12, 2, 1), std::sqrt(2 * 11.5011), 1e-4);
    EXPECT_NEAR(cluster_z(12, 2, 2), std::sqrt(11.5011), 1e-4);
    EXPECT_EQ(cluster_z(2, 2, 1), 0);
    EXPECT_EQ(cluster_z(1, 2, 1), 0) << "fewer than usual is no cluster";
    EXPECT_EQ(cluster_evidence(2), 0);
    EXPECT_NEAR(cluster_evidence(5), 0.8, 1e-12);
    EXPECT_EQ(cluster_evidence(40), 4);
}

RC_GTEST_PROP(Clusters, ACloudIsFoundWhereItLiesAndOnlyOnce, ()) {
    std::mt19937 random(static_cast<unsigned>(*rc::gen::inRange(1, 100000)));
    const double along = *rc::gen::inRange(8, 52), ground = *rc::gen::inRange(7, 20),
                 radius = *rc::gen::inRange(10, 25) / 10.0;
    auto grains = strewn(0.3, random);
    add_cloud(grains, along, ground, radius, 40, random);
    const auto found = grain_clusters(level_swath(), grains);
    RC_ASSERT(!found.empty());
    const auto &c = found.front();
    RC_ASSERT(c.z > 7);
    RC_ASSERT(std::hypot(c.along_m - along, c.ground_m - ground) < 0.4 * radius + 0.3);
    RC_ASSERT(c.grains >= 20);
    RC_ASSERT(c.usual < 0.4 * static_cast<double>(c.grains));
    RC_ASSERT(c.first_along_m >= along - radius - 2 && c.last_along_m <= along + radius + 2);
    for (std::size_t i = 1; i < found.size(); ++i)
        RC_ASSERT(found[i].z < 5.5);
}

RC_GTEST_PROP(Clusters, ChanceAloneMakesNoneThatCounts, ()) {
    std::mt19937 random(static_cast<unsigned>(*rc::gen::inRange(1, 100000)));
    for (const auto &c : grain_clusters(level_swath(), strewn(0.5, random)))
        RC_ASSERT(c.z < 6);
}

// Grains in heaps everywhere, as on coarse ground: the same heap says less than on even ground.
TEST(Clusters, OnGroundFullOfHeapsOneMoreSaysLittle) {
    std::mt19937 random(5);
    std::uniform_real_distribution<double> along(1, 59), ground(4, 23);
    auto even = strewn(0.3, random), heaped = even;
    add_cloud(even, 30, 12, 1, 12, random);
    add_cloud(heaped, 30, 12, 1, 12, random);
    for (int i = 0; i < 40; ++i)
        add_cloud(heaped, along(random), ground(random), 1, 12, random);
    const auto of = [](const std::vector<BrightGrain> &grains) {
        double z = 0;
        for (const auto &c : grain_clusters(level_swath(), grains))
            if (std::hypot(c.along_m - 30, c.ground_m - 12) < 1.5)
                z = std::max(z, c.z);
        return z;
    };
    EXPECT_GT(of(even), 5.5);
    EXPECT_LT(of(heaped), 0.7 * of(even));
}

TEST(Clusters, NothingSoundedHoldsNothing) {
    EXPECT_TRUE(bright_grains({}).empty());
    EXPECT_TRUE(grain_clusters({}, {}).empty());
    EXPECT_TRUE(weed_beds({}, {}).empty());
    EXPECT_TRUE(grain_clusters(level_swath(), {}).empty());
}

namespace {

std::vector<Contact> read_lane(double north_m, double from_m, double to_m) {
    std::ifstream in(HERON_LAKES "/ellemoor.json");
    auto lake = nlohmann::json::parse(in);
    lake["boat"]["route"] = {{from_m, north_m}, {to_m, north_m}};
    Scan scan;
    SoundingSettings settings;
    settings.range_m = 26;
    test::sound(scan, lake, static_cast<std::size_t>((to_m - from_m) / 1.4 * 20), settings);
    Reader reader;
    return join_contacts(reader.advance(scan, true), 0.5);
}

EastNorth place_on_lake(const Contact &c) {
    return LocalPlane({46.5, -21.25}).to_plane(c.place->place);
}

} // namespace

// The bed of milfoil on Ellemoor Water, 42 m by 24 m between 84,165 and 126,184, its stalks up to 1.1 m; the
// boat runs along its southern rim.
TEST(Clusters, TheBedOfMilfoilIsOneBedOfWeeds) {
    const auto all = read_lane(164, 60, 140);
    std::vector<const Contact *> weeds;
    for (const auto &c : all)
        if (c.large)
            weeds.push_back(&c);
    ASSERT_EQ(weeds.size(), 1u);
    const auto &bed = *weeds[0];
    EXPECT_EQ(bed.kind, Kind::weeds);
    EXPECT_GT(bed.confidence, 0.9);
    EXPECT_GT(*bed.length_m, 34);
    EXPECT_LT(*bed.length_m, 46);
    EXPECT_GT(*bed.width_m, 15);
    EXPECT_LT(*bed.width_m, 26);
    ASSERT_TRUE(bed.height_m) << "the boat ran over its rim";
    EXPECT_NEAR(bed.height_m->value, 1, 0.25);
    EXPECT_TRUE(bed.large->closed);
    EXPECT_GE(bed.large->outline().size(), 6u);
    EXPECT_NEAR(place_on_lake(bed).east_m, 105, 4);
    EXPECT_NEAR(place_on_lake(bed).north_m, 172, 5);
    EXPECT_THAT(bed.reasons, testing::Contains(testing::HasSubstr("bright grains within one rim")));
}

// Gravel and rock in a field of silt are full of grains, but brighter between them too.
TEST(Clusters, APatchOfCoarseGroundIsNoBedOfWeeds) {
    for (const auto *patch : {"gravel", "rock", "sand"}) {
        auto lake = test::basin(5, "silt");
        lake["terrain"]["features"] = {
            {{"type", "ground"}, {"ground", patch}, {"outline", {{66, 40}, {80, 38}, {82, 60}, {67, 62}}}}};
        Scan scan;
        SoundingSettings settings;
        settings.range_m = 26;
        test::sound(scan, lake, 900, settings);
        Reader reader;
        for (const auto &c : reader.advance(scan, true))
            EXPECT_NE(c.kind, Kind::weeds) << patch;
    }
}
