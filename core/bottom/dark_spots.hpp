// Small dark spots of the ground, and what made them: a stone is light before the shadow that it casts, a
// bowl in the ground is dark towards the boat and light on the wall behind.
#pragma once

#include <cstddef>
#include <cstdint>
#include <vector>

namespace heron {

/// A spot 0.2 to 1.6 m wide that is darker than the ground about it.
struct DarkSpot {
    double east_m = 0, north_m = 0; ///< on the plane of the map's zone
    float size_m = 0;               ///< the longer of its extents along and across the track
    bool sunk = false;              ///< lighter behind than before it: a bowl; else a thing that stands
    std::uint16_t pass = 0;         ///< of the map
};

/// Looks for them in what one side heard, as its rows come. The picture is laid flat in squares of a
/// decimetre, smoothed by 0.12 m against speckle, and held against its mean within 2.5 m: dark is what lies 3
/// dB and more under it, and 1.3 times by what the ground within four by six metres spreads, in one piece
/// that fills its box; told is what lies 1.6 times under it in the mean. Before and behind are the four
/// decimetres next to the piece along the sound; what differs by less than 2 dB between them is told as
/// neither. The values were chosen on the lakes of docs/accuracy.md, and hold on makings of other kinds: what
/// is before and what behind is geometry.
class DarkSpotFinder {
  public:
    static constexpr double step_m = 0.1;
    /// Where a row was sounded, on the plane of a zone.
    struct Row {
        double east_m = 0, north_m = 0; ///< of the transducer
        double east = 0, north = 0;     ///< by how much a metre abeam leads there
        double along_m = 0;             ///< run over ground
        double altitude_m = 0;
        std::uint16_t pass = 0;
    };

    /// `levels`: decibels over the mean ground in steps of `step_m` abeam, from nought on; not-a-number: not
    /// known. A row that lies a metre and more ahead of the last, or behind it, begins anew. What is found
    /// goes to the end of `found`, up to 18 m of the run later.
    void add(const Row &row, const std::vector<float> &levels, std::vector<DarkSpot> &found);
    /// The run ends: what is left is looked over.
    void end(std::vector<DarkSpot> &found);
    /// What would be found if the run ended here.
    void look(std::vector<DarkSpot> &found) const;

  private:
    struct Line { // a decimetre of the run
        Row row;
        std::vector<float> sum, n;
        bool heard = false;
    };
    void look_over(std::size_t from, std::size_t to, std::vector<DarkSpot> &found) const;

    std::vector<Line> lines_;
    double first_line_ = 0;  ///< run over ground at the first, in decimetres
    std::size_t looked_ = 0; ///< lines that were answered for
};

/// Bowls that lie together, as fish sweep them to spawn.
struct BowlGroup {
    std::vector<DarkSpot> bowls; ///< of the pass that saw most of them
};

/// Five bowls and more that one pass saw, each within 2.3 m of the next, where there are three times as many
/// of them as of things that stand. What several passes told in one place is one group.
std::vector<BowlGroup> bowl_groups(const std::vector<DarkSpot> &spots);

} // namespace heron
