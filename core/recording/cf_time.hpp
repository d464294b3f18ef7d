// Times as the CF conventions tell them.
#pragma once

#include "recording/netcdf_file.hpp"
#include "sonar/instant.hpp"

#include <optional>
#include <string_view>
#include <vector>

namespace heron {

/// A unit of time and where it counts from: "seconds since 1970-01-01 02:00:00 +02:00".
struct CfTimeUnit {
    long double unit_ns = 1;
    std::int64_t epoch_us = 0; ///< since 1970-01-01T00:00:00Z
};

/// Nanoseconds to days, since a date that may have a time of day and a zone: Z, UTC, GMT, +2, -6:00, +0530
/// (CF-1.7, section 4.4, after UDUNITS). Nothing where it is none.
std::optional<CfTimeUnit> cf_time_unit(std::string_view units);

/// Times of an axis in its `units`; without any they count nanoseconds since 1601. An entry is empty where
/// the file holds no usable number.
Result<std::vector<std::optional<UnixNs>>> read_times(const NcVariable &axis);

} // namespace heron
