// Whether a figure that came from outside can be one.
#pragma once

namespace heron {

/// False for not-a-number too.
constexpr bool within(double v, double low, double high) {
    return v >= low && v <= high;
}

} // namespace heron
