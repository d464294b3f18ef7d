// Quantities as people say them. Inside the program everything is SI; these functions are the only doors.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace heron {

inline constexpr double metres_per_foot = 0.3048;        // exact, international foot (1959)
inline constexpr double metres_per_mile = 1609.344;      // exact
inline constexpr double metres_per_nautical_mile = 1852; // exact

/// The one switch: feet, mph and °F, or metres, km/h and °C.
enum class UnitSystem { feet, metres };

constexpr double feet_from_metres(double metres) {
    return metres / metres_per_foot;
}
constexpr double metres_from_feet(double feet) {
    return feet * metres_per_foot;
}
constexpr double mph_from_m_s(double m_s) {
    return m_s * 3600 / metres_per_mile;
}
constexpr double m_s_from_mph(double mph) {
    return mph * metres_per_mile / 3600;
}
constexpr double km_h_from_m_s(double m_s) {
    return m_s * 3.6;
}
constexpr double m_s_from_knots(double knots) {
    return knots * metres_per_nautical_mile / 3600;
}
constexpr double knots_from_m_s(double m_s) {
    return m_s * 3600 / metres_per_nautical_mile;
}
constexpr double celsius_from_fahrenheit(double f) {
    return (f - 32) / 1.8;
}
constexpr double fahrenheit_from_celsius(double c) {
    return c * 1.8 + 32;
}

/// A figure and its unit apart, since the screen sets them in different weights.
struct Printed {
    std::string figure;
    std::string unit;
    std::string text() const { return figure + " " + unit; }
};

/// Prints with a fixed number of decimals and a true minus sign; not-a-number prints as "–".
std::string print_number(double value, int decimals);
Printed print_length(double metres, UnitSystem system, int decimals = 1);
/// A standard deviation: rounded up at the last decimal shown, so that no doubt ever prints as none.
std::string print_doubt(double sd_metres, UnitSystem system, int decimals = 1);
Printed print_speed(double m_s, UnitSystem system, int decimals = 1);
Printed print_temperature(double celsius, UnitSystem system, int decimals = 0);
/// A true bearing as three digits, 000° to 359°.
std::string print_bearing(double degrees);
/// Degrees and decimal minutes with hemisphere letters, as charts and plotters show them: "57° 13.812′ N  14°
/// 06.590′ E".
std::string print_position(double latitude_deg, double longitude_deg);

/// Parse a figure with an optional unit ("14", "14 ft", "4.2m", "7'"); a bare figure is in the unit of
/// `system`. Nothing is returned for text that is not wholly understood, or not finite.
std::optional<double> parse_length_m(std::string_view text, UnitSystem system);
/// Units: mph, km/h, kmh, kn, kt, knots, m/s.
std::optional<double> parse_speed_m_s(std::string_view text, UnitSystem system);
/// Units: F, °F, C, °C.
std::optional<double> parse_temperature_c(std::string_view text, UnitSystem system);

} // namespace heron
