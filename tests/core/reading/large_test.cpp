#include "reading/large.hpp"

#include "lake.hpp"
#include "reading/reader.hpp"
#include "recording/recording.hpp"

#include <cmath>
#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

std::vector<Contact> read_lake(const nlohmann::json &lake, std::size_t rows) {
    Scan scan;
    SoundingSettings settings;
    settings.range_m = 26;
    test::sound(scan, lake, rows, settings);
    Reader reader;
    return join_contacts(reader.advance(scan, true), 0.5);
}

EastNorth on_lake(const Contact &c) {
    return LocalPlane({46.5, -21.25}).to_plane(c.place->place);
}

std::vector<const Contact *> within(const std::vector<Contact> &all, double east, double north,
                                    double reach) {
    std::vector<const Contact *> found;
    for (const auto &c : all)
        if (c.place && std::hypot(on_lake(c).east_m - east, on_lake(c).north_m - north) < reach)
            found.push_back(&c);
    return found;
}

} // namespace

// The first lane over Ellemoor Water, from the western shore past the mill: each large thing is told once, as
// what it is.
TEST(Large, OnTheDemoLakeWallHeapAndMillAreOneEach) {
    std::ifstream in(HERON_LAKES "/ellemoor.json");
    const auto lake = nlohmann::json::parse(in);
    const auto all = read_lake(lake, 2700);

    // The long field wall, 62,103 to 118,88 and a little on: one line.
    const auto wall = within(all, 91, 94, 12);
    std::vector<const Contact *> large;
    std::copy_if(wall.begin(), wall.end(), std::back_inserter(large),
                 [](const Contact *c) { return c->large.has_value(); });
    ASSERT_EQ(large.size(), 1u);
    EXPECT_EQ(large[0]->kind, Kind::built);
    EXPECT_GT(*large[0]->length_m, 46)
        << "of 58 m along this lane; the western end lies at the edge of the range";
    EXPECT_LT(*large[0]->length_m, 62);
    ASSERT_TRUE(large[0]->height_m);
    EXPECT_NEAR(large[0]->height_m->value, 1.15, 2 * large[0]->height_m->sd);
    EXPECT_FALSE(large[0]->large->closed);
    EXPECT_GE(large[0]->large->outline().size(), 10u);
    // Its middle lies on it: between 62,103 and 92,93 and 118,88.
    EXPECT_NEAR(on_lake(*large[0]).north_m, 93, 2.5);

    // The slate tip, a heap of 260 stones 18 m across.
    const auto tip = within(all, 152, 97, 9);
    ASSERT_EQ(tip.size(), 1u);
    EXPECT_EQ(tip[0]->kind, Kind::rock_pile);
    EXPECT_GT(*tip[0]->length_m, 11);
    EXPECT_LT(*tip[0]->length_m, 20);
    EXPECT_NEAR(tip[0]->height_m->value, 1.1, 0.35);

    // The mill's footing, a square of walls 9 m wide and a metre tall: built beyond doubt.
    const auto mill = within(all, 193.5, 65.5, 5);
    const auto built =
        std::count_if(mill.begin(), mill.end(), [](const Contact *c) { return c->kind == Kind::built; });
    ASSERT_EQ(built, 1);
    const auto &footing =
        **std::find_if(mill.begin(), mill.end(), [](const Contact *c) { return c->kind == Kind::built; });
    EXPECT_GT(footing.confidence, 0.97);
    EXPECT_TRUE(footing.large && footing.large->closed);
    EXPECT_NEAR(*footing.length_m, 9.2, 2);
    EXPECT_NEAR(*footing.width_m, 9.2, 2);
    EXPECT_NEAR(footing.height_m->value, 1.0, 0.15);
    EXPECT_THAT(footing.reasons, testing::Contains(testing::HasSubstr("corners")));

    // The weir's sill runs away from the boat: no shadow aside, but one built thing all the same.
    const auto sill = within(all, 179, 65, 11);
    EXPECT_EQ(std::count_if(sill.begin(), sill.end(),
                            [](const Contact *c) { return c->kind == Kind::built && !c->large; }),
              1);

    // Five hundred fry at 128,66, 2.4 m over the bottom, a cloud of some four metres. How high they swim does
    // not show: they are put where the bottom is as far.
    const auto fry = within(all, 128, 66, 3);
    ASSERT_EQ(fry.size(), 1u);
    EXPECT_TRUE(fry[0]->loose()) << name_of(fry[0]->kind);
    EXPECT_GT(*fry[0]->length_m, 2.5);
    EXPECT_LT(*fry[0]->length_m, 6.5);
    ASSERT_TRUE(fry[0]->cluster);
    EXPECT_GT(fry[0]->cluster->z, 7);
    EXPECT_THAT(fry[0]->reasons, testing::Contains(testing::HasSubstr("bright grains within")));

    // And no other: stumps, boulder, trees and trunk are none.
    EXPECT_EQ(std::count_if(all.begin(), all.end(), [](const Contact &c) { return c.large.has_value(); }), 3);
}

