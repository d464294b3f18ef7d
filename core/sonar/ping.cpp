#include "sonar/ping.hpp"

#include <algorithm>

namespace heron {

std::string_view name_of(Side side) {
    switch (side) {
    case Side::port:
        return "port";
    case Side::starboard:
        return "starboard";
    case Side::down:
        return "down";
    case Side::around:
        return "around";
    }
    return "";
}

std::optional<Side> side_named(std::string_view name) {
    for (const auto side : {Side::port, Side::starboard, Side::down, Side::around})
        if (name_of(side) == name)
            return side;
    return std::nullopt;
}

double Ping::range_m() const {
    std::size_t most = 0;
    for (const auto &b : beams)
        most = std::max(most, b.code.size());
    return most == 0 ? 0 : slant_m(static_cast<double>(most));
}

double Ping::resolution_m() const {
    double r = metres_per_sample();
    if (bandwidth_hz > 0)
        r = std::max(r, sound_speed_m_s / (2 * bandwidth_hz));
    else if (pulse_s > 0)
        r = std::max(r, sound_speed_m_s * pulse_s / 2);
    return r;
}

const Beam *Ping::beam(Side side) const {
    for (const auto &b : beams)
        if (b.side == side)
            return &b;
    return nullptr;
}

} // namespace heron
