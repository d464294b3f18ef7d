// What an offset on a boat can be, wherever one is told from outside.
#pragma once

#include "geo/position.hpp"

#include <cmath>

namespace heron {

/// Metres; nothing on a boat hangs farther from the rest.
inline constexpr double farthest_on_a_boat_m = 200;

/// Whether a distance on a boat, metres, is a number and can be true.
inline bool on_a_boat(double metres) {
    return std::fabs(metres) <= farthest_on_a_boat_m;
}
inline bool on_a_boat(const BodyOffset &o) {
    return on_a_boat(o.forward_m) && on_a_boat(o.starboard_m) && on_a_boat(o.down_m);
}

} // namespace heron
