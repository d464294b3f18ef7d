#include "reading/drops.hpp"

#include "geo/position.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace heron {
namespace {

constexpr double step_m = 0.4, window_m = 4, least_drop_m = 0.35, least_z = 5, apart_m = 8,
                 banks_apart_m = 2.5;
constexpr double least_slope = 0.176; // 10°
// Nearer than this the first return drowns in the sound going out, and what is then taken for it lies
// anywhere.
constexpr double least_altitude_m = 0.8;
constexpr double least_doubt_m = 0.05;
constexpr double turning_over_drops_deg_s = 6;
// On rough ground the depths go up and down all the way: a step is one only where it passes by so much what
// they usually do about there (one sigma, from the median over as many places).
constexpr double times_usual = 3.5;
constexpr std::size_t least_places = 60;

struct Place {
    std::size_t row = 0;
    double at_m = 0, depth_m = 0;
};

// Depths a fixed way apart: the median of the rows that lie in each step.
std::vector<Place> depths_of(const Scan &scan, const std::vector<double> &run_m, std::size_t first,
                             std::size_t end) {
    std::vector<Place> all;
    std::vector<double> some;
    std::size_t from = first;
    const auto close = [&](std::size_t to) {
        if (!some.empty()) {
            const auto middle = some.begin() + std::ssize(some) / 2;
            std::nth_element(some.begin(), middle, some.end());
            const auto row = (from + to) / 2;
            all.push_back({row, run_m[row], *middle});
        }
        some.clear();
        from = to;
    };
    for (auto row = first; row < end; ++row) {
        if (run_m[row] - run_m[from] >= step_m)
            close(row);
        // The first returns of the sides: a depth sounder hangs elsewhere on the boat and tells once a
        // second.
        const auto &bottom = scan.bottom(row);
        const double first_return = std::max(bottom.port_m, bottom.starboard_m);
        // Where picture and sounder disagree, a step between them is none of the bottom.
        if (bottom.source == BottomSource::sounder && first_return >= bottom.altitude_m)
            continue;
        if (bottom.found &&
            !(std::fabs(static_cast<double>(scan.facts(row).turn_deg_s)) > turning_over_drops_deg_s))
            some.push_back(bottom.source == BottomSource::hand || first_return <= 0 ? bottom.altitude_m
                                                                                    : first_return);
    }
    return all;
}

// Two lines of one slope and a step between them.
struct Step {
    double falls_m = 0, sd_m = 0, slope = 0, middle_m = 0; ///< `middle_m`: the depth half-way down
    bool known = false;
};
Step fit(const std::vector<Place> &all, std::size_t about, double gap_m) {
    // Normal equations in (level, slope, step/2·sign), about the place itself.
    double n = 0, x = 0, xx = 0, s = 0, xs = 0, y = 0, xy = 0, sy = 0, yy = 0, before = 0, after = 0;
    const double centre = all[about].at_m, far = gap_m / 2 + window_m;
    const auto take = [&](const Place &p) {
        const double d = p.at_m - centre;
        if (std::fabs(d) < gap_m / 2)
            return;
        const double side = d > 0 ? 0.5 : -0.5;
        (d > 0 ? after : before) += 1;
        n += 1;
        x += d;
        xx += d * d;
        s += side;
        xs += d * side;
        y += p.depth_m;
        xy += d * p.depth_m;
        sy += side * p.depth_m;
        yy += p.depth_m * p.depth_m;
    };
    for (auto i = about; i < all.size() && all[i].at_m - centre <= far; ++i)
        take(all[i]);
    auto first = about;
    while (first > 0 && centre - all[first - 1].at_m <= far)
        take(all[--first]);
    Step r;
    double near_m = 1e9;
    for (auto i = first; i < all.size() && all[i].at_m - centre <= far; ++i)
        near_m = std::min(near_m, all[i].depth_m);
    if (near_m < least_altitude_m)
        return r;
    if (before < 0.6 * window_m / step_m || after < 0.6 * window_m / step_m)
        return r;
    const double ss = n / 4;
    // Level out, then two by two.
    const double a = xx - x * x / n, b = xs - x * s / n, c = ss - s * s / n, u = xy - x * y / n,
                 v = sy - s * y / n, determinant = a * c - b * b;
    if (determinant < 1e-9)
        return r;
    r.slope = (u * c - v * b) / determinant;
    r.falls_m = (v * a - u * b) / determinant;
    const double left = std::max(0.0, yy - y * y / n - r.slope * u - r.falls_m * v);
    r.middle_m = (y - r.slope * x - r.falls_m * s) / n;
    // Neighbouring depths err alike: the bottom's own wave, and a first return that creeps. Of so many places
    // (1 − ρ)/(1 + ρ) count as apart, ρ being the correlation of neighbours (Bayley and Hammersley 1946).
    double last = 0, last_at = -1e9, both = 0, squares = 0;
    for (auto i = first; i < all.size() && all[i].at_m - centre <= far; ++i) {
        const double d = all[i].at_m - centre;
        if (std::fabs(d) < gap_m / 2)
            continue;
        const double off = all[i].depth_m - r.middle_m - r.slope * d - r.falls_m * (d > 0 ? 0.5 : -0.5);
        if (d - last_at < 2.5 * step_m)
            both += off * last;
        squares += off * off;
        last = off;
        last_at = d;
    }
    // Of so few residuals it comes out too small by (1 + 3ρ)/n (Kendall 1954).
    const double raw = squares > 0 ? both / squares : 0;
    const double alike = std::clamp(raw + (1 + 3 * std::max(0.0, raw)) / n, 0.0, 0.9);
    r.sd_m = std::max(least_doubt_m,
                      std::sqrt(left / std::max(1.0, n - 3) * a / determinant * (1 + alike) / (1 - alike)));
    r.known = true;
    return r;
}

// Where the depths lie half-way between the two lines, and from where to where they leave both by a tenth.
void place_step(const std::vector<Place> &all, std::size_t about, double gap_m, const Step &step, Drop &d) {
    const double centre = all[about].at_m, reach = gap_m / 2 + 1;
    std::size_t from = about, to = about;
    while (from > 0 && centre - all[from - 1].at_m <= reach)
        --from;
    while (to + 1 < all.size() && all[to + 1].at_m - centre <= reach)
        ++to;
    const auto done = [&](std::size_t i) {
        return (all[i].depth_m - step.middle_m - step.slope * (all[i].at_m - centre)) / step.falls_m + 0.5;
    };
    auto first = from, middle = about, last = to;
    double nearest = 1e9;
    for (auto i = from; i <= to; ++i) {
        if (done(i) < 0.1)
            first = i;
        if (std::fabs(done(i) - 0.5) < nearest) {
            nearest = std::fabs(done(i) - 0.5);
            middle = i;
        }
    }
    for (auto i = to; i > first; --i)
        if (done(i) > 0.9)
            last = i;
    d.first_row = all[first].row;
    d.row = all[middle].row;
    d.last_row = all[std::max(last, first)].row;
    d.run_m = std::max(step_m, all[std::max(last, first)].at_m - all[first].at_m);
}

} // namespace

