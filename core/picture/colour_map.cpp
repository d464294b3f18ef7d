#include "picture/colour_map.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>

namespace heron {
namespace {

double linear_of(std::uint8_t channel) {
    const double c = channel / 255.0;
    return c <= 0.04045 ? c / 12.92 : std::pow((c + 0.055) / 1.055, 2.4);
}

std::uint8_t channel_of(double linear) {
    const double c = linear <= 0.0031308 ? 12.92 * linear : 1.055 * std::pow(linear, 1 / 2.4) - 0.055;
    return static_cast<std::uint8_t>(std::lround(std::clamp(c, 0.0, 1.0) * 255));
}

} // namespace

std::optional<Rgb> rgb_from_hex(std::string_view text) {
    if (text.size() != 7 || text[0] != '#')
        return std::nullopt;
    unsigned value = 0;
    const auto [end, error] = std::from_chars(text.data() + 1, text.data() + 7, value, 16);
    if (error != std::errc() || end != text.data() + 7)
        return std::nullopt;
    return Rgb{static_cast<std::uint8_t>(value >> 16), static_cast<std::uint8_t>(value >> 8 & 255u),
               static_cast<std::uint8_t>(value & 255u)};
}

OkLab oklab_of(Rgb colour) {
    const double r = linear_of(colour.red), g = linear_of(colour.green), b = linear_of(colour.blue);
    const double l = std::cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
    const double m = std::cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
    const double s = std::cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
    return {0.2104542553 * l + 0.7936177850 * m - 0.0040720468 * s,
            1.9779984951 * l - 2.4285922050 * m + 0.4505937099 * s,
            0.0259040371 * l + 0.7827717662 * m - 0.8086757660 * s};
}

Rgb rgb_of(const OkLab &c) {
    const double l = std::pow(c.lightness + 0.3963377774 * c.a + 0.2158037573 * c.b, 3);
    const double m = std::pow(c.lightness - 0.1055613458 * c.a - 0.0638541728 * c.b, 3);
    const double s = std::pow(c.lightness - 0.0894841775 * c.a - 1.2914855480 * c.b, 3);
    return {channel_of(4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s),
            channel_of(-1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s),
            channel_of(-0.0041960863 * l - 0.7034186147 * m + 1.7076147010 * s)};
}

ColourMap::ColourMap(std::span<const Rgb> stops) {
    for (std::size_t i = 0; i < table_.size(); ++i) {
        const double at = static_cast<double>(i) / 255.0 * static_cast<double>(stops.size() - 1);
        const auto left = std::min(static_cast<std::size_t>(at), stops.size() - 2);
        const double share = at - static_cast<double>(left);
        const auto a = oklab_of(stops[left]), b = oklab_of(stops[left + 1]);
        const auto rgb = rgb_of({a.lightness + share * (b.lightness - a.lightness), a.a + share * (b.a - a.a),
                                 a.b + share * (b.b - a.b)});
        table_[i] = 0xFF000000u | static_cast<std::uint32_t>(rgb.red << 16 | rgb.green << 8 | rgb.blue);
    }
}

} // namespace heron
