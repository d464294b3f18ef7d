// Where the boat ran over a ledge: a step in the depths under its own track.
#pragma once

#include "picture/scan.hpp"

#include <cstddef>
#include <vector>

namespace heron {

/// A step of the bottom under the track.
struct Drop {
    std::size_t first_row = 0, row = 0, last_row = 0; ///< where the steep part begins, its middle, its end
    double falls_m = 0;                               ///< how much deeper it is ahead; negative: shallower
    double sd_m = 0.1;                                ///< one sigma of that
    double run_m = 0;                                 ///< over which it falls, along the track
    double z = 0;                                     ///< the step over its own doubt
    double altitude_m = 0;                            ///< under the transducer, in the middle
    double trend_deg = 0;                             ///< the slope on both sides of it, along the track
};

/// Steps in the depths of the rows `first`…`end`, `run_m` being the way run at each row of the scan.
///
/// Depths are taken from the first returns of the sides (or by hand), as medians over 0.4 m of way. About
/// each place a step between two lines of one slope is fitted by least squares, the lines 4 m long and 1, 2.5
/// or 5 m apart. What counts: at least 0.35 m, five times its doubt, steeper than 10° and twice as steep as
/// the slope on both sides; of neighbours within 8 m (2.5 m where one falls and the other rises) the one that
/// stands out most, and only what passes by 3.5 times what
/// the depths about there usually do. In a turn, where the bottom was not found and within 4 m of less than
/// 0.8 m under the transducer nothing is told. The doubt takes neighbouring depths for as alike as they err.
std::vector<Drop> find_drops(const Scan &scan, const std::vector<double> &run_m, std::size_t first,
                             std::size_t end);

} // namespace heron
