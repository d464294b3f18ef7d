// A piece of one pass seen from above, north up: shapes are true, whichever way the boat ran.
#pragma once

#include "picture/angle_levels.hpp"
#include "picture/chip.hpp"
#include "picture/row_levels.hpp"
#include "picture/scan.hpp"

#include <optional>

namespace heron {

/// One pass over or beside a place: the row that had it abeam, on which side and how far.
struct Pass {
    std::size_t row = 0;
    Side side = Side::starboard;
    double ground_m = 0;
    double heading_deg = 0;
};

/// All passes that had a place within range, in order of time; rows that are turning are passed over. A pass
/// is counted once. `end`: rows from there on are not looked at.
std::vector<Pass> passes_at(const Scan &scan, const GeoPoint &place, std::size_t end);

/// The patch around a place as one pass saw it: `size_m` square, `pixels` wide and high; 0 where it saw
/// nothing. Levels are shown through `window`, after the filters.
Chip plan_patch(const Scan &scan, const Pass &look, const GeoPoint &place, double size_m, int pixels,
                const DisplayWindow &window, const PictureFilters &filters, const AngleLevels &angles);

} // namespace heron
