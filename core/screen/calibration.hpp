// What makes a picture of a screen measurable: where the sonar's panel lies in it, what its pixels span, and
// what its colours mean. Kept per source as JSON, so that the next picture needs one press.
#pragma once

#include "fault/fault.hpp"
#include "screen/figures.hpp"
#include "screen/screen_picture.hpp"

#include <array>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace heron {

/// What a picture of a screen does not tell: the speed of sound it was made with, and how wide its beam looks
/// down.
inline constexpr double assumed_sound_speed_m_s = 1480, assumed_fan_deg = 50;

/// Where the newest row stands on the panel.
enum class NewestAt : std::uint8_t { top, bottom, left, right };
std::string_view name_of(NewestAt at);

/// Where and how the boat was at the newest row, if somebody knows.
struct KnownStart {
    GeoPoint place;
    double heading_deg = 0;
    bool operator==(const KnownStart &o) const {
        return place.latitude_deg == o.place.latitude_deg && place.longitude_deg == o.place.longitude_deg &&
               heading_deg == o.heading_deg;
    }
};

/// One sigma of a pixel's place on the panel of a picture as it was saved, and photographed by hand.
inline constexpr double saved_pixels = 0.5, by_hand_pixels = 1.5;

struct ScreenCalibration {
    std::string source; ///< the unit's or the guide's own name for it
    /// The picture that all pixels below refer to; others of that source are brought to its size.
    int width = 0, height = 0;
    /// The panel's corners on the picture: upper left, upper right, lower right, lower left, as one reads it.
    std::array<Pixel, 4> corners;
    /// A circular picture, the corners those of the square about it: where on it the boat's bow points,
    /// clockwise from up, 0…360. What is said of rows, sides and the middle does not matter then.
    std::optional<double> circle_bow_deg;
    /// Bow of the glass: r' = r·(1 + bow·r²), r over half of the picture's diagonal; −0.3…0.3.
    double bow = 0;
    NewestAt newest = NewestAt::top;
    bool swap_sides = false; ///< port is at the right, or below
    double middle = 0.5;     ///< share of the panel's width (across the track) at which the boat's line runs,
                             ///< from port's edge
    double range_m = 25;     ///< slant range at the panel's farther edge, from the middle; at the rim
    double along_m = 0; ///< over ground from row to row of pixels; 0: unknown, and lengths along are refused
    double rows_a_second = 0;      ///< in which the picture scrolls; 0: unknown
    std::optional<double> depth_m; ///< under the transducer, where the first return is hard to see
    double frequency_khz = 800;
    double span_db = 50; ///< from the darkest to the brightest colour: nobody's screen says, so it is assumed
    /// Colours from weak to strong, at least two; empty: estimated from the picture.
    std::vector<Rgb> ramp;
    std::optional<KnownStart> start;
    /// Figures on the screen that are read of a film, by choice.
    std::vector<FigureBox> figures;
    /// What reads worse for being photographed: one sigma of a pixel's place on the panel, in pixels.
    double pixel_sd = saved_pixels;

    bool operator==(const ScreenCalibration &) const = default;
    bool across_is_level() const { return newest == NewestAt::top || newest == NewestAt::bottom; }
};

std::string calibration_to_json(const ScreenCalibration &calibration);
/// Refuses text that is no such calibration, naming the entry.
Result<ScreenCalibration> calibration_from_json(std::string_view text);
/// One line for each figure that was assumed rather than told.
std::vector<std::string> assumed_in(const ScreenCalibration &calibration);

} // namespace heron
