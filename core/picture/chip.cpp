#include "picture/chip.hpp"

#include "picture/paint_side.hpp"

#include <algorithm>
#include <cmath>

namespace heron {

Chip cut_chip(const Scan &scan, std::size_t row, Side side, double slant_m, const DisplayWindow &window,
              int width, int height, double metres_per_pixel) {
    Chip chip{width, height, {}};
    const auto w = static_cast<std::size_t>(width);
    chip.level.assign(w * static_cast<std::size_t>(height), 0);
    const double half = width / 2.0 * metres_per_pixel;
    const double from = std::max(0.0, slant_m - half), to = from + 2 * half;
    const auto zero = static_cast<std::size_t>(std::lround(from / metres_per_pixel));
    std::vector<std::uint8_t> line(zero + w);
    for (int y = 0; y < height; ++y) {
        const auto number = static_cast<std::ptrdiff_t>(row) + height / 2 - y;
        if (number < 0 || !scan.holds(static_cast<std::size_t>(number)))
            continue;
        const auto &ping = scan.ping(static_cast<std::size_t>(number));
        const auto *beam = ping.beam(side);
        if (beam == nullptr)
            continue;
        paint_side(ping, *beam, to, window, line);
        auto out = chip.level.begin() + static_cast<std::ptrdiff_t>(static_cast<std::size_t>(y) * w);
        if (side == Side::port)
            std::reverse_copy(line.begin() + static_cast<std::ptrdiff_t>(zero), line.end(), out);
        else
            std::copy(line.begin() + static_cast<std::ptrdiff_t>(zero), line.end(), out);
    }
    return chip;
}

std::vector<std::uint8_t> pack_chip(const Chip &chip) {
    if (chip.empty())
        return {};
    ByteWriter w;
    w.put(static_cast<std::uint16_t>(chip.width));
    w.put(static_cast<std::uint16_t>(chip.height));
    w.bytes.insert(w.bytes.end(), chip.level.begin(), chip.level.end());
    return std::move(w.bytes);
}

std::optional<Chip> unpack_chip(std::span<const std::uint8_t> bytes) {
    ByteReader r(bytes);
    Chip chip{r.get<std::uint16_t>(), r.get<std::uint16_t>(), {}};
    const auto levels = r.take(static_cast<std::size_t>(chip.width) * static_cast<std::size_t>(chip.height));
    if (r.too_short() || !r.at_end() || levels.empty())
        return std::nullopt;
    chip.level.assign(levels.begin(), levels.end());
    return chip;
}

} // namespace heron
