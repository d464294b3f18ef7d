// Weeds on the chart: many grains, each no wider than a stalk, over ground that is no rock; and how high they
// stand under the boat.
#pragma once

#include "bottom/hardness.hpp"
#include "picture/scan.hpp"

#include <optional>
#include <vector>

namespace heron {

/// Where weeds grow, 1 a cell, else 0: patches of grains that the boat ran over and whose growth the beam
/// that looks down met, as far as that look is the nearest: abeam of bare ground nothing grows, and what
/// hangs together with a bed only across it is none. A grain is a cell whose best look is louder than the
/// ground within a metre and a quarter by 11 dB while what lies half a metre off is not: stones are wider,
/// speckle rarely does so. Grains alone tell nothing: coarse ground at a low angle has as many
/// (docs/accuracy.md), so a patch on which nothing was met stays what its level says. `best_db`: of each cell
/// the look that shows most; `ground_db`: the smoothed level of the ground; `rough_db`: the same with what
/// its texture adds (all not-a-number: unknown); `rock_db`: of the last, from where on it is among stones.
/// `grown`: places on the plane under which something stood; `bare`: where the same beam looked and nothing
/// did.
std::vector<std::uint8_t> weeds_of(const GroundRaster &raster, const std::vector<float> &best_db,
                                   const std::vector<float> &ground_db, const std::vector<float> &rough_db,
                                   double rock_db, const std::vector<EastNorth> &grown,
                                   const std::vector<EastNorth> &bare);

/// What the beam that looks down says of what stands under the boat.
struct UnderTheBoat {
    /// How high it reaches over the bottom as the sides say it: the highest echo that hangs together with the
    /// bottom by gaps of less than 0.3 m, 9 dB and more over the water above; 0 for less than 0.2 m. Dense
    /// growth is as loud as the bottom, and so is ground that lies nearer than the sides say.
    double stands_m = 0;
    /// Stands as high over where this beam itself meets the bottom: where it hears it within 5 dB as loud as
    /// behind, 0.35 m before what the sides say at most.
    bool grows = false;
};

/// Nothing where no beam looks down or the bottom is not known.
std::optional<UnderTheBoat> under_the_boat(const Scan &scan, std::size_t row);

} // namespace heron
