#include "around/turning_budget.hpp"

#include "fault/told.hpp"
#include "geo/position.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace heron {

TurningBudget turning_budget(const Turning &t, double range, double ray_s, double width_deg, double speed) {
    TurningBudget b;
    const double ways = t.full() ? 1 : 2;
    b.turn_s = ways * t.wide_deg / t.step_deg * ray_s;
    b.step_at_rim_m = range * t.step_deg / degrees_per_radian;
    b.ray_at_rim_m = range * width_deg / degrees_per_radian;
    b.moved_a_turn_m = speed * b.turn_s;
    b.smallest_m = std::max(b.step_at_rim_m, b.ray_at_rim_m);
    return b;
}

TurningAdvice advise_turning(const TurningQuestion &q) {
    TurningAdvice a;
    constexpr double lowest_grazing_deg = 8.13; // its tangent is one in seven
    const double by_grazing = q.depth_m / std::tan(lowest_grazing_deg / degrees_per_radian),
                 by_size = q.thing_m / (q.width_deg / degrees_per_radian);
    const bool cast = q.purpose == CirclePurpose::longest_cast;
    const double wanted = cast ? q.longest_cast_m : std::min(by_size, 1.2 * q.longest_cast_m);
    a.range_m = std::clamp(std::min(wanted, by_grazing), 6.0, 60.0);
    a.why = a.range_m >= by_grazing - 0.01
                ? told("in this depth the sound grazes the bottom under eight degrees beyond that")
            : cast ? told("as far as the longest cast goes")
                   : told("farther out a ray is wider than what is looked for");
    // Standing: as fine as the ray is wide. Moving: the coarsest step first, then the pace.
    constexpr double share = 0.5;
    constexpr std::array rays_a_second{10.0, 12.5, 16.0, 20.0, 25.0};
    a.turning.step_deg = std::max(0.9, std::round(0.7 * q.width_deg / 0.9) * 0.9);
    a.turning.pace = 2;
    const double longest_s = q.speed_m_s > 0.1 ? share * a.range_m / q.speed_m_s : 1e9;
    const auto turn_s = [&] {
        return 360 / a.turning.step_deg *
               std::max(1 / rays_a_second[static_cast<std::size_t>(a.turning.pace - 1)],
                        2 * a.range_m / 1450 + 0.004);
    };
    while (turn_s() > longest_s && a.turning.pace < 5)
        ++a.turning.pace;
    while (turn_s() > longest_s && a.turning.step_deg < 4.5)
        a.turning.step_deg += 0.9;
    // Common practice, no published source.
    a.trade = cast                ? told("the trade says 120 ft for the longest cast, slow at 1 to 2")
              : q.speed_m_s > 0.3 ? told("the trade says fast, 4 to 5, along a bank")
              : q.depth_m <= 3.05
                  ? told("the trade says 60 to 70 ft in 10 ft of water or less, slow at 1 to 2")
                  : told("the trade says 80 to 100 ft in deeper water, 55 for single objects");
    return a;
}

} // namespace heron
