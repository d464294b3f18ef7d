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
