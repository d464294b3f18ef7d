#include "cut_out.hpp"

#include <algorithm>
#include <cmath>

namespace heron::study {

CutOut cut_out(const Swath &s, const Echo &e) {
    CutOut cut;
    cut.at.fill(CutOut::nothing);
    const bool water = e.zone == Zone::water;
    const auto &grid = water ? s.water : s.ground;
    const double along = s.along_m[e.strongest_line];
    for (std::size_t scale = 0; scale < CutOut::scales; ++scale) {
        const double line_m = CutOut::line_m[scale], column_m = CutOut::column_m[scale];
        std::array<float, CutOut::columns> sum;
        std::array<int, CutOut::columns> many;
        for (std::size_t i = 0; i < CutOut::lines; ++i) {
            // Lines of the swath within the cell, or the nearest one, where it lies no farther than they are
            // apart.
            const double from = along + (static_cast<double>(i) - CutOut::lines / 2.0 - 0.5) * line_m,
                         to = from + line_m, middle = (from + to) / 2;
            auto first = static_cast<std::size_t>(std::lower_bound(s.along_m.begin(), s.along_m.end(), from) -
                                                  s.along_m.begin());
            auto last = static_cast<std::size_t>(std::lower_bound(s.along_m.begin(), s.along_m.end(), to) -
                                                 s.along_m.begin());
            if (first == last) {
                if (first == s.lines() ||
                    (first > 0 && middle - s.along_m[first - 1] < s.along_m[first] - middle))
                    --first;
                if (std::fabs(s.along_m[first] - middle) > std::max(line_m, s.spacing_m))
                    continue;
                last = first + 1;
            }
            sum.fill(0);
            many.fill(0);
            for (auto line = first; line < last; ++line) {
                const double edge = water ? 0 : s.edge_m[line];
                // About the same slant range on every line.
                const double own = (water ? 0 : s.edge_m[e.strongest_line]) +
                                   (static_cast<double>(e.strongest_column) + 0.5) * s.cell_m;
                const double end = water ? s.edge_m[line] : s.end_m[line];
                for (std::size_t k = 0; k < CutOut::columns; ++k) {
                    const double near = own + (static_cast<double>(k) - CutOut::before - 0.5) * column_m;
                    const auto a = static_cast<std::ptrdiff_t>(std::ceil((near - edge) / s.cell_m - 0.5)),
                               b = static_cast<std::ptrdiff_t>(
                                   std::ceil((near + column_m - edge) / s.cell_m - 0.5));
                    for (auto c = std::max<std::ptrdiff_t>(a, 0);
                         c < std::min(b, static_cast<std::ptrdiff_t>(grid.columns)); ++c) {
                        if (edge + (static_cast<double>(c) + 0.5) * s.cell_m > end)
                            break;
                        sum[k] += grid.at(line, static_cast<std::size_t>(c));
                        ++many[k];
                    }
                }
            }
            for (std::size_t k = 0; k < CutOut::columns; ++k)
                if (many[k] > 0)
                    cut.at[(scale * CutOut::lines + i) * CutOut::columns + k] = static_cast<std::int8_t>(
                        std::lround(std::clamp(sum[k] / static_cast<float>(many[k]), -16.0F, 26.0F) *
                                    CutOut::steps_per_db));
        }
    }
    return cut;
}

} // namespace heron::study
