#include "around/rings.hpp"

#include <array>

namespace heron {

std::vector<double> rings(double range, RingStyle style, UnitSystem units) {
    std::vector<double> all;
    if (!(range > 0))
        return all;
    if (style == RingStyle::quarters) {
        for (int i = 1; i <= 4; ++i)
            all.push_back(range * i / 4);
        return all;
    }
    const double unit = units == UnitSystem::feet ? metres_per_foot : 1;
    for (const double step : std::array{1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0}) {
        if (range / (step * unit) > 5.001)
            continue;
        for (int i = 1; i * step * unit <= range * 1.0001; ++i)
            all.push_back(i * step * unit);
        break;
    }
    return all;
}

} // namespace heron
