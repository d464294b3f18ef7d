#include "reading/large.hpp"

#include "geo/position.hpp"
#include "reading/measure.hpp"
#include "sonar/median.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace heron {
namespace {

constexpr double least_dark_m = 0.6, least_depth_db = 5, least_bright_db = 4, dark_from_db = 2.6;
constexpr double least_height_m = 0.3;
constexpr double about_m = 6; // of range, to either side: what a run is set against
constexpr double edge_reach_m = 0.9;
constexpr double linked_m = 0.9; // over ground from run to run
constexpr std::size_t linked_steps = 3, least_runs = 10;

// Levels along the sound of one step, decibels over the stretch's own at each range and over what lies about.
std::vector<double> profile(const Swath &s, const std::vector<double> &usual, std::size_t first,
                            std::size_t last) {
    const auto columns = s.ground.columns;
    std::vector<double> p(columns, 0);
    for (std::size_t k = 0; k < columns; ++k) {
        double sum = 0;
        for (auto line = first; line <= last; ++line)
            sum += std::clamp(static_cast<double>(s.ground_level_db[line * columns + k]) - usual[k], -20.0,
                              24.0);
        p[k] = sum / static_cast<double>(last - first + 1);
    }
    // A pulse or so.
    const auto half = static_cast<std::size_t>(std::max(1.0, std::round(0.1 / s.cell_m)));
    std::vector<double> smooth(columns), sums(columns + 1, 0);
    for (std::size_t k = 0; k < columns; ++k)
        sums[k + 1] = sums[k] + p[k];
    for (std::size_t k = 0; k < columns; ++k) {
        const auto a = k > half ? k - half : 0, b = std::min(columns, k + half + 1);
        smooth[k] = (sums[b] - sums[a]) / static_cast<double>(b - a);
    }
    // Off the median of what lies about.
    const auto reach = static_cast<std::size_t>(about_m / s.cell_m),
               every = std::max<std::size_t>(1, reach / 8);
    std::vector<double> level;
    std::vector<double> window;
    for (std::size_t k = 0; k < columns; k += every) {
        window.clear();
        const auto a = k > reach ? k - reach : 0, b = std::min(columns, k + reach + 1);
        for (auto j = a; j < b; j += 4)
            window.push_back(smooth[j]);
        level.push_back(median_in_place(window));
    }
    for (std::size_t k = 0; k < columns; ++k)
        smooth[k] -= level[std::min(level.size() - 1, (k + every / 2) / every)];
    return smooth;
}

double over_ground(double slant, double altitude) {
    return std::sqrt(std::max(0.0, slant * slant - altitude * altitude));
}

// The dark runs of one profile: where the sum of what lies under the threshold is most, step by step.
void runs_of(const Swath &s, std::size_t line, const std::vector<double> &p, std::size_t end,
             std::vector<ShadowRun> &found) {
    const double altitude = s.altitude_m[line];
    constexpr double drop = 1.5; // dB·m that end a run
    std::size_t k = 0;
    while (k < end) {
        if (-p[k] - dark_from_db <= 0) {
            ++k;
            continue;
        }
        double sum = 0, best = 0;
        auto last = k, j = k;
        for (; j < end; ++j) {
            sum += (std::min(12.0, -p[j]) - dark_from_db) * s.cell_m;
            if (sum > best) {
                best = sum;
                last = j;
            }
            if (sum < best - drop || sum < 0)
                break;
        }
        ShadowRun r;
        r.line = line;
        r.along_m = s.along_m[line];
        r.start_m = s.slant_m(line, static_cast<double>(k));
        r.end_m = s.slant_m(line, static_cast<double>(last + 1));
        r.cut = last + 2 + static_cast<std::size_t>(0.3 / s.cell_m) >= end;
        double dark = 0;
        for (auto i = k; i <= last; ++i)
            dark -= p[i];
        r.depth_db = dark / static_cast<double>(last - k + 1);
        // The edge before it.
        const auto reach = static_cast<std::size_t>(edge_reach_m / s.cell_m);
        auto brightest = k;
        for (auto i = k > reach ? k - reach : 0; i <= k; ++i)
            if (p[i] > p[brightest])
                brightest = i;
        r.bright_db = p[brightest];
        auto edge = brightest;
        while (edge > 0 && brightest - edge < reach && p[edge - 1] > 0.5 * r.bright_db)
            --edge;
        r.edge_m = s.slant_m(line, static_cast<double>(edge));
        r.ground_m = over_ground(r.edge_m, altitude);
        r.height_m = altitude * (r.end_m - r.edge_m) / r.end_m;
        // Softer ground behind harder is dark too, but it stays so; behind a shadow the bottom comes back.
        const auto beside = static_cast<std::size_t>(1 / s.cell_m);
        const auto mean = [&](std::size_t from, std::size_t to) {
            double all = 0;
            for (auto i = from; i < to; ++i)
                all += p[i];
            return to > from ? all / static_cast<double>(to - from) : 0.0;
        };
        const double before = mean(edge > beside ? edge - beside : 0, edge),
                     after = mean(last + 1, std::min(end, last + 1 + beside));
        const bool comes_back = r.cut || after + r.depth_db >= 0.5 * (before + r.depth_db);
        if (comes_back && over_ground(r.end_m, altitude) - over_ground(r.start_m, altitude) >= least_dark_m &&
            r.depth_db >= least_depth_db && r.bright_db >= least_bright_db && r.height_m >= least_height_m)
            found.push_back(r);
        k = std::max(last, k) + 1;
    }
}

struct Axes {
    double length_m = 0, width_m = 0,
           stray_m = 0; ///< extents along and across the longer axis; one sigma across
};
Axes axes_of(const std::vector<ShadowRun> &runs, const std::vector<std::size_t> &of) {
    double mx = 0, my = 0, xx = 0, yy = 0, xy = 0;
    const auto n = static_cast<double>(of.size());
    for (const auto i : of) {
        mx += runs[i].along_m / n;
        my += runs[i].ground_m / n;
    }
    for (const auto i : of) {
        const double x = runs[i].along_m - mx, y = runs[i].ground_m - my;
        xx += x * x / n;
        yy += y * y / n;
        xy += x * y / n;
    }
    const double turned = 0.5 * std::atan2(2 * xy, xx - yy), c = std::cos(turned), si = std::sin(turned);
    double low = 1e9, high = -1e9, near = 1e9, far = -1e9, aside = 0;
    for (const auto i : of) {
        const double x = runs[i].along_m - mx, y = runs[i].ground_m - my;
        const double along = c * x + si * y, across = -si * x + c * y;
        low = std::min(low, along);
        high = std::max(high, along);
        near = std::min(near, across);
        far = std::max(far, across);
        aside += across * across / n;
    }
    return {high - low + large_step_m, far - near, std::sqrt(aside)};
}

double quantile(std::vector<double> all, double share) {
    const auto k = static_cast<std::size_t>(share * static_cast<double>(all.size() - 1));
    std::nth_element(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(k), all.end());
    return all[k];
}

} // namespace

