// Times. A ping, a position and a mark carry the same kind of time: nanoseconds since 1970-01-01T00:00:00Z.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace heron {

using UnixNs = std::int64_t;

inline constexpr UnixNs ns_per_s = 1'000'000'000;
/// 1601-01-01 to 1970-01-01: 134 774 days (the epoch of SONAR-netCDF4).
inline constexpr std::int64_t seconds_1601_to_1970 = 11'644'473'600;

constexpr double seconds_between(UnixNs from, UnixNs to) {
    return static_cast<double>(to - from) * 1e-9;
}

/// RFC 3339 in UTC, "2026-05-14T06:12:40.250Z"; `decimals` 0…9 of the second, cut and not rounded.
std::string print_rfc3339(UnixNs time, int decimals = 3);
/// Reads RFC 3339 with "Z" or a numeric offset; nothing for text that is no such time.
std::optional<UnixNs> parse_rfc3339(std::string_view text);
/// Days from 1970-01-01 to a date of the Gregorian calendar (month 1…12, day 1…31).
std::int64_t days_from_civil(int year, unsigned month, unsigned day);

} // namespace heron
