#include "reading/outline.hpp"

#include "fault/told.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

struct Corner {
    double x, y, sx, sy; // along, across to starboard; one sigma of each
};

double cross(const Corner &a, const Corner &b, const Corner &c) {
    return (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
}
bool sides_cross(const Corner &a, const Corner &b, const Corner &c, const Corner &d) {
    return cross(a, b, c) * cross(a, b, d) < 0 && cross(c, d, a) * cross(c, d, b) < 0;
}

} // namespace

std::string say(OutlineState state) {
    switch (state) {
    case OutlineState::measured:
        break;
    case OutlineState::too_few:
        return told("press on two points for their distance, on more for an area");
    case OutlineState::in_the_water:
        return told("a corner lies before the first return: its side distance is not known");
    case OutlineState::no_bottom:
        return told("the bottom was not found at a corner");
    case OutlineState::not_straight:
        return told(
            "the boat turned, stood or ran too fast between the corners: lengths are not measured there");
    case OutlineState::crossed:
        return told("its sides cross: press the corners in order");
    }
    return {};
}

OutlineState measure_outline(const Scan &scan, std::span<const Cursor> corners, const SteadyLimits &limits,
                             Outline &o) {
    if (corners.size() < 2)
        return OutlineState::too_few;
    std::vector<Corner> all;
    auto first = corners[0].row, last = first;
    for (const auto &c : corners) {
        first = std::min(first, c.row);
        last = std::max(last, c.row);
        const auto bottom = bottom_at(scan, c.row);
        if (!bottom)
            return OutlineState::no_bottom;
        const auto &ping = scan.ping(c.row);
        const auto g = ground_range(c.slant_m, range_sd_m(ping), *bottom);
        if (!g)
            return OutlineState::in_the_water;
        const auto *beam = ping.beam(c.side);
        const double half_beam =
            beam != nullptr ? c.slant_m * beam->width_along_deg / degrees_per_radian / 2 : 0.2;
        all.push_back(
            {scan.facts(c.row).along_m, c.side == Side::port ? -g->value : g->value, half_beam, g->sd});
    }
    for (auto row = first; row <= last; ++row)
        if (strike_of(scan.facts(row), limits) != Strike::none)
            return OutlineState::not_straight;
    const auto n = all.size();
    for (std::size_t i = 0; n > 3 && i < n; ++i)
        for (std::size_t j = i + 2; j < n; ++j)
            if ((j + 1) % n != i && sides_cross(all[i], all[(i + 1) % n], all[j], all[(j + 1) % n]))
                return OutlineState::crossed;
    o = {};
    double length_variance = 0, twice = 0, area_variance = 0;
    const auto sides = n == 2 ? 1 : n;
    for (std::size_t i = 0; i < sides; ++i) {
        const auto &a = all[i], &b = all[(i + 1) % n];
        const double dx = b.x - a.x, dy = b.y - a.y, d = std::max(1e-6, std::hypot(dx, dy));
        o.length_m.value += d;
        length_variance +=
            ((a.sx * a.sx + b.sx * b.sx) * dx * dx + (a.sy * a.sy + b.sy * b.sy) * dy * dy) / d / d;
        twice += a.x * b.y - b.x * a.y;
    }
    o.length_m.sd = std::sqrt(length_variance);
    if (n > 2) {
        o.area_m2.value = std::fabs(twice) / 2;
        // Of 2A = Σ xᵢ(yᵢ₊₁ − yᵢ₋₁): what moves a corner moves the area by the line between its neighbours.
        for (std::size_t i = 0; i < n; ++i) {
            const auto &before = all[(i + n - 1) % n], &after = all[(i + 1) % n];
            area_variance += std::pow((after.y - before.y) / 2 * all[i].sx, 2) +
                             std::pow((after.x - before.x) / 2 * all[i].sy, 2);
        }
        o.area_m2.sd = std::sqrt(area_variance);
    }
    double x0 = 1e18, x1 = -1e18, y0 = 1e18, y1 = -1e18, rows = 0, slant = 0;
    for (std::size_t i = 0; i < n; ++i) {
        x0 = std::min(x0, all[i].x), x1 = std::max(x1, all[i].x);
        y0 = std::min(y0, all[i].y), y1 = std::max(y1, all[i].y);
        rows += static_cast<double>(corners[i].row) / static_cast<double>(n);
        slant += corners[i].slant_m / static_cast<double>(n);
    }
    o.along_m = x1 - x0;
    o.across_m = y1 - y0;
    o.middle = {static_cast<std::size_t>(std::lround(rows)), corners[0].side, slant};
    return OutlineState::measured;
}

} // namespace heron
