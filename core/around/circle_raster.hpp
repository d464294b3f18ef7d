// The ground about the head as a raster, north up: each ray is laid where it was sounded, so that nothing
// smears while the boat moves.
#pragma once

#include "around/rays.hpp"
#include "picture/row_levels.hpp"

#include <cstdint>
#include <span>
#include <vector>

namespace heron {

/// A square of the ground that wraps around: a place keeps its cell while the boat moves, and what is new
/// takes the place of what lies a whole side away.
class CircleRaster {
  public:
    struct Cell {
        std::uint32_t ray = 0;  ///< counted from 1 as they are laid; 0: nothing
        std::int16_t level = 0; ///< hundredths of a decibel
    };

    /// `side`: cells a side, a power of two. `cell_m`: of a cell, over ground, metres.
    CircleRaster(std::size_t side, double cell_m);

    double cell_m() const { return cell_m_; }
    double side_m() const { return cell_m_ * static_cast<double>(side_); }
    /// Lays a ray: `levels` one a sample, decibels, not-a-number where nothing was heard. Over ground a cell
    /// takes the samples at √(g² + A²) (flat bottom), along the sound those at its distance. Returns its
    /// number.
    std::uint32_t lay(const PlacedRay &ray, const Ping &ping, std::span<const float> levels, Across across);
    /// Lays it anew under the number that it had, where it became known better where it lay.
    void lay_again(std::uint32_t number, const PlacedRay &ray, const Ping &ping,
                   std::span<const float> levels, Across across);
    const Cell &at(const EastNorth &p) const { return cells_[index_of(p)]; }
    std::uint32_t newest() const { return count_; }
    void clear();

  private:
    std::size_t index_of(const EastNorth &p) const;

    std::size_t side_;
    double cell_m_;
    std::vector<Cell> cells_;
    std::uint32_t count_ = 0;
    std::vector<std::int16_t> along_; // scratch: level by distance
};

/// How a circle is shown.
struct CircleLook {
    EastNorth middle;  ///< of the ground in the middle of the picture
    double up_deg = 0; ///< which bearing is up
    double metres_a_pixel = 0.05;
    EastNorth head;           ///< where the head is now
    double radius_m = 18;     ///< of the circle over ground, from the head; nothing is shown beyond
    std::uint32_t newest = 0; ///< of the raster
    std::uint32_t turn = 200; ///< rays a turn
    double palest = 0.6;      ///< share of the page in what is a turn old
};

/// Fills a picture (0xAARRGGBB, `width` × `height`, row by row): colours of the window, paler with age up to
/// a turn, and the page where nothing was sounded for two turns.
void paint_circle(const CircleRaster &raster, const CircleLook &look, const DisplayWindow &window,
                  const std::array<std::uint32_t, 256> &colours, std::uint32_t page, std::uint32_t *pixels,
                  std::size_t width, std::size_t height);

} // namespace heron
