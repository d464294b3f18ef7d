#include "water/bounce.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace heron {
namespace {

constexpr double width_of_sigma = 2.3548; // of a Gaussian: its half-power width over one sigma

// Half of the slopes' variance tilts sideways, out of the fan.
double kept_by_slopes(double slope_variance, double grazing, double along) {
    const double thrown = width_of_sigma * 2 * std::sqrt(slope_variance / 2) * std::sin(grazing);
    return along / std::hypot(along, thrown);
}

} // namespace

const Sediment &usual_sediment(std::size_t kind) {
    static const std::array<Sediment, 4> all{
        {{1.2, 0.985, 0.06}, {1.85, 1.13, 0.12}, {2.5, 1.34, 0.28}, {2.5, 2.5, 0.4}}};
    return all.at(kind);
}

double surface_slope_variance(double wind) {
    return 0.003 + 0.00512 * std::max(0.0, wind);
}

double surface_backscatter(double wind, double frequency_hz, double grazing) {
    const double khz = frequency_hz / 1000, sine = std::max(1e-4, std::sin(grazing));
    // Extinction by the bubbles over all depths, and the share of their damping that is radiation.
    const double extinction =
        std::pow(10.0, -5.2577 + 0.4701 * std::min(wind, 11.0)) * std::pow(khz / 25, 0.85);
    const double radiated = 0.0136 / (0.0255 * std::cbrt(khz));
    return radiated / (8 * std::numbers::pi) * sine * (1 - std::exp(-2 * extinction / sine));
}

double reflected_by_bottom(const Sediment &s, double grazing) {
    const double cosine = s.speed * std::cos(grazing);
    if (cosine >= 1)
        return 1; // flatter than the critical angle
    const double a = s.density * s.speed * std::sin(grazing), b = std::sqrt(1 - cosine * cosine);
    return std::pow((a - b) / (a + b), 2);
}

double kept_at_surface(double wind, double grazing, double along) {
    return kept_by_slopes(surface_slope_variance(wind), grazing, along);
}

double kept_at_bottom(const Sediment &s, double grazing, double along) {
    return reflected_by_bottom(s, grazing) * kept_by_slopes(2 * s.slope * s.slope, grazing, along);
}

std::vector<ImagePath> image_paths(double depth, double draught, int most) {
    std::vector<ImagePath> all;
    for (int k = 0; k <= most; ++k) {
        all.push_back({(2 * k + 1) * depth - draught, k, k, false});
        if (k < most)
            all.push_back({(2 * k + 1) * depth + draught, k, k + 1, true});
    }
    return all;
}

} // namespace heron
