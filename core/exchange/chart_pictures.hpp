// The chart as a picture that lies on the ground: PNG with a world file, KMZ with an overlay.
#pragma once

#include "bottom/hardness.hpp"
#include "exchange/chart_files.hpp"
#include "picture/colour_map.hpp"

#include <cstdint>
#include <filesystem>
#include <vector>

namespace heron {

struct ChartPicture {
    GroundRaster raster;
    std::vector<std::uint32_t> argb; ///< 0xAARRGGBB, row by row from the north-west; 0 where nothing is known
};

/// Levels over the mean ground (dB; not-a-number: nothing) in the colours of a map, −16 dB weakest, 18 dB
/// strongest.
ChartPicture picture_of_levels(const GroundRaster &raster, const std::vector<float> &level_db,
                               const ColourMap &map);
/// The program's own map for pictures that are made without a window.
const ColourMap &plain_colour_map();

/// The PNG, beside it `.pgw` (the six lines that lay it on the plane) and `.prj` (which plane). None is left
/// behind where one fails.
Result<void> write_png_with_world(const std::filesystem::path &file, const ChartPicture &picture);

/// KMZ: `doc.kml` with the picture laid north up on the globe, and contours, transitions and track as lines.
/// Says that it is not for navigation.
Result<void> write_kmz(const std::filesystem::path &file, const ChartPicture &picture,
                       const ChartPackage &package, const std::string &title);

/// The picture in geographic coordinates as a PNG, and its edges in degrees.
struct GlobePicture {
    std::string png;
    double west_deg = 0, east_deg = 0, south_deg = 0, north_deg = 0;
};
Result<GlobePicture> on_the_globe(const ChartPicture &picture);

} // namespace heron
