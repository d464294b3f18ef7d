// What is drawn of a ground map besides its cells: the track, contours of depth, the edges of what was seen
// well.
#pragma once

#include "bottom/contours.hpp"
#include "bottom/depth_grid.hpp"
#include "bottom/ground_map.hpp"

#include <vector>

namespace heron {

/// Where soundings were taken, a line a stretch without a gap of eight metres.
std::vector<std::vector<EastNorth>> track_of(const GroundMap &map);
/// Every `step_m` from `step_m` down to the deepest cell, two hundred at most.
std::vector<Contour> depth_contours(const DepthGrid &grid, double step_m);
/// Around the cells with so many good looks and more, closed all round.
std::vector<Contour> edges_of_looks(const GroundMap &map, const GroundRaster &raster, int looks);
/// Of each cell of a raster over the map's own cells the level of the look that shows most; not-a-number
/// where none.
std::vector<float> best_levels(const GroundMap &map, const GroundRaster &raster);
/// The same of all looks together, weighed by how well each hears: passes blend.
std::vector<float> blended_levels(const GroundMap &map, const GroundRaster &raster);

} // namespace heron
