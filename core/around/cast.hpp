// From where somebody stands to where the thing lies: a direction off the bow and a distance for every seat.
#pragma once

#include "around/own_boat.hpp"
#include "units/units.hpp"

#include <optional>
#include <string>
#include <vector>

namespace heron {

/// A direction off the bow as anglers say it.
struct OffBow {
    double degrees = 0; ///< −180 … 180, to the right positive
    /// The hand of a clock whose twelve is the bow, to the nearest quarter of an hour: 0, 0.25 … 11.75.
    double clock_hours() const;
    /// "1:30", "12:00".
    std::string clock() const;
};

/// Something that a line may foul, or that is not to be cast over.
struct InTheWay {
    std::string name;
    FromHead at;
    double radius_m = 0.5;
};

struct Cast {
    OffBow off_bow;
    double distance_m = 0; ///< over ground
    double sd_m = 0;       ///< of where the thing lies, across and along alike
    double spare_m = 0;    ///< reach less distance; negative: out of reach
    /// How far the boat must come up ahead until the thing is in reach; nothing where that does not bring it
    /// in reach, or none is needed.
    std::optional<double> come_up_m;
    std::vector<std::string> past; ///< what lies within a metre of the line, nearest first
    std::vector<std::size_t> over; ///< the other seats, by their index, that the line goes over
    bool in_reach() const { return spare_m >= 0; }
};

/// The cast from a seat to a thing. `sd_m`: one sigma of the thing's place.
Cast cast_from(const OwnBoat &boat, const Seat &seat, const FromHead &thing, double sd_m = 0,
               const std::vector<InTheWay> &in_the_way = {});

/// Whether the line from one seat to a thing comes within 0.9 m of another: of whoever sits there, rod in
/// hand.
bool line_goes_over(const OwnBoat &boat, const Seat &from, const Seat &other, const FromHead &thing);

/// The direction and the distance from the head itself.
struct Polar {
    double off_bow_deg = 0; ///< −180 … 180
    double distance_m = 0;
};
Polar polar_of(const FromHead &at);
FromHead of_polar(const Polar &at);

/// Where a fish is when the lure lands: it goes on as it went. `flight_s` and `sink_s`: until the lure lies
/// before it; `velocity`: of the fish over ground in the boat's frame, m/s.
FromHead lead(const FromHead &fish, const FromHead &velocity, double flight_s, double sink_s);

} // namespace heron
