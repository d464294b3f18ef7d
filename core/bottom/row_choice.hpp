// Which rows go onto a chart: all, those of one band, those of one day.
#pragma once

#include "picture/scan.hpp"

#include <cstdint>
#include <optional>

namespace heron {

/// What is not said does not count.
struct RowChoice {
    std::optional<int> khz;          ///< pings of that frequency, rounded to 10 kHz
    std::optional<std::int64_t> day; ///< days since 1970-01-01, UTC

    bool all() const { return !khz && !day; }
    bool takes(const Scan &scan, std::size_t row) const {
        return (!khz || *khz == khz_of(scan, row)) && (!day || *day == day_of(scan.facts(row).time));
    }
    static int khz_of(const Scan &scan, std::size_t row);
    static std::int64_t day_of(UnixNs time);

    bool operator==(const RowChoice &) const = default;
};

} // namespace heron
