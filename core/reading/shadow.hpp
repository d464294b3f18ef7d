// What a shadow says: height of a thing and how far aside it truly is.
#pragma once

#include <optional>
#include <utility>
#include <vector>

namespace heron {

/// A bottom told point by point: (horizontal distance, depth under the transducer), distances rising from 0.
using BottomProfile = std::vector<std::pair<double, double>>;

/// The bottom abeam: D(g) = altitude − g·tan(slope) + off(g), metres under the transducer at horizontal
/// distance g. `off` is nought unless more than a plane is known.
struct BottomPlane {
    double altitude_m = 0; ///< D(0), > 0
    double altitude_sd_m = 0.1;
    double slope_deg = 0; ///< positive rises away from the boat (seen uphill)
    double slope_sd_deg = 2;
    /// How far the bottom lies under the plane, at distances rising from 0; straight between them and level
    /// beyond.
    BottomProfile off = {};

    double depth_at(double ground_m) const;
};

struct Estimate {
    double value = 0;
    double sd = 0; ///< one sigma
};

/// Slant range of the first return of a plane: altitude · cos(slope).
double first_return_m(const BottomPlane &bottom);
/// Horizontal distance at which a slant range meets the bottom, on the far side of the first return: the root
/// of g² + D(g)² = r² (of a bottom that is not plane the farthest). Nothing for a range short of the first
/// return.
std::optional<double> ground_range_m(double slant_m, const BottomPlane &bottom);
/// The same with its doubt from altitude, slope and `slant_sd_m`.
std::optional<Estimate> ground_range(double slant_m, double slant_sd_m, const BottomPlane &bottom);

/// What one echo and its shadow tell.
struct ShadowReading {
    Estimate height_m; ///< of the thing's top over the bottom beneath it (of a floating thing: of its echo)
    bool at_least = false;      ///< the shadow is cut: `height_m` is the least it can be
    Estimate ground_m;          ///< horizontal distance from the transducer
    double shadow_ground_m = 0; ///< horizontal distance of the shadow's end
};

/// One ray grazes the top at slant range `top_m` and meets the bottom at `end_m` (the shadow's end; for a
/// floating thing the middle of its shadow): height = A·(r_s − r_t)/r_s, ground = g_s·r_t/r_s, exact on any
/// plane slope across the track. Nothing when end ≤ top, or when the end lies short of the first return.
/// `cut`: the shadow reaches the edge of the range or the next thing, so that it would have been longer.
/// On a bottom that is not plane the ray is drawn onto it instead; what that changes adds three tenths of
/// itself to the doubt.
/// Common side-scan geometry; derived in docs/decisions/005-shadow-geometry.md.
std::optional<ShadowReading> read_shadow(double top_m, double end_m, double slant_sd_m,
                                         const BottomPlane &bottom, bool cut = false);

double depth_on(const BottomProfile &profile, double ground_m);
/// The farthest point of the profile at that slant range.
std::optional<double> ground_range_on(double slant_m, const BottomProfile &profile);
/// Height and distance on a bottom that is not plane: φ = atan(D(g_s)/g_s), H = D(r_t·cos φ) − r_t·sin φ.
std::optional<std::pair<double, double>> read_shadow_on(double top_m, double end_m,
                                                        const BottomProfile &profile);

/// The shortcut in common use, √(r² − A²): right for the bottom, wrong for the top of anything that stands
/// above it.
double ground_by_shortcut_m(double slant_m, double altitude_m);

} // namespace heron
