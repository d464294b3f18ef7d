// The boat on its route: where it truly is, and what its instruments say.
#pragma once

#include "sim/scene.hpp"
#include "sonar/instant.hpp"

#include <random>

namespace heron::sim {

struct BoatState {
    Point at; ///< true place of its reference point
    double heading_deg = 0;
    double speed_m_s = 0;
    double turn_deg_s = 0;
    double pitch_deg = 0, roll_deg = 0;
};

/// Steers from point to point of the route (and back to the first after the last); speed, heading and
/// attitude wander as a small boat's do.
class Boat {
  public:
    Boat(const BoatPlan &plan, std::uint32_t seed);
    void advance(double seconds);
    const BoatState &state() const { return state_; }
    /// What the receiver says: the antenna's place with its slow wander and its noise.
    Point antenna_told();
    double heading_told_deg();

  private:
    double wander(double value, double sd, double time_constant_s, double dt);

    BoatPlan plan_;
    BoatState state_;
    std::mt19937 random_;
    std::normal_distribution<double> normal_{0, 1};
    std::size_t next_ = 1;
    Point gnss_;
    double compass_ = 0, heave_speed_ = 0, helm_ = 0;
};

} // namespace heron::sim
