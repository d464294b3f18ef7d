// The rays of a turning head, each where it truly lay: from its own place and its own heading.
#pragma once

#include "picture/scan.hpp"

#include <deque>
#include <optional>

namespace heron {

struct PlacedRay {
    std::size_t row = 0;
    UnixNs time = 0;
    double off_bow_deg = 0; ///< as the head tells it, −180 … 180
    double bearing_deg = 0; ///< on the plane: true where the ray is on the ground, else off the bow
    EastNorth at;           ///< of the head, on the plane of the rays
    double altitude_m = 0;  ///< of the bottom under the head; 0: not known
    double range_m = 0;     ///< end of what it sounded, along the sound
    double half_deg = 0.5;  ///< to each side, up to which it stands for what lies there
    std::size_t sweep = 0;  ///< turns (or ways to and fro) since the first ray
    bool on_ground = false; ///< position and heading were known
    bool settled = false;   ///< positions and headings after it have come: it stays where it is
};

/// Follows the rows of a scan of a turning head. Where position or heading is missing the rays fall back to
/// the boat: they lie about the head as told, and what moves smears.
class Rays {
  public:
    /// Takes rows up to `end`; places anew what had not settled. Returns the first ray (index into `rays`)
    /// that is new or lies elsewhere than before.
    std::size_t follow(const Scan &scan, std::size_t end);
    const std::deque<PlacedRay> &rays() const { return rays_; }
    bool empty() const { return rays_.empty(); }
    /// On which the places lie; nothing while no ray was on the ground.
    const std::optional<LocalPlane> &plane() const { return plane_; }
    /// How long the last whole turn (or way) took.
    std::optional<double> turn_s() const { return turn_s_; }
    /// Degrees between rays, lately; signed: clockwise positive.
    double step_deg() const { return step_deg_; }
    /// It sounds but has not turned for forty rays.
    bool stands() const { return still_ >= 40; }
    std::size_t sweep() const { return rays_.empty() ? 0 : rays_.back().sweep; }

  private:
    static constexpr std::size_t most_kept = 4000;
    void place(const Scan &scan, PlacedRay &ray);
    void count(PlacedRay &ray);

    std::deque<PlacedRay> rays_;
    std::size_t next_row_ = 0, unsettled_ = 0;
    std::optional<LocalPlane> plane_;
    std::optional<double> turn_s_;
    double step_deg_ = 0, turned_deg_ = 0;
    std::size_t still_ = 0; ///< rays since it last turned
    UnixNs sweep_began_ = 0;
};

} // namespace heron
