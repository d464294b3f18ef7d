#include "bottom/depth_grid.hpp"

#include "bottom/unknown.hpp"
#include "files/gdal.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <gdal_alg.h>
#include <limits>
#include <set>

namespace heron {
namespace {

constexpr double highest_m = -100;
// How far soundings of a day lie off each other by the receiver's wander; common practice, no published
// source.
constexpr double place_sd_m = 0.4;
// How bottoms fall that nobody has sounded: three degrees at one sigma; common practice, no published source.
constexpr double usual_slope = 0.05;
constexpr std::size_t lag_bins = 12, most_grid_cells = 16'000'000;

// What soundings differ by at a distance, by metres of `bin_m`, rising.
struct Variogram {
    double bin_m;
    std::array<double, lag_bins> half_square{};
    double at(double metres) const {
        const double x = std::clamp(metres / bin_m, 0.0, lag_bins - 1.001);
        const auto i = static_cast<std::size_t>(x);
        const double below = i == 0 ? 0 : half_square[i - 1];
        return below + (x - static_cast<double>(i)) * (half_square[i] - below);
    }
};

Variogram learn(const std::vector<GroundMap::Sounding> &s, double reach) {
    Variogram v{reach / lag_bins, {}};
    std::array<double, lag_bins> n{};
    // Every so many pairs is enough; a fixed stride keeps the answer the same each time.
    const std::size_t stride = std::max<std::size_t>(1, s.size() / 1500);
    for (std::size_t i = 0; i < s.size(); i += stride)
        for (std::size_t j = i + 1; j < s.size(); j += stride) {
            const double d = std::hypot(s[i].east_m - s[j].east_m, s[i].north_m - s[j].north_m);
            if (d >= reach)
                continue;
            const auto bin = static_cast<std::size_t>(d / v.bin_m);
            v.half_square[bin] += 0.5 * std::pow(s[i].depth_m - s[j].depth_m, 2);
            n[bin] += 1;
        }
    // Where no two soundings lie so far apart they say nothing of how the bottom falls there; then as over a
    // usual slope.
    double before = 0;
    for (std::size_t i = 0; i < lag_bins; ++i) {
        const double falls = usual_slope * (static_cast<double>(i) + 1) * v.bin_m;
        before = v.half_square[i] = std::max(before, n[i] > 5 ? v.half_square[i] / n[i] : falls * falls / 2);
    }
    return v;
}

// How far the nearest sounding is from each cell, in metres: two sweeps over the raster.
std::vector<float> metres_away(const GroundRaster &r, const std::vector<GroundMap::Sounding> &soundings) {
    std::vector<float> away(r.cells(), 1e9F);
    for (const auto &s : soundings)
        if (const auto i = r.cell_at(s.east_m, s.north_m))
            away[*i] = 0;
    const auto step = static_cast<float>(r.cell_m), slant = step * 1.41421356F;
    const auto columns = static_cast<std::ptrdiff_t>(r.columns), rows = static_cast<std::ptrdiff_t>(r.rows);
    const auto reachFrom = [&](std::ptrdiff_t i, std::ptrdiff_t xx, std::ptrdiff_t yy, float cost) {
        if (xx >= 0 && yy >= 0 && xx < columns && yy < rows)
            away[static_cast<std::size_t>(i)] = std::min(
                away[static_cast<std::size_t>(i)], away[static_cast<std::size_t>(yy * columns + xx)] + cost);
    };
    for (std::ptrdiff_t yy = 0; yy < rows; ++yy)
        for (std::ptrdiff_t xx = 0; xx < columns; ++xx) {
            const auto i = yy * columns + xx;
            reachFrom(i, xx - 1, yy, step);
            reachFrom(i, xx, yy - 1, step);
            reachFrom(i, xx - 1, yy - 1, slant);
            reachFrom(i, xx + 1, yy - 1, slant);
        }
    for (std::ptrdiff_t yy = rows; yy-- > 0;)
        for (std::ptrdiff_t xx = columns; xx-- > 0;) {
            const auto i = yy * columns + xx;
            reachFrom(i, xx + 1, yy, step);
            reachFrom(i, xx, yy + 1, step);
            reachFrom(i, xx + 1, yy + 1, slant);
            reachFrom(i, xx - 1, yy + 1, slant);
        }
    return away;
}

// From how many of the four sides, each a quarter of the compass, a sounding lies within `most` metres.
// `away`: from the nearest one.
std::vector<std::uint8_t> sides_sounded(const GroundRaster &r, const std::vector<float> &away, double most) {
    std::vector<std::uint8_t> sides(r.cells(), 0);
    const auto step = static_cast<float>(r.cell_m), slant = step * 1.41421356F,
               within = static_cast<float>(most);
    constexpr float far = 1e9F;
    // Line by line, away from one side; each cell hears from three of the line before.
    const auto sweep = [&](std::size_t lines, std::size_t length, const auto &index) {
        std::vector<float> before(length + 2, far), here(length + 2, far);
        for (std::size_t line = 0; line < lines; ++line) {
            for (std::size_t k = 0; k < length; ++k) {
                const auto i = index(line, k);
                const float d = std::min(before[k + 1] + step, std::min(before[k], before[k + 2]) + slant);
                sides[i] = static_cast<std::uint8_t>(sides[i] + (away[i] <= 0 || d <= within));
                here[k + 1] = away[i] <= 0 ? 0 : d;
            }
            std::swap(before, here);
        }
    };
    const auto columns = r.columns, rows = r.rows;
    sweep(columns, rows, [&](std::size_t x, std::size_t y) { return y * columns + x; });
    sweep(columns, rows, [&](std::size_t x, std::size_t y) { return y * columns + columns - 1 - x; });
    sweep(rows, columns, [&](std::size_t y, std::size_t x) { return y * columns + x; });
    sweep(rows, columns, [&](std::size_t y, std::size_t x) { return (rows - 1 - y) * columns + x; });
    return sides;
}

} // namespace

DepthGrid depth_grid(std::vector<GroundMap::Sounding> soundings, const UtmZone &zone, double cell,
                     double reach, double level) {
    DepthGrid grid;
    // Over a datum a sounding may lie above it.
    std::erase_if(soundings,
                  [](const auto &s) { return !(s.depth_m > highest_m) || !(s.depth_m < most_slant_m); });
    if (soundings.empty())
        return grid;
    begin_gdal();
    double west = 1e18, east = -1e18, south = 1e18, north = -1e18;
    for (const auto &s : soundings) {
        west = std::min(west, s.east_m);
        east = std::max(east, s.east_m);
        south = std::min(south, s.north_m);
        north = std::max(north, s.north_m);
    }
    auto &r = grid.raster;
    r.zone = zone;
    r.cell_m = cell;
    // A long day's grid is as coarse as it must be.
    while ((east - west + 2 * reach) * (north - south + 2 * reach) / (r.cell_m * r.cell_m) > most_grid_cells)
        r.cell_m *= 2;
    r.west_m = std::floor((west - reach) / r.cell_m) * r.cell_m;
    r.north_m = std::ceil((north + reach) / r.cell_m) * r.cell_m;
    r.columns = static_cast<std::size_t>(std::ceil((east + reach - r.west_m) / r.cell_m));
    r.rows = static_cast<std::size_t>(std::ceil((r.north_m - south + reach) / r.cell_m));
    std::vector<double> x, y, z;
    double square = 0;
    // One a cell: triangles over soundings a hand apart are all alike, and slow. No three in a row without a
    // breath of difference either, which no triangle could be laid over.
    std::set<std::pair<long, long>> taken;
    for (const auto &s : soundings) {
        square += s.sd_m * s.sd_m;
        if (!taken.insert({std::lround(s.east_m / r.cell_m), std::lround(s.north_m / r.cell_m)}).second)
            continue;
        x.push_back(s.east_m);
        y.push_back(s.north_m);
        z.push_back(s.depth_m - level);
    }
    const double own = square / static_cast<double>(soundings.size());
    const auto v = learn(soundings, reach);
    // GDAL counts rows from the south here.
    const auto run = [&](GDALGridAlgorithm how, const void *options, std::vector<float> &out) {
        out.assign(r.cells(), unknown);
        return GDALGridCreate(how, options, static_cast<GUInt32>(x.size()), x.data(), y.data(), z.data(),
                              r.west_m, r.west_m + static_cast<double>(r.columns) * r.cell_m, r.north_m,
                              r.north_m - static_cast<double>(r.rows) * r.cell_m,
                              static_cast<GUInt32>(r.columns), static_cast<GUInt32>(r.rows), GDT_Float32,
                              out.data(), nullptr, nullptr) == CE_None;
    };
    constexpr double nothing = -9999;
    GDALGridLinearOptions linear{};
    linear.nSizeOfStructure = sizeof linear;
    linear.dfRadius = reach; // outside of the triangles the nearest sounding within it
    linear.dfNoDataValue = nothing;
    if (!run(GGA_Linear, &linear, grid.depth_m)) {
        // One straight lane, or a boat that held: no triangle can be laid over it.
        GDALGridNearestNeighborOptions nearest{};
        nearest.nSizeOfStructure = sizeof nearest;
        nearest.dfRadius1 = nearest.dfRadius2 = reach;
        nearest.dfNoDataValue = nothing;
        if (!run(GGA_NearestNeighbor, &nearest, grid.depth_m))
            return {};
    }
    const auto away = metres_away(r, soundings);
    const auto sides = sides_sounded(r, away, 3 * reach);
    for (std::size_t i = 0; i < r.cells(); ++i)
        if (grid.depth_m[i] <= static_cast<float>(nothing) + 1 || away[i] > static_cast<float>(reach))
            grid.depth_m[i] = unknown;
    // Where the bottom falls, a place that is off is a depth that is off (IHO S-44, 6.1.0: horizontal
    // uncertainty counts by the slope).
    const auto falls = [&](std::ptrdiff_t i, std::ptrdiff_t at, std::ptrdiff_t n, std::ptrdiff_t stride) {
        if (at == 0 || at + 1 == n)
            return 0.0;
        const auto a = static_cast<double>(grid.depth_m[static_cast<std::size_t>(i - stride)]),
                   b = static_cast<double>(grid.depth_m[static_cast<std::size_t>(i + stride)]);
        return a == a && b == b ? (b - a) / (2 * r.cell_m) : 0.0;
    };
    grid.sd_m.assign(r.cells(), unknown);
    const auto columns = static_cast<std::ptrdiff_t>(r.columns), rows = static_cast<std::ptrdiff_t>(r.rows);
    for (std::ptrdiff_t yy = 0; yy < rows; ++yy)
        for (std::ptrdiff_t xx = 0; xx < columns; ++xx) {
            const auto i = yy * columns + xx;
            const auto cell_i = static_cast<std::size_t>(i);
            if (!(grid.depth_m[cell_i] == grid.depth_m[cell_i]))
                continue;
            const double slope = std::hypot(falls(i, xx, columns, 1), falls(i, yy, rows, columns));
            // Beside a lane, not between soundings, the bottom may fall as it never did along it.
            const auto off = static_cast<double>(away[cell_i]);
            const double unseen = sides[cell_i] < 4 ? usual_slope * off : 0;
            grid.sd_m[cell_i] = static_cast<float>(
                std::sqrt(own + 2 * v.at(off) + std::pow(slope * place_sd_m, 2) + unseen * unseen));
        }
    return grid;
}

} // namespace heron
