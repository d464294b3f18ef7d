// What a picture of a screen tells of itself: where the sonar's panel is, and where the boat's line runs.
#pragma once

#include "screen/calibration.hpp"

#include <optional>

namespace heron {

struct ScreenGuess {
    std::array<Pixel, 4> corners;
    bool photographed = false; ///< found as on a photograph: its sides need not be upright
    bool circle = false; ///< the corners are those of the square about a circle; the rest is not told then
    NewestAt newest = NewestAt::top; ///< only whether time runs up and down or across: which end is newest a
                                     ///< still does not tell
    double middle = 0.5;
    double symmetry = 0; ///< correlation of both sides about the middle, 0…1: under 0.3 the middle is a guess
};

/// Looks for the largest part that is grainy all over, as sonar is and text, rulers and menus are not; in it
/// for the line about which both sides are alike: the dark strip of water and its two edges. Nothing where no
/// grain is found. As saved, or photographed by hand (`panel_on_photograph`); a circle only as saved.
std::optional<ScreenGuess> guess_screen(const ScreenPicture &picture);

/// The middle of a panel alone.
struct MiddleGuess {
    double middle = 0.5, symmetry = 0;
};
MiddleGuess guess_middle(const ScreenPicture &upright, bool across_is_level);

} // namespace heron
