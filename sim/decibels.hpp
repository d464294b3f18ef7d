// Powers of levels.
#pragma once

#include <cmath>

namespace heron::sim {

/// The power of a level in decibels re 1.
inline double power_of(double db) {
    return std::pow(10.0, db / 10);
}

} // namespace heron::sim
