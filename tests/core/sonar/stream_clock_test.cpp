// One time for pings, positions and marks, stamped where pings come in.
#include "sonar/stream_clock.hpp"

#include <cmath>
#include <gtest/gtest.h>

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
