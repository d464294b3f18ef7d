#include "reading/features.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

double log2_of(double v) {
    return std::log2(std::max(v, 1e-3));
}

// How far the near edge strays from the straight line that fits it best, metres.
double bend_of(const Swath &s, const Echo &e) {
    double n = 0, x = 0, y = 0, xx = 0, xy = 0;
    for (std::size_t i = 0; i < e.near_edge.size(); ++i) {
        if (e.far_edge[i] < 0)
            continue;
        const double a = static_cast<double>(i) * s.spacing_m, b = e.near_edge[i] * s.cell_m;
        n += 1;
        x += a;
        y += b;
        xx += a * a;
        xy += a * b;
    }
    if (n < 3)
        return 0;
    const double slope = (n * xy - x * y) / std::max(1e-9, n * xx - x * x), level = (y - slope * x) / n;
    double sum = 0;
    for (std::size_t i = 0; i < e.near_edge.size(); ++i)
        if (e.far_edge[i] >= 0)
            sum +=
                std::pow(e.near_edge[i] * s.cell_m - level - slope * static_cast<double>(i) * s.spacing_m, 2);
    return std::sqrt(sum / n);
}

} // namespace

Crowd crowd_of(const Swath &s, const std::vector<Echo> &echoes, const std::vector<ShadowBehind> &behinds,
               std::size_t which) {
    Crowd c;
    const auto &e = echoes[which];
    const double score = behinds[which].score;
    // A short stretch says little of its ground: it counts as a thousand square metres at least.
    const double thousands =
        std::max(1.0, s.spacing_m * static_cast<double>(s.lines() * s.ground.columns) * s.cell_m / 1000);
    for (std::size_t i = 0; i < echoes.size(); ++i) {
        const auto &o = echoes[i];
        if (i == which || o.zone != e.zone)
            continue;
        const bool bright = o.z >= e.z, dark = behinds[i].score >= score;
        c.as_bright += bright / thousands;
        c.as_dark += dark / thousands;
        c.as_both += (bright && dark) / thousands;
        if (std::fabs(s.along_m[o.strongest_line] - s.along_m[e.strongest_line]) > 10)
            continue;
        c.standing += o.z > 0.7 * e.z;
        c.shadowed += behinds[i].score > 0.7 * behinds[which].score + 0.2;
        c.best_other = std::max(c.best_other, o.z);
    }
    return c;
}

double chance_shadow(const Swath &s, const std::vector<Echo> &echoes) {
    if (s.lines() < 24 || s.ground.columns < 60)
        return 0;
    const auto height = static_cast<std::size_t>(std::max(2.0, std::round(0.5 / s.spacing_m)));
    std::vector<double> scores;
    constexpr int places = 48;
    // A low-discrepancy row of places: the same for the same swath, and evenly spread.
    for (int i = 0; i < places; ++i) {
        const double u = std::fmod(0.5 + i * 0.7548776662466927, 1.0),
                     v = std::fmod(0.5 + i * 0.5698402909980532, 1.0);
        Echo e;
        e.first_line = static_cast<std::size_t>(u * static_cast<double>(s.lines() - height - 1));
        e.last_line = e.first_line + height;
        e.strongest_line = e.first_line + height / 2;
        const double heard = (s.end_m[e.strongest_line] - s.edge_m[e.strongest_line]) / s.cell_m;
        e.first_column = static_cast<std::size_t>(std::max(0.0, (0.1 + 0.7 * v) * heard));
        e.last_column = e.strongest_column = e.first_column + 2;
        const bool taken = std::any_of(echoes.begin(), echoes.end(), [&](const Echo &o) {
            return o.zone != Zone::water && o.first_line <= e.last_line + height &&
                   o.last_line + height >= e.first_line &&
                   o.first_column < e.last_column + static_cast<std::size_t>(2 / s.cell_m) &&
                   o.last_column + static_cast<std::size_t>(2 / s.cell_m) > e.first_column;
        });
        if (taken)
            continue;
        e.far_edge.assign(height + 1, static_cast<int>(e.last_column));
        e.near_edge.assign(height + 1, static_cast<int>(e.first_column));
        scores.push_back(look_behind(s, e).score);
    }
    if (scores.size() < 6)
        return 0.5;
    const auto at = scores.begin() + static_cast<std::ptrdiff_t>(scores.size() * 5 / 6);
    std::nth_element(scores.begin(), at, scores.end());
    return *at;
}

