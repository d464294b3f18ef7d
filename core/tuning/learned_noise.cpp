#include "tuning/learned_noise.hpp"

namespace heron {

double noise_from_reach(const Gear &gear, WaterState water, const Setting &setting, double depth_m,
                        double seen_useful_m) {
    constexpr double most_db = 40;
    constexpr int halvings = 12; // to a hundredth of a decibel
    const auto reach = [&](double noise_db) {
        water.noise_db = noise_db;
        return useful_range_m(gear, water, setting, depth_m);
    };
    if (reach(0) <= seen_useful_m)
        return 0;
    double low = 0, high = most_db;
    for (int i = 0; i < halvings; ++i) {
        const double middle = (low + high) / 2;
        (reach(middle) > seen_useful_m ? low : high) = middle;
    }
    return (low + high) / 2;
}

} // namespace heron
