#include "sim/circle_screen.hpp"

#include "geo/position.hpp"

#include <algorithm>
#include <cmath>

namespace heron::sim {

ScreenPicture circle_screen(std::span<const Ping> rays, const std::vector<Rgb> &colours,
                            const CircleScreen &as) {
    constexpr int directions = 1440; // four a degree
    std::vector<const Beam *> of(directions, nullptr);
    const auto direction = [](double deg) {
        return static_cast<std::size_t>(std::lround(wrap_360(deg) / 360 * directions)) % directions;
    };
    double widest = 0;
    for (std::size_t i = 1; i < rays.size(); ++i)
        widest = std::max(
            widest, std::fabs(wrap_180(rays[i].beams[0].azimuth_deg - rays[i - 1].beams[0].azimuth_deg)));
    for (const auto &ping : rays)
        of[direction(ping.beams[0].azimuth_deg)] = &ping.beams[0];
    // Between the rays the nearest shows.
    const auto reach = static_cast<int>(std::ceil(std::min(widest, 10.0) / 2 / 360 * directions)) + 1;
    auto all = of;
    for (int i = 0; i < directions; ++i)
        for (int d = 1; d <= reach && all[static_cast<std::size_t>(i)] == nullptr; ++d)
            for (const int at : {i - d, i + d})
                if (const auto *beam = of[static_cast<std::size_t>((at + directions) % directions)];
                    beam != nullptr && all[static_cast<std::size_t>(i)] == nullptr)
                    all[static_cast<std::size_t>(i)] = beam;
    ScreenPicture out;
    out.width = out.height = as.size;
    out.pixels.assign(static_cast<std::size_t>(as.size) * static_cast<std::size_t>(as.size), Rgb{24, 26, 28});
    const double middle = as.size / 2.0, radius = middle - as.margin;
    for (int y = 0; y < as.size; ++y)
        for (int x = 0; x < as.size; ++x) {
            const double dx = x + 0.5 - middle, dy = y + 0.5 - middle, r = std::hypot(dx, dy);
            if (r >= radius)
                continue;
            const auto *beam = all[direction(std::atan2(dx, -dy) * degrees_per_radian - as.bow_deg)];
            auto colour = colours.front();
            if (beam != nullptr && !beam->code.empty()) {
                const auto k =
                    std::min(beam->code.size() - 1,
                             static_cast<std::size_t>(r / radius * static_cast<double>(beam->code.size())));
                colour = colours[std::min<std::size_t>(255, beam->code[k]) * (colours.size() - 1) / 255];
            }
            const double quarter = r / radius * 4;
            if (as.rings && (std::fabs(quarter - std::round(quarter)) * radius / 4 < 0.6 || r < 5))
                colour = {220, 220, 210};
            out.at(x, y) = colour;
        }
    return out;
}

} // namespace heron::sim
