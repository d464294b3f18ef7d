// Lines of equal value on a raster, by GDAL.
#pragma once

#include "bottom/hardness.hpp"
#include "geo/position.hpp"

#include <span>
#include <vector>

namespace heron {

struct Contour {
    double value = 0;
    std::vector<EastNorth> line; ///< on the raster's plane, metres
};

/// Contours at certain values, never across cells that hold nothing.
std::vector<Contour> contours_of(const GroundRaster &raster, std::span<const float> values,
                                 const std::vector<double> &at);

} // namespace heron
