#include "sonar/nav_track.hpp"

#include <cmath>
#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

// A boat that runs straight at `speed` along `bearing` from 46.5 N, a fix five times a second.
NavTrack straight_run(double bearing, double speed, double seconds) {
    NavTrack track;
    for (double t = 0; t <= seconds; t += 0.2) {
        PositionSample p;
        p.time = static_cast<UnixNs>(t * 1e9);
        p.place = point_along({46.5, -21.25}, bearing, speed * t);
        track.add(p);
    }
    return track;
}

UnixNs at(double seconds) {
    return static_cast<UnixNs>(seconds * 1e9);
}

} // namespace

TEST(NavTrack, InterpolatesAndHoldsForTwoSeconds) {
    const auto track = straight_run(60, 1.5, 10);
    const auto p = track.position_at(at(3.1));
    ASSERT_TRUE(p);
    EXPECT_NEAR(leg_between({46.5, -21.25}, p->place).distance_m, 1.5 * 3.1, 1e-3);
    EXPECT_TRUE(track.position_at(at(-1.9)));
    EXPECT_FALSE(track.position_at(at(-2.1)));
    EXPECT_TRUE(track.position_at(at(11.9)));
    EXPECT_FALSE(track.position_at(at(12.1)));
}

TEST(NavTrack, HeadingsGoTheShorterWayRound) {
    NavTrack track;
    AttitudeSample a;
    a.heading_deg = 358;
    track.add(a);
    a.time = at(1);
    a.heading_deg = 4;
    track.add(a);
    EXPECT_NEAR(wrap_180(track.attitude_at(at(0.5))->heading_deg - 1), 0, 1e-9);
}

TEST(NavTrack, WithoutACompassTheCourseServesWhereItIsStraight) {
    auto track = straight_run(60, 1.3, 10);
    const auto fix = track.fix_at(at(5));
    ASSERT_TRUE(fix);
    EXPECT_EQ(fix->heading_source, HeadingSource::course_over_ground);
    EXPECT_NEAR(fix->pose.heading_deg, 60, 0.1);
    EXPECT_NEAR(fix->pose.heading_sd_deg, 13, 0.1);        // atan(0.3 / 1.3)
    EXPECT_FALSE(straight_run(60, 0.2, 10).fix_at(at(5))); // drifting: no course
}

TEST(NavTrack, NothingIsInventedInAGap) {
    NavTrack track;
    PositionSample p;
    p.place = {46.5, -21.25};
    track.add(p);
    p.time = at(2.5);
    track.add(p);
    EXPECT_FALSE(track.position_at(at(1)));
    EXPECT_TRUE(track.position_at(at(2.6)));
}

RC_GTEST_PROP(NavTrack, OrderOfArrivalDoesNotMatter, ()) {
    auto times = *rc::gen::unique<std::vector<int>>(rc::gen::inRange(0, 50));
    NavTrack in_order, shuffled;
    const auto put = [](NavTrack &t, int i) {
        PositionSample p;
        p.time = at(i * 0.5);
        p.place = {46.5 + i * 1e-5, -21.25};
        t.add(p);
    };
    for (const int i : times)
        put(shuffled, i);
    std::sort(times.begin(), times.end());
    for (const int i : times)
        put(in_order, i);
    for (double t = 0; t < 25; t += 0.3) {
        const auto a = in_order.position_at(at(t)), b = shuffled.position_at(at(t));
        RC_ASSERT(a.has_value() == b.has_value());
        if (a)
            RC_ASSERT(a->place.latitude_deg == b->place.latitude_deg);
    }
}

TEST(NavFaults, ABoatAtRestIsNotFrozen) {
    std::vector<PositionSample> samples(100);
    for (std::size_t i = 0; i < samples.size(); ++i) {
        samples[i].time = at(0.2 * static_cast<double>(i));
        samples[i].place = {46.5, -21.25};
        samples[i].speed_m_s = 0;
    }
    std::vector<std::string> warnings;
    clean_positions(samples, warnings);
    EXPECT_EQ(samples.size(), 100u);
    EXPECT_TRUE(warnings.empty());
}

TEST(NavFaults, ALeapAndItsReturnLoseOnlyTheStretchBetween) {
    auto samples = straight_run(0, 1.5, 20).positions();
    for (std::size_t i = 40; i < 50; ++i)
        samples[i].place.longitude_deg += 0.004; // some 300 m
    std::vector<std::string> warnings;
    clean_positions(samples, warnings);
    EXPECT_EQ(samples.size(), 91u);
    ASSERT_EQ(warnings.size(), 1u);
    NavTrack track;
    for (const auto &s : samples)
        track.add(s);
    EXPECT_FALSE(track.position_at(at(9)));
    EXPECT_TRUE(track.position_at(at(10.1)));
}