std::vector<Drop> find_drops(const Scan &scan, const std::vector<double> &run_m, std::size_t first,
                             std::size_t end) {
    const auto all = depths_of(scan, run_m, first, end);
    std::vector<Drop> found;
    constexpr std::array gaps{1.0, 2.5, 5.0};
    std::vector<std::array<Step, gaps.size()>> steps(all.size());
    std::array<double, gaps.size()> usual{};
    for (std::size_t g = 0; g < gaps.size(); ++g) {
        std::vector<double> sizes;
        for (std::size_t i = 0; i < all.size(); ++i) {
            steps[i][g] = fit(all, i, gaps[g]);
            if (steps[i][g].known)
                sizes.push_back(std::fabs(steps[i][g].falls_m));
        }
        if (sizes.size() < least_places)
            continue;
        const auto middle = sizes.begin() + std::ssize(sizes) / 2;
        std::nth_element(sizes.begin(), middle, sizes.end());
        usual[g] = *middle / 0.6745;
    }
    for (std::size_t i = 0; i < all.size(); ++i) {
        Drop best;
        for (std::size_t g = 0; g < gaps.size(); ++g) {
            const auto &step = steps[i][g];
            const double gap = gaps[g];
            if (!step.known || std::fabs(step.falls_m) < times_usual * usual[g])
                continue;
            // What falls between the windows beyond what the slope of both sides does.
            const double steep = std::fabs(step.falls_m) / gap, z = std::fabs(step.falls_m) / step.sd_m;
            if (std::fabs(step.falls_m) < least_drop_m || z < least_z || steep < least_slope ||
                steep < 2 * std::fabs(step.slope) || z < best.z * 1.1)
                continue;
            best.falls_m = step.falls_m;
            best.sd_m = step.sd_m;
            best.z = z;
            best.altitude_m = step.middle_m;
            best.trend_deg = std::atan(step.slope) * degrees_per_radian;
            place_step(all, i, gap, step, best);
        }
        if (best.z > 0)
            found.push_back(best);
    }
    // Of neighbours the one that stands out most.
    std::sort(found.begin(), found.end(), [](const Drop &a, const Drop &b) { return a.z > b.z; });
    std::vector<Drop> kept;
    for (const auto &d : found)
        if (std::none_of(kept.begin(), kept.end(), [&](const Drop &k) {
                // The banks of a narrow channel lie close.
                const double between = std::fabs(run_m[k.row] - run_m[d.row]);
                return between < ((k.falls_m > 0) == (d.falls_m > 0) ? apart_m : banks_apart_m);
            }))
            kept.push_back(d);
    std::sort(kept.begin(), kept.end(), [](const Drop &a, const Drop &b) { return a.row < b.row; });
    return kept;
}

} // namespace heron
