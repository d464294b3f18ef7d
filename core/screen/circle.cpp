#include "screen/circle.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr double ray_deg = 1.5, looks_down_deg = 25;

// On the upright panel, of `share` of the way from the middle to the rim.
Pixel on_panel(const PanelSize &size, double on_picture_deg, double share) {
    const double turn = on_picture_deg / degrees_per_radian;
    return {size.width / 2.0 * (1 + share * std::sin(turn)),
            size.height / 2.0 * (1 - share * std::cos(turn))};
}

int samples_of(const ScreenPicture &upright) {
    return std::min(upright.width, upright.height) / 2;
}

// Each sample of each ray, at its place on the upright panel.
template <class Take>
void along_rays(const ScreenPicture &upright, const ScreenCalibration &c, const Take &take) {
    const PanelSize size{upright.width, upright.height};
    const int samples = samples_of(upright);
    for (int ray = 0; ray < rays_of_a_circle; ++ray) {
        // A ray is straight: its places from its two ends.
        const auto rim = on_panel(size, off_bow_deg(ray) + c.circle_bow_deg.value_or(0), 1);
        const double dx = rim.x - size.width / 2.0, dy = rim.y - size.height / 2.0;
        for (int k = 0; k < samples; ++k) {
            const double share = (k + 0.5) / samples;
            take(ray, k, size.width / 2.0 + share * dx, size.height / 2.0 + share * dy);
        }
    }
}

// Range rings are drawn over the sonar's picture: where most rays stand out at one range, a line is. Its
// levels are those beside it.
void take_out_rings(std::vector<LevelRow> &rays) {
    constexpr int stands_out = 12, beside = 3;
    constexpr double most_rays = 0.5;
    const auto samples = rays.front().size();
    std::vector<bool> ring(samples, false);
    for (std::size_t k = beside; k + beside < samples; ++k) {
        const auto out = std::count_if(rays.begin(), rays.end(), [k](const LevelRow &ray) {
            return ray[k] > std::max(ray[k - beside], ray[k + beside]) + stands_out;
        });
        ring[k] = static_cast<double>(out) > most_rays * static_cast<double>(rays.size());
    }
    for (std::size_t from = 0; from < samples; ++from) {
        if (!ring[from])
            continue;
        auto to = from;
        while (to + 1 < samples && ring[to + 1])
            ++to;
        // A line is softer than it is wide.
        const auto low = from > 1 ? from - 2 : 0, high = std::min(samples - 1, to + 2);
        for (auto &ray : rays)
            for (auto k = low + 1; k < high; ++k)
                ray[k] = k - low < high - k ? ray[low] : ray[high];
        from = to;
    }
}

} // namespace

double off_bow_deg(int ray) {
    return -180 + 360.0 * (ray + 0.5) / rays_of_a_circle;
}

Pixel on_circle(const ScreenCalibration &c, double off_bow, double slant_m) {
    const auto size = panel_size(c);
    const double w = size.width, h = size.height;
    const auto p = on_panel(size, off_bow + c.circle_bow_deg.value_or(0), slant_m / c.range_m);
    return bowed(mapped(homography({Pixel{0, 0}, {w, 0}, {w, h}, {0, h}}, c.corners), p), c);
}

Panel circle_panel(const ScreenPicture &upright, const ScreenCalibration &c) {
    Panel inside;
    inside.rows = rays_of_a_circle;
    inside.columns = samples_of(upright);
    inside.pixels.reserve(static_cast<std::size_t>(inside.rows) * static_cast<std::size_t>(inside.columns));
    along_rays(upright, c, [&](int, int, double x, double y) {
        inside.pixels.push_back(upright.at(std::clamp(static_cast<int>(x), 0, upright.width - 1),
                                           std::clamp(static_cast<int>(y), 0, upright.height - 1)));
    });
    return inside;
}

std::vector<LevelRow> rays_on(const ScreenPicture &upright, const ScreenCalibration &c,
                              LevelOfColour &level) {
    std::vector<std::uint8_t> levels(upright.pixels.size());
    std::transform(upright.pixels.begin(), upright.pixels.end(), levels.begin(),
                   [&level](Rgb colour) { return level(colour); });
    const auto wide = static_cast<std::size_t>(upright.width);
    std::vector<LevelRow> rays(rays_of_a_circle, LevelRow(static_cast<std::size_t>(samples_of(upright))));
    along_rays(upright, c, [&](int ray, int k, double x, double y) {
        const double fx = std::clamp(x - 0.5, 0.0, upright.width - 1.001),
                     fy = std::clamp(y - 0.5, 0.0, upright.height - 1.001);
        const auto ix = static_cast<std::size_t>(fx), iy = static_cast<std::size_t>(fy);
        const double tx = fx - static_cast<double>(ix), ty = fy - static_cast<double>(iy);
        const auto *at = &levels[iy * wide + ix];
        rays[static_cast<std::size_t>(ray)][static_cast<std::size_t>(k)] = static_cast<int>(std::lround(
            (at[0] * (1 - tx) + at[1] * tx) * (1 - ty) + (at[wide] * (1 - tx) + at[wide + 1] * tx) * ty));
    });
    take_out_rings(rays);
    return rays;
}

Ping ray_of(const LevelRow &levels, const ScreenCalibration &c, int ray, UnixNs time) {
    Ping ping;
    ping.time = time;
    ping.sound_speed_m_s = assumed_sound_speed_m_s;
    ping.frequency_hz = c.frequency_khz * 1000;
    ping.sample_interval_s = c.range_m / static_cast<double>(levels.size()) * 2 / assumed_sound_speed_m_s;
    ping.first_sample_s = ping.sample_interval_s / 2;
    ping.pulse_s = 1.5 * ping.sample_interval_s;
    Beam beam;
    beam.side = Side::around;
    beam.azimuth_deg = off_bow_deg(ray);
    beam.depression_deg = looks_down_deg;
    beam.width_along_deg = ray_deg;
    beam.width_across_deg = assumed_fan_deg;
    beam.scale = {0, c.span_db / 255, 0, 255};
    for (const int level : levels)
        beam.code.push_back(level < 0 ? missing_code : static_cast<std::uint16_t>(level));
    ping.beams.push_back(std::move(beam));
    return ping;
}

Result<PictureRows> rays_of(const ScreenPicture &picture, const ScreenCalibration &c, UnixNs newest,
                            const std::string &made_from) {
    const auto upright = upright_panel(picture, c);
    constexpr int least = 24;
    if (samples_of(upright) < least)
        return fail(told("the circle is only {} pixels across", 2 * samples_of(upright)),
                    told("nothing was read"), told("see where its corners lie"));
    PictureRows r;
    r.ramp = c.ramp.empty() ? estimate_ramp(circle_panel(upright, c)) : ramp_of(c.ramp);
    if (r.ramp.colours.size() < 2)
        return fail(told("the circle is of one colour"), told("nothing was read"),
                    told("see whether its corners lie about the sonar's picture"));
    const auto step = static_cast<UnixNs>(reckoned_turn_s / rays_of_a_circle * static_cast<double>(ns_per_s));
    const UnixNs first = newest - step * (rays_of_a_circle - 1);
    int ray = 0;
    LevelOfColour level(r.ramp);
    for (const auto &levels : rays_on(upright, c, level)) {
        r.recording.pings.push_back(ray_of(levels, c, ray, first + step * ray));
        ++ray;
    }
    if (const auto doubt = doubt_of(r.ramp))
        r.recording.warnings.push_back(*doubt);
    r.recording.head = head_of(c, first, newest, made_from);
    return r;
}

} // namespace heron
