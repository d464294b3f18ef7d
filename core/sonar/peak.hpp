// Where a peak lies between samples.
#pragma once

#include <algorithm>

namespace heron {

/// How far from the middle one of three neighbours, of which it is the highest, the top of the parabola
/// through them lies: −0.5…0.5 of their spacing; 0 where they are flat.
inline double peak_between(double left, double middle, double right) {
    const double bend = left - 2 * middle + right;
    return bend < -1e-6 ? std::clamp(0.5 * (left - right) / bend, -0.5, 0.5) : 0;
}

} // namespace heron
