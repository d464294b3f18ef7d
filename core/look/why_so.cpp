#include "look/why_so.hpp"

#include "fault/told.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace heron {
namespace {

constexpr double least_slope_deg = 1, known_slope_sd_deg = 2;

double lambert(double grazing_rad) {
    return 20 * std::log10(std::max(1e-3, std::sin(grazing_rad)));
}

} // namespace

SlopeEffect slope_effect(const BottomPlane &bottom, double ground, double height) {
    SlopeEffect e;
    const double deep = bottom.depth_at(ground), rise = std::tan(bottom.slope_deg / degrees_per_radian);
    if (deep <= 0 || height >= deep || height <= 0)
        return e;
    // The ray over the top falls by (deep − H)/g; the bottom rises by `rise`.
    const double falls = (deep - height) / ground;
    const double level = ground * deep / (deep - height) - ground;
    const double end =
        falls + rise > 0 ? bottom.altitude_m / (falls + rise) : std::numeric_limits<double>::infinity();
    e.shadow_ratio = (end - ground) / level;
    const double grazing = std::atan2(deep, ground);
    e.brighter_db =
        lambert(std::max(0.01, grazing + bottom.slope_deg / degrees_per_radian)) - lambert(grazing);
    return e;
}

std::vector<std::string> why_so(const Scan &scan, const Contact &c, const Gear &gear, UnitSystem units) {
    std::vector<std::string> all;
    const auto m = [units](double v) { return print_length(v, units, v < 3 ? 1 : 0).text(); };
    const auto percent = [](double v) { return std::lround(100 * v); };
    const auto &f = scan.facts(c.row);
    const double ground = c.ground_m.value, deep = std::max(0.2, c.bottom.depth_at(ground));
    const double height = c.height_m ? std::max(0.05, c.height_m->value) : 0.5;
    if (c.zone == Zone::track) {
        all.push_back(
            told("The boat ran right over it: its height is the step of the depths under the track, no "
                 "shadow's"));
    } else if (c.zone == Zone::water) {
        all.push_back(
            told("It lies before the first return: nearer than the bottom, so in the water, but one echo "
                 "does not tell how far aside"));
    } else {
        const double grazing = std::atan2(deep, ground) * degrees_per_radian;
        const double times = height < deep ? ground / (deep - height) : 99;
        all.push_back(told(
            "The sound grazes the bottom at {} degrees there: a shadow is {:.1f} times as long as its thing "
            "is high",
            std::lround(grazing), std::min(times, 99.0)));
        if (grazing > 60)
            all.push_back(
                told("Nearly under the boat shadows are short: heights are poor there, and a pass farther "
                     "off tells more"));
    }
    if (c.placement == Placement::suspended && c.behind.found && c.behind.gap_m > 0.2)
        // A shadow too weak to be measured by tells no height.
        all.push_back(
            c.height_m
                ? told("The dark stands {} behind the bright, since it hangs {} off the bottom; on the "
                       "bottom it would touch",
                       m(c.behind.gap_m), m(c.height_m->value))
                : told("The dark {} behind the bright may be its shadow, but is too weak to tell how "
                       "far off the bottom it hangs",
                       m(c.behind.gap_m)));
    else if (c.zone == Zone::dark && c.behind.source_z <= 0)
        all.push_back(told("Nothing bright was found before the dark: its shadow alone tells of it"));
    else if (c.placement == Placement::on_bottom && c.behind.found)
        all.push_back(told("The dark touches the bright, since it stands on the bottom"));
    if (c.bottom.slope_sd_deg < known_slope_sd_deg &&
        std::fabs(c.bottom.slope_deg) > std::max(least_slope_deg, c.bottom.slope_sd_deg) &&
        c.zone != Zone::water && c.zone != Zone::track) {
        const auto e = slope_effect(c.bottom, ground, height);
        const auto slope = std::lround(std::fabs(c.bottom.slope_deg));
        if (c.bottom.slope_deg > 0)
            all.push_back(
                told("Seen uphill ({} degrees): its shadow is {} in 100 shorter than on the level, and the "
                     "bottom about it {:.1f} dB brighter, so it stands out more",
                     slope, percent(1 - e.shadow_ratio), e.brighter_db));
        else if (std::isfinite(e.shadow_ratio))
            all.push_back(
                told("Seen downhill ({} degrees): its shadow is {} in 100 longer than on the level, but the "
                     "bottom about it {:.1f} dB darker, so it stands out less",
                     slope, percent(e.shadow_ratio - 1), -e.brighter_db));
        else
            all.push_back(
                told("Seen downhill ({} degrees): the bottom falls away faster than the ray, so its shadow "
                     "does not end",
                     slope));
    } else if (c.bottom.slope_sd_deg >= known_slope_sd_deg && c.zone != Zone::track) {
        all.push_back(
            told("How the bottom slopes across the track is not known: a second track beside this one would "
                 "tell"));
    }
    // Pings on it and what a turn did.
    const auto &ping = scan.ping(c.row);
    const auto *beam = ping.beam(c.side);
    if (std::isfinite(f.speed_m_s) && beam != nullptr && c.last_row >= c.first_row) {
        const double along = c.slant_m * beam->width_along_deg / degrees_per_radian;
        const auto pings = c.last_row - c.first_row + 1;
        const double speed = static_cast<double>(f.speed_m_s);
        const auto shown = units == UnitSystem::feet ? told("{:.1f} mph", speed * 3600 / metres_per_mile)
                                                     : told("{:.1f} km/h", speed * 3.6);
        all.push_back(
            told("At {} it was heard {} times; the beam is {} wide there, so nothing smaller parts along "
                 "the track",
                 shown, pings, m(along)));
        if (pings < 3)
            all.push_back(told("Fewer than three pings: slower, or a shorter range, would show it better"));
    }
    const double turn = static_cast<double>(f.turn_deg_s);
    if (std::isfinite(turn) && std::fabs(turn) > 1 && f.speed_m_s > 0) {
        // Turning to starboard the port side runs faster.
        const double outward = (turn > 0) == (c.side == Side::port) ? 1 : -1;
        const double there =
            static_cast<double>(f.speed_m_s) + outward * std::fabs(turn) / degrees_per_radian * ground;
        const double ratio = static_cast<double>(f.speed_m_s) / there;
        if (there <= 0)
            all.push_back(
                told("The boat turned {:.0f} degrees a second: out there the beam ran backwards, and the "
                     "thing is shown turned round",
                     std::fabs(turn)));
        else
            all.push_back(
                ratio < 1 ? told("The boat turned {:.0f} degrees a second: out there the beam ran faster, so "
                                 "things are shown {} in 100 too short along the track",
                                 std::fabs(turn), percent(1 - ratio))
                          : told("The boat turned {:.0f} degrees a second: out there the beam ran slower, so "
                                 "things are shown {} in 100 too long along the track",
                                 std::fabs(turn), percent(ratio - 1)));
    }
    if (c.shadow_cut)
        all.push_back(told("Its shadow runs to the edge of the range: a longer range would show its end"));
    if (gear.assumed_sound_speed_m_s > 0)
        if (const auto c_now = 2 * ping.metres_per_sample() / std::max(1e-9, ping.sample_interval_s);
            c_now > 0 && std::fabs(gear.assumed_sound_speed_m_s / c_now - 1) > 0.02)
            all.push_back(told("The unit assumes {} m/s for the speed of sound: distances read {} in 100 off",
                               std::lround(gear.assumed_sound_speed_m_s),
                               percent(std::fabs(gear.assumed_sound_speed_m_s / c_now - 1))));
    return all;
}

} // namespace heron
