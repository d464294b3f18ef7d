#include "water/bounce.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace heron {
namespace {

constexpr double width_of_sigma = 2.3548; // of a Gaussian: its half-power width over one sigma

// Half of the slopes' variance tilts sideways, out of the fan.
double thrown_sideways(double slope_variance) {
    return width_of_sigma * 2 * std::sqrt(slope_variance / 2);
}

// Share that stays within a fan of what is thrown so far sideways.
double kept_of(double along, double thrown) {
    return along / std::sqrt(along * along + thrown * thrown);
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

Bounces::Bounces(double wind, const Sediment &s, double along, double frequency_hz)
    : density_speed_(s.density * s.speed), speed_(s.speed), along_(along),
      thrown_by_surface_(thrown_sideways(surface_slope_variance(wind))),
      thrown_by_bottom_(thrown_sideways(2 * s.slope * s.slope)) {
    const double khz = frequency_hz / 1000;
    // Extinction by the bubbles over all depths, and the share of their damping that is radiation.
    extinction_ = std::pow(10.0, -5.2577 + 0.4701 * std::min(wind, 11.0)) * std::pow(khz / 25, 0.85);
    radiated_ = 0.0136 / (0.0255 * std::cbrt(khz));
}

double Bounces::backscatter(double sine) const {
    sine = std::max(1e-4, sine);
    return radiated_ / (8 * std::numbers::pi) * sine * (1 - std::exp(-2 * extinction_ / sine));
}

double Bounces::reflected(double sine) const {
    const double cosine2 = speed_ * speed_ * std::max(0.0, 1 - sine * sine);
    if (cosine2 >= 1)
        return 1; // flatter than the critical angle
    const double a = density_speed_ * sine, b = std::sqrt(1 - cosine2), kept = (a - b) / (a + b);
    return kept * kept;
}

double Bounces::kept_at_surface(double sine) const {
    return kept_of(along_, thrown_by_surface_ * sine);
}

double Bounces::kept_at_bottom(double sine) const {
    return reflected(sine) * kept_of(along_, thrown_by_bottom_ * sine);
}

double Bounces::kept_along(const ImagePath &path, double sine) const {
    double kept = 1;
    const auto bounced = [&kept](int times, double each) {
        for (int i = 0; i < times; ++i)
            kept *= each;
    };
    if (path.by_surface > 0)
        bounced(path.by_surface, kept_at_surface(sine));
    if (path.by_bottom > 0)
        bounced(path.by_bottom, kept_at_bottom(sine));
    return kept;
}

double surface_backscatter(double wind, double frequency_hz, double grazing) {
    return Bounces(wind, {}, 1, frequency_hz).backscatter(std::sin(grazing));
}

double reflected_by_bottom(const Sediment &s, double grazing) {
    return Bounces(0, s, 1, 1e6).reflected(std::sin(grazing));
}

double kept_at_surface(double wind, double grazing, double along) {
    return Bounces(wind, {}, along, 1e6).kept_at_surface(std::sin(grazing));
}

double kept_at_bottom(const Sediment &s, double grazing, double along) {
    return Bounces(0, s, along, 1e6).kept_at_bottom(std::sin(grazing));
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
