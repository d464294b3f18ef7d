// Where to hold the boat so that as many seats as can be reach one thing.
#pragma once

#include "around/cast.hpp"
#include "geo/position.hpp"

#include <optional>
#include <string>
#include <vector>

namespace heron {

/// Where the boat would be pushed if nobody held it: metres a second over ground.
struct Drift {
    EastNorth m_s;
    double speed_m_s() const;
    /// Whereto, true.
    double towards_deg() const;
};

/// What the wind makes of a boat that nobody holds: 3.5 in a hundred of its speed, straight down the wind.
/// Small open boats lie between 3 and 4 in a hundred (Allen & Plourde, Review of Leeway: Field Experiments
/// and Implementation, 1999; figures from memory). `from_deg`: where the wind comes from, true.
Drift leeway(double from_deg, double wind_m_s);

/// A place that hull or line had better keep off.
struct Obstacle {
    std::string name;
    EastNorth at;
    double radius_m = 0.6;
    bool hull = false; ///< a hazard: the hull keeps four metres clear; else only lines may foul it
};

struct HoldQuestion {
    OwnBoat boat;
    EastNorth head;                    ///< where the head is now
    std::optional<double> heading_deg; ///< of the bow now
    EastNorth thing;                   ///< what is cast at
    double thing_sd_m = 0.5;
    std::optional<Drift> drift;
    std::vector<Obstacle> obstacles;
    /// Bearing from the thing, from where its shadow shows best (and from the other side as well).
    std::optional<double> shows_from_deg;
};

/// A spot to hold on.
struct HoldSpot {
    EastNorth head;
    double heading_deg = 0; ///< of the bow, true
    double short_m = 0;     ///< from the head to the thing
    std::vector<Cast> casts;
    std::vector<std::size_t> reached_from; ///< seats
    /// Degrees off the bow from where the drift comes; nothing where there is none to speak of.
    std::optional<double> drift_from_deg;
};

/// Looks through spots around the thing half a metre apart, every five degrees, and headings every ten. The
/// most seats in reach with half a metre to spare come first; then: the bow towards where the drift comes
/// from and the boat not above the thing in the drift, lines that cross no other seat and foul nothing, room
/// between boat and thing (common practice, no published source), the side from which it shows, the thing
/// ahead rather than astern, and the way there. Nothing where no seat is there or no spot is free of hazards.
std::optional<HoldSpot> best_hold(const HoldQuestion &question);

/// "ahead on the left", "from the right", …: a direction off the bow in one of eight words.
std::string side_word(double off_bow_deg);

} // namespace heron
