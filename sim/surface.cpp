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
        double r, one_way; // what arrives over what would by the straight way at 1 m, one way
        double sine;
    };
    const auto straight = energy;
    std::vector<Leg> legs(paths.size());
    for (std::size_t k = 0; k < n; ++k) {
        const double r0 = (static_cast<double>(k) + 0.5) * cell_m;
        const double g2 = r0 * r0 - altitude * altitude;
        if (g2 <= 0 || !(straight[k] > 0))
            continue;
        for (std::size_t i = 0; i < paths.size(); ++i) {
            const auto &p = paths[i];
            auto &leg = legs[i];
            leg.r = std::sqrt(g2 + p.height_m * p.height_m);
            leg.sine = p.height_m / leg.r;
            leg.one_way = std::sqrt(std::max(0.0, fan(p.up_first ? -leg.sine : leg.sine))) / (leg.r * leg.r) *
                          std::exp(-0.2302585093 * water.absorption_db_per_m * leg.r) *
                          bounces.kept_along(p, leg.sine);
        }
        const auto &direct = legs[0];
        if (!(direct.one_way > 0))
            continue;
        // The straight way there and back is in the energy already.
        for (std::size_t i = 0; i < paths.size(); ++i)
            for (std::size_t j = i == 0 ? 1 : 0; j < paths.size(); ++j) {
                const auto at = static_cast<std::size_t>((legs[i].r + legs[j].r) / 2 / cell_m);
                if (at >= n)
                    break;
                // Lambert's law asks for the sines of both ways.
                const double over = legs[i].one_way * legs[j].one_way / (direct.one_way * direct.one_way) *
                                    legs[i].sine * legs[j].sine / (direct.sine * direct.sine);
                energy[at] += static_cast<float>(static_cast<double>(straight[k]) * over);
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
