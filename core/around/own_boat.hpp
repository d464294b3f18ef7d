// The guide's own boat to scale: its hull, where the turning head hangs, and from where each angler casts.
#pragma once

#include "fault/fault.hpp"

#include <string>
#include <string_view>
#include <vector>

namespace heron {

/// A spot on the boat as one measures it there: metres behind the tip of the bow, and to the right of the
/// keel.
struct OnBoat {
    double behind_bow_m = 0;
    double right_m = 0;
    bool operator==(const OnBoat &) const = default;
};

enum class Hand : std::uint8_t { right, left };

struct Seat {
    std::string name; ///< what the guide calls it, or who sits there
    OnBoat at;
    double reach_m = 15; ///< how far a cast goes from there
    Hand hand = Hand::right;
    bool operator==(const Seat &) const = default;
};

struct OwnBoat {
    std::string name;
    double length_m = 5.8;
    double beam_m = 2.1;
    OnBoat head;    ///< the turning head
    OnBoat antenna; ///< of the receiver
    std::vector<Seat> seats;
    double fuel_l_per_h = 4; ///< what its motor takes at the pace of scanning; 0: none is told
    bool operator==(const OwnBoat &) const = default;

    static constexpr std::size_t most_seats = 6;
    /// The hull seen from above, from the tip of the bow clockwise round to it, metres; symmetric to the
    /// keel.
    std::vector<OnBoat> outline() const;
};

/// A boat of nineteen feet with three seats: bow, middle, stern.
OwnBoat usual_boat();

std::string boats_to_json(const std::vector<OwnBoat> &boats);
/// Refuses text that is no such list and boats that cannot be, naming the entry.
Result<std::vector<OwnBoat>> boats_from_json(std::string_view text);

/// A direction and a distance in the boat's frame, from the head.
struct FromHead {
    double ahead_m = 0;
    double right_m = 0;
};
/// Where a spot on the boat is, seen from its head.
FromHead from_head(const OwnBoat &boat, const OnBoat &spot);

} // namespace heron
