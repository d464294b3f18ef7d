#include "marks/near_surface.hpp"

#include <algorithm>
#include <cmath>

namespace heron {

std::optional<double> top_depth_today(const Mark &m, std::optional<double> level_today) {
    if (!m.depth_m || !m.height_m)
        return std::nullopt;
    const double fallen = level_today && m.lake_level_m ? *m.lake_level_m - *level_today : 0;
    return m.depth_m->value - fallen - std::max(0.0, m.height_m->value);
}

bool endangers(const Mark &m, std::optional<double> level_today) {
    if (m.family == Family::hazard)
        return true;
    const auto top = top_depth_today(m, level_today);
    if (!top || m.family == Family::fish)
        return false;
    return *top - 2 * std::hypot(m.depth_m->sd, m.height_m->sd) < near_surface_m;
}

} // namespace heron
