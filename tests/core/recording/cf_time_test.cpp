// Units of time as the CF conventions tell them.
#include "recording/cf_time.hpp"

#include "comma_locale.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

// Nanoseconds since 1970 of so many of a unit.
std::optional<UnixNs> moment(std::string_view units, long double value) {
    const auto unit = cf_time_unit(units);
    if (!unit)
        return std::nullopt;
    return static_cast<UnixNs>(static_cast<long double>(unit->epoch_us) * 1000 + value * unit->unit_ns);
}

} // namespace

// The first two are examples of CF-1.7, section 4.4: 6 hours behind Greenwich, and days.
TEST(CfTime, ADateATimeOfDayAndAZone) {
    EXPECT_EQ(moment("seconds since 1992-10-8 15:15:42.5 -6:00", 0), parse_rfc3339("1992-10-08T21:15:42.5Z"));
    EXPECT_EQ(moment("days since 1990-1-1 0:0:0", 1.5L), parse_rfc3339("1990-01-02T12:00:00Z"));
    const auto start = parse_rfc3339("2025-06-27T04:53:20Z");
    for (const char *units :
         {"seconds since 2025-06-27T04:53:20Z", "s since 2025-06-27 04:53:20",
          "sec since 2025-6-27 4:53:20 UTC", "Seconds since 2025-06-27 04:53:20.000 GMT",
          "seconds since 2025-06-27 06:53:20 +2", "ns since 2025-06-27T10:23:20+05:30",
          "minutes since 2025-06-26 23:23:20 -0530", "milliseconds since 2025-06-27 04:53:20   "})
        EXPECT_EQ(moment(units, 0), start) << units;
    EXPECT_EQ(moment("microseconds since 1970-01-01", 1e6L), ns_per_s);
    EXPECT_EQ(moment("hours since 1970-01-01 +1", 2), 3600 * ns_per_s);
    EXPECT_EQ(moment("nanoseconds since 1601-01-01 00:00:00Z", 13395473600e9L), start);
}

TEST(CfTime, WhatIsNoneIsRefused) {
    for (const char *none :
         {"", "seconds", "seconds since", "seconds since ", "fortnights since 1970-01-01",
          "seconds since yesterday", "seconds since 1970", "seconds since 1970-13-01",
          "seconds since 1970-01-00", "seconds since 1970-01-01 25:00", "seconds since 1970-01-01 00",
          "seconds since 1970-01-01 00:61", "seconds since 1970-01-01 00:00:00 of a kind",
          "seconds since 1970-01-01 00:00:00 +99", "seconds since -1970-01-01", "seconds since 1970--1-01"})
        EXPECT_FALSE(cf_time_unit(none)) << none;
}

TEST(CfTime, TheDesktopsDecimalCommaChangesNothing) {
    const test::CommaLocale comma;
    ASSERT_TRUE(comma.in_force());
    EXPECT_EQ(moment("seconds since 1970-01-01 00:00:01.5", 0), 3 * ns_per_s / 2);
}

// A zone moves the epoch by itself, the other way.
RC_GTEST_PROP(CfTime, AZoneMovesTheEpoch, (int seed)) {
    const int minutes = (seed % 840), hours = std::abs(minutes) / 60;
    const auto units = fmt::format("seconds since 2000-03-01 12:00:00 {}{}:{:02}", minutes < 0 ? '-' : '+',
                                   hours, std::abs(minutes) % 60);
    const auto plain = moment("seconds since 2000-03-01 12:00:00", 0);
    RC_ASSERT(moment(units, 0) == *plain - minutes * 60 * ns_per_s);
}
