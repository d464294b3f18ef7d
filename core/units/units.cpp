#include "units/units.hpp"

#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <utility>

namespace heron {
namespace {

std::string_view trimmed(std::string_view text) {
    while (!text.empty() && std::isspace(static_cast<unsigned char>(text.front())))
        text.remove_prefix(1);
    while (!text.empty() && std::isspace(static_cast<unsigned char>(text.back())))
        text.remove_suffix(1);
    return text;
}

struct Unit {
    std::string_view name;
    double scale;
    double shift = 0; // SI = (value + shift) * scale
};

template <std::size_t N>
std::optional<double> parse(std::string_view text, const std::array<Unit, N> &units, std::string_view plain) {
    text = trimmed(text);
    std::string ascii;
    if (text.starts_with("−")) { // the true minus that we print
        ascii = "-" + std::string(text.substr(std::string_view("−").size()));
        text = ascii;
    }
    if (text.starts_with('+'))
        text.remove_prefix(1);
    double value = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (error != std::errc() || !std::isfinite(value))
        return std::nullopt;
    auto unit = trimmed(text.substr(static_cast<std::size_t>(end - text.data())));
    if (unit.empty())
        unit = plain;
    for (const auto &u : units)
        if (u.name == unit)
            return (value + u.shift) * u.scale;
    return std::nullopt;
}

} // namespace

std::string print_number(double value, int decimals) {
    if (!std::isfinite(value))
        return "–";
    auto text = fmt::format("{:.{}f}", value, decimals);
    if (text.starts_with('-')) {
        const bool zero = text.find_first_of("123456789") == std::string::npos;
        text = zero ? text.substr(1) : "−" + text.substr(1);
    }
    return text;
}

Printed print_length(double metres, UnitSystem system, int decimals) {
    if (system == UnitSystem::feet)
        return {print_number(feet_from_metres(metres), decimals), "ft"};
    return {print_number(metres, decimals), "m"};
}

std::string print_doubt(double sd_metres, UnitSystem system, int decimals) {
    const double shown = system == UnitSystem::feet ? feet_from_metres(sd_metres) : sd_metres;
    const double unit = std::pow(10.0, -decimals);
    return print_number(std::max(unit, std::ceil(shown / unit - 1e-9) * unit), decimals);
}

Printed print_speed(double m_s, UnitSystem system, int decimals) {
    if (system == UnitSystem::feet)
        return {print_number(mph_from_m_s(m_s), decimals), "mph"};
    return {print_number(km_h_from_m_s(m_s), decimals), "km/h"};
}

Printed print_temperature(double celsius, UnitSystem system, int decimals) {
    if (system == UnitSystem::feet)
        return {print_number(fahrenheit_from_celsius(celsius), decimals), "°F"};
    return {print_number(celsius, decimals), "°C"};
}

std::string print_bearing(double degrees) {
    if (!std::isfinite(degrees))
        return "–";
    auto whole = static_cast<int>(std::lround(std::fmod(degrees, 360.0)));
    return fmt::format("{:03d}°", ((whole % 360) + 360) % 360);
}

std::string print_position(double latitude_deg, double longitude_deg) {
    const auto part = [](double value, int width, char plus, char minus) {
        // Rounded in thousandths of a minute first, so that 59.9997′ becomes the next degree and not 60.000′.
        const auto thousandths = std::llround(std::fabs(value) * 60000.0);
        return fmt::format("{:0{}d}° {:06.3f}′ {}", thousandths / 60000, width,
                           static_cast<double>(thousandths % 60000) / 1000.0, value < 0 ? minus : plus);
    };
    return part(latitude_deg, 2, 'N', 'S') + "  " + part(longitude_deg, 3, 'E', 'W');
}

std::optional<double> parse_length_m(std::string_view text, UnitSystem system) {
    static constexpr std::array units{
        Unit{"ft", metres_per_foot}, Unit{"'", metres_per_foot}, Unit{"m", 1}, Unit{"cm", 0.01},
        Unit{"in", 0.0254},          Unit{"\"", 0.0254}};
    return parse(text, units, system == UnitSystem::feet ? "ft" : "m");
}

std::optional<double> parse_speed_m_s(std::string_view text, UnitSystem system) {
    static constexpr std::array units{Unit{"mph", m_s_from_mph(1)},
                                      Unit{"km/h", 1 / 3.6},
                                      Unit{"kmh", 1 / 3.6},
                                      Unit{"kn", m_s_from_knots(1)},
                                      Unit{"kt", m_s_from_knots(1)},
                                      Unit{"knots", m_s_from_knots(1)},
                                      Unit{"m/s", 1}};
    return parse(text, units, system == UnitSystem::feet ? "mph" : "km/h");
}

std::optional<double> parse_temperature_c(std::string_view text, UnitSystem system) {
    static constexpr std::array units{Unit{"F", 1 / 1.8, -32}, Unit{"°F", 1 / 1.8, -32}, Unit{"C", 1},
                                      Unit{"°C", 1}};
    return parse(text, units, system == UnitSystem::feet ? "F" : "C");
}

} // namespace heron