Features features_of(const Swath &s, const Echo &e, const ShadowBehind &b, const Crowd &crowd,
                     double chance_shadow) {
    Features f{};
    const auto line = e.strongest_line;
    const bool water = e.zone == Zone::water;
    const double a = s.altitude_m[line];
    const double r = water ? (static_cast<double>(e.strongest_column) + 0.5) * s.cell_m
                           : s.slant_m(line, static_cast<double>(e.strongest_column) + 0.5);
    const double sine = water ? 1 : std::clamp(a / r, 0.02, 1.0);
    const double across_step = water ? s.cell_m : s.cell_m / std::max(0.3, std::sqrt(1 - sine * sine));
    const double area = static_cast<double>(e.cells) * s.spacing_m * across_step;
    // What beam and pulse add to a thing's own extent.
    const double beam = r * s.beam_rad;
    const double gap = std::max(0.0, b.gap_m - s.pulse_m - 0.08);
    const double height = b.found ? a * std::max(0.0, b.end_m - (b.start_m - b.gap_m)) / b.end_m : 0;
    const auto box =
        static_cast<double>((e.last_line - e.first_line + 1) * (e.last_column - e.first_column + 1));
    std::size_t i = 0;
    const auto put = [&](double v) { f[i++] = std::isfinite(v) ? std::clamp(v, -5.0, 6.0) : 0.0; };
    put(log2_of(std::sqrt(std::max(0.01, e.length_m * e.length_m - beam * beam / 2))));
    put(log2_of(e.width_m));
    put(log2_of(e.length_m / std::max(0.05, e.width_m)));
    put(log2_of(area) / 2);
    put(static_cast<double>(e.cells) / box);
    put(log2_of(e.grains));
    put(e.peak_db / 10);
    put(e.mean_db / 10);
    put(log2_of(e.z));
    put(log2_of(e.z_small));
    put(e.sigma_db / 5);
    put(e.clutter * 5);
    put(std::log2(1 + b.score));
    put(b.depth_db / 10);
    put(b.beside_db / 10);
    put(gap);
    put(b.found ? a * gap / std::max(0.5, b.start_m) : 0);
    put(std::log2(1 + height));
    put(b.found ? log2_of((height + 0.05) / (e.length_m + 0.1)) : -2);
    put(b.found ? log2_of((b.width_m + 0.1) / (e.along_m + 0.1)) : 0);
    put(b.before_db / 10);
    put(b.halo_db / 10);
    put(sine);
    put(r / s.end_m[line]);
    put(e.turned);
    put(bend_of(s, e));
    put(log2_of(static_cast<double>(e.last_line - e.first_line + 1)) / 2);
    put(water ? r / a : 0);
    put(b.cut ? 1 : 0);
    put(std::log2(1 + crowd.standing));
    put(std::log2(1 + crowd.shadowed));
    put(log2_of(e.z / crowd.best_other));
    put(b.touch_db / 10);
    put(e.along_m * std::clamp(1 - b.touch_db / 3, 0.0, 1.5));
    put(s.clipped_low * 3);
    const auto &grid = water ? s.water : s.ground;
    float least = 99, most = -99;
    const auto lines = static_cast<std::ptrdiff_t>(1.5 / s.spacing_m),
               columns = static_cast<std::ptrdiff_t>(1.5 / across_step);
    for (auto l = static_cast<std::ptrdiff_t>(e.first_line) - lines;
         l <= static_cast<std::ptrdiff_t>(e.last_line) + lines;
         l += static_cast<std::ptrdiff_t>(grid.lines_each))
        for (auto c = static_cast<std::ptrdiff_t>(e.first_column) - columns;
             c <= static_cast<std::ptrdiff_t>(e.last_column) + columns;
             c += static_cast<std::ptrdiff_t>(grid.columns_each)) {
            if (l < 0 || c < 0 || l >= std::ssize(s.rows) || c >= static_cast<std::ptrdiff_t>(grid.columns))
                continue;
            const float v = grid.patch_at(static_cast<std::size_t>(l), static_cast<std::size_t>(c));
            least = std::min(least, v);
            most = std::max(most, v);
        }
    put(most > least ? static_cast<double>(most - least) / 10 : 0);
    put(static_cast<double>(grid.patch_at(line, e.strongest_column)) / 10);
    put(std::log2((1 + b.score) / (1 + chance_shadow)));
    put(b.apart_z / 4);
    put(b.apart_db / 10);
    put(std::log2(1 + b.source_z));
    put(b.source_db / 10);
    put(e.grainy_db / 5);
    put(std::log2(1 + crowd.as_bright));
    put(std::log2(1 + crowd.as_dark));
    put(std::log2(1 + crowd.as_both));
    return f;
}

} // namespace heron
