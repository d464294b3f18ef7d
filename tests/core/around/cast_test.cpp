// From the seats of a boat to a thing: worked by hand, and as properties.
#include "around/cast.hpp"
#include "geo/position.hpp"

#include <cmath>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using namespace heron;
using testing::ElementsAre;
using testing::HasSubstr;

namespace {

// The head hangs at the very tip, so that "behind the bow" is "behind the head".
OwnBoat skiff() {
    OwnBoat b;
    b.length_m = 6;
    b.beam_m = 2;
    b.seats = {{"bow", {0.8, 0}, 16, Hand::right}, {"stern", {5.2, 0}, 12, Hand::right}};
    return b;
}

FromHead any_spot() {
    const auto whole = [] { return *rc::gen::inRange(-4000, 4000) / 100.0; };
    return {whole(), whole()};
}

} // namespace

// Worked by hand: a thing 5.2 m aft and 11 m to the left of a head at the bow is √(5.2² + 11²) = 12.167 m
// off, 180° + atan(11/5.2) = 244.7° clockwise off the bow; from a seat 5.2 m aft it is straight abeam.
TEST(Cast, StraightAbeamOfTheSternIsFarBehindOnTheCircle) {
    const FromHead thing{-5.2, -11};
    const auto seen = polar_of(thing);
    EXPECT_NEAR(seen.distance_m, 12.167, 0.001);
    EXPECT_NEAR(wrap_360(seen.off_bow_deg), 244.7, 0.05);
    const auto cast = cast_from(skiff(), skiff().seats[1], thing, 0.4);
    EXPECT_NEAR(cast.distance_m, 11, 1e-9);
    EXPECT_NEAR(cast.off_bow.degrees, -90, 1e-9);
    EXPECT_EQ(cast.off_bow.clock(), "9:00");
    EXPECT_NEAR(cast.spare_m, 1, 1e-9);
    EXPECT_TRUE(cast.in_reach());
    EXPECT_FALSE(cast.come_up_m);
    EXPECT_DOUBLE_EQ(cast.sd_m, 0.4);
}

// A clock's face: thirty degrees an hour.
TEST(Cast, TheClockIsToTheQuarterHour) {
    for (const auto &[degrees, clock] : std::vector<std::pair<double, std::string>>{{0, "12:00"},
                                                                                    {3.7, "12:00"},
                                                                                    {3.8, "12:15"},
                                                                                    {46, "1:30"},
                                                                                    {38, "1:15"},
                                                                                    {33, "1:00"},
                                                                                    {90, "3:00"},
                                                                                    {-90, "9:00"},
                                                                                    {180, "6:00"},
                                                                                    {-180, "6:00"},
                                                                                    {-3.7, "12:00"},
                                                                                    {-3.8, "11:45"}})
        EXPECT_EQ(OffBow{degrees}.clock(), clock) << degrees;
}

TEST(Cast, OutOfReachTellsHowFarToComeUp) {
    const auto boat = skiff();
    // 3 m beyond the stern's reach straight ahead of it.
    const auto cast = cast_from(boat, boat.seats[1], {9.8, 0});
    EXPECT_NEAR(cast.spare_m, -3, 1e-9);
    ASSERT_TRUE(cast.come_up_m);
    EXPECT_NEAR(*cast.come_up_m, 3, 1e-9);
    // Too far aside: going ahead never brings it in reach. Behind: neither.
    EXPECT_FALSE(cast_from(boat, boat.seats[1], {9, 20}).come_up_m);
    EXPECT_FALSE(cast_from(boat, boat.seats[1], {-40, 1}).come_up_m);
}

TEST(Cast, WhatTheLineCrossesIsNamedNearestFirst) {
    const auto boat = skiff();
    const FromHead thing{10, 0};
    const std::vector<InTheWay> ways{{"far snag", {7, 0.6}, 0.5},   {"wall", {3, -1.2}, 0.5},
                                     {"the thing", {10.2, 0}, 0.6}, {"aside", {5, 3}, 0.5},
                                     {"beyond", {14, 0}, 0.5},      {"behind", {-3, 0}, 0.5}};
    EXPECT_THAT(cast_from(boat, boat.seats[0], thing, 0, ways).past, ElementsAre("wall", "far snag"));
}

TEST(Cast, TheLeadIsWhereTheFishWillBe) {
    const auto at = lead({10, 2}, {-0.5, 0.25}, 1.5, 2.5);
    EXPECT_NEAR(at.ahead_m, 8, 1e-9);
    EXPECT_NEAR(at.right_m, 3, 1e-9);
}

