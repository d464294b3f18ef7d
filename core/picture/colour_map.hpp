// Levels into colours: maps of nine stops, interpolated in OKLab, lightness strictly rising.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace heron {

struct Rgb {
    std::uint8_t red = 0, green = 0, blue = 0;
    bool operator==(const Rgb &) const = default;
};
/// "#RRGGBB"; nothing for other text.
std::optional<Rgb> rgb_from_hex(std::string_view text);

/// A colour in OKLab (B. Ottosson, 2020, "A perceptual color space for image processing"; matrices from
/// memory).
struct OkLab {
    double lightness = 0, a = 0, b = 0;
};
OkLab oklab_of(Rgb colour);
Rgb rgb_of(const OkLab &colour); ///< clipped to sRGB

/// 256 colours from dark (weak) to light (strong); 0xAARRGGBB with full alpha.
class ColourMap {
  public:
    /// `stops`: at least two, evenly spaced.
    explicit ColourMap(std::span<const Rgb> stops);
    const std::array<std::uint32_t, 256> &table() const { return table_; }
    std::uint32_t operator[](std::uint8_t level) const { return table_[level]; }

  private:
    std::array<std::uint32_t, 256> table_{};
};

} // namespace heron
