// A unit's circular picture, as its screen shows what its head hears.
#pragma once

#include "screen/screen_picture.hpp"
#include "sonar/ping.hpp"

#include <span>
#include <vector>

namespace heron::sim {

/// A square picture with a margin about the circle, rings at its quarters and the boat in the middle. `rays`:
/// of any order, the last of a direction shows; `bow_deg`: where the bow points, clockwise from up.
struct CircleScreen {
    int size = 720, margin = 24;
    double bow_deg = 0;
    bool rings = true;
};
ScreenPicture circle_screen(std::span<const Ping> rays, const std::vector<Rgb> &colours,
                            const CircleScreen &as);

} // namespace heron::sim
