#include "around/circle_raster.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace heron {
namespace {

constexpr std::int16_t nothing = std::numeric_limits<std::int16_t>::min();

} // namespace

CircleRaster::CircleRaster(std::size_t side, double cell_m)
    : side_(side), cell_m_(cell_m), cells_(side * side) {}

void CircleRaster::clear() {
    std::fill(cells_.begin(), cells_.end(), Cell());
    count_ = 0;
}

std::size_t CircleRaster::index_of(const EastNorth &p) const {
    const auto x = static_cast<std::size_t>(static_cast<std::int64_t>(std::floor(p.east_m / cell_m_))) &
                   (side_ - 1),
               y = static_cast<std::size_t>(static_cast<std::int64_t>(std::floor(p.north_m / cell_m_))) &
                   (side_ - 1);
    return y * side_ + x;
}

std::uint32_t CircleRaster::lay(const PlacedRay &ray, const Ping &ping, std::span<const float> levels,
                                Across across) {
    lay_again(++count_, ray, ping, levels, across);
    return count_;
}

void CircleRaster::lay_again(std::uint32_t number, const PlacedRay &ray, const Ping &ping,
                             std::span<const float> levels, Across across) {
    const double altitude = across == Across::ground ? ray.altitude_m : 0;
    const double slant_end = std::min(ray.range_m, side_m() / 2);
    const double reach = std::sqrt(std::max(0.0, slant_end * slant_end - altitude * altitude));
    // Level by distance: means of the samples of half a cell, or the nearest where samples are wider.
    const double step = cell_m_ * 0.6;
    const auto n = static_cast<std::size_t>(reach / step) + 1;
    along_.assign(n, nothing);
    for (std::size_t i = 0; i < n; ++i) {
        const double g0 = static_cast<double>(i) * step, g1 = g0 + step;
        const double k0 = ping.sample_at(std::hypot(g0, altitude)),
                     k1 = ping.sample_at(std::hypot(g1, altitude));
        const auto first = static_cast<std::ptrdiff_t>(std::ceil(k0)),
                   last = static_cast<std::ptrdiff_t>(std::floor(k1));
        double sum = 0;
        int heard = 0;
        const auto take = [&](std::ptrdiff_t k) {
            if (k >= 0 && k < std::ssize(levels) && !std::isnan(levels[static_cast<std::size_t>(k)])) {
                sum += static_cast<double>(levels[static_cast<std::size_t>(k)]);
                ++heard;
            }
        };
        if (last >= first)
            for (auto k = first; k <= last; ++k)
                take(k);
        else
            take(std::lround((k0 + k1) / 2));
        if (heard > 0)
            along_[i] =
                static_cast<std::int16_t>(std::clamp(std::lround(100 * sum / heard), -32000L, 32000L));
    }
    const double half = ray.half_deg / degrees_per_radian, middle = ray.bearing_deg / degrees_per_radian;
    for (std::size_t i = 0; i < n; ++i) {
        if (along_[i] == nothing)
            continue;
        const double g = (static_cast<double>(i) + 0.5) * step;
        const auto across_it = static_cast<int>(std::ceil(g * half / step));
        for (int j = -across_it; j <= across_it; ++j) {
            const double a = middle + (across_it > 0 ? half * j / across_it : 0);
            auto &cell =
                cells_[index_of({ray.at.east_m + g * std::sin(a), ray.at.north_m + g * std::cos(a)})];
            // What came later stays, but for what came a turn of the counter later.
            if (cell.ray > number && cell.ray - number < 1000)
                continue;
            cell.ray = number;
            cell.level = along_[i];
        }
    }
}

void paint_circle(const CircleRaster &raster, const CircleLook &look, const DisplayWindow &window,
                  const std::array<std::uint32_t, 256> &colours, std::uint32_t page, std::uint32_t *pixels,
                  std::size_t width, std::size_t height) {
    const double up = look.up_deg / degrees_per_radian, s = std::sin(up), c = std::cos(up);
    const double turn = std::max<double>(1, look.turn);
    // Sixteen shades of age are more than an eye tells apart.
    constexpr std::size_t ages = 16;
    std::vector<std::uint32_t> shades(ages * 256);
    for (std::size_t a = 0; a < ages; ++a) {
        const double share = look.palest * std::min(1.0, static_cast<double>(a) / (ages - 1));
        for (std::size_t l = 0; l < 256; ++l) {
            std::uint32_t mixed = 0xFF000000U;
            for (const unsigned shift : {0U, 8U, 16U}) {
                const double from = (colours[l] >> shift) & 0xFFU, to = (page >> shift) & 0xFFU;
                mixed |= static_cast<std::uint32_t>(std::lround(from + share * (to - from))) << shift;
            }
            shades[a * 256 + l] = mixed;
        }
    }
    const double radius2 = look.radius_m * look.radius_m;
    for (std::size_t y = 0; y < height; ++y) {
        const double ahead =
            (static_cast<double>(height) / 2 - static_cast<double>(y) - 0.5) * look.metres_a_pixel;
        for (std::size_t x = 0; x < width; ++x) {
            const double right =
                (static_cast<double>(x) + 0.5 - static_cast<double>(width) / 2) * look.metres_a_pixel;
            const EastNorth p{look.middle.east_m + ahead * s + right * c,
                              look.middle.north_m + ahead * c - right * s};
            const double de = p.east_m - look.head.east_m, dn = p.north_m - look.head.north_m;
            auto &pixel = pixels[y * width + x];
            pixel = page;
            if (de * de + dn * dn > radius2)
                continue;
            const auto &cell = raster.at(p);
            if (cell.ray == 0 || cell.ray > look.newest)
                continue;
            const double age = static_cast<double>(look.newest - cell.ray) / turn;
            if (age > 2)
                continue;
            const auto shade = static_cast<std::size_t>(std::min(1.0, age) * (ages - 1));
            pixel = shades[shade * 256 + window.level_of(cell.level / 100.0)];
        }
    }
}

} // namespace heron
