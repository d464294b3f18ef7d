// A mark: a thing, where it truly lies, and how it was seen.
#pragma once

#include "geo/position.hpp"
#include "picture/chip.hpp"
#include "reading/contact.hpp"
#include "sonar/ping.hpp"

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace heron {

struct Mark {
    std::string id;   ///< unique, given once
    std::string name; ///< may be empty until somebody names it
    Family family = Family::unsure;
    Kind kind = Kind::none; ///< one of kinds_of(family); none: not said
    std::string note;
    UnixNs time = 0; ///< of the ping on which it was seen
    std::optional<GeoPoint> place;
    PlaceCovariance place_covariance;
    std::string place_remark; ///< why the place is unknown or doubtful; empty when it is known
    std::string side;         ///< "port", "starboard", "down"; empty when marked at the boat
    double slant_m = 0;
    double ground_m = 0;
    std::optional<Estimate> depth_m;  ///< of the bottom there, from the surface
    std::optional<Estimate> height_m; ///< from its shadow
    bool height_at_least = false;
    double range_setting_m = 0; ///< the settings it was seen with
    double frequency_hz = 0;
    int gain = 0;
    std::string source; ///< the recording or trip it was seen on
    Chip chip;
    std::string foreign_gpx; ///< what another program's GPX said and we do not understand, kept as it was
};

/// What to call a mark that nobody has named: "stump, 31 ft right" and the like are the app's; this is the
/// plain kind or family.
std::string plain_name(const Mark &mark);

/// A mark at a point of the picture, placed by the bottom there (or on the arc in the water).
Mark mark_at(const Scan &scan, const CursorReading &reading, Family family, std::string source);
/// A mark at a measured thing: true side distance, height and depth with their doubt.
Mark mark_measured(const Scan &scan, const MeasureHandles &handles, const Measurement &measurement,
                   Family family, std::string source);
/// A mark at what was read: place, height and depth with their doubt as the contact tells them, and its kind
/// where that is sure. A ledge or channel was seen looking down. Note and chip are the caller's.
Mark mark_of(const Scan &scan, const Contact &contact, std::string source);
/// A mark at the boat itself at the time of a row, when nothing was pointed at.
Mark mark_at_boat(const Scan &scan, std::size_t row, Family family, std::string source);

} // namespace heron
