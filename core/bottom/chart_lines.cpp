#include "bottom/chart_lines.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace heron {
namespace {

const GroundMap::Cell *cell_under(const GroundMap &map, const GroundRaster &r, std::size_t column,
                                  std::size_t row) {
    return map.cell(static_cast<int>(std::floor(r.east_of(column) / map.cell_m())),
                    static_cast<int>(std::floor(r.north_of(row) / map.cell_m())));
}

} // namespace

std::vector<std::vector<EastNorth>> track_of(const GroundMap &map) {
    constexpr double gap_m = 8;
    const auto &s = map.soundings();
    std::vector<std::vector<EastNorth>> lines;
    for (std::size_t i = 0; i < s.size(); ++i) {
        if (i == 0 || std::hypot(s[i].east_m - s[i - 1].east_m, s[i].north_m - s[i - 1].north_m) > gap_m)
            lines.emplace_back();
        lines.back().push_back({s[i].east_m, s[i].north_m});
    }
    return lines;
}

std::vector<Contour> depth_contours(const DepthGrid &grid, double step) {
    float deepest = 0;
    for (const float d : grid.depth_m)
        if (d == d)
            deepest = std::max(deepest, d);
    constexpr std::size_t most_levels = 200;
    std::vector<double> levels;
    for (double d = step; d < static_cast<double>(deepest) && levels.size() < most_levels; d += step)
        levels.push_back(d);
    return contours_of(grid.raster, grid.depth_m, levels);
}

std::vector<Contour> edges_of_looks(const GroundMap &map, const GroundRaster &seen, int looks) {
    // A border of nothing closes the lines.
    auto r = seen;
    r.west_m -= r.cell_m;
    r.north_m += r.cell_m;
    r.columns += 2;
    r.rows += 2;
    std::vector<float> count(r.cells(), 0);
    for (std::size_t y = 0; y < r.rows; ++y)
        for (std::size_t x = 0; x < r.columns; ++x)
            if (const auto *c = cell_under(map, r, x, y))
                count[y * r.columns + x] = static_cast<float>(c->looks());
    return contours_of(r, count, {looks - 0.5});
}

std::vector<float> best_levels(const GroundMap &map, const GroundRaster &r) {
    std::vector<float> level(r.cells(), std::numeric_limits<float>::quiet_NaN());
    for (std::size_t y = 0; y < r.rows; ++y)
        for (std::size_t x = 0; x < r.columns; ++x)
            if (const auto *c = cell_under(map, r, x, y); c != nullptr && c->best() > 0)
                level[y * r.columns + x] = c->best_db();
    return level;
}

std::vector<float> blended_levels(const GroundMap &map, const GroundRaster &r) {
    std::vector<float> level(r.cells(), std::numeric_limits<float>::quiet_NaN());
    for (std::size_t y = 0; y < r.rows; ++y)
        for (std::size_t x = 0; x < r.columns; ++x)
            if (const auto *c = cell_under(map, r, x, y); c != nullptr && c->weight() > 0)
                level[y * r.columns + x] = c->mean_db();
    return level;
}

} // namespace heron
