#include "bottom/texture.hpp"

#include "bottom/chart_lines.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace heron {

CoOccurrence co_occurrence(std::span<const int> grey, std::size_t columns, int levels) {
    constexpr std::array<std::array<std::ptrdiff_t, 2>, 4> ways{{{1, 0}, {1, -1}, {0, -1}, {-1, -1}}};
    CoOccurrence mean;
    if (columns == 0 || levels < 1)
        return mean;
    const auto n = static_cast<std::size_t>(levels);
    const auto wide = static_cast<std::ptrdiff_t>(columns), high = std::ssize(grey) / wide;
    std::vector<double> pairs(n * n);
    double told = 0;
    for (const auto &[dx, dy] : ways) {
        std::fill(pairs.begin(), pairs.end(), 0);
        double all = 0;
        for (std::ptrdiff_t y = 0; y < high; ++y)
            for (std::ptrdiff_t x = 0; x < wide; ++x) {
                const auto xx = x + dx, yy = y + dy;
                if (xx < 0 || yy < 0 || xx >= wide || yy >= high)
                    continue;
                const int a = grey[static_cast<std::size_t>(y * wide + x)],
                          b = grey[static_cast<std::size_t>(yy * wide + xx)];
                if (a < 0 || b < 0 || a >= levels || b >= levels)
                    continue;
                pairs[static_cast<std::size_t>(a) * n + static_cast<std::size_t>(b)] += 1;
                pairs[static_cast<std::size_t>(b) * n + static_cast<std::size_t>(a)] += 1;
                all += 2;
            }
        if (!(all > 0))
            continue;
        told += 1;
        for (std::size_t i = 0; i < n; ++i)
            for (std::size_t k = 0; k < n; ++k) {
                const double p = pairs[i * n + k] / all, d = static_cast<double>(i) - static_cast<double>(k);
                if (p <= 0)
                    continue;
                mean.contrast += p * d * d;
                mean.homogeneity += p / (1 + d * d);
                mean.entropy -= p * std::log(p);
            }
    }
    if (told > 0) {
        mean.contrast /= told;
        mean.homogeneity /= told;
        mean.entropy /= told;
    }
    return mean;
}

TextureMap texture_of(const GroundMap &map, const GroundRaster &seen) {
    constexpr double window_m = 4, every_m = 1, least_db = -16, most_db = 18;
    constexpr int steps = 16;
    TextureMap t;
    t.raster = seen;
    const auto step = std::max<std::size_t>(1, static_cast<std::size_t>(std::lround(every_m / seen.cell_m)));
    t.raster.cell_m = seen.cell_m * static_cast<double>(step);
    t.raster.columns = (seen.columns + step - 1) / step;
    t.raster.rows = (seen.rows + step - 1) / step;
    const auto level = blended_levels(map, seen);
    const auto half = static_cast<std::ptrdiff_t>(std::lround(window_m / 2 / seen.cell_m));
    const auto side = static_cast<std::size_t>(2 * half + 1);
    for (auto *values : {&t.level_db, &t.spread_db, &t.contrast, &t.homogeneity, &t.entropy})
        values->assign(t.raster.cells(), std::numeric_limits<float>::quiet_NaN());
    std::vector<int> grey(side * side);
    for (std::size_t y = 0; y < t.raster.rows; ++y)
        for (std::size_t x = 0; x < t.raster.columns; ++x) {
            const auto cx = static_cast<std::ptrdiff_t>(x * step + step / 2),
                       cy = static_cast<std::ptrdiff_t>(y * step + step / 2);
            double n = 0, sum = 0, squares = 0;
            for (std::ptrdiff_t dy = -half; dy <= half; ++dy)
                for (std::ptrdiff_t dx = -half; dx <= half; ++dx) {
                    auto &g = grey[static_cast<std::size_t>(dy + half) * side +
                                   static_cast<std::size_t>(dx + half)];
                    g = -1;
                    const auto xx = cx + dx, yy = cy + dy;
                    if (xx < 0 || yy < 0 || xx >= static_cast<std::ptrdiff_t>(seen.columns) ||
                        yy >= static_cast<std::ptrdiff_t>(seen.rows))
                        continue;
                    const auto db = static_cast<double>(
                        level[static_cast<std::size_t>(yy) * seen.columns + static_cast<std::size_t>(xx)]);
                    if (!(db == db))
                        continue;
                    n += 1;
                    sum += db;
                    squares += db * db;
                    g = std::clamp(static_cast<int>((db - least_db) / (most_db - least_db) * steps), 0,
                                   steps - 1);
                }
            if (n < static_cast<double>(grey.size()) / 2)
                continue;
            const auto i = y * t.raster.columns + x;
            const auto c = co_occurrence(grey, side, steps);
            t.level_db[i] = static_cast<float>(sum / n);
            t.spread_db[i] = static_cast<float>(std::sqrt(std::max(0.0, squares / n - sum * sum / n / n)));
            t.contrast[i] = static_cast<float>(c.contrast);
            t.homogeneity[i] = static_cast<float>(c.homogeneity);
            t.entropy[i] = static_cast<float>(c.entropy);
        }
    return t;
}

} // namespace heron
