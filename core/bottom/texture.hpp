// Texture of the ground by measures that others know: mean level, spread, and what cells beside one another
// have in common.
#pragma once

#include "bottom/ground_map.hpp"
#include "bottom/hardness.hpp"

#include <span>
#include <vector>

namespace heron {

/// Of grey levels that lie one cell apart, in four directions (0°, 45°, 90°, 135°), each both ways, the mean
/// of the four: R. M. Haralick, K. Shanmugam and I. Dinstein 1973, "Textural Features for Image
/// Classification".
struct CoOccurrence {
    double contrast = 0;    ///< Σ p (i − j)²
    double homogeneity = 0; ///< Σ p / (1 + (i − j)²)
    double entropy = 0;     ///< −Σ p ln p, nats
};

/// `grey`: row by row, 0 … levels − 1, or less than 0 where nothing is known (pairs with it do not count).
/// Nothing (all zero) where there is no pair.
CoOccurrence co_occurrence(std::span<const int> grey, std::size_t columns, int levels);

/// One value a metre; not-a-number where less than half of the window is known.
struct TextureMap {
    GroundRaster raster;
    std::vector<float> level_db, spread_db, contrast, homogeneity, entropy;
};

/// In windows of four metres about each place: mean and standard deviation of the cells' mean levels over the
/// mean ground, and their co-occurrence in sixteen steps of 34/16 dB from −16 dB to 18 dB.
TextureMap texture_of(const GroundMap &map, const GroundRaster &seen);

} // namespace heron
