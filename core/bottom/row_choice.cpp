#include "bottom/row_choice.hpp"

#include <cmath>

namespace heron {

int RowChoice::khz_of(const Scan &scan, std::size_t row) {
    constexpr double step_hz = 10e3, most_khz = 1e6;
    const double khz = 10 * std::round(scan.ping(row).frequency_hz / step_hz);
    return khz > 0 && khz < most_khz ? static_cast<int>(khz) : 0;
}

std::int64_t RowChoice::day_of(UnixNs time) {
    constexpr std::int64_t a_day = 86400 * ns_per_s;
    return time >= 0 ? time / a_day : -((a_day - 1 - time) / a_day);
}

} // namespace heron
