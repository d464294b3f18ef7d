// One time for pings, positions and marks, stamped where pings come in.
#include "sonar/stream_clock.hpp"

#include <cmath>
#include <gtest/gtest.h>
#include <vector>

using namespace heron;

namespace {

constexpr UnixNs noon = 1'800'000'000LL * ns_per_s;

/// A sounder ten times a second and a receiver once a second, on one machine.
struct Devices {
    StreamClock clock;
    double sounder_ahead_s = 0; ///< its time of day less the receiver's
    bool counts = true;         ///< it has a counter of its own
    int pings = 0, told_set = 0;
    UnixNs last = 0;

    UnixNs true_time() const { return noon + pings * ns_per_s / 10; }
    void run(int n) {
        for (int i = 0; i < n; ++i, ++pings) {
            const auto host = 500 * ns_per_s + pings * ns_per_s / 10;
            if (pings % 10 == 0)
                clock.position(host, true_time());
            const auto own = true_time() + static_cast<UnixNs>(sounder_ahead_s * 1e9);
            const auto stamp = clock.stamp(own, counts ? 7 * ns_per_s + pings * ns_per_s / 10 : 0, host);
            told_set += stamp.was_set ? 1 : 0;
            last = stamp.time;
        }
    }
    double off_s() const { return seconds_between(noon + (pings - 1) * ns_per_s / 10, last); }
};

} // namespace

TEST(StreamClock, ASounderAMinuteOffTakesThePositionsTime) {
    Devices d;
    d.sounder_ahead_s = -60;
    d.run(200);
    EXPECT_NEAR(d.off_s(), 0, 0.02);
    ASSERT_TRUE(d.clock.difference_s());
    EXPECT_NEAR(*d.clock.difference_s(), 60, 0.05);
    EXPECT_EQ(d.told_set, 0);
}

TEST(StreamClock, LessThanTheCablesDelayIsLeftAlone) {
    Devices d;
    d.sounder_ahead_s = 0.3;
    d.run(200);
    EXPECT_NEAR(d.off_s(), 0.3, 0.02);
}

TEST(StreamClock, ASetClockIsFollowedByTheCounterAndSaidOnceAStep) {
    Devices d;
    d.run(100);
    d.sounder_ahead_s = 3600;
    d.run(300);
    EXPECT_NEAR(d.off_s(), 0, 0.02);
    EXPECT_EQ(d.told_set, 1) << "one step, said once, not with every row";
    d.sounder_ahead_s = 0;
    d.run(50);
    EXPECT_EQ(d.told_set, 2) << "set back again is another step";
}

// Two devices on one clock that gains a second in an hour, as a cheap crystal in the sun does. Each is
// stamped by itself; the receiver's time holds for both.
TEST(StreamClock, TwoDevicesOnAClockThatDriftsStayTogetherAndNeverRunBack) {
    for (const double drift : {1.0 / 3600, -1.0 / 3600}) {
        StreamClock stern, bow;
        std::vector<double> delays{0.02, 0.11}; // their cables
        UnixNs last_stern = 0, last_bow = 0;
        double apart = 0, off = 0, off_late = 0;
        for (int tick = 0; tick < 3 * 36'000; ++tick) {
            const auto truth = noon + tick * ns_per_s / 10;
            const auto host = 500 * ns_per_s + tick * ns_per_s / 10;
            const auto count = 7 * ns_per_s + static_cast<std::int64_t>(tick * (1 + drift) * 1e8);
            if (tick % 10 == 0) {
                stern.position(host, truth);
                bow.position(host, truth);
            }
            const auto own = noon + (count - 7 * ns_per_s);
            const auto at_stern =
                stern.stamp(own, count, host + static_cast<std::int64_t>(delays[0] * 1e9)).time;
            const auto at_bow = bow.stamp(own, count, host + static_cast<std::int64_t>(delays[1] * 1e9)).time;
            ASSERT_GT(at_stern, last_stern);
            ASSERT_GT(at_bow, last_bow);
            last_stern = at_stern;
            last_bow = at_bow;
            const double stern_off = std::fabs(seconds_between(truth, at_stern)),
                         bow_off = std::fabs(seconds_between(truth, at_bow));
            off = std::max({off, stern_off, bow_off});
            if (tick > 2 * 36'000) {
                off_late = std::max({off_late, stern_off, bow_off});
                apart = std::max(apart, std::fabs(seconds_between(at_stern, at_bow)));
            }
        }
        EXPECT_LT(off, 0.55) << drift << ": what is left alone, and the longer cable";
        EXPECT_LT(off_late, 0.15) << "once it has shown, all that is left is the cables";
        EXPECT_LT(apart, 0.12);
    }
}

TEST(StreamClock, WithoutACounterItsTimeOfDayServes) {
    Devices d;
    d.counts = false;
    d.run(50);
    EXPECT_NEAR(d.off_s(), 0, 0.02);
    EXPECT_EQ(d.told_set, 0);
}

TEST(StreamClock, AfterANewConnectionTheCounterMayBeginAnew) {
    Devices d;
    d.run(50);
    d.clock.restart();
    StreamClock fresh = d.clock;
    const auto stamp = fresh.stamp(noon + 90 * ns_per_s, 5, 600 * ns_per_s);
    EXPECT_EQ(stamp.time, noon + 90 * ns_per_s);
    EXPECT_FALSE(stamp.was_set);
}

TEST(StreamClock, CountersThatLeapRoundTheCenturiesNeverLeaveThem) {
    StreamClock clock;
    for (const std::int64_t counter :
         {std::int64_t{1}, std::int64_t{7'000'000'000'000'000'000}, std::int64_t{5}})
        for (const UnixNs own : {earliest_time, latest_time, UnixNs{0}})
            EXPECT_TRUE(plausible_time(clock.stamp(own, counter, 0).time)) << counter << " " << own;
}
