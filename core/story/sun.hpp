// Where the sun stands: how much light there was, from place and time alone.
#pragma once

#include "geo/position.hpp"
#include "sonar/instant.hpp"

#include <optional>
#include <string_view>

namespace heron {

struct SunPlace {
    double elevation_deg = 0; ///< of its middle over the horizon, without refraction
    double azimuth_deg = 0;   ///< true, clockwise from north
    double declination_deg = 0;
};
/// To a hundredth of a degree from 1950 to 2050: The Astronomical Almanac's low-precision formulas (page C5;
/// from memory), sidereal time as there.
SunPlace sun_at(const GeoPoint &place, UnixNs time);

/// When the sun rises and sets within the day of UTC that begins at `midnight`, to the minute: its upper limb
/// on the horizon with the usual refraction, its middle 50′ under it (The Astronomical Almanac's own
/// convention; from memory). Nothing for what does not come about on that day.
struct SunTimes {
    std::optional<UnixNs> rises, sets;
};
SunTimes sun_times(const GeoPoint &place, UnixNs midnight);

enum class Daylight : unsigned char { night, dusk, low, high };
/// Night below −6° (civil twilight's end), dusk to 0°, low to 15°, high above.
Daylight daylight_at(const GeoPoint &place, UnixNs time);
std::string_view name_of(Daylight light);

} // namespace heron
