#include "weigh.hpp"

#include "reading/swath.hpp"

#include <algorithm>
#include <cmath>

namespace heron::study {

// What the ground's own texture reaches once in 1,000 m², and what each thing reaches without speckle.
void weigh(const ReadingScene &r, const sim::Scene &scene, const SoundingSettings &settings, Sounded &s) {
    auto bare_scene = scene;
    bare_scene.bodies.clear();
    std::erase_if(bare_scene.solids,
                  [](const sim::Solid &x) { return x.height_m > 0.21 || x.half_length_m > 0.21; });
    // Hollows and humps are in the terrain: told by their level against the bottom around them.
    sim::Acoustics with(scene), without(bare_scene);
    with.look_down(false);
    without.look_down(false);
    constexpr double box = 0.1, window = 0.35;
    // Of each thing, line by line: how far each cell along the sound stands over the bare bottom, and under.
    struct Line {
        double along;
        std::size_t first;
        std::vector<double> over, under;
    };
    std::vector<std::vector<Line>> lines(s.things.size());
    for (const auto &[row, boat] : s.boats) {
        const auto &installation = scene.boat.installation;
        if (std::none_of(s.things.begin(), s.things.end(), [&](const TrueThing &t) {
                return std::fabs(from_boat(boat, installation, t.at).ahead_m) < t.length_m / 2 + 0.4;
            }))
            continue;
        const auto a = with.hear_levels(boat, settings, 1), b = without.hear_levels(boat, settings, 1);
        for (auto &t : s.things) {
            const auto [along, aside] = from_boat(boat, installation, t.at);
            if (std::fabs(along) > t.length_m / 2 + 0.3)
                continue;
            const std::size_t side = aside < 0 ? 0 : 1;
            const double g = std::fabs(aside),
                         altitude = scene.depth_m(t.at) - scene.boat.installation.draught_m();
            const double top =
                std::hypot(g, altitude - (t.suspended ? t.height_m : std::max(0.0, t.height_m)));
            const double first = t.suspended
                                     ? std::max(0.5, top - t.width_m / 2 - 0.25)
                                     : std::max(0.5, std::hypot(std::max(0.0, g - t.width_m / 2),
                                                                altitude - std::max(0.0, t.height_m)) -
                                                         0.2);
            const double shadow_end =
                t.height_m >= altitude * 0.95
                    ? r.range_m
                    : std::hypot(g, altitude) * altitude / (altitude - std::max(0.1, t.height_m)) + t.width_m;
            if (top > r.range_m)
                continue;
            const double echo_end =
                t.suspended ? top + t.width_m / 2 + 0.25 : std::hypot(g + t.width_m / 2, altitude) + 0.15;
            t.seen = true;
            if (std::fabs(along) < 0.3)
                t.row = row, t.ground_m = g, t.depth_m = scene.depth_m(t.at);
            // Of what the picture could show at all: noise, pulse and the ends of the scale included.
            const auto shown = [&](const sim::Acoustics::Unquantised &heard) {
                const double gain = heard.ping.beams[side].gain_db, low = sim::Acoustics::db_at_zero,
                             high = low + 255 * scene.making.db_per_count;
                std::vector<float> energy;
                for (const float level : heard.expected_db[side])
                    energy.push_back(static_cast<float>(
                        std::pow(10, std::clamp(static_cast<double>(level) + gain, low, high) / 10)));
                return energy;
            };
            const auto ew = shown(a), eo = shown(b);
            const double step = a.ping.metres_per_sample();
            const auto width = std::max<std::size_t>(1, static_cast<std::size_t>(box / step));
            const auto k0 = static_cast<std::size_t>(std::max(0.0, a.ping.sample_at(first))),
                       k1 = std::min(ew.size(), static_cast<std::size_t>(std::max(
                                                    0.0, a.ping.sample_at(std::min(shadow_end, r.range_m)))));
            // Against the bottom's own mean hereabouts: single cells of it are dark by themselves.
            const auto mean_of = [](const std::vector<float> &v, std::size_t from, std::size_t to) {
                double sum = 0;
                to = std::min(to, v.size());
                for (auto i = from; i < to; ++i)
                    sum += static_cast<double>(v[i]);
                return to > from ? sum / static_cast<double>(to - from) : 0.0;
            };
            // Means of decibels, as the texture is weighed.
            const auto decibels_of = [](const std::vector<float> &v, std::size_t from, std::size_t to,
                                        double usual) {
                double sum = 0;
                to = std::min(to, v.size());
                for (auto i = from; i < to; ++i)
                    sum += 10 * std::log10(std::max(1e-16, static_cast<double>(v[i])) / usual);
                return to > from ? sum / static_cast<double>(to - from) : 0.0;
            };
            const auto half = static_cast<std::size_t>(0.5 / step),
                       long_width = std::max(width, static_cast<std::size_t>(0.3 / step));
            Line line{along, k0, {}, {}};
            for (auto k = k0; k + width < k1; ++k) {
                const double usual = mean_of(eo, k > half ? k - half : 0, k + width + half);
                const double db = decibels_of(ew, k, k + width, usual);
                const double dark = -decibels_of(ew, k, k + long_width, usual);
                // Its own echo lies here; farther out another thing's may.
                const double at = a.ping.slant_m(static_cast<double>(k));
                line.over.push_back(at < echo_end ? std::clamp(db, -16.0, 26.0) : -99);
                line.under.push_back(at > top ? std::clamp(dark, -26.0, 16.0) : -99);
            }
            lines[static_cast<std::size_t>(&t - s.things.data())].push_back(std::move(line));
        }
    }
    // Means of decibels over the very window in which the texture is weighed below.
    for (std::size_t i = 0; i < lines.size(); ++i) {
        auto &all = lines[i];
        std::sort(all.begin(), all.end(), [](const Line &a, const Line &b) { return a.along < b.along; });
        auto &t = s.things[i];
        for (std::size_t a = 0; a < all.size(); ++a) {
            std::size_t z = a;
            while (z < all.size() && all[z].along <= all[a].along + window)
                ++z;
            if (z == all.size() && a > 0 && all.back().along - all[a].along < 0.7 * window)
                break;
            for (std::size_t k = 0; k < all[a].over.size(); ++k) {
                double over = 0, under = 0;
                for (auto l = a; l < z; ++l) {
                    const auto at = all[a].first + k - all[l].first;
                    over += at < all[l].over.size() ? all[l].over[at] : -99;
                    under += at < all[l].under.size() ? all[l].under[at] : -99;
                }
                t.contrast_db = std::max(t.contrast_db, over / static_cast<double>(z - a));
                t.shadow_db = std::max(t.shadow_db, under / static_cast<double>(z - a));
            }
        }
    }
    // The texture, away from all things.
    for (const auto side : {Side::port, Side::starboard}) {
        const auto swath = prepare_swath(s.scan, side, 0, s.scan.end());
        if (swath.lines() == 0)
            continue;
        const auto h = static_cast<std::size_t>(std::max(1.0, std::round(window / swath.spacing_m))),
                   w = static_cast<std::size_t>(std::max(1.0, std::round(box / swath.cell_m))),
                   w3 = static_cast<std::size_t>(std::max(1.0, std::round(0.3 / swath.cell_m)));
        // As things are: the best of all places of the window, here within a tile of one dark window.
        const auto n = swath.lines(), columns = swath.ground.columns;
        std::vector<double> whole((n + 1) * (columns + 1), 0);
        for (std::size_t l = 0; l < n; ++l)
            for (std::size_t c = 0; c < columns; ++c)
                whole[(l + 1) * (columns + 1) + c + 1] =
                    whole[l * (columns + 1) + c + 1] + whole[(l + 1) * (columns + 1) + c] -
                    whole[l * (columns + 1) + c] + static_cast<double>(swath.ground.at(l, c));
        const auto mean_in = [&](std::size_t l, std::size_t c, std::size_t wide) {
            return (whole[(l + h) * (columns + 1) + c + wide] - whole[l * (columns + 1) + c + wide] -
                    whole[(l + h) * (columns + 1) + c] + whole[l * (columns + 1) + c]) /
                   static_cast<double>(h * wide);
        };
        std::vector<double> bright, dark;
        double area = 0;
        for (std::size_t l = 0; l + 2 * h < n; l += h)
            for (auto c = static_cast<std::size_t>(0.7 / swath.cell_m); c + 2 * w3 < columns; c += w3) {
                const auto fix = s.scan.nav.fix_at(s.scan.facts(swath.rows[l]).time);
                if (!fix)
                    continue;
                const double slant = swath.slant_m(l, static_cast<double>(c)), al = swath.altitude_m[l];
                const double g = std::sqrt(std::max(0.0, slant * slant - al * al));
                const auto at = s.plane.to_plane(
                    locate_sample(fix->pose, s.scan.installation, side == Side::port ? -90 : 90, g, 0).place);
                bool clear = true;
                for (const auto &t : s.things)
                    clear = clear && std::hypot(at.east_m - t.at.x, at.north_m - t.at.y) >
                                         3 + t.length_m / 2 + 3 * std::fabs(t.height_m);
                if (!clear)
                    continue;
                area += swath.spacing_m * static_cast<double>(h) * swath.cell_m * static_cast<double>(w3);
                double most = -99, least = 99;
                for (std::size_t i = 0; i < h; ++i)
                    for (std::size_t j = 0; j < w3; ++j) {
                        most = std::max(most, mean_in(l + i, c + j, w));
                        least = std::min(least, mean_in(l + i, c + j, w3));
                    }
                bright.push_back(most);
                dark.push_back(-least);
            }
        if (area < 50)
            continue;
        const auto rank = static_cast<std::size_t>(std::max(1.0, area / 1000));
        const auto nth = [&](std::vector<double> &v) {
            std::nth_element(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(rank), v.end(),
                             std::greater<>());
            return v[rank];
        };
        const double echo_level = nth(bright), shadow_level = nth(dark);
        for (auto &t : s.things) {
            const bool left = t.at.x < keel_east;
            if (left == (side == Side::port) && t.seen)
                t.stands_out =
                    (t.margin_db = std::max(t.contrast_db - echo_level, t.shadow_db - shadow_level)) > 0;
        }
    }
}

} // namespace heron::study
