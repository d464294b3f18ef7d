// Where hard ground meets soft, as lines.
#pragma once

#include "bottom/hardness.hpp"
#include "geo/position.hpp"

#include <vector>

namespace heron {

/// Soft lies to one side of the line, hard to the other.
struct Transition {
    std::vector<EastNorth> line; ///< on the raster's plane, east and north of its zone, metres
    double length_m = 0;
    double strength_db = 0;    ///< by how much the hard side is louder, a metre and a half off on both sides
    bool hard_on_left = false; ///< as one goes along the line
};

/// Lines of hardness 0.5 (by GDAL's contours), none shorter than twelve metres or weaker than 4.5 decibels,
/// nothing across what was not seen.
std::vector<Transition> transitions_of(const Hardness &hardness);

} // namespace heron
