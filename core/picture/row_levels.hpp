// What of a row is shown: its levels after the filters that the guide has on, and how much those filters hid.
#pragma once

#include "picture/angle_levels.hpp"
#include "picture/display_window.hpp"

#include <span>
#include <vector>

namespace heron {

struct PictureFilters {
    bool flatten = true;       ///< even from near to far (AngleLevels)
    double near_surface_m = 0; ///< hides what lies less deep than this under the surface; 0: off
    bool reject_streaks =
        false; ///< takes out samples that only one ping heard: interference, and small fish with it
    bool local_contrast = false; ///< grains stand out; texture is lost
    bool operator==(const PictureFilters &) const = default;
};

/// What was hidden, for the words beside the switch.
struct HiddenByFilters {
    std::size_t near_surface = 0; ///< samples that stood out of the water and were hidden
    std::size_t streaks = 0;      ///< samples taken for interference
};

/// Levels of one beam in decibels without the device's gain (so that a step of gain is no step in the
/// picture); not-a-number where nothing was heard or the near-surface filter hides. `before` and `after`: the
/// same beam of the rows beside it, for the streak filter; null where there is none. `draught_m`: depth of
/// the transducer.
void row_levels(const Ping &ping, const Beam &beam, const BottomPick &bottom, const PictureFilters &filters,
                const AngleLevels &angles, const Beam *before, const Beam *after, double draught_m,
                std::vector<float> &out, HiddenByFilters *hidden = nullptr);

/// How an axis across the track runs.
enum class Across : std::uint8_t { slant, ground };

/// Pixels of one side: out[0] at the boat, out[n−1] ends at `range_m` along the sound or over ground. Over
/// ground a pixel takes the sample at √(g² + A²) (flat bottom), so the water strip goes and round things are
/// round. Pixels are means of their samples, or the nearest where samples are wider; 0 where nothing was
/// heard.
void paint_levels(const Ping &ping, std::span<const float> levels, double altitude_m, Across across,
                  double range_m, const DisplayWindow &window, std::span<std::uint8_t> out);

} // namespace heron
