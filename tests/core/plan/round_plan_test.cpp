// A day's round against all sets in all orders, and as properties.
#include "plan/round_plan.hpp"

#include "plan/round.hpp"

#include <algorithm>
#include <gtest/gtest.h>
#include <numeric>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

const GeoPoint ramp{46.5, -21.25};

GeoPoint at(double east, double north) {
    return LocalPlane(ramp).to_globe({east, north});
}

std::vector<RoundStop> some_stops(int least, int most) {
    std::vector<RoundStop> stops;
    for (int i = *rc::gen::inRange(least, most); i > 0; --i)
        stops.push_back({at(*rc::gen::inRange(-900, 900), *rc::gen::inRange(-900, 900)),
                         *rc::gen::inRange(1, 100) / 100.0, false});
    return stops;
}

RoundLimits some_limits() {
    RoundLimits l;
    l.hours = *rc::gen::inRange(2, 16) / 4.0;
    l.stay_minutes = *rc::gen::inRange(5, 40);
    if (*rc::gen::arbitrary<bool>()) {
        l.fuel_l_per_h = 6;
        l.fuel_l = *rc::gen::inRange(1, 12) / 8.0;
    }
    return l;
}

} // namespace

// Every set in every order: none that fits is worth more.
RC_GTEST_PROP(RoundPlan, NoOtherSetThatFitsIsWorthMore, ()) {
    const auto stops = some_stops(1, 7);
    const auto limits = some_limits();
    const auto plan = plan_round(ramp, stops, limits);
    double best = 0;
    for (unsigned set = 1; set < 1U << stops.size(); ++set) {
        std::vector<GeoPoint> places;
        double worth = 0;
        for (std::size_t i = 0; i < stops.size(); ++i)
            if (set >> i & 1U) {
                places.push_back(stops[i].place);
                worth += stops[i].worth;
            }
        std::vector<std::size_t> order(places.size());
        std::iota(order.begin(), order.end(), 0);
        double run = 1e300;
        do
            run = std::min(run, length_of_round(ramp, places, order));
        while (std::next_permutation(order.begin(), order.end()));
        const double running_h = run / limits.run_m_s / 3600,
                     hours = running_h + static_cast<double>(places.size()) * limits.stay_minutes / 60;
        if (hours <= limits.hours && (!limits.fuel_l || running_h * limits.fuel_l_per_h <= *limits.fuel_l))
            best = std::max(best, worth);
    }
    RC_ASSERT(std::fabs(plan.worth - best) < 1e-6 || (plan.order.empty() && best == 0));
    RC_ASSERT(plan.hours <= limits.hours + 1e-9);
    RC_ASSERT(
        (!limits.fuel_l || plan.fuel_l <= *limits.fuel_l + 1e-9)); // else both sides would be worked out
    RC_ASSERT(plan.order.size() + plan.left_out == stops.size());
}

// With a wind: of all orders of the chosen stops none costs less by the stated rule, unless it would not fit.
RC_GTEST_PROP(RoundPlan, WithAWindTheOrderIsTheCheapest, ()) {
    const auto stops = some_stops(2, 7);
    RoundLimits limits;
    limits.hours = 100;
    limits.wind_from_deg = *rc::gen::inRange(0, 360);
    const auto plan = plan_round(ramp, stops, limits);
    RC_ASSERT(plan.order.size() == stops.size());
    std::vector<GeoPoint> places;
    for (const auto &s : stops)
        places.push_back(s.place);
    const double own = cost_of_round(ramp, places, plan.order, limits.wind_from_deg);
    std::vector<std::size_t> order(places.size());
    std::iota(order.begin(), order.end(), 0);
    do
        RC_ASSERT(own <= cost_of_round(ramp, places, order, limits.wind_from_deg) + 1e-6);
    while (std::next_permutation(order.begin(), order.end()));
}

TEST(RoundPlan, TheShelteredEndComesFirst) {
    // A row from south to north through the ramp; the wind comes from the north: the north is its lee.
    std::vector<RoundStop> row{
        {at(0, -300), 1, false}, {at(0, 310), 1, false}, {at(0, -150), 1, false}, {at(0, 160), 1, false}};
    RoundLimits limits;
    limits.hours = 10;
    limits.wind_from_deg = 0;
    const auto plan = plan_round(ramp, row, limits);
    ASSERT_EQ(plan.order.size(), 4u);
    EXPECT_TRUE(plan.order[0] == 1 || plan.order[0] == 3);
    EXPECT_EQ(plan.order[3], 0u) << "the far end in the wind last";
    limits.wind_from_deg = 180;
    EXPECT_EQ(plan_round(ramp, row, limits).order[3], 1u);
}

TEST(RoundPlan, WhatMustBeVisitedIsAndManyAreHeldToTheBest) {
    std::vector<RoundStop> many;
    for (int i = 0; i < 40; ++i)
        many.push_back({at(20.0 * i, 30), 0.5, false});
    many.push_back({at(-700, 0), 0.01, true});
    RoundLimits limits;
    limits.hours = 2;
    const auto plan = plan_round(ramp, many, limits);
    EXPECT_NE(std::find(plan.order.begin(), plan.order.end(), 40u), plan.order.end());
    EXPECT_GE(plan.order.size(), 4u);
    // Where it cannot be reached in time the rest is visited all the same.
    many.back().place = at(-90'000, 0);
    EXPECT_FALSE(plan_round(ramp, many, limits).order.empty());
    limits.hours = 0.01;
    EXPECT_TRUE(plan_round(ramp, many, limits).order.empty());
    EXPECT_TRUE(plan_round(ramp, {}, limits).order.empty());
}