std::vector<ShadowRun> shadow_runs(const Swath &s) {
    std::vector<ShadowRun> found;
    const auto columns = s.ground.columns;
    if (s.lines() < 24 || columns < 40 || s.ground_level_db.size() != s.lines() * columns)
        return found;
    // The usual level at each range from the first return on.
    std::vector<double> usual(columns), some;
    const auto every = std::max<std::size_t>(1, s.lines() / 150);
    for (std::size_t k = 0; k < columns; ++k) {
        some.clear();
        for (std::size_t line = 0; line < s.lines(); line += every)
            if (s.slant_m(line, static_cast<double>(k)) < s.end_m[line])
                some.push_back(static_cast<double>(s.ground_level_db[line * columns + k]));
        usual[k] = some.empty() ? (k > 0 ? usual[k - 1] : 0) : median_in_place(some);
    }
    for (std::size_t first = 0; first < s.lines();) {
        auto last = first;
        while (last + 1 < s.lines() && s.along_m[last + 1] - s.along_m[first] < large_step_m)
            ++last;
        const auto middle = (first + last) / 2;
        const auto p = profile(s, usual, first, last);
        const auto end = static_cast<std::size_t>(
            std::clamp((s.end_m[middle] - s.edge_m[middle]) / s.cell_m, 0.0, static_cast<double>(columns)));
        runs_of(s, middle, p, end, found);
        first = last + 1;
    }
    return found;
}