TEST(Instant, DifferencesAreHeldAtTheEndsOfTime) {
    constexpr auto first = std::numeric_limits<UnixNs>::min(), last = std::numeric_limits<UnixNs>::max();
    EXPECT_EQ(ns_between(first, last), last);
    EXPECT_EQ(ns_between(last, first), first);
    EXPECT_EQ(ns_between(5, 3), -2);
    EXPECT_EQ(later(last, 1), last);
    EXPECT_EQ(later(first, -1), first);
    EXPECT_NEAR(seconds_between(first, last), 9.22e9, 1e7);
    EXPECT_FALSE(plausible_time(first));
    EXPECT_TRUE(plausible_time(0));
    EXPECT_TRUE(plausible_time(*parse_rfc3339("2026-05-14T06:12:40Z")));
}

TEST(NavTrack, TheEndsOfTimeAreAskedWithoutHarm) {
    NavTrack nav;
    for (int i = 0; i < 5; ++i)
        nav.add(PositionSample{i * ns_per_s, {46.5, -21.25 + i * 1e-5}, 1, 1, false});
    nav.add(DepthSample{0, 4, {}});
    nav.add_speed(0, 1);
    for (const auto t : {std::numeric_limits<UnixNs>::min(), std::numeric_limits<UnixNs>::max()}) {
        EXPECT_FALSE(nav.fix_at(t));
        EXPECT_FALSE(nav.course_at(t));
        EXPECT_FALSE(nav.depth_at(t));
        EXPECT_FALSE(nav.speed_at(t));
    }
}

RC_GTEST_PROP(NavTrack, ManyAtOnceAreAsOneByOne, (const std::vector<std::int32_t> &times)) {
    NavSamples samples;
    NavTrack one_by_one, at_once;
    for (const auto t : times) {
        samples.speeds.push_back({t, static_cast<double>(samples.speeds.size())});
        one_by_one.add_speed(t, samples.speeds.back().m_s);
    }
    at_once.add(samples);
    RC_ASSERT(at_once.speeds().size() == one_by_one.speeds().size());
    for (std::size_t i = 0; i < times.size(); ++i)
        RC_ASSERT(at_once.speeds()[i].time == one_by_one.speeds()[i].time &&
                  at_once.speeds()[i].m_s == one_by_one.speeds()[i].m_s);
}

TEST(Instant, Rfc3339ThereAndBack) {
    for (const char *text :
         {"2026-05-14T06:12:40.250Z", "1999-12-31T23:59:59.999Z", "2100-02-28T00:00:00.000Z"})
        EXPECT_EQ(print_rfc3339(*parse_rfc3339(text)), text);
    EXPECT_EQ(*parse_rfc3339("2026-05-14T08:12:40+02:00"), *parse_rfc3339("2026-05-14T06:12:40Z"));
    EXPECT_EQ(print_rfc3339(-1, 3), "1969-12-31T23:59:59.999Z");
    for (const char *bad : {"", "2026-05-14", "2026-02-30T00:00:00Z", "2026-05-14T25:00:00Z",
                            "2026-05-14T06:12:40", "2026-05-14T06:12:40Zx"})
        EXPECT_FALSE(parse_rfc3339(bad)) << bad;
}

// A heading that never changes on a straight lane is a good one, however the positions wander about it.
TEST(NavFaults, AConstantHeadingAlongAStraightTrackIsKept) {
    std::mt19937 random(5);
    std::normal_distribution<double> wander(0, 0.25);
    NavTrack track;
    std::vector<AttitudeSample> samples;
    const LocalPlane plane({46.5, -21.25});
    for (int i = 0; i < 600; ++i) {
        const auto t = static_cast<UnixNs>(i) * ns_per_s / 5;
        track.add(PositionSample{t, plane.to_globe({wander(random), 0.8 * i / 5.0 + wander(random)}), 1, -1,
                                 false});
        samples.push_back({t, 0, 0, 0, false});
    }
    std::vector<std::string> warnings;
    compare_with_track(samples, track, warnings);
    EXPECT_EQ(samples.size(), 600u);
    EXPECT_TRUE(warnings.empty()) << warnings.front();
}
