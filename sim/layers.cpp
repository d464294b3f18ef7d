#include "sim/layers.hpp"

#include <algorithm>
#include <cmath>

namespace heron::sim {
namespace {

constexpr double column_m = 0.5, row_m = 0.25;

} // namespace

BentRays::BentRays(double above, double below, double layer, double deepest, double farthest)
    : ratio_(below / above), above_(above), below_(below), layer_m_(layer) {
    columns_ = static_cast<std::size_t>(std::ceil(farthest / column_m)) + 2;
    rows_ = static_cast<std::size_t>(std::ceil(std::max(0.0, deepest - layer) / row_m)) + 2;
    off_.reserve(columns_ * rows_);
    for (std::size_t row = 0; row < rows_; ++row)
        for (std::size_t column = 0; column < columns_; ++column) {
            const double g = static_cast<double>(column) * column_m,
                         z = layer + static_cast<double>(row) * row_m, straight = std::hypot(g, z);
            const auto met = solved(g, z);
            off_.push_back(
                {static_cast<float>(met.sine - z / straight), static_cast<float>(met.r - straight)});
        }
}

// Where the ray crosses the plane: its sines of incidence go as the speeds.
BentRays::Met BentRays::solved(double g, double z) const {
    if (z <= layer_m_) {
        const double r = std::max(1e-9, std::hypot(g, z));
        return {z / r, r, g / r, z / r};
    }
    const double under = z - layer_m_;
    double low = 0, high = g;
    constexpr int halvings = 48;
    for (int i = 0; i < halvings; ++i) {
        const double x = (low + high) / 2;
        (x / std::hypot(x, layer_m_) * ratio_ < (g - x) / std::hypot(g - x, under) ? low : high) = x;
    }
    const double x = (low + high) / 2, over_way = std::hypot(x, layer_m_),
                 under_way = std::hypot(g - x, under);
    return {layer_m_ / over_way, over_way + under_way * above_ / below_, (g - x) / under_way,
            under / under_way};
}

BentRays::Met BentRays::at(double g, double z) const {
    const double straight = std::max(1e-9, std::hypot(g, z));
    if (z <= layer_m_)
        return {z / straight, straight, g / straight, z / straight};
    const double c = std::clamp(g / column_m, 0.0, static_cast<double>(columns_) - 1.001),
                 l = std::clamp((z - layer_m_) / row_m, 0.0, static_cast<double>(rows_) - 1.001);
    const auto i = static_cast<std::size_t>(l) * columns_ + static_cast<std::size_t>(c);
    const double x = c - std::floor(c), y = l - std::floor(l);
    const auto between = [&](float Off::*what) {
        const auto of = [&](std::size_t k) { return static_cast<double>(off_[k].*what); };
        return (of(i) * (1 - x) + of(i + 1) * x) * (1 - y) +
               (of(i + columns_) * (1 - x) + of(i + columns_ + 1) * x) * y;
    };
    const double sine = std::clamp(z / straight + between(&Off::sine), 0.0, 1.0),
                 along = std::sqrt(1 - sine * sine) * ratio_;
    return {sine, straight + between(&Off::r), along, std::sqrt(1 - along * along)};
}

} // namespace heron::sim