namespace {

// Sets of runs that hang together: at most `aside_m` aside of each other, `steps` apart.
std::vector<std::vector<std::size_t>> sets_of(const std::vector<ShadowRun> &runs,
                                              const std::vector<bool> &taken, double aside_m,
                                              std::size_t steps) {
    std::vector<std::size_t> set(runs.size());
    std::iota(set.begin(), set.end(), 0U);
    const auto root = [&](std::size_t i) {
        while (set[i] != i)
            i = set[i] = set[set[i]];
        return i;
    };
    const double reach = large_step_m * static_cast<double>(steps) + 0.1;
    for (std::size_t i = 0; i < runs.size(); ++i)
        for (auto j = i + 1; j < runs.size() && runs[j].along_m - runs[i].along_m <= reach; ++j)
            if (!taken[i] && !taken[j] &&
                std::fabs(runs[j].ground_m - runs[i].ground_m) <=
                    std::max(aside_m, 0.9 * (runs[j].along_m - runs[i].along_m)))
                set[root(j)] = root(i);
    std::vector<std::vector<std::size_t>> sets(runs.size());
    for (std::size_t i = 0; i < runs.size(); ++i)
        if (!taken[i])
            sets[root(i)].push_back(i);
    std::erase_if(sets, [](const auto &of) { return of.size() < least_runs; });
    return sets;
}

std::size_t steps_in(const std::vector<ShadowRun> &runs, const std::vector<std::size_t> &of) {
    std::vector<std::size_t> lines;
    for (const auto i : of)
        lines.push_back(runs[i].line);
    std::sort(lines.begin(), lines.end());
    return static_cast<std::size_t>(std::unique(lines.begin(), lines.end()) - lines.begin());
}

LargeThing thing_of(const Swath &s, const std::vector<ShadowRun> &runs, const std::vector<std::size_t> &of) {
    LargeThing t;
    const auto axes = axes_of(runs, of);
    t.length_m = axes.length_m;
    t.width_m = axes.width_m;
    t.stray_m = axes.stray_m;
    const double along = runs[of.back()].along_m - runs[of.front()].along_m + large_step_m;
    t.steady =
        std::min(1.0, static_cast<double>(steps_in(runs, of)) * std::max(large_step_m, s.spacing_m) / along);
    t.at_least =
        2 * std::count_if(of.begin(), of.end(), [&](auto i) { return runs[i].cut; }) > std::ssize(of);
    t.runs = of;
    return t;
}

} // namespace

std::vector<LargeThing> large_things(const Swath &s, const std::vector<ShadowRun> &runs) {
    std::vector<LargeThing> all;
    std::vector<bool> taken(runs.size(), false);
    const auto heights = [&](const std::vector<std::size_t> &of) {
        std::vector<double> h;
        for (const auto i : of)
            h.push_back(runs[i].height_m);
        return h;
    };
    const auto take = [&](const LargeThing &t) {
        for (const auto i : t.runs)
            taken[i] = true;
        all.push_back(t);
    };
    const double whole = s.lines() > 0 ? (s.along_m.back() - s.along_m.front()) *
                                             over_ground(median(s.end_m), median(s.altitude_m))
                                       : 1e9;
    const auto outside = [&](std::size_t of, double area_m2) {
        return static_cast<double>(runs.size() - of) / std::max(1.0, whole - area_m2);
    };
    for (const auto &of : sets_of(runs, taken, linked_m, linked_steps)) {
        auto t = thing_of(s, runs, of);
        const auto h = heights(of);
        const double middle = quantile(h, 0.5), spread = 0.5 * (quantile(h, 0.84) - quantile(h, 0.16));
        const double a_step = static_cast<double>(of.size()) / static_cast<double>(steps_in(runs, of));
        if (t.length_m < 6 || a_step > 1.3 || t.steady < 0.65 || t.stray_m > 0.3 + 0.03 * t.length_m ||
            spread > 0.35 * middle || middle < 0.4)
            continue;
        // Rocky ground throws shadows everywhere, here and there some in a row.
        const double strip = t.length_m * 2 * linked_m;
        if (static_cast<double>(of.size()) < 6 * outside(of.size(), strip) * strip)
            continue;
        // A wall's face is heard far louder than any ground; where the ground falls away nothing is.
        std::vector<double> bright;
        for (const auto i : of)
            bright.push_back(runs[i].bright_db);
        constexpr double least_face_db = 8, least_ledge_m = 10;
        t.kind = quantile(bright, 0.5) < least_face_db ? Kind::ledge : Kind::built;
        // Without a face there is less to tell it by: on bare rock some shadows in a row are soon a few
        // metres long.
        if (t.kind == Kind::ledge && t.length_m < least_ledge_m)
            continue;
        t.height_m = {middle, std::hypot(0.06 + 0.12 * middle,
                                         1.25 * spread / std::sqrt(static_cast<double>(of.size())))};
        take(t);
    }
    // Stones hide each other: in a heap the next shadow may begin some metres farther out.
    constexpr double within_heap_m = 2.5, least_to_m2 = 0.4;
    for (const auto &of : sets_of(runs, taken, within_heap_m, linked_steps)) {
        auto t = thing_of(s, runs, of);
        const auto h = heights(of);
        const double tall = quantile(h, 0.85), area = 0.785 * t.length_m * t.width_m;
        const double a_step = static_cast<double>(of.size()) / static_cast<double>(steps_in(runs, of));
        std::vector<double> bright, dark;
        for (const auto i : of) {
            bright.push_back(runs[i].bright_db);
            dark.push_back(runs[i].depth_db);
        }
        // And a heap stands out from what lies about it.
        const double inside = static_cast<double>(of.size()) / area;
        if (t.length_m < 5 || t.width_m < 4 || t.length_m > 4 * t.width_m || of.size() < 30 || a_step < 1.3 ||
            inside < least_to_m2 || inside < 4 * outside(of.size(), area) || area > 0.3 * whole ||
            tall < 0.7 || quantile(h, 0.5) < 0.45 || quantile(bright, 0.5) < 8 || quantile(dark, 0.5) < 7)
            continue;
        t.kind = Kind::rock_pile;
        t.height_m = {tall, 0.1 + 0.2 * tall};
        take(t);
    }
    return all;
}

