// The track in stretches: where the boat ran straight, and where it turned or stood.
#pragma once

#include "picture/scan.hpp"

namespace heron {

struct Stretch {
    UnixNs from = 0, to = 0;
    bool straight = true; ///< neither turning nor standing
    double speed_m_s = 0; ///< median; 0 where unknown
    double depth_m = 0;   ///< of the water under the boat, median; 0 where unknown
    std::size_t first_row = 0, last_row = 0;
    std::vector<GeoPoint> line; ///< of the antenna, a point a second and the ends; empty without positions
};

/// The stretches of the rows [first, end). One that is shorter than two seconds joins its neighbour.
std::vector<Stretch> stretches(const Scan &scan, std::size_t first, std::size_t end);

} // namespace heron
