// How near to the surface a thing reaches today: lakes that are drawn down make hazards of what lay deep in
// spring.
#pragma once

#include "marks/mark.hpp"

#include <optional>

namespace heron {

/// Of its top under the surface as the water stands today, metres; negative where it stands out. Nothing
/// where depth or height is not known. `level_today_m`: of the water over the lake's datum; without it, or
/// where the mark does not tell the level it was seen at, the depth is taken as it was told.
std::optional<double> top_depth_today(const Mark &mark, std::optional<double> level_today_m);

/// What a hull or a motor may meet: a propeller of a small outboard reaches some 0.6 m down (common practice,
/// no published source), and what is told is in doubt.
inline constexpr double near_surface_m = 0.9;

/// Whether a boat had better be warned of it: hazards always, whatever is told of their depth; other things
/// where they may reach within `near_surface_m` of today's surface, two sigmas of depth and height counted
/// against them. Fish never.
bool endangers(const Mark &mark, std::optional<double> level_today_m);

} // namespace heron
