// At which distances the circle bears rings.
#pragma once

#include "units/units.hpp"

#include <vector>

namespace heron {

/// Quarters of the range (common practice, no published source: at 55 ft they stand every 13.75 ft), or
/// distances that are round in the unit, three to five of them, none beyond the range.
enum class RingStyle : std::uint8_t { quarters, round };

/// In metres, growing; the range itself is the last of the quarters.
std::vector<double> rings(double range_m, RingStyle style, UnitSystem units);

} // namespace heron
