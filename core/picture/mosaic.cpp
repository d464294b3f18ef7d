#include "picture/mosaic.hpp"

#include "picture/overview.hpp"

#include <algorithm>
#include <cmath>

namespace heron {

void Mosaic::add(const Scan &scan, std::size_t row, const AngleLevels &angles) {
    const auto &f = scan.facts(row);
    const auto &bottom = f.bottom;
    if (f.place_unknown || !bottom.found || std::fabs(f.turn_deg_s) > 5)
        return;
    const auto fix = scan.nav.fix_at(f.time);
    if (!fix)
        return;
    const auto at = plane_.to_plane(transducer_place(fix->pose, scan.installation));
    const double h = fix->pose.heading_deg / degrees_per_radian;
    const auto &ping = scan.ping(row);
    PictureFilters filters;
    for (const auto &b : ping.beams) {
        if (b.side != Side::port && b.side != Side::starboard)
            continue;
        row_levels(ping, b, bottom, filters, angles, nullptr, nullptr, scan.installation.draught_m(),
                   scratch_);
        const double sign = b.side == Side::port ? -1 : 1;
        const double ex = sign * std::cos(h), nx = -sign * std::sin(h);
        for (std::size_t k = 0; k < scratch_.size(); ++k) {
            const double r = ping.slant_m(static_cast<double>(k));
            if (r <= bottom.altitude_m * 1.02 || !(scratch_[k] == scratch_[k]))
                continue;
            const double g = std::sqrt(r * r - bottom.altitude_m * bottom.altitude_m);
            const double x = (at.east_m + g * ex) / cell_m_, y = (at.north_m + g * nx) / cell_m_;
            const int cx = static_cast<int>(std::floor(x)), cy = static_cast<int>(std::floor(y));
            const Key key{static_cast<int>(std::floor(static_cast<double>(cx) / tile)),
                          static_cast<int>(std::floor(static_cast<double>(cy) / tile))};
            const auto i = static_cast<std::size_t>(cy - key.second * tile) * tile +
                           static_cast<std::size_t>(cx - key.first * tile);
            auto &levels = levels_[key];
            auto &weights = weights_[key];
            if (levels.empty()) {
                levels.assign(std::size_t{tile} * tile, 0);
                weights.assign(std::size_t{tile} * tile, 0);
            }
            // Grazing between 20 and 45 degrees tells most; to both sides it tells less.
            const double grazing = std::asin(bottom.altitude_m / r) * degrees_per_radian;
            const double off = grazing > 45 ? (grazing - 45) / 45 : grazing < 20 ? (20 - grazing) / 20 : 0;
            const auto weight = static_cast<std::uint8_t>(std::lround(1 + 254 * (1 - off)));
            if (weight < weights[i])
                continue;
            weights[i] = weight;
            levels[i] = static_cast<std::uint8_t>(
                std::clamp(std::lround(static_cast<double>(scratch_[k]) - overview_zero_db), 1L, 255L));
        }
    }
}

} // namespace heron
