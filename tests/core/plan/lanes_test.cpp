// Lanes over an area: worked by hand, as properties, their length against GeodSolve, and how a boat does on
// them.
#include "geo/utm.hpp"
#include "plan/lanes.hpp"
#include "programs.hpp"

#include <cmath>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <numbers>
#include <rapidcheck/gtest.h>
#include <sstream>

using namespace heron;

namespace {

const std::vector<EastNorth> field{{0, 0}, {100, 0}, {100, 40}, {0, 40}};

} // namespace

// By hand: a field of 100 m by 40 m in lanes of 10 m along its longer side has four of 100 m and three half
// circles of 5 m radius.
TEST(Lanes, AFieldIsRunBackAndForthAlongItsLongerSide) {
    const auto plan = plan_lanes(field, 10);
    ASSERT_EQ(plan.lanes.size(), 4u);
    EXPECT_EQ(plan.turns, 3u);
    EXPECT_NEAR(plan.area_m2, 4000, 1e-6);
    EXPECT_NEAR(plan.run_m, 4 * 100 + 3 * std::numbers::pi * 5, 1e-6);
    EXPECT_NEAR(plan.minutes(1.5), plan.run_m / 90, 1e-9);
    for (std::size_t i = 0; i < 4; ++i) {
        EXPECT_NEAR(plan.lanes[i].length_m(), 100, 1e-6);
        EXPECT_NEAR(plan.lanes[i].bearing_deg(), i % 2 == 0 ? 90 : 270, 1e-6);
    }
    // The outer ones lie half a spacing within.
    EXPECT_NEAR(std::min(plan.lanes[0].from.north_m, plan.lanes[3].from.north_m), 5, 1e-6);
    // Across it when asked so.
    EXPECT_EQ(plan_lanes(field, 10, 0).lanes.size(), 10u);
}

TEST(Lanes, ABayPartsALaneAndAStrawIsNoArea) {
    const std::vector<EastNorth> bay{{0, 0},   {90, 0},  {90, 40}, {60, 40},
                                     {60, 12}, {30, 12}, {30, 40}, {0, 40}};
    const auto plan = plan_lanes(bay, 10, 90);
    EXPECT_GT(plan.lanes.size(), 4u);
    for (const auto &lane : plan.lanes)
        if (std::fabs(lane.from.north_m - 35) < 1) {
            EXPECT_NEAR(lane.length_m(), 30, 1e-6) << "not across the bay";
        }
    EXPECT_TRUE(plan_lanes({{0, 0}, {10, 0}}, 5).lanes.empty());
    EXPECT_TRUE(plan_lanes(field, 0).lanes.empty());
}

// The length of a lane on the globe, by GeographicLib's own program.
TEST(Lanes, TheirLengthIsGeodSolves) {
    const UtmZone zone{26, true};
    const auto at = to_utm(zone, {46.5, -27.2});
    std::vector<EastNorth> area;
    for (const auto &p : field)
        area.push_back({at.east_m + p.east_m, at.north_m + p.north_m});
    const auto lane = plan_lanes(area, 10).lanes[0];
    const auto a = from_utm(zone, lane.from.east_m, lane.from.north_m),
               b = from_utm(zone, lane.to.east_m, lane.to.north_m);
    const auto ran = test::run(fmt::format("GeodSolve -i -p 4 --input-string '{:.9f} {:.9f} {:.9f} {:.9f}'",
                                           a.latitude_deg, a.longitude_deg, b.latitude_deg, b.longitude_deg));
    ASSERT_EQ(ran.code, 0) << ran.out;
    std::istringstream words(ran.out);
    double azimuth = 0, other = 0, length = 0;
    words >> azimuth >> other >> length;
    EXPECT_NEAR(lane.length_m(), length * at.scale, 0.01);
}

TEST(Lanes, ABoatThatRunsThemIsToldWhereItIsAndWhatIsLeft) {
    LaneProgress progress(plan_lanes(field, 10, 90));
    const auto &lanes = progress.plan().lanes;
    // Two metres to the right of the first lane, thirty metres along it.
    const double b = lanes[0].bearing_deg() / degrees_per_radian;
    const EastNorth at{lanes[0].from.east_m + 30 * std::sin(b) + 2 * std::cos(b),
                       lanes[0].from.north_m + 30 * std::cos(b) - 2 * std::sin(b)};
    auto cue = progress.cue(at);
    ASSERT_TRUE(cue);
    EXPECT_EQ(cue->lane, 0u);
    EXPECT_NEAR(cue->off_m, 2, 1e-6);
    EXPECT_NEAR(cue->left_m, 70, 1e-6);
    for (double s = 0; s <= 100; s += 1)
        progress.take({lanes[0].from.east_m + s * std::sin(b), lanes[0].from.north_m + s * std::cos(b)});
    EXPECT_TRUE(progress.is_run(0));
    EXPECT_FALSE(progress.is_run(1));
    EXPECT_NEAR(progress.share_run(), 0.25, 0.02);
    cue = progress.cue(lanes[0].to);
    ASSERT_TRUE(cue);
    EXPECT_EQ(cue->lane, 1u);
}

