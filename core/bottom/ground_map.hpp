// The ground cell by cell as the passes heard it: levels over the mean ground, looks, and how deep it is.
#pragma once

#include "bottom/dark_spots.hpp"
#include "bottom/ground_curve.hpp"
#include "bottom/row_choice.hpp"
#include "files/spilled_block.hpp"
#include "geo/utm.hpp"

#include <array>
#include <cstdint>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <span>
#include <utility>
#include <vector>

namespace heron {

/// Square tiles of cells on the plane of a UTM zone; edges lie on whole multiples of the cell.
class GroundMap {
  public:
    static constexpr int tile = 128;
    /// In ten bytes, since a day's chart has tens of millions: levels to a hundredth of a decibel.
    class Cell {
      public:
        /// The mean of levels over the mean ground, weighed by how well they are heard; ±327 dB.
        float mean_db() const { return static_cast<float>(mean_) / a_db; }
        /// Up to 1,024: from there on the newest count as much as a thousandth of what was heard before.
        float weight() const { return static_cast<float>(weight_) / a_weight; }
        /// Of the look that shows most, and how much that shows, 0 to 1.
        float best_db() const { return static_cast<float>(best_db_) / a_db; }
        float best() const { return static_cast<float>(best_) / a_best; }
        /// Passes with a good look: neither under the boat nor at the far edge; 255 at the most.
        int looks() const { return looks_; }

        void hear(float db, float weight);
        void show(float db, float shows); ///< taken where it shows as much as the best so far
        void pass(std::uint8_t number);   ///< a good look, counted once a pass; never 0
        /// All that another cell holds, its levels less `shift_db`.
        void take(const Cell &other, float shift_db);
        /// As if it lay here too: its looks are no others.
        void take_beside(const Cell &other);

      private:
        static constexpr float a_db = 100, a_weight = 64, a_best = 200;
        std::int16_t mean_ = 0, best_db_ = 0;
        std::uint16_t weight_ = 0;
        std::uint8_t best_ = 0, looks_ = 0, last_pass_ = 0;
    };
    /// Copies of a map share their cells until one of them is written to.
    class Tile {
      public:
        static constexpr std::size_t size = static_cast<std::size_t>(tile) * tile;
        std::span<const Cell, size> cells() const {
            return std::span<const Cell, size>(reinterpret_cast<const Cell *>(cells_->data()), size);
        }
        /// For writing: its own.
        std::span<Cell, size> own();
        void let_go() const { cells_->let_go(); }
        std::uint32_t version = 0; ///< grows with every change

      private:
        std::shared_ptr<SpilledBlock> cells_ = std::make_shared<SpilledBlock>();
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
    /// How many times as wide cells must be, `least` or a power of two more, that no more than `most_cells`
    /// of them cover all of it, the ground between lanes that lie far apart included; 32 at the most.
    int times_within(double most_cells, int least = 1) const;

    const std::map<Key, Tile> &tiles() const { return tiles_; }
    const Cell *cell(int column, int row) const;
    bool empty() const { return tiles_.empty(); }
    /// Of a large map the cells may lie on the disk until they are looked at again (files/spilled_block.hpp):
    /// a day of 5 by 5 km is half a gigabyte.
    void let_go() const;

    /// A sounding: how deep the bottom is under the surface, where it was met.
    struct Sounding {
        double east_m, north_m, depth_m, sd_m;
        /// How high what stands there reaches over the bottom; 0: nothing does; nothing: no beam looked down.
        std::optional<double> stands_m = {};
    };
    const std::vector<Sounding> &soundings() const { return soundings_; }
    /// Small dark spots of the ground, those of the run that goes on included. Of rays and of pings less than
    /// some three a metre none are told.
    std::vector<DarkSpot> dark_spots() const;
    /// Of nothing but a depth sounder's words and positions: one a metre run, at the antenna (where its
    /// transducer hangs is not told), a tenth of a metre and two in a hundred of the depth in doubt.
    void add_soundings(const NavTrack &nav, const Installation &installation);
    /// Takes the water's level over the datum of its lake off all soundings so far, so that days at other
    /// levels agree.
    void lower_soundings(double level_m);

  private:
    void count_pass(const Scan &scan, std::size_t row, double heading_deg);
    void sound(const Scan &scan, std::size_t row, const OnUtm &at);
    void look_for_spots(const Scan &scan, std::size_t row, const Beam &beam, const DarkSpotFinder::Row &from);

    UtmZone zone_;
    double cell_m_;
    std::map<Key, Tile> tiles_;
    std::vector<Sounding> soundings_;
    std::vector<DarkSpot> spots_;
    std::array<DarkSpotFinder, 2> finders_; ///< port and starboard
    std::set<int> bands_khz_;
    std::set<std::int64_t> days_;
    std::uint16_t pass_ = 0;
    std::optional<double> pass_heading_deg_;
    UnixNs last_ = 0;
    std::vector<float> scratch_, abeam_;
};

} // namespace heron
