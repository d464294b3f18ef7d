// Charts as files that any GIS opens: GeoTIFF and GeoPackage, by GDAL.
#pragma once

#include "bottom/chart_lines.hpp"
#include "bottom/depth_grid.hpp"
#include "bottom/ground_forms.hpp"
#include "bottom/hardness.hpp"
#include "bottom/transitions.hpp"

#include <filesystem>
#include <span>
#include <string>
#include <vector>

namespace heron {

struct RasterBand {
    std::string name;
    std::span<const float> values; ///< as many as the raster has cells; not-a-number: nothing
};

/// A GeoTIFF in the raster's UTM zone, Float32, no data = not-a-number, tiled and packed. Nothing is left
/// behind where it fails.
Result<void> write_geotiff(const std::filesystem::path &file, const GroundRaster &raster,
                           const std::vector<RasterBand> &bands);

struct ChartPackage {
    UtmZone zone;
    std::vector<Contour> contours; ///< of depth, metres
    std::vector<Transition> transitions;
    struct Coverage {
        int looks = 1;
        std::vector<Contour> edge; ///< around where there are so many and more
    };
    std::vector<Coverage> coverage;
    std::vector<GroundForm> forms;
    std::vector<std::vector<EastNorth>> track; ///< one line a stretch without a gap
};

/// All that a map tells; contours every `contour_m`.
ChartPackage package_of(const GroundMap &map, const Hardness &hardness, const DepthGrid &depth,
                        double contour_m);

/// A GeoPackage with the layers `contours` (depth_m), `transitions` (length_m, strength_db, hard_side; of:
/// hardness or weeds; weeds_side), `coverage` (looks), `forms` (form: ripples or lane; length_m, width_m,
/// bearing_deg from grid north, wave_m) and `track`, in the zone's projection. Nothing is left behind where
/// it fails.
Result<void> write_chart_package(const std::filesystem::path &file, const ChartPackage &package);

} // namespace heron
