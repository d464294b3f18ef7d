// What the settings of a turning head buy, and which are advised: computed from geometry, the trade's figures
// beside.
#pragma once

#include "sonar/ping.hpp"

#include <optional>
#include <string>
#include <vector>

namespace heron {

struct TurningBudget {
    double turn_s = 0;         ///< a full turn, or a sector there and back
    double step_at_rim_m = 0;  ///< from ray to ray at the end of the range
    double ray_at_rim_m = 0;   ///< width of a ray there
    double moved_a_turn_m = 0; ///< how far the boat goes meanwhile
    double smallest_m = 0;     ///< across: what is narrower is one ray wide at the rim all the same
};

/// `ray_s`: seconds from ray to ray; `width_deg`: one-way half-power width of a ray; `speed_m_s`: of the
/// boat.
TurningBudget turning_budget(const Turning &turning, double range_m, double ray_s, double width_deg,
                             double speed_m_s);

/// For what the circle is looked at.
enum class CirclePurpose : std::uint8_t { objects, longest_cast, along_a_bank };

struct TurningAdvice {
    double range_m = 0;
    Turning turning;
    std::string why;   ///< of the range
    std::string trade; ///< the common rule beside it
};

struct TurningQuestion {
    CirclePurpose purpose = CirclePurpose::objects;
    double depth_m = 3;         ///< of the bottom under the head
    double speed_m_s = 0;       ///< of the boat
    double longest_cast_m = 17; ///< from the head, seats counted in
    double width_deg = 1.3;
    double ray_s = 0.08;
    double thing_m = 0.6; ///< what is to be told apart at the rim
};

/// The longest range that grazes the bottom at eight degrees or more (beyond, next to nothing comes back and
/// all is shadow: seven times the depth) and still tells `thing_m` apart, or reaches the longest cast; slow
/// and fine while standing, and while moving a turn short enough that the boat goes no more than half of
/// the range meanwhile.
TurningAdvice advise_turning(const TurningQuestion &question);

} // namespace heron
