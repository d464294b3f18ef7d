// A unit's circular picture, as its screen shows what its head hears.
#pragma once

#include "screen/calibration.hpp"
#include "sim/scene.hpp"
#include "sonar/nav_track.hpp"
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
    bool words = false; ///< in the four corners
};
ScreenPicture circle_screen(std::span<const Ping> rays, const std::vector<Rgb> &colours,
                            const CircleScreen &as);

/// The truth of it, its ramp and the boat's place aside.
ScreenCalibration calibration_of(const CircleScreen &as, double range_m);

/// What the head of a boat that runs to its hold hears at a range, its sides silent, and what its receiver
/// tells.
struct HeardTurns {
    std::vector<Ping> rays;
    NavTrack nav;
    Installation installation;
    double range_m = 0; ///< the unit's step nearest to what was asked
    /// The rays of the last whole turn.
    std::span<const Ping> last_turn() const;
};
HeardTurns hear_turns(Scene scene, double range_m, std::size_t rays);

} // namespace heron::sim
