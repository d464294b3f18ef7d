// What a setting buys at each distance: the sonar equation and the geometry, figure by figure.
#pragma once

#include "tuning/gear.hpp"

#include <array>
#include <optional>

namespace heron {

enum class BottomType : std::uint8_t { silt, sand, gravel, rock };
/// Lambert strength at 1 m², decibels: silt −35, sand −28, gravel −20, rock −12. Orders of magnitude; from
/// memory.
double lambert_strength_db(BottomType type);

/// The water as far as it is known.
struct WaterState {
    double shallowest_m = 3, deepest_m = 6; ///< under the surface, where the boat goes
    /// Volume scatter of suspended matter at 770 kHz, dB re 1 m⁻¹: −78 clear, −66 stained, −56 muddy (common
    /// practice, no published source), rising with the square of the frequency.
    double suspended_db = -66;
    double temperature_c = 15;     ///< at the surface
    std::optional<double> below_c; ///< under a thermocline
    BottomType bottom = BottomType::sand;
    double wind_m_s = 2; ///< what roughens the surface
    double noise_db = 0; ///< over the unit's own, as the picture has shown (tuning/learned_noise.hpp)
    bool operator==(const WaterState &) const = default;
    double depth_m() const { return (shallowest_m + deepest_m) / 2; }
};

/// The smallest thing that matters.
struct SmallestThing {
    enum class Kind { fish, bush } kind = Kind::bush;
    double length_m = 1; ///< along the track; of a fish its length
    double height_m = 1; ///< of its top, or of a fish over the bottom
    bool operator==(const SmallestThing &) const = default;
    static SmallestThing fish(double length_m) { return {Kind::fish, length_m, 1.0}; }
    static SmallestThing bush(double size_m) { return {Kind::bush, size_m, size_m}; }
};

struct Setting {
    double range_m = 25;
    std::size_t band = 0; ///< of the gear's
    double speed_m_s = 1.4;
};

/// All at one distance over ground from the boat's line. Symbols and formulas: docs/tuning.md.
struct Budget {
    double ground_m = 0, slant_m = 0;
    double grazing_deg = 0;
    double across_m = 0;       ///< of one resolution cell, over ground
    double along_m = 0;        ///< of the beam there
    double pixel_across_m = 0; ///< of the unit's screen
    double pings_on_thing = 0;
    double cells_on_thing = 0; ///< resolution cells, across times along
    double shadow_m = 0;       ///< that the thing throws, over ground
    double bottom_over_noise_db = 0;
    double water_over_noise_db = 0; ///< of suspended matter in the same cell, over receiver noise
    double thing_over_bottom_db = 0;
    /// Chance that a sample of the thing is brighter than one of the bottom beside it, and that one of its
    /// shadow is darker; for single looks of fully developed speckle. 0.5 tells nothing, 1 all.
    double echo_separation = 0.5, shadow_separation = 0.5;
    double separation = 0.5; ///< the mean of both
    double shadow_left = 1;  ///< share of the bottom's level that is still heard in the thing's shadow
    double by_surface = 0;   ///< what comes by the surface and from it, over the bottom's own level; linear
    double eye_cycles =
        0; ///< pairs of pixels over the thing and its shadow, by their contrast (tuning/eye.hpp)
    double eye_sees = 0; ///< chance that an eye tells it in two seconds
};

/// How uneven a ground returns, one sigma in decibels over patches of some cells: silt 1.5 to rock 6.5.
/// Common practice, no published source.
double patchiness_db(BottomType type);

/// What comes by the surface and from it over what the flat bottom returns itself, by slant range: worked
/// once for a band and a depth, since settings by the thousand are tried over it.
class BySurface {
  public:
    BySurface(const Gear &gear, const WaterState &water, std::size_t band, double depth_m);
    /// Linear; between the altitude and the gear's longest range.
    double at(double slant_m) const;

  private:
    static constexpr std::size_t knots = 96;
    double first_m_, step_; // evenly in the logarithm of the range
    std::array<double, knots> share_{};
};

/// Figures at `ground_m` for a bottom `depth_m` under the surface.
Budget budget_at(const Gear &gear, const WaterState &water, const SmallestThing &thing,
                 const Setting &setting, double depth_m, double ground_m, const BySurface &by_surface);
/// The same where only one place is asked for.
Budget budget_at(const Gear &gear, const WaterState &water, const SmallestThing &thing,
                 const Setting &setting, double depth_m, double ground_m);

/// Terms of the sonar equation, each by itself so that each can be checked.
namespace sonar_equation {
/// 40·log₁₀ r + 2αr, there and back; α in dB/m.
double two_way_loss_db(double slant_m, double absorption_db_per_m);
/// 10·log₁₀ of the cell that is told apart on the bottom: resolution/cos grazing by r·θ.
double cell_area_db(double slant_m, double grazing_rad, double along_rad, double resolution_m);
/// Lambert's law: S₀ + 10·log₁₀ sin² grazing.
double lambert_db(double strength_db, double grazing_rad);
/// Love (1977), near dorsal, from memory: 19.1·log₁₀ L(cm) − 0.9·log₁₀ f(kHz) − 62; ±6 dB.
double fish_strength_db(double length_m, double frequency_hz);
/// Two-way loss of a Gaussian beam `off_deg` from its middle whose one-way half-power width is `width_deg`.
double beam_loss_db(double off_deg, double width_deg);
/// P(X > Y) of two exponentially distributed intensities with means `a` and `b`: a/(a+b).
double separation_of_speckle(double a, double b);
} // namespace sonar_equation

/// The farthest slant range at which the bottom still stands this many decibels over noise, suspended
/// matter and what comes by the surface; at least the depth, at most the range set. What lies beyond is an
/// empty promise.
double useful_range_m(const Gear &gear, const WaterState &water, const Setting &setting, double depth_m,
                      double least_db = 3);

} // namespace heron
