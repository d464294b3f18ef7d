// The shape of the bottom as far as the boat's own track tells it.
#pragma once

#include "picture/scan.hpp"

#include <cstddef>
#include <limits>
#include <map>
#include <optional>
#include <utility>
#include <vector>

namespace heron {

/// Depths under the boat, a metre apart, and the plane that fits them about a point.
class TrackDepths {
  public:
    /// Takes the rows `first`…`end`.
    void add(const Scan &scan, std::size_t first, std::size_t end);

    struct Slope {
        double rises_deg = 0; ///< towards the bearing asked for; positive: rises
        double sd_deg = 2;
    };
    /// The slope along a bearing about a place: a plane through the depths within 30 m, nearer ones counting
    /// more. A straight track tells nothing across itself: there a level bottom ± `prior_deg` is taken.
    static constexpr double usual_prior_deg = 2.5;
    Slope slope_towards(const GeoPoint &place, double bearing_deg, double prior_deg = usual_prior_deg) const;
    /// The depth under a transducer that was over a place: means of depths within some metres, with what they
    /// weigh (1 for a track that ran right over it). Nothing where no track came within 6 m. `but_along_m`:
    /// depths sounded within 25 m of that way run are left out, they are the look's own.
    struct Depth {
        double altitude_m = 0, weight = 0;
    };
    std::optional<Depth> depth_at(const GeoPoint &place,
                                  std::optional<double> but_along_m = std::nullopt) const;
    std::size_t size() const { return count_; }

  private:
    struct Point {
        double east, north, depth, along;
    };
    std::optional<LocalPlane> plane_;
    std::map<std::pair<int, int>, std::vector<Point>> squares_; // of 20 m
    std::size_t count_ = 0;
    double last_along_ = -10;
};

/// The slope across the track as the first returns of the two sides tell it: the side towards which the
/// bottom rises hears it sooner. By the median over 10 m ahead and astern; positive: it rises to starboard.
/// The sign is physics; how much a difference means depends on how near to the vertical a fan still hears,
/// which no recording says: the scale is that of the stand-in's lakes
/// (docs/decisions/018-slope-from-the-sides.md), and the doubt is 1.2° and a third of the slope. Nothing
/// where fewer than 20 rows tell of both sides. `run_m`: of every row that may be asked, metres run.
std::optional<TrackDepths::Slope> slope_of_sides(const Scan &scan, const std::vector<double> &run_m,
                                                 std::size_t row);

/// Two independent estimates of one slope, by the inverse of their variances. `prior_deg`: where both of them
/// take a bottom for level ± this beforehand, that is counted once.
TrackDepths::Slope both_slopes(const TrackDepths::Slope &a, const TrackDepths::Slope &b,
                               double prior_deg = std::numeric_limits<double>::infinity());

} // namespace heron
