// What the picture teaches about the noise of this water and this boat, so that the advice before the trip
// and the advice during it are one.
#pragma once

#include "tuning/budget.hpp"

namespace heron {

/// By how many decibels the noise must lie over the unit's own for the bottom to sink into it where it was
/// seen to: at slant range `seen_useful_m`, with `setting` over a bottom `depth_m` under the surface. 0 where
/// the sonar equation expects no more than was seen; at most 40.
double noise_from_reach(const Gear &gear, WaterState water, const Setting &setting, double depth_m,
                        double seen_useful_m);

} // namespace heron
