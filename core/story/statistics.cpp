#include "story/statistics.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace heron {
namespace {

// The normal's quantile, by Newton's steps on its integral.
double normal_quantile(double p) {
    double z = 0;
    for (int i = 0; i < 60; ++i) {
        const double below = 0.5 * std::erfc(-z / std::sqrt(2.0)),
                     density = std::exp(-z * z / 2) / std::sqrt(2 * 3.14159265358979323846);
        const double step = std::clamp((below - p) / std::max(1e-12, density), -1.0, 1.0);
        z -= step;
        if (std::fabs(step) < 1e-12)
            break;
    }
    return z;
}

double log_choose(double n, double k) {
    return std::lgamma(n + 1) - std::lgamma(k + 1) - std::lgamma(n - k + 1);
}

} // namespace

ShareInterval wilson(std::size_t k, std::size_t n, double confidence) {
    if (n == 0)
        return {};
    const double z = normal_quantile(0.5 + std::clamp(confidence, 0.0, 0.9999) / 2),
                 m = static_cast<double>(n), p = static_cast<double>(std::min(k, n)) / m, z2 = z * z;
    const double middle = (p + z2 / (2 * m)) / (1 + z2 / m),
                 half = z / (1 + z2 / m) * std::sqrt(p * (1 - p) / m + z2 / (4 * m * m));
    return {std::max(0.0, middle - half), std::min(1.0, middle + half)};
}

double fisher_exact(std::size_t a, std::size_t b, std::size_t c, std::size_t d) {
    const auto n = static_cast<double>(a + b + c + d), row = static_cast<double>(a + b),
               column = static_cast<double>(a + c);
    if (n == 0)
        return 1;
    const auto log_p = [&](double x) {
        return log_choose(row, x) + log_choose(n - row, column - x) - log_choose(n, column);
    };
    const double seen = log_p(static_cast<double>(a)), low = std::max(0.0, row + column - n),
                 high = std::min(row, column);
    constexpr double as_likely = 1e-7; // tables that differ by rounding alone are alike
    double sum = 0;
    for (double x = low; x <= high; x += 1)
        if (const double l = log_p(x); l <= seen + as_likely)
            sum += std::exp(l);
    return std::min(1.0, sum);
}

std::vector<double> benjamini_hochberg(const std::vector<double> &p) {
    std::vector<std::size_t> order(p.size());
    std::iota(order.begin(), order.end(), 0);
    std::sort(order.begin(), order.end(), [&](auto x, auto y) { return p[x] > p[y]; });
    std::vector<double> q(p.size());
    double least = 1;
    for (std::size_t i = 0; i < order.size(); ++i) {
        const auto rank = static_cast<double>(order.size() - i);
        least = std::min(least, p[order[i]] * static_cast<double>(p.size()) / rank);
        q[order[i]] = least;
    }
    return q;
}

} // namespace heron