TEST(Large, EmptyGroundOfAnySortHoldsNone) {
    for (const auto *ground : {"silt", "sand", "gravel", "rock"}) {
        auto lake = test::basin(5, ground);
        lake["terrain"]["undulation_m"] = 0.15;
        Scan scan;
        SoundingSettings settings;
        settings.range_m = 26;
        test::sound(scan, lake, 800, settings);
        Reader reader;
        for (const auto &c : reader.advance(scan, true))
            EXPECT_FALSE(c.large) << ground << " " << name_of(c.kind) << " " << *c.length_m;
    }
}

namespace {

// Runs along a line that leaves the track by so many degrees.
std::vector<ShadowRun> runs_along(double length_m, double turned_deg, double height_m, double jitter_m,
                                  unsigned seed) {
    std::mt19937 random(seed);
    std::normal_distribution<double> off(0, jitter_m);
    std::vector<ShadowRun> runs;
    const double turn = turned_deg / degrees_per_radian;
    for (double x = 0; x < length_m * std::cos(turn); x += large_step_m) {
        ShadowRun r;
        r.line = static_cast<std::size_t>(x / 0.1);
        r.along_m = x;
        r.ground_m = 12 + x * std::tan(turn) + off(random);
        r.height_m = height_m;
        r.bright_db = 20;
        runs.push_back(r);
    }
    return runs;
}

Swath even_swath() {
    Swath s;
    s.spacing_m = 0.1;
    return s;
}

} // namespace

RC_GTEST_PROP(Large, AStraightRunOfShadowsIsOneWallAsLongAsItIs, ()) {
    const double length = *rc::gen::inRange(8, 40), turned = *rc::gen::inRange(0, 35),
                 height = *rc::gen::inRange(5, 20) / 10.0;
    const auto runs =
        runs_along(length, turned, height, 0.1, static_cast<unsigned>(*rc::gen::inRange(1, 1000)));
    const auto found = large_things(even_swath(), runs);
    RC_ASSERT(found.size() == 1);
    RC_ASSERT(found[0].kind == Kind::built);
    RC_ASSERT(std::fabs(found[0].length_m - length) < 1.2);
    RC_ASSERT(std::fabs(found[0].height_m.value - height) < 1e-9);
    RC_ASSERT(large_things(even_swath(), runs_along(5, turned, height, 0.1, 3)).empty());
}

// Stalks under the boat reach over the first return: a cloud within the bed is the bed, one high over it is
// not.
TEST(Large, TopsOfWeedsUnderTheBoatAreNoCloud) {
    Contact bed;
    bed.kind = Kind::weeds;
    bed.large = Large{};
    bed.first_row = 100;
    bed.last_row = 400;
    bed.bottom.altitude_m = 4;
    bed.slant_m = 4.2;
    bed.height_m = Estimate{1, 0.2};
    Contact cloud;
    cloud.zone = Zone::water;
    cloud.kind = Kind::bait_ball;
    cloud.family = Family::fish;
    cloud.row = 200;
    cloud.slant_m = 3.1;
    EXPECT_TRUE(part_of_large(cloud, bed));
    cloud.slant_m = 2.2;
    EXPECT_FALSE(part_of_large(cloud, bed)) << "it swims over the bed";
    cloud.slant_m = 3.1;
    cloud.row = 500;
    EXPECT_FALSE(part_of_large(cloud, bed)) << "beyond it";
    cloud.row = 200;
    cloud.kind = Kind::fish;
    EXPECT_FALSE(part_of_large(cloud, bed)) << "one fish alone may stand in weeds";
    bed.slant_m = 9;
    cloud.kind = Kind::bait_ball;
    EXPECT_FALSE(part_of_large(cloud, bed)) << "the bed lies aside of the boat";
}

// Dark behind nothing bright: the ground falls away, as on the ledge of the sample of another making.
TEST(Large, ADarkStripWithoutABrightEdgeIsALedge) {
    auto runs = runs_along(14, 20, 0.9, 0.1, 3);
    for (auto &r : runs)
        r.bright_db = 5;
    const auto found = large_things(even_swath(), runs);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].kind, Kind::ledge);
}

// That sample in stretches of any length, the short ones of a live picture too: its ledge is no wall.
TEST(Large, TheLedgeOfTheSampleIsNoWall) {
    for (const double block : {20.0, 60.0, 120.0}) {
        auto recording = read_recording(HERON_SAMPLES "/quarry-pool.nc");
        ASSERT_TRUE(recording);
        Scan scan;
        scan.nav = recording->head.nav;
        scan.installation = recording->head.installation;
        for (auto &p : recording->pings)
            scan.push({std::move(p), std::nullopt, {}});
        ReaderSettings settings;
        settings.block_m = block;
        Reader reader(KindModel::shipped(), settings);
        for (const auto &c : join_contacts(reader.advance(scan, true), 0.5))
            EXPECT_FALSE(c.large && c.kind != Kind::ledge)
                << block << " m: " << name_of(c.kind) << " at row " << c.row;
    }
}

