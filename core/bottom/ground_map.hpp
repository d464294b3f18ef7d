// The ground cell by cell as the passes heard it: levels over the mean ground, looks, and how deep it is.
#pragma once

#include "bottom/ground_curve.hpp"
#include "bottom/row_choice.hpp"
#include "geo/utm.hpp"

#include <array>
#include <cstdint>
#include <map>
#include <optional>
#include <set>
#include <utility>
#include <vector>

namespace heron {

/// Square tiles of cells on the plane of a UTM zone; edges lie on whole multiples of the cell.
class GroundMap {
  public:
    static constexpr int tile = 128;
    struct Cell {
        float sum_db = 0, weight = 0; ///< of levels over the mean ground, weighed by how well they are heard
        float best_db = 0, best = 0;  ///< of the look that shows most
        std::uint16_t looks = 0;      ///< passes with a good look: neither under the boat nor at the far edge
        std::uint16_t last_pass = 0;
    };
    struct Tile {
        std::vector<Cell> cells = std::vector<Cell>(static_cast<std::size_t>(tile) * tile);
        std::uint32_t version = 0; ///< grows with every change
    };
    using Key = std::pair<int, int>; ///< column east, row north, in tiles

    GroundMap(UtmZone zone, double cell_m) : zone_(zone), cell_m_(cell_m) {}

    const UtmZone &zone() const { return zone_; }
    double cell_m() const { return cell_m_; }
    /// Adds the sides (or the ray) of a row. Rows that turn and rows without a place are passed over; passes
    /// are told apart by gaps, turns and headings.
    void add(const Scan &scan, std::size_t row, const GroundCurve &curve);
    /// Remembers of what band and day a row is, whether it is added or not.
    void note(const Scan &scan, std::size_t row);
    const std::set<int> &bands_khz() const { return bands_khz_; }
    const std::set<std::int64_t> &days() const { return days_; }
    /// Takes in what other passes heard, of another band, gain or device maybe: its levels are shifted by the
    /// median of what cells heard by both differ by. Zone and cell must be the same.
    void merge(const GroundMap &other);
    /// By how much the other's levels lie over these where both heard; nothing where they hardly meet.
    std::optional<double> difference_to(const GroundMap &other) const;

    /// The same ground in cells `times` as wide: quicker to look over.
    GroundMap coarser(int times) const;

    const std::map<Key, Tile> &tiles() const { return tiles_; }
    const Cell *cell(int column, int row) const;
    bool empty() const { return tiles_.empty(); }

    /// A sounding: how deep the bottom is under the surface, where it was met.
    struct Sounding {
        double east_m, north_m, depth_m, sd_m;
        double stands_m = 0; ///< how high what stands there reaches over the bottom; 0: nothing, or not known
    };
    const std::vector<Sounding> &soundings() const { return soundings_; }
    /// Of nothing but a depth sounder's words and positions: one a metre run, at the antenna (where its
    /// transducer hangs is not told), a tenth of a metre and two in a hundred of the depth in doubt.
    void add_soundings(const NavTrack &nav, const Installation &installation);
    /// Takes the water's level over the datum of its lake off all soundings so far, so that days at other
    /// levels agree.
    void lower_soundings(double level_m);

  private:
    void count_pass(const Scan &scan, std::size_t row, double heading_deg);
    void sound(const Scan &scan, std::size_t row, const OnUtm &at);

    UtmZone zone_;
    double cell_m_;
    std::map<Key, Tile> tiles_;
    std::vector<Sounding> soundings_;
    std::set<int> bands_khz_;
    std::set<std::int64_t> days_;
    std::uint16_t pass_ = 0;
    std::optional<double> pass_heading_deg_;
    UnixNs last_ = 0;
    std::vector<float> scratch_;
};

} // namespace heron
