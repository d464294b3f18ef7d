// What only the picture tells of a turning head: whether compass, mounting and turning are as they say.
#pragma once

#include "around/rays.hpp"
#include "fault/fault.hpp"

#include <array>
#include <deque>
#include <optional>
#include <span>
#include <vector>

namespace heron {

struct TurnFindings {
    /// The heading comes so much too late (negative: early), seconds, beyond what is corrected already.
    std::optional<double> heading_late_s;
    /// It turns the other way than it says: the picture is mirrored.
    bool backwards = false;
    /// Its zero wanders by so much a turn, degrees: it misses steps.
    std::optional<double> slips_deg;
    /// Its zero lies so much clockwise of the bow: the hull's shadow lies elsewhere than the hull.
    std::optional<double> zero_deg;
    bool operator==(const TurnFindings &) const = default;
};

/// Lays each turn over the one before it on the ground and asks by how much it must be turned to fit. With
/// the ground at rest that angle is nought. It goes with the change of the heading's rate of turn where the
/// heading comes late, against twice the change of the heading where the head turns backwards, and is the
/// same all round where steps are missed; all three are fitted together (least squares, what lies far off
/// left out). Turns between which the boat ran on by more than three tenths of the range are not laid over
/// each other. The hull's shadow is what is dark at every range in one sector of the boat, turn after turn.
class TurnCheck {
  public:
    /// Takes the rays that follow the last taken, up to the one that `rays` holds last.
    void follow(const Rays &rays, const Scan &scan);
    /// `hull_deg`: where, off the bow, the hull lies as seen from the head.
    TurnFindings findings(double hull_deg = 180) const;
    /// The heading was put right: what was seen before says nothing of now.
    void forget_turns();
    std::size_t looks() const { return looks_.size(); }

  private:
    static constexpr std::size_t bins = 56, sectors = 72;
    /// A ray as levels over what its distance usually shows.
    struct Line {
        PlacedRay ray;
        double heading_deg = 0, turning_deg_s = 0;
        double reach_m = 0; ///< over ground
        std::array<float, bins> level{};
        std::array<bool, bins> heard{};
        double distance(std::size_t bin) const;
        EastNorth at(double distance_m, double turned_deg) const;
    };
    struct Turn {
        std::vector<Line> lines;
    };
    /// One stretch of a turn beside the turn before it.
    struct Look {
        double turned_deg, heading_change_deg, rate_change_deg_s;
    };
    struct Ground;
    void take(const PlacedRay &ray, const Scan &scan);
    void end_turn();
    static void lay(const Turn &turn, Ground &ground);
    static double agreement(std::span<const Line> lines, const Ground &ground, double turned_deg);
    static TurnFindings judge(std::span<const Look> looks);
    void judge_looks(TurnFindings &found) const;
    std::optional<double> zero_by_hull(double hull_deg) const;
    void compare(const Turn &before, const Turn &now);

    std::size_t next_row_ = 0, sweep_ = 0;
    double range_m_ = 0;
    Turn before_, now_;
    std::deque<Look> looks_;
    std::array<double, bins> usual_{}, usual_n_{};
    std::array<double, sectors> near_{}, far_{}, sector_n_{};
    std::size_t turns_ = 0;
};

/// The findings in words: what is wrong, what is kept right all the same, and what to do.
std::vector<Fault> say(const TurnFindings &findings);

} // namespace heron