std::vector<Contact> read_large(const Scan &scan, const Swath &s, const std::vector<double> &run_m,
                                std::size_t first, std::size_t end) {
    std::vector<Contact> found;
    const auto runs = shadow_runs(s);
    for (const auto &t : large_things(s, runs)) {
        // Of what reaches beyond the stretch either stretch tells its part: they join.
        if (std::none_of(t.runs.begin(), t.runs.end(),
                         [&](auto i) { return s.rows[runs[i].line] >= first && s.rows[runs[i].line] < end; }))
            continue;
        Contact c;
        c.zone = Zone::ground;
        c.side = s.side;
        // Shown where its shadow tells what all of it tells.
        const auto &middle = runs[*std::min_element(t.runs.begin(), t.runs.end(), [&](auto i, auto j) {
            return std::fabs(runs[i].height_m - t.height_m.value) <
                   std::fabs(runs[j].height_m - t.height_m.value);
        })];
        // The edge that is heard first is the top: so high over the bottom it stands a little farther out.
        const auto ground_of = [&](const ShadowRun &r) {
            const double under = s.altitude_m[r.line] - std::min(r.height_m, t.height_m.value);
            return std::sqrt(std::max(0.01, r.edge_m * r.edge_m - under * under));
        };
        c.row = s.rows[middle.line];
        c.first_row = s.rows[runs[t.runs.front()].line];
        c.last_row = s.rows[runs[t.runs.back()].line];
        c.time = scan.facts(c.row).time;
        c.run_m = run_m[c.row];
        if (const auto at = scan.nav.fix_at(c.time))
            c.heading_deg = at->pose.heading_deg;
        c.slant_m = middle.edge_m;
        c.echo_end_m = middle.start_m;
        c.top_m = middle.edge_m;
        c.shadow_start_m = middle.start_m;
        c.shadow_end_m = middle.end_m;
        c.shadow_cut = middle.cut;
        c.behind.found = true;
        c.behind.start_m = middle.start_m;
        c.behind.end_m = middle.end_m;
        c.behind.depth_db = middle.depth_db;
        c.behind.score = 4;
        c.behind.cut = middle.cut;
        c.bottom.altitude_m = s.altitude_m[middle.line];
        c.bottom.altitude_sd_m = std::max(0.06, scan.bottom(c.row).altitude_sd_m);
        c.features[0] = std::nan(""); // what is said of it teaches nothing of smaller things
        // Surer the longer it runs on.
        const double sure = std::min(0.97, 0.8 + 0.02 * t.length_m);
        c.chances = {};
        c.chances[static_cast<std::size_t>(t.kind)] = sure;
        c.chances[static_cast<std::size_t>(Kind::none)] = 1 - sure;
        settle_kind(c);
        c.height_m = t.height_m;
        c.height_at_least = t.at_least;
        c.length_m = t.length_m;
        c.width_m = t.kind == Kind::rock_pile ? t.width_m : std::min(1.0, t.width_m);
        c.along_m = runs[t.runs.back()].along_m - runs[t.runs.front()].along_m;
        Large large;
        large.chances = c.chances;
        large.stray_m = t.stray_m;
        large.steady = t.steady;
        large.rays = t.runs.size();
        large.closed = t.kind == Kind::rock_pile;
        for (const auto i : t.runs) {
            const auto &r = runs[i];
            const auto placed =
                place_beside(scan, s.rows[r.line], s.side, {ground_of(r), 0.2 + 0.02 * r.ground_m});
            if (placed.at)
                large.edge.push_back(*placed.at);
        }
        c.ground_m = {ground_of(middle), 0.3 + 0.02 * middle.ground_m};
        place_large(scan, std::move(large), c);
        found.push_back(std::move(c));
    }
    return found;
}

} // namespace heron
