#include "picture/display_window.hpp"

#include <algorithm>
#include <cmath>

namespace heron {

void LevelHistogram::add(const Ping &ping, const BottomPick &bottom, double memory) {
    const double keep = 1 - 1 / memory;
    for (auto &n : bottom_)
        n *= keep;
    for (auto &n : water_)
        n *= keep;
    total_ *= keep;
    for (const auto &b : ping.beams) {
        if (b.side == Side::down)
            continue;
        const double first = b.side == Side::port ? bottom.port_m : bottom.starboard_m;
        const double edge = bottom.found ? (first > 0 ? first : bottom.altitude_m) : ping.range_m() / 4;
        // Every second sample tells as much as all.
        for (std::size_t k = 0; k < b.code.size(); k += 2) {
            if (b.code[k] == missing_code)
                continue;
            const double db = b.scale.db(b.code[k]) - b.gain_db;
            const auto i = static_cast<std::size_t>(
                std::clamp((db - lowest_db) / step_db, 0.0, static_cast<double>(bins - 1)));
            if (ping.slant_m(static_cast<double>(k)) > edge + 0.3) {
                bottom_[i] += 1;
                total_ += 1;
            } else {
                water_[i] += 1;
            }
        }
    }
}

double LevelHistogram::bottom_quantile_db(double share) const {
    double sum = 0;
    for (std::size_t i = 0; i < bins; ++i) {
        sum += bottom_[i];
        if (sum >= share * total_)
            return lowest_db + (static_cast<double>(i) + 0.5) * step_db;
    }
    return lowest_db + step_db * bins;
}

DisplayWindow LevelHistogram::fitting_window() const {
    if (empty())
        return {};
    const double middle = bottom_quantile_db(0.5);
    const double low = std::clamp(bottom_quantile_db(0.01) - 2, middle - 22, middle - 10);
    const double high = std::clamp(bottom_quantile_db(0.998) + 1, middle + 10, middle + 20);
    return {low, high - low};
}

} // namespace heron
