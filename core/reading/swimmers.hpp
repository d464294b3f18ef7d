// What moves from turn to turn: fish and groups followed, with course, speed and doubt.
#pragma once

#include "geo/position.hpp"
#include "reading/contact.hpp"

#include <array>
#include <vector>

namespace heron {

/// Place and speed along one axis with their covariance: constant velocity, shaken by an acceleration.
/// (Y. Bar-Shalom, X. R. Li and T. Kirubarajan 2001, "Estimation with Applications to Tracking and
/// Navigation", chapter 6: the discretised white-noise acceleration.)
struct AxisFilter {
    double place = 0, speed = 0;
    std::array<double, 3> covariance{0.1, 0, 0.1}; ///< place·place, place·speed, speed·speed
    /// `noise`: power of the acceleration, m²/s³.
    void predict(double seconds, double noise);
    void correct(double measured, double sd);
};

/// One fish or group that swims.
struct Swimmer {
    int id = 0;
    AxisFilter east, north; ///< metres on the plane, at `time`
    UnixNs time = 0;        ///< of the newest look
    int looks = 0, missed = 0;
    double real = 0;     ///< mean chance of its looks
    double length_m = 1; ///< of the newest look
    std::optional<Estimate> height_m;
    GeoPoint first; ///< where it was first seen

    /// Where it will be so many seconds after its newest look.
    EastNorth at(double seconds) const;
    double speed_m_s() const;
    double course_deg() const; ///< true
    double place_sd_m(double seconds) const;
};

/// Follows looks turn by turn. Each turn's looks that may be fish, and lie where nothing stands, are given to
/// the tracks by the assignment of least cost, within what a fish can swim.
class SwimmerTracker {
  public:
    static constexpr double fastest_m_s = 1.2;
    /// Takes the looks of one turn; `standing`: places of what stands still there. Turns come in order.
    void take(const std::vector<Contact> &looks, const std::vector<GeoPoint> &standing);
    /// Those that were seen in three turns and more, lately, and went somewhere.
    std::vector<Swimmer> swimmers() const;
    const std::optional<LocalPlane> &plane() const { return plane_; }

  private:
    std::optional<LocalPlane> plane_;
    std::vector<Swimmer> tracks_;
    int next_id_ = 1;
};

/// Places at which looks of several turns lie on one spot, within a step that no swimmer keeps to.
std::vector<GeoPoint> standing_places(const std::vector<Contact> &looks);

} // namespace heron
