// Levels in decibels and the powers they stand for.
#pragma once

#include <cmath>
#include <numbers>

namespace heron {

/// What one decibel is in natural logarithms of power.
inline constexpr double nepers_of_power_a_db = std::numbers::ln10 / 10;

/// The power of a level in decibels re 1. By the natural exponential, which costs a third of a power of ten.
inline double power_of(double db) {
    return std::exp(nepers_of_power_a_db * db);
}

/// 10·log₁₀ of a power, which must be over 0.
inline double decibels_of(double power) {
    return std::log(power) / nepers_of_power_a_db;
}

} // namespace heron
