#include "tuning/eye.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace heron {

double cycles_over(double across, double along, double pixel_across, double pixel_along) {
    return 0.5 * std::sqrt(std::max(0.0, across / pixel_across) * std::max(0.0, along / pixel_along));
}

double told_in_the_end(double cycles) {
    const double x = cycles / cycles_to_recognise;
    if (x <= 0.05) // less than one in ten thousand
        return 0;
    const double raised = std::pow(x, 2.7 + 0.7 * x);
    return raised / (1 + raised);
}

double told_within(double cycles, double seconds) {
    const double in_the_end = told_in_the_end(cycles);
    const double rate = in_the_end < 0.9 ? in_the_end / 3.4 : cycles / cycles_to_recognise / 6.8;
    return in_the_end * (1 - std::exp(-seconds * std::max(rate, in_the_end / 3.4)));
}

double told_in_a_glance(double cycles) {
    constexpr std::size_t knots = 600;
    constexpr double step = 0.04;
    static const auto table = [] {
        std::array<double, knots> t{};
        for (std::size_t i = 0; i < knots; ++i)
            t[i] = told_within(static_cast<double>(i) * step);
        return t;
    }();
    const double x = std::max(0.0, cycles) / step;
    if (x >= static_cast<double>(knots - 1))
        return told_within(cycles);
    const auto i = static_cast<std::size_t>(x);
    const double f = x - static_cast<double>(i);
    return table[i] * (1 - f) + table[i + 1] * f;
}

} // namespace heron