// Whatever the seat, going from the head to it and by the cast on ends at the thing.
RC_GTEST_PROP(Cast, SeatAndCastLeadToTheThing, ()) {
    auto boat = skiff();
    boat.head = {*rc::gen::inRange(0, 300) / 100.0, *rc::gen::inRange(-50, 50) / 100.0};
    Seat seat{
        "any", {*rc::gen::inRange(0, 600) / 100.0, *rc::gen::inRange(-100, 100) / 100.0}, 12, Hand::left};
    const auto thing = any_spot();
    const auto cast = cast_from(boat, seat, thing);
    const auto from = from_head(boat, seat.at), way = of_polar({cast.off_bow.degrees, cast.distance_m});
    RC_ASSERT(std::fabs(from.ahead_m + way.ahead_m - thing.ahead_m) < 1e-9);
    RC_ASSERT(std::fabs(from.right_m + way.right_m - thing.right_m) < 1e-9);
    if (cast.come_up_m) {
        // Come up so far, and it lies at the end of the reach.
        const auto after = cast_from(boat, seat, {thing.ahead_m - *cast.come_up_m, thing.right_m});
        RC_ASSERT(std::fabs(after.spare_m) < 1e-6);
    }
}

RC_GTEST_PROP(Cast, PolarAndBack, ()) {
    const auto spot = any_spot();
    const auto back = of_polar(polar_of(spot));
    RC_ASSERT(std::hypot(back.ahead_m - spot.ahead_m, back.right_m - spot.right_m) < 1e-9);
}

TEST(OwnBoat, AllOfItIsKept) {
    auto b = usual_boat();
    b.seats[1].hand = Hand::left;
    b.name = "Grey skiff";
    const auto back = boats_from_json(boats_to_json({b, usual_boat()}));
    ASSERT_TRUE(back) << back.error().line();
    EXPECT_THAT(*back, ElementsAre(b, usual_boat()));
}

TEST(OwnBoat, WhatCannotBeIsRefusedInWords) {
    auto b = usual_boat();
    b.length_m = 90;
    EXPECT_THAT(boats_from_json(boats_to_json({b})).error().line(), HasSubstr("no boat is 90 m long"));
    b = usual_boat();
    b.seats[2].at.behind_bow_m = 40;
    EXPECT_THAT(boats_from_json(boats_to_json({b})).error().line(), HasSubstr("seat Stern"));
    b = usual_boat();
    b.seats.resize(7, b.seats[0]);
    EXPECT_THAT(boats_from_json(boats_to_json({b})).error().line(), HasSubstr("more than 6 seats"));
    for (const char *text : {"", "[", "{}", "[{}]", "[[]]", R"([{"name":1}])"})
        EXPECT_FALSE(boats_from_json(text)) << text;
}

TEST(OwnBoat, ItsOutlineIsAHull) {
    const auto b = usual_boat();
    const auto hull = b.outline();
    double widest = 0, longest = 0, area = 0;
    for (std::size_t i = 0; i < hull.size(); ++i) {
        const auto &p = hull[i], &q = hull[(i + 1) % hull.size()];
        widest = std::max(widest, 2 * p.right_m);
        longest = std::max(longest, p.behind_bow_m);
        area += p.behind_bow_m * q.right_m - q.behind_bow_m * p.right_m;
    }
    EXPECT_NEAR(widest, b.beam_m, 1e-9);
    EXPECT_NEAR(longest, b.length_m, 1e-9);
    EXPECT_GT(std::fabs(area) / 2, 0.7 * b.length_m * b.beam_m);
    EXPECT_LT(std::fabs(area) / 2, b.length_m * b.beam_m);
    for (const auto &s : b.seats)
        EXPECT_LT(std::fabs(s.at.right_m), b.beam_m / 2);
}

// Two seats in line with the keel: who casts from the stern straight ahead casts over the bow, who casts
// abeam over nobody; the bow never casts over the stern when it casts ahead.
TEST(Cast, ALineOverAnotherSeatIsTold) {
    const auto boat = skiff();
    EXPECT_THAT(cast_from(boat, boat.seats[1], {12, 0}).over, ElementsAre(0));
    EXPECT_THAT(cast_from(boat, boat.seats[1], {-5.2, 9}).over, ElementsAre());
    EXPECT_THAT(cast_from(boat, boat.seats[0], {12, 0}).over, ElementsAre());
    EXPECT_THAT(cast_from(boat, boat.seats[0], {-14, 0}).over, ElementsAre(1));
    // What lies between the two seats is cast at over nobody.
    EXPECT_THAT(cast_from(boat, boat.seats[1], {-3, 0}).over, ElementsAre());
}
