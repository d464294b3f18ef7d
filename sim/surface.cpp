#include "sim/surface.hpp"

#include <algorithm>
#include <cmath>

namespace heron::sim {

void add_surface(std::vector<float> &energy, double cell_m, const ShallowWater &water,
                 const std::function<double(double)> &fan) {
    const double altitude = water.depth_m - water.draught_m;
    if (altitude < 0.2)
        return;
    const auto paths = image_paths(water.depth_m, water.draught_m);
    const Bounces bounces(water.wind_m_s, water.bottom, water.along_rad, water.frequency_hz);
    const std::size_t n = energy.size();
    struct Leg {
        double r;
        // What arrives one way, times its sine, as Lambert's law asks for both ways': over the straight
        // one's.
        double over;
    };
    const auto straight = energy;
    std::vector<Leg> legs(paths.size()); // shortest first
    for (std::size_t k = 0; k < n; ++k) {
        const double r0 = (static_cast<double>(k) + 0.5) * cell_m;
        const double g2 = r0 * r0 - altitude * altitude;
        if (g2 <= 0 || !(straight[k] > 0))
            continue;
        std::size_t arrive = 0; // in time, there by the straight way
        for (const auto &p : paths) {
            const double r = std::sqrt(g2 + p.height_m * p.height_m), sine = p.height_m / r;
            if (arrive > 0 && (legs[0].r + r) / 2 >= static_cast<double>(n) * cell_m)
                break;
            legs[arrive++] = {r, sine * std::sqrt(std::max(0.0, fan(p.up_first ? -sine : sine))) / (r * r) *
                                     std::exp(-0.2302585093 * water.absorption_db_per_m * r) *
                                     bounces.kept_along(p, sine)};
        }
        if (!(legs[0].over > 0))
            continue;
        for (std::size_t i = 1; i < arrive; ++i)
            legs[i].over /= legs[0].over;
        legs[0].over = 1;
        // The straight way there and back is in the energy already; of two ways each is once the one there.
        for (std::size_t j = 1; j < arrive; ++j)
            for (std::size_t i = 0; i <= j; ++i) {
                const auto at = static_cast<std::size_t>((legs[i].r + legs[j].r) / 2 / cell_m);
                if (at >= n)
                    break;
                energy[at] += static_cast<float>(static_cast<double>(straight[k]) * legs[i].over *
                                                 legs[j].over * (i == j ? 1 : 2));
            }
    }
    for (std::size_t k = 0; k < n; ++k) {
        const double r = (static_cast<double>(k) + 0.5) * cell_m;
        if (r <= water.draught_m)
            continue;
        const double sine = water.draught_m / r;
        const double area = r * water.along_rad * cell_m / std::max(0.02, std::sqrt(1 - sine * sine));
        energy[k] +=
            static_cast<float>(bounces.backscatter(sine) * area * fan(-sine) *
                               std::exp(-0.2302585093 * 2 * water.absorption_db_per_m * r) / (r * r * r * r));
    }
}

} // namespace heron::sim
