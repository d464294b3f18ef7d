#include "plan/round.hpp"

#include <algorithm>
#include <numeric>

namespace heron {

double length_of_round(const GeoPoint &start, const std::vector<GeoPoint> &places,
                       const std::vector<std::size_t> &order) {
    double sum = 0;
    const auto *at = &start;
    for (const auto i : order) {
        sum += leg_between(*at, places[i]).distance_m;
        at = &places[i];
    }
    return sum;
}

std::vector<std::size_t> round_over(const GeoPoint &start, const std::vector<GeoPoint> &places) {
    constexpr std::size_t few = 9;
    const auto n = places.size();
    std::vector<std::size_t> order(n);
    std::iota(order.begin(), order.end(), 0);
    if (n < 2)
        return order;
    std::vector<double> from_start(n), apart(n * n);
    for (std::size_t i = 0; i < n; ++i) {
        from_start[i] = leg_between(start, places[i]).distance_m;
        for (std::size_t j = 0; j < i; ++j)
            apart[i * n + j] = apart[j * n + i] = leg_between(places[i], places[j]).distance_m;
    }
    const auto length = [&](const std::vector<std::size_t> &o) {
        double sum = from_start[o[0]];
        for (std::size_t i = 1; i < n; ++i)
            sum += apart[o[i - 1] * n + o[i]];
        return sum;
    };
    if (n <= few) {
        auto best = order;
        double least = length(best);
        while (std::next_permutation(order.begin(), order.end()))
            if (const double l = length(order); l < least) {
                least = l;
                best = order;
            }
        return best;
    }
    // The nearest first.
    std::vector<bool> taken(n, false);
    for (std::size_t i = 0; i < n; ++i) {
        std::size_t nearest = n;
        double least = 1e300;
        for (std::size_t j = 0; j < n; ++j) {
            const double d = i == 0 ? from_start[j] : apart[order[i - 1] * n + j];
            if (!taken[j] && d < least) {
                least = d;
                nearest = j;
            }
        }
        order[i] = nearest;
        taken[nearest] = true;
    }
    for (bool better = true; better;) {
        better = false;
        for (std::size_t i = 0; i + 1 < n; ++i)
            for (std::size_t j = i + 1; j < n; ++j) {
                const double before = (i == 0 ? from_start[order[0]] : apart[order[i - 1] * n + order[i]]) +
                                      (j + 1 < n ? apart[order[j] * n + order[j + 1]] : 0),
                             after = (i == 0 ? from_start[order[j]] : apart[order[i - 1] * n + order[j]]) +
                                     (j + 1 < n ? apart[order[i] * n + order[j + 1]] : 0);
                if (after < before - 1e-6) {
                    std::reverse(order.begin() + static_cast<std::ptrdiff_t>(i),
                                 order.begin() + static_cast<std::ptrdiff_t>(j) + 1);
                    better = true;
                }
            }
    }
    return order;
}

} // namespace heron
