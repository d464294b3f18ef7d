// The boat on its route: where it truly is, and what its instruments say.
#pragma once

#include "sim/scene.hpp"
#include "sonar/instant.hpp"

#include <deque>
#include <random>
#include <utility>

namespace heron::sim {

struct BoatState {
    Point at; ///< true place of its reference point
    double heading_deg = 0;
    double speed_m_s = 0;
    double turn_deg_s = 0;
    double pitch_deg = 0, roll_deg = 0;
};

/// Steers from point to point of the route (and back to the first after the last), or holds over a spot;
/// speed, heading and attitude wander as a small boat's do.
class Boat {
  public:
    Boat(const BoatPlan &plan, std::uint32_t seed);
    void advance(double seconds);
    /// Runs to the spot of the plan and holds there, or goes on along the route. False where the plan has no
    /// spot.
    bool hold(bool on);
    bool holds() const { return holding_; }
    /// At the spot at once, as if it had been there for long.
    void put_on_hold();
    const BoatState &state() const { return state_; }
    /// What the receiver says: the antenna's place with its slow wander and its noise.
    Point antenna_told();
    /// What the compass says: of so many seconds ago where it is late.
    double heading_told_deg(double late_s = 0);

  private:
    void stray(double seconds);
    void jostle(double seconds);
    double wander(double value, double sd, double time_constant_s, double dt);

    BoatPlan plan_;
    BoatState state_;
    std::mt19937 random_;
    std::normal_distribution<double> normal_{0, 1};
    std::size_t next_ = 1;
    Point gnss_;
    double compass_ = 0, heave_speed_ = 0, helm_ = 0;
    bool holding_ = false, arrived_ = false;
    Point drift_;
    double swing_ = 0;
    std::deque<std::pair<double, double>> headings_; // seconds and degrees, of the last five seconds
    double seconds_ = 0;
};

} // namespace heron::sim
