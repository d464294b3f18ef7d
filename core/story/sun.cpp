#include "story/sun.hpp"

#include <cmath>

namespace heron {

SunPlace sun_at(const GeoPoint &place, UnixNs time) {
    const auto rad = [](double deg) { return deg / degrees_per_radian; };
    // Days from 2000 January 1, 12 h.
    const double n = static_cast<double>(time) / 86'400e9 - 10'957.5;
    const double mean = 280.460 + 0.9856474 * n, anomaly = rad(357.528 + 0.9856003 * n);
    const double longitude = rad(mean + 1.915 * std::sin(anomaly) + 0.020 * std::sin(2 * anomaly)),
                 tilt = rad(23.439 - 0.0000004 * n);
    const double ascension = std::atan2(std::cos(tilt) * std::sin(longitude), std::cos(longitude)),
                 declination = std::asin(std::sin(tilt) * std::sin(longitude));
    const double sidereal_deg = 280.46061837 + 360.98564736629 * n + place.longitude_deg;
    const double hour = rad(wrap_180(sidereal_deg - ascension * degrees_per_radian)),
                 lat = rad(place.latitude_deg);
    SunPlace s;
    s.declination_deg = declination * degrees_per_radian;
    s.elevation_deg = std::asin(std::sin(lat) * std::sin(declination) +
                                std::cos(lat) * std::cos(declination) * std::cos(hour)) *
                      degrees_per_radian;
    s.azimuth_deg = wrap_360(std::atan2(-std::sin(hour) * std::cos(declination),
                                        std::cos(lat) * std::sin(declination) -
                                            std::sin(lat) * std::cos(declination) * std::cos(hour)) *
                             degrees_per_radian);
    return s;
}

SunTimes sun_times(const GeoPoint &place, UnixNs midnight) {
    constexpr double on_the_horizon_deg = -50.0 / 60;
    SunTimes times;
    const auto up_at = [&](UnixNs t) { return sun_at(place, t).elevation_deg > on_the_horizon_deg; };
    bool was = up_at(midnight);
    for (int minute = 1; minute <= 1440; ++minute) {
        const auto t = midnight + minute * 60L * ns_per_s;
        const bool is = up_at(t);
        if (is != was)
            (is ? times.rises : times.sets) = t;
        was = is;
    }
    return times;
}

Daylight daylight_at(const GeoPoint &place, UnixNs time) {
    const double e = sun_at(place, time).elevation_deg;
    return e < -6 ? Daylight::night : e < 0 ? Daylight::dusk : e < 15 ? Daylight::low : Daylight::high;
}

std::string_view name_of(Daylight light) {
    switch (light) {
    case Daylight::night:
        return "night";
    case Daylight::dusk:
        return "dusk or dawn";
    case Daylight::low:
        return "low sun";
    case Daylight::high:
        break;
    }
    return "high sun";
}

} // namespace heron
