// The levels of one side of a ping, pixel by pixel.
#pragma once

#include "picture/display_window.hpp"

#include <span>

namespace heron {

/// Paints one side of a ping, its levels without the device's gain, into pixels: out[0] is at the transducer,
/// out[n−1] ends at `range_m` (slant). A pixel is the mean of its samples' levels, or the nearest sample
/// where samples are wider; 0 where nothing was heard.
void paint_side(const Ping &ping, const Beam &beam, double range_m, const DisplayWindow &window,
                std::span<std::uint8_t> out);

} // namespace heron
