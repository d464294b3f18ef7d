// Sound in thin water goes by the surface and the bottom too: its ways, what each bounce keeps, and what the
// surface itself throws back.
#pragma once

#include <cstddef>
#include <vector>

namespace heron {

/// A bottom as a bounce meets it. Density and sound speed over water's after the APL-UW handbook (TR 9407,
/// chapter IV, table 2), from memory; the slope of its facets, one sigma, is common practice, no published
/// source.
struct Sediment {
    double density = 1.85, speed = 1.13, slope = 0.12;
};
/// 0 silt, 1 sand, 2 gravel, 3 rock.
const Sediment &usual_sediment(std::size_t kind);

/// Mean square slope of the surface after Cox and Munk (1954), from memory: 0.003 + 0.00512·U, U in m/s.
double surface_slope_variance(double wind_m_s);

/// Backscatter of the surface from 1 m² at a grazing angle > 0, linear: bubbles beneath it, after the APL-UW
/// handbook (TR 9407, chapter II), from memory. Fresh water holds fewer, so it is rather too much.
double surface_backscatter(double wind_m_s, double frequency_hz, double grazing_rad);

/// Rayleigh's reflection of energy at a fluid bottom, 0 to 1.
double reflected_by_bottom(const Sediment &sediment, double grazing_rad);

/// Share of the energy that a bounce leaves within a fan `along_rad` wide, 0 to 1: facets throw sound
/// sideways by twice their slope times the sine of the grazing angle. The surface keeps all the rest, the
/// bottom what it reflects.
double kept_at_surface(double wind_m_s, double grazing_rad, double along_rad);
double kept_at_bottom(const Sediment &sediment, double grazing_rad, double along_rad);

/// A way from a source `draught_m` under the surface to a flat bottom: the source's image stands so high over
/// it.
struct ImagePath {
    double height_m = 0;
    int by_bottom = 0, by_surface = 0; ///< bounces
    bool up_first = false;             ///< it leaves the source upwards
};
/// The above by the sine of the grazing angle, for one surface, bottom, fan and frequency: what hangs on
/// those alone is worked out once.
class Bounces {
  public:
    Bounces(double wind_m_s, const Sediment &sediment, double along_rad, double frequency_hz);
    double backscatter(double sine) const; ///< of the surface from 1 m², sine > 0
    double reflected(double sine) const;   ///< by the bottom
    double kept_at_surface(double sine) const;
    double kept_at_bottom(double sine) const;
    double kept_along(const ImagePath &path, double sine) const; ///< over all its bounces

  private:
    double extinction_, radiated_, density_speed_, speed_, along_;
    double thrown_by_surface_, thrown_by_bottom_; ///< rad at a sine of 1
};

/// All of up to `most` bounces off the surface, in order of height; the first is the straight way.
std::vector<ImagePath> image_paths(double depth_m, double draught_m, int most = 2);

} // namespace heron
