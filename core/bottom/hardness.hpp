// From levels and texture to how hard and how rough the ground is, with doubt and a class.
#pragma once

#include "bottom/ground_map.hpp"

#include <optional>
#include <string_view>
#include <vector>

namespace heron {

enum class GroundClass : std::uint8_t { unknown, silt, sand, gravel, rock, weeds };
std::string_view name_of(GroundClass ground);

/// A raster on a UTM plane, row by row from the north-west corner; not-a-number where nothing is known.
struct GroundRaster {
    UtmZone zone;
    double cell_m = 0.25;
    double west_m = 0, north_m = 0; ///< of the outer corner
    std::size_t columns = 0, rows = 0;

    std::size_t cells() const { return columns * rows; }
    /// The cell that holds a place of the plane; nothing outside.
    std::optional<std::size_t> cell_at(double east_m, double north_m) const;
    double east_of(std::size_t column) const { return west_m + (static_cast<double>(column) + 0.5) * cell_m; }
    double north_of(std::size_t row) const { return north_m - (static_cast<double>(row) + 0.5) * cell_m; }
};

struct Hardness {
    GroundRaster raster;
    std::vector<float> level_db;    ///< over the mean ground, smoothed so that edges stay; shadows left out
    std::vector<float> hardness;    ///< 0 soft silt … 1 rock
    std::vector<float> hardness_sd; ///< one sigma
    std::vector<float> roughness;   ///< 0 smooth … 1 as broken as boulders
    std::vector<GroundClass> ground;
    double soft_hard_db = 0; ///< of `level_db`: where soft meets hard
};

/// Places of which the guide knows what they are, on the map's plane.
struct HardnessAnchor {
    double east_m = 0, north_m = 0;
    bool hard = true; ///< a concrete ramp, say; else soft
};

/// What the map tells. A cell is the median of what lies within a metre of it, so that stones and speckle go
/// and edges stay where they are; what is narrow, and darker than the ground about it by 6 dB and more, is
/// shadow and tells nothing.
///
/// How hard a level is hangs on nothing absolute: the levels of all cells are laid against what silt, sand,
/// gravel and rock return of Lambert's law (−35, −28, −20 and −12 dB, orders of magnitude;
/// docs/decisions/027), shifted until they fit best, texture counted in; of fits alike the one that has soft
/// and hard ground. Anchors fix the shift instead. Hardness runs straight from 0 at −38 dB to 1 at −10 dB:
/// soft meets hard at −24 dB. Where weeds grow (bottom/weeds.hpp) the ground is told without what their
/// texture adds, and with three times the doubt.
Hardness hardness_of(const GroundMap &map, const std::vector<HardnessAnchor> &anchors = {});

} // namespace heron
