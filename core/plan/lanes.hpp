// Lanes to run over an area: parallel, back and forth, few and wide turns.
#pragma once

#include "geo/position.hpp"

#include <cstddef>
#include <optional>
#include <vector>

namespace heron {

struct Lane {
    EastNorth from, to; ///< in the direction in which it is run
    double length_m() const;
    double bearing_deg() const; ///< on the plane
};

struct LanePlan {
    std::vector<EastNorth> area; ///< corners, on a plane, metres
    double spacing_m = 10;
    double bearing_deg = 0;
    std::vector<Lane> lanes;
    double run_m = 0; ///< lanes and the half circles between them
    std::size_t turns = 0;
    double area_m2 = 0;
    double minutes(double speed_m_s) const;
};

/// Lanes through an area (three corners and more, no crossing edges) a spacing apart along a bearing; along
/// the area's longest edge where none is told. The first lies half a spacing within, so that its neighbours'
/// far edges meet. Where an area has a bay a lane is in parts. No lane is shorter than a fifth of the
/// spacing.
LanePlan plan_lanes(std::vector<EastNorth> area, double spacing_m,
                    std::optional<double> bearing_deg = std::nullopt);

/// A zigzag over a flat: legs from edge to edge, so far apart at their turning points on either side.
LanePlan plan_zigzag(std::vector<EastNorth> area, double spacing_m,
                     std::optional<double> bearing_deg = std::nullopt);

/// A pass along a line (a transition, a contour, a wall): the line smoothed so that a boat can follow it, so
/// far to its right as one goes along it (negative: left), in pieces no shorter than `piece_m`. One lane a
/// piece.
LanePlan plan_along(const std::vector<EastNorth> &line, double right_m, double piece_m = 8);

/// A place to keep off: a hazard, a bathing place, a nesting shore.
struct NoGo {
    EastNorth at;
    double radius_m = 8;
};
/// The plan without what of its lanes lies within such places: lanes are cut there, and what is left over
/// shorter than a fifth of the spacing goes. The way from lane to lane is not checked; the guide steers it.
LanePlan keep_off(LanePlan plan, const std::vector<NoGo> &places);

/// Where a boat is with regard to a lane.
struct LaneCue {
    std::size_t lane = 0;
    double off_m = 0;       ///< to the right of it positive, as one runs it
    double left_m = 0;      ///< along it to its end; more than its length: not begun yet
    bool turn_right = true; ///< the next turn, at its end
};

/// Which lanes have been run: nine tenths of their length within `near_m` of the track.
class LaneProgress {
  public:
    LaneProgress() = default;
    explicit LaneProgress(LanePlan plan);
    const LanePlan &plan() const { return plan_; }
    /// Takes places of the track, in their order.
    void take(const EastNorth &at);
    double share_run() const; ///< of all lanes' length
    bool is_run(std::size_t lane) const;
    /// For the first lane that is not run; nothing when all are.
    std::optional<LaneCue> cue(const EastNorth &at) const;

  private:
    LanePlan plan_;
    std::vector<std::vector<bool>> met_; ///< of each lane, every two metres
};

} // namespace heron
