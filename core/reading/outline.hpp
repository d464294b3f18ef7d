// Distances and areas over ground between points of the picture.
#pragma once

#include "reading/measure.hpp"

#include <span>

namespace heron {

struct Outline {
    Estimate length_m;   ///< along all sides, closed from three corners on; of two points their distance
    Estimate area_m2;    ///< from three corners on, else 0
    Cursor middle;       ///< the middle of the corners, as a point of the picture
    double along_m = 0;  ///< extent along the track
    double across_m = 0; ///< extent across it
};

enum class OutlineState { measured, too_few, in_the_water, no_bottom, not_straight, crossed };
/// One sentence for the guide; empty when measured.
std::string say(OutlineState state);

/// Corners in order. Measured on the run over ground along the track and the ground range across it, so
/// within one straight pass the positions' own wander does not enter; refused where the boat turned, stood or
/// ran too fast between them (`limits`), before the first return, and where sides cross. Doubt: of each
/// corner that of its ground range, and half the beam along the track.
OutlineState measure_outline(const Scan &scan, std::span<const Cursor> corners, const SteadyLimits &limits,
                             Outline &outline);

} // namespace heron
