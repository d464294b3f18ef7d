// `heron chart`, and the bottom of `heron read`: charts of recordings and trips, without a window.
#pragma once

#include "fault/fault.hpp"

#include <optional>
#include <string>
#include <vector>

namespace heron::cli {

struct ChartOptions {
    std::vector<std::string> in; ///< recordings, trips, folders of them
    std::string mosaic;          ///< GeoTIFF of the levels over the mean ground
    std::string hardness;        ///< GeoTIFF of hardness and roughness
    std::string depth;           ///< GeoTIFF of the depth and its doubt
    std::string package;         ///< GeoPackage of contours, transitions, coverage, forms, track
    std::string kmz;             ///< KMZ with the mosaic laid on the globe, and lines
    std::string png;             ///< PNG of the mosaic with a world file
    std::string texture;         ///< GeoTIFF of level, spread, contrast, homogeneity, entropy
    std::optional<int> khz;      ///< pings of that band alone
    std::string day;             ///< YYYY-MM-DD, UTC: what was sounded on it alone
    bool blend = false;          ///< all looks at a place together instead of the best
    double positions_late_s = 0; ///< by how much positions are told late
    double cell_m = 0.25;
    double contour_m = 0.5;        ///< from contour to contour
    std::optional<double> level_m; ///< of the lake over its datum, for what does not tell its own
    bool as_it_stands = false;     ///< depths are left as they were sounded
    bool quiet = false;
};

/// 0 charted (warnings on stderr, one a line); 2 refused, with one line, and no output left behind.
int chart(const ChartOptions &options);

/// Hardness and roughness of a file's bottom as a GeoTIFF.
Result<void> write_bottom(const std::string &file, const std::string &out, double cell_m,
                          std::vector<std::string> &warnings);

} // namespace heron::cli
