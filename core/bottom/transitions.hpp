// Where hard ground meets soft, and where weeds end, as lines.
#pragma once

#include "bottom/hardness.hpp"
#include "geo/position.hpp"

#include <vector>

namespace heron {

/// Soft lies to one side of the line, hard to the other; or weeds to one side, none to the other.
struct Transition {
    enum class Of : std::uint8_t { hardness, weeds } of = Of::hardness;
    std::vector<EastNorth> line; ///< on the raster's plane, east and north of its zone, metres
    double length_m = 0;
    double strength_db =
        0; ///< by how much the hard side is louder, a metre and a half off on both sides; 0 of weeds
    bool hard_on_left = false; ///< as one goes along the line; of weeds: they are on the left
};

/// Lines of hardness 0.5 (by GDAL's contours), none shorter than twelve metres or weaker than 4.5 decibels,
/// nothing across what was not seen. Edges of weeds from six metres on.
std::vector<Transition> transitions_of(const Hardness &hardness);

} // namespace heron
