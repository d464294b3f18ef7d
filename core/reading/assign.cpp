#include "reading/assign.hpp"

#include <algorithm>
#include <limits>

namespace heron {

std::vector<int> assign(const std::vector<double> &cost, std::size_t rows, std::size_t columns,
                        double alone) {
    // As many columns more as there are rows: each stands for "alone".
    const auto n = rows, m = columns + rows;
    const auto at = [&](std::size_t i, std::size_t j) {
        return j < columns ? std::min(cost[i * columns + j], 2 * alone + 1) : alone;
    };
    constexpr double endless = std::numeric_limits<double>::infinity();
    std::vector<double> u(n + 1, 0), v(m + 1, 0);
    std::vector<std::size_t> row_of(m + 1, 0), way(m + 1, 0);
    for (std::size_t i = 1; i <= n; ++i) {
        row_of[0] = i;
        std::size_t j0 = 0;
        std::vector<double> least(m + 1, endless);
        std::vector<bool> used(m + 1, false);
        do {
            used[j0] = true;
            const auto i0 = row_of[j0];
            double step = endless;
            std::size_t j1 = 0;
            for (std::size_t j = 1; j <= m; ++j) {
                if (used[j])
                    continue;
                const double reduced = at(i0 - 1, j - 1) - u[i0] - v[j];
                if (reduced < least[j]) {
                    least[j] = reduced;
                    way[j] = j0;
                }
                if (least[j] < step) {
                    step = least[j];
                    j1 = j;
                }
            }
            for (std::size_t j = 0; j <= m; ++j)
                if (used[j]) {
                    u[row_of[j]] += step;
                    v[j] -= step;
                } else {
                    least[j] -= step;
                }
            j0 = j1;
        } while (row_of[j0] != 0);
        do {
            const auto j1 = way[j0];
            row_of[j0] = row_of[j1];
            j0 = j1;
        } while (j0 != 0);
    }
    std::vector<int> column(rows, -1);
    for (std::size_t j = 1; j <= columns; ++j)
        if (row_of[j] > 0 && at(row_of[j] - 1, j - 1) <= alone)
            column[row_of[j] - 1] = static_cast<int>(j - 1);
    return column;
}

} // namespace heron
