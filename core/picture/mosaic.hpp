// The bottom from above, cell by cell, each from the pass that saw it best.
#pragma once

#include "picture/angle_levels.hpp"
#include "picture/row_levels.hpp"
#include "picture/scan.hpp"

#include <cstdint>
#include <functional>
#include <map>
#include <utility>
#include <vector>

namespace heron {

/// Square tiles of `tile` cells on a plane around an origin; a level is dB + 160 in one byte, 0 where nothing
/// was seen.
class Mosaic {
  public:
    static constexpr int tile = 256;
    using Tile = std::vector<std::uint8_t>;
    using Key = std::pair<int, int>; ///< column east, row north of the origin, in tiles

    Mosaic(GeoPoint origin, double cell_m) : plane_(origin), cell_m_(cell_m) {}
    /// Adds the sides of a row, bottom only. A cell keeps the look whose angle tells most: neither under the
    /// boat nor at the far edge. Turning rows and rows without a place are passed over.
    void add(const Scan &scan, std::size_t row, const AngleLevels &angles);

    const std::map<Key, Tile> &tiles() const { return levels_; }
    const GeoPoint &origin() const { return plane_.origin(); }
    double cell_m() const { return cell_m_; }

  private:
    LocalPlane plane_;
    double cell_m_;
    std::map<Key, Tile> levels_, weights_;
    std::vector<float> scratch_;
};

} // namespace heron
