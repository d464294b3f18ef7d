// A circular picture: a turning head's last turn, as rays.
#pragma once

#include "screen/rows.hpp"

namespace heron {

/// Rays of a circle, one a degree, clockwise from astern. A still's turn is reckoned to have taken four
/// seconds (common practice, no published source: nothing that is told hangs on it).
inline constexpr int rays_of_a_circle = 360;
inline constexpr double reckoned_turn_s = 4;
/// Where the middle of a ray points, −180…180 off the bow.
double off_bow_deg(int ray);

/// All colours along the rays, a row each, outward from the middle: what lies about the circle is left out.
Panel circle_panel(const ScreenPicture &upright, const ScreenCalibration &calibration);
/// Levels along each ray, between the pixels; as many samples as the circle's radius has pixels. Rings that
/// are drawn over it are taken out.
std::vector<LevelRow> rays_on(const ScreenPicture &upright, const ScreenCalibration &calibration,
                              LevelOfColour &level);
Ping ray_of(const LevelRow &levels, const ScreenCalibration &calibration, int ray, UnixNs time);

/// The last turn as a recording of a head. `calibration.circle_bow_deg` must be there. Refuses a panel of one
/// colour and a circle of less than 48 pixels across.
Result<PictureRows> rays_of(const ScreenPicture &picture, const ScreenCalibration &calibration, UnixNs newest,
                            const std::string &made_from);

/// Where a place on the circle lies on the picture: degrees off the bow, clockwise, and slant range.
Pixel on_circle(const ScreenCalibration &calibration, double off_bow_deg, double slant_m);

} // namespace heron