// However an area lies, lanes stay within it, a spacing apart, and cover it.
RC_GTEST_PROP(Lanes, StayWithinTheAreaAndCoverIt, ()) {
    const double turn = *rc::gen::inRange(0, 360) / degrees_per_radian, wide = *rc::gen::inRange(20, 200),
                 high = *rc::gen::inRange(20, 200), spacing = *rc::gen::inRange(4, 15);
    std::vector<EastNorth> area;
    for (const auto &[x, y] : {std::pair{0.0, 0.0}, {wide, 0.0}, {wide, high}, {0.0, high}})
        area.push_back({x * std::cos(turn) + y * std::sin(turn), -x * std::sin(turn) + y * std::cos(turn)});
    const auto plan = plan_lanes(area, spacing);
    double length = 0;
    for (const auto &lane : plan.lanes)
        length += lane.length_m();
    RC_ASSERT(std::fabs(plan.area_m2 - wide * high) < 1e-6 * wide * high);
    // Each stands for a strip of its spacing; one more or less half a strip wide.
    RC_ASSERT(std::fabs(length * spacing - wide * high) <= 0.51 * spacing * std::max(wide, high));
}

// By hand: turning points 20 m apart on either long side, legs slanting from edge to edge.
TEST(Lanes, AZigzagRunsFromEdgeToEdge) {
    const auto plan = plan_zigzag(field, 20, 0);
    ASSERT_GE(plan.lanes.size(), 5u);
    for (std::size_t i = 0; i + 1 < plan.lanes.size(); ++i) {
        EXPECT_NEAR(plan.lanes[i].to.east_m, plan.lanes[i + 1].from.east_m, 1e-9) << "no gap at a corner";
        EXPECT_NEAR(plan.lanes[i].to.north_m, plan.lanes[i + 1].from.north_m, 1e-9);
        EXPECT_GT(plan.lanes[i].length_m(), 39);
    }
    EXPECT_NEAR(std::fabs(plan.lanes[2].from.east_m - plan.lanes[0].from.east_m), 20, 2.5);
    double length = 0;
    for (const auto &leg : plan.lanes)
        length += leg.length_m();
    EXPECT_NEAR(plan.run_m, length, 1e-6) << "a corner is turned on the spot";
}

TEST(Lanes, APassRunsAlongALineAsFarOffAsAsked) {
    const auto plan = plan_along({{0, 0}, {0, 60}, {0, 100}}, 6);
    ASSERT_FALSE(plan.lanes.empty());
    EXPECT_NEAR(plan.run_m, 100, 1);
    for (const auto &lane : plan.lanes) {
        EXPECT_NEAR(lane.from.east_m, 6, 0.05) << "right of a line that goes north is east";
        EXPECT_NEAR(lane.bearing_deg(), 0, 1);
    }
    EXPECT_NEAR(plan_along({{0, 0}, {0, 100}}, -4).lanes[1].from.east_m, -4, 0.05);
    EXPECT_TRUE(plan_along({{0, 0}}, 4).lanes.empty());
}

// By hand: a place of 8 m radius on a lane takes 16 m out of it.
TEST(Lanes, PlacesToKeepOffAreCutOut) {
    const auto plan = plan_lanes(field, 10);
    const auto off = keep_off(plan, {{{50, 5}, 8}});
    EXPECT_EQ(off.lanes.size(), plan.lanes.size() + 1);
    for (const auto &lane : off.lanes)
        for (double t = 0; t <= 1; t += 0.05) {
            const double e = lane.from.east_m + t * (lane.to.east_m - lane.from.east_m),
                         n = lane.from.north_m + t * (lane.to.north_m - lane.from.north_m);
            EXPECT_GE(std::hypot(e - 50, n - 5), 8 - 1e-6);
        }
    EXPECT_EQ(keep_off(plan, {}).lanes.size(), plan.lanes.size());
    EXPECT_NEAR(keep_off(plan, {}).run_m, plan.run_m, 1e-6);
}

RC_GTEST_PROP(Lanes, WhatIsCutNeverComesNear, ()) {
    const auto place = [] {
        return EastNorth{*rc::gen::inRange(-20, 120) * 1.0, *rc::gen::inRange(-20, 60) * 1.0};
    };
    std::vector<NoGo> places;
    for (int i = *rc::gen::inRange(0, 6); i > 0; --i)
        places.push_back({place(), *rc::gen::inRange(1, 15) * 1.0});
    for (const auto &lane : keep_off(plan_lanes(field, 10), places).lanes)
        for (double t = 0; t <= 1; t += 0.1)
            for (const auto &p : places)
                RC_ASSERT(std::hypot(lane.from.east_m + t * (lane.to.east_m - lane.from.east_m) - p.at.east_m,
                                     lane.from.north_m + t * (lane.to.north_m - lane.from.north_m) -
                                         p.at.north_m) > p.radius_m - 1e-6);
}
