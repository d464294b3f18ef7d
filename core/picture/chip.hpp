// Small pictures cut out of the scan: of a mark, of a moment before and after a change.
#pragma once

#include "picture/display_window.hpp"
#include "picture/scan.hpp"

#include <optional>
#include <span>
#include <vector>

namespace heron {

/// A small picture of levels around the thing, 0 weak to 255 strong, row by row, newest row first.
struct Chip {
    int width = 0;
    int height = 0;
    std::vector<std::uint8_t> level;
    bool empty() const { return level.empty(); }
    bool operator==(const Chip &) const = default;
};

/// The picture around a point: `width` pixels of `metres_per_pixel` across, `height` pings along.
Chip cut_chip(const Scan &scan, std::size_t row, Side side, double slant_m, const DisplayWindow &window,
              int width = 124, int height = 92, double metres_per_pixel = 0.07);

/// A chip as bytes (u16 width, u16 height, the levels) and back; nothing for bytes of another form.
std::vector<std::uint8_t> pack_chip(const Chip &chip);
std::optional<Chip> unpack_chip(std::span<const std::uint8_t> bytes);

} // namespace heron
