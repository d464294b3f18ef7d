// Times. A ping, a position and a mark carry the same kind of time: nanoseconds since 1970-01-01T00:00:00Z.
#pragma once

#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <string_view>

namespace heron {

using UnixNs = std::int64_t;

inline constexpr UnixNs ns_per_s = 1'000'000'000;
/// 1601-01-01 to 1970-01-01: 134 774 days (the epoch of SONAR-netCDF4).
inline constexpr std::int64_t seconds_1601_to_1970 = 11'644'473'600;

/// Times that a recording, a sounder or a receiver can lawfully tell: 1950 to 2200. Differences of such times
/// fit 64 bits.
inline constexpr UnixNs ns_a_year = ns_per_s * 86'400 * 365;
inline constexpr UnixNs earliest_time = -20 * ns_a_year, latest_time = 230 * ns_a_year;
constexpr bool plausible_time(UnixNs time) {
    return time >= earliest_time && time <= latest_time;
}

/// `to` − `from`, held at the ends of what 64 bits can tell (292 years).
constexpr UnixNs ns_between(UnixNs from, UnixNs to) {
    UnixNs difference = 0;
    if (__builtin_sub_overflow(to, from, &difference))
        return to > from ? std::numeric_limits<UnixNs>::max() : std::numeric_limits<UnixNs>::min();
    return difference;
}
constexpr double seconds_between(UnixNs from, UnixNs to) {
    return static_cast<double>(ns_between(from, to)) * 1e-9;
}
/// A time so much later (or earlier), held at the ends likewise.
constexpr UnixNs later(UnixNs time, UnixNs by) {
    UnixNs sum = 0;
    if (__builtin_add_overflow(time, by, &sum))
        return by > 0 ? std::numeric_limits<UnixNs>::max() : std::numeric_limits<UnixNs>::min();
    return sum;
}

/// RFC 3339 in UTC, "2026-05-14T06:12:40.250Z"; `decimals` 0…9 of the second, cut and not rounded.
std::string print_rfc3339(UnixNs time, int decimals = 3);
/// Reads RFC 3339 with "Z" or a numeric offset; nothing for text that is no such time.
std::optional<UnixNs> parse_rfc3339(std::string_view text);
/// Days from 1970-01-01 to a date of the Gregorian calendar (month 1…12, day 1…31).
std::int64_t days_from_civil(int year, unsigned month, unsigned day);

} // namespace heron