TEST(Large, ShadowsOfAllHeightsAlongALineAreNoWall) {
    auto runs = runs_along(20, 10, 1, 0.1, 7);
    for (std::size_t i = 0; i < runs.size(); ++i)
        runs[i].height_m = i % 3 == 0 ? 0.4 : i % 3 == 1 ? 1.1 : 2.2;
    EXPECT_TRUE(large_things(even_swath(), runs).empty());
}

namespace {

Contact stretch_of_wall(double east0, double north0, double east1, double north1, double height) {
    Contact c;
    c.kind = Kind::built;
    c.chances = {};
    c.chances[static_cast<std::size_t>(Kind::built)] = 0.9;
    c.chances[static_cast<std::size_t>(Kind::none)] = 0.1;
    settle_kind(c);
    c.height_m = Estimate{height, 0.1};
    const LocalPlane plane({46.5, -21.25});
    Large l;
    for (int i = 0; i <= 30; ++i)
        l.edge.push_back(
            {plane.to_globe({east0 + (east1 - east0) * i / 30, north0 + (north1 - north0) * i / 30}), {}});
    l.rays = 31;
    c.large = l;
    c.place = LocatedPoint{plane.to_globe({(east0 + east1) / 2, (north0 + north1) / 2}), {}};
    return c;
}

} // namespace

TEST(Large, StretchesOfOneWallAreJoinedInAnyOrder) {
    std::vector<Contact> parts{stretch_of_wall(0, 0, 20, 1, 1.0), stretch_of_wall(22, 1, 40, 3, 1.2),
                               stretch_of_wall(41, 3, 60, 6, 1.1), stretch_of_wall(0, 30, 20, 30, 1.0)};
    std::mt19937 random(4);
    for (int i = 0; i < 6; ++i) {
        std::shuffle(parts.begin(), parts.end(), random);
        auto all = parts;
        join_large(all);
        ASSERT_EQ(all.size(), 2u) << "the one thirty metres off is another";
        const auto &longer = all[0].length_m.value_or(0) > all[1].length_m.value_or(0) ? all[0] : all[1];
        EXPECT_NEAR(longer.length_m.value_or(0), 60.3, 0.5);
        EXPECT_NEAR(longer.height_m->value, 1.1, 0.02);
        const auto at = on_lake(longer);
        EXPECT_NEAR(at.east_m, 30, 1.5);
    }
}

// What is said of a wall and taken back again leaves it as it was.
TEST(Large, KeepsItsOwnChancesWhateverIsSaid) {
    auto wall = stretch_of_wall(0, 0, 20, 1, 1.0);
    wall.large->chances = wall.chances;
    const auto before = wall.chances;
    wall.chances.fill(0);
    wall.chances[static_cast<std::size_t>(Kind::rock_pile)] = 1;
    EXPECT_EQ(wall.chances_by(KindModel::shipped()), before);
}

TEST(Large, WallsThatMeetAtCornersAreOneCourt) {
    std::vector<Contact> walls{stretch_of_wall(0, 0, 9, 0, 1), stretch_of_wall(9, 0, 9, 8, 1),
                               stretch_of_wall(0, 8, 9, 8, 1)};
    join_large(walls);
    ASSERT_EQ(walls.size(), 1u);
    EXPECT_TRUE(walls[0].large->closed);
    EXPECT_NEAR(on_lake(walls[0]).east_m, 4.5, 0.3);
    EXPECT_NEAR(on_lake(walls[0]).north_m, 4, 0.3);
    EXPECT_GT(walls[0].confidence, 0.98);
}

TEST(Large, LedgesThatFaceEachOtherEncloseNothing) {
    std::vector<Contact> ledges{stretch_of_wall(0, 0, 9, 0, 1), stretch_of_wall(9, 0, 9, 8, 1),
                                stretch_of_wall(0, 8, 9, 8, 1)};
    for (auto &l : ledges)
        l.kind = Kind::ledge;
    join_large(ledges);
    EXPECT_EQ(ledges.size(), 3u);
}

TEST(Large, WhatLiesAtAWallIsAPartOfItButNoFish) {
    const auto wall = stretch_of_wall(0, 0, 20, 0, 1);
    Contact stone;
    stone.kind = Kind::boulder;
    stone.family = Family::structure;
    const LocalPlane plane({46.5, -21.25});
    stone.place = LocatedPoint{plane.to_globe({10, 1}), {}};
    EXPECT_TRUE(part_of_large(stone, wall));
    stone.place->place = plane.to_globe({10, 4});
    EXPECT_FALSE(part_of_large(stone, wall));
    stone.place->place = plane.to_globe({10, 1});
    stone.family = Family::fish;
    EXPECT_FALSE(part_of_large(stone, wall));
    stone.family = Family::structure;
    stone.said = Kind::boulder;
    EXPECT_FALSE(part_of_large(stone, wall)) << "the guide's word stands";
}
