// Depth from soundings: a grid with its doubt.
#pragma once

#include "bottom/ground_map.hpp"
#include "bottom/hardness.hpp"

#include <vector>

namespace heron {

struct DepthGrid {
    GroundRaster raster;
    std::vector<float>
        depth_m; ///< under the surface, or under the datum where a level was told; not-a-number: unknown
    std::vector<float> sd_m; ///< one sigma
};

/// Straight between the three soundings around a cell (Delaunay's triangles, GDAL's linear grid), the nearest
/// within `reach_m` outside of them; nothing farther than that from any. The doubt of a cell: the soundings'
/// own, and what soundings as far apart as the cell is from them differ by here, told by the soundings
/// themselves (the root of half the mean square of their differences: a semivariogram); where none are so far
/// apart, what a slope of three degrees makes; beside soundings, not among them, that slope in any case,
/// since along a lane nobody sees how the bottom falls across it; and where the bottom falls, what 0.4 m of
/// place make by its slope. `level_m`: of the water over the datum of the lake; taken off, so that days at
/// other levels agree.
DepthGrid depth_grid(std::vector<GroundMap::Sounding> soundings, const UtmZone &zone, double cell_m = 1,
                     double reach_m = 25, double level_m = 0);

} // namespace heron
