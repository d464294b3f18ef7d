// Waters for tests of tuning.
#pragma once

#include "tuning/budget.hpp"

namespace heron::test {

inline WaterState lake(double depth, BottomType bottom = BottomType::sand, double suspended = -78) {
    WaterState w;
    w.shallowest_m = w.deepest_m = depth;
    w.bottom = bottom;
    w.suspended_db = suspended;
    return w;
}

} // namespace heron::test
