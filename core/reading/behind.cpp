#include "reading/behind.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr double threshold_db = 2.6;
constexpr double deepest_db = 8;

// Mean level at each distance behind the far edges of some lines; `lines` and `edges` go together.
std::vector<double> profile(const Swath &s, const std::vector<std::size_t> &lines,
                            const std::vector<int> &edges, std::size_t reach,
                            std::vector<double> *count = nullptr) {
    std::vector<double> sum(reach, 0), n(reach, 0);
    const auto columns = s.ground.columns;
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const auto heard = static_cast<std::size_t>(std::clamp(
            (s.end_m[lines[i]] - s.edge_m[lines[i]]) / s.cell_m, 0.0, static_cast<double>(columns)));
        for (std::size_t d = 0; d < reach; ++d) {
            const auto c = static_cast<std::ptrdiff_t>(edges[i]) + 1 + static_cast<std::ptrdiff_t>(d);
            if (c < 0 || c >= static_cast<std::ptrdiff_t>(heard))
                continue;
            sum[d] += static_cast<double>(s.ground.at(lines[i], static_cast<std::size_t>(c)));
            n[d] += 1;
        }
    }
    for (std::size_t d = 0; d < reach; ++d)
        sum[d] = n[d] > 0 ? sum[d] / n[d] : 0;
    if (count != nullptr)
        *count = n;
    return sum;
}

double mean_of(const Swath &s, std::ptrdiff_t l0, std::ptrdiff_t l1, std::ptrdiff_t c0, std::ptrdiff_t c1) {
    l0 = std::max<std::ptrdiff_t>(0, l0);
    c0 = std::max<std::ptrdiff_t>(0, c0);
    l1 = std::min(l1, std::ssize(s.rows) - 1);
    c1 = std::min(c1, static_cast<std::ptrdiff_t>(s.ground.columns) - 1);
    double sum = 0, n = 0;
    for (auto l = l0; l <= l1; ++l)
        for (auto c = c0; c <= c1; ++c) {
            sum += static_cast<double>(s.ground.at(static_cast<std::size_t>(l), static_cast<std::size_t>(c)));
            n += 1;
        }
    return n > 0 ? sum / n : 0;
}

} // namespace

Behind look_behind(const Swath &s, const Echo &e) {
    Behind b;
    if (e.zone == Zone::water)
        return b;
    const auto first = static_cast<std::ptrdiff_t>(e.first_line),
               last = static_cast<std::ptrdiff_t>(e.last_line);
    const auto in_lines = [&](double m) { return static_cast<std::ptrdiff_t>(std::lround(m / s.spacing_m)); };
    const auto in_columns = [&](double m) { return static_cast<std::ptrdiff_t>(std::lround(m / s.cell_m)); };
    std::vector<std::size_t> lines;
    std::vector<int> edges;
    const auto trim = static_cast<std::ptrdiff_t>(0.18 * static_cast<double>(last - first + 1));
    for (auto l = first + trim; l <= last - trim; ++l) {
        const int far = e.zone == Zone::dark ? e.near_edge[static_cast<std::size_t>(l - first)] - 1
                                             : e.far_edge[static_cast<std::size_t>(l - first)];
        if (far < 0 || far >= (1 << 20) - 1)
            continue;
        lines.push_back(static_cast<std::size_t>(l));
        edges.push_back(far);
    }
    if (lines.empty())
        return b;
    const auto middle = lines[lines.size() / 2];
    const double far_m = s.slant_m(middle, static_cast<double>(edges[edges.size() / 2] + 1));
    // A thing as tall as half the water throws a shadow as long as its distance.
    const auto reach = static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(
        in_columns(std::max(2.5, far_m)), 8, static_cast<std::ptrdiff_t>(s.ground.columns)));
    std::vector<double> count;
    auto p = profile(s, lines, edges, reach, &count);
    std::size_t heard = 0;
    while (heard < reach && count[heard] >= 0.5 * static_cast<double>(lines.size()))
        ++heard;
    b.before_db =
        mean_of(s, first + trim, last - trim, static_cast<std::ptrdiff_t>(e.first_column) - in_columns(0.6),
                static_cast<std::ptrdiff_t>(e.first_column) - in_columns(0.1));
    const auto margin = in_lines(0.4) + 1;
    const auto c0 = static_cast<std::ptrdiff_t>(e.first_column),
               c1 = static_cast<std::ptrdiff_t>(e.last_column);
    b.halo_db = (mean_of(s, first - margin - in_lines(0.8), first - margin, c0, c1) +
                 mean_of(s, last + margin, last + margin + in_lines(0.8), c0, c1)) /
                2;
    // The echo's own rise, rays brought to their near edges.
    if (e.zone == Zone::ground) {
        std::vector<int> nears;
        for (const auto l : lines)
            nears.push_back(e.near_edge[l - e.first_line] - static_cast<int>(in_columns(0.25)) - 1);
        const auto rise = profile(
            s, lines, nears,
            static_cast<std::size_t>(in_columns(0.25) + std::max<std::ptrdiff_t>(3, in_columns(0.4))));
        const auto most = std::max_element(rise.begin(), rise.end());
        std::size_t at = 0;
        while (at + 1 < rise.size() && rise[at] < *most / 2)
            ++at;
        std::vector<int> sorted = nears;
        std::nth_element(sorted.begin(), sorted.begin() + std::ssize(sorted) / 2, sorted.end());
        b.top_m = s.slant_m(middle, sorted[sorted.size() / 2] + 1 + static_cast<double>(at));
    }
    if (heard < 4)
        return b;
    // What a floating thing throws: a short dark somewhere behind. Any ground has dark spots; those behind
    // its neighbours along the track tell how dark and how often.
    if (const auto box = static_cast<std::size_t>(std::max<std::ptrdiff_t>(2, in_columns(0.3)));
        e.zone == Zone::ground && heard > 2 * box) {
        const auto darkest = [&](const std::vector<double> &q, std::vector<double> *all) {
            double sum = 0, least = 0;
            for (std::size_t d = box; d < heard; ++d) {
                sum += q[d];
                if (d >= 2 * box) {
                    sum -= q[d - box];
                    least = std::min(least, sum / static_cast<double>(box));
                    if (all != nullptr)
                        all->push_back(sum / static_cast<double>(box));
                }
            }
            return least;
        };
        std::vector<double> around;
        double beside = 0;
        const auto shift = last - first + 1 + in_lines(0.6);
        for (const auto by : {-2 * shift, -shift, shift, 2 * shift}) {
            std::vector<std::size_t> there;
            std::vector<int> there_edges;
            for (std::size_t i = 0; i < lines.size(); ++i) {
                const auto l = static_cast<std::ptrdiff_t>(lines[i]) + by;
                if (l >= 0 && l < std::ssize(s.rows)) {
                    there.push_back(static_cast<std::size_t>(l));
                    there_edges.push_back(edges[i]);
                }
            }
            if (there.size() * 2 > lines.size())
                beside = std::min(beside, darkest(profile(s, there, there_edges, reach), &around));
        }
        if (around.size() > 10) {
            double sum = 0, squares = 0;
            for (const double v : around) {
                sum += v;
                squares += v * v;
            }
            const double n = static_cast<double>(around.size());
            const double sd = std::sqrt(std::max(0.04, squares / n - sum * sum / n / n));
            const double here = darkest(p, nullptr);
            b.apart_z = (sum / n - here) / sd;
            b.apart_db = beside - here;
        }
    }
    const auto close =
        std::min<std::size_t>(heard, static_cast<std::size_t>(std::max<std::ptrdiff_t>(3, in_columns(0.5))));
    for (std::size_t d = 1; d < close; ++d)
        b.touch_db -= p[d] / static_cast<double>(close - 1);
    // The run of darkness with the greatest sum.
    // Lit ground of some length ends it: what is dark beyond that is another thing's.
    const auto lit_enough = static_cast<std::size_t>(std::max<std::ptrdiff_t>(4, in_columns(0.35)));
    double best = 0, run = 0;
    std::size_t from = 0, best_from = 0, best_to = 0, lit = 0;
    for (std::size_t d = 0; d < heard; ++d) {
        lit = p[d] > -threshold_db / 2 ? lit + 1 : lit > 0 ? lit - 1 : 0;
        if (run <= 0 || lit >= lit_enough) {
            run = 0;
            from = d;
        }
        run += std::clamp(-p[d] - threshold_db, -deepest_db, deepest_db);
        if (run > best) {
            best = run;
            best_from = from;
            best_to = d;
        }
    }
    if (best <= 0)
        return b;
    b.found = true;
    b.score = best * s.cell_m;
    // Half-way between the run's own depth and the ground.
    std::vector<double> inside(p.begin() + static_cast<std::ptrdiff_t>(best_from),
                               p.begin() + static_cast<std::ptrdiff_t>(best_to) + 1);
    std::nth_element(inside.begin(), inside.begin() + std::ssize(inside) / 2, inside.end());
    const double depth = std::max(1.0, -inside[inside.size() / 2]);
    const auto smooth = [&](std::size_t d) {
        const auto a = d > 0 ? d - 1 : 0, z = std::min(heard - 1, d + 1);
        double sum = 0;
        for (auto i = a; i <= z; ++i)
            sum += p[i];
        return sum / static_cast<double>(z - a + 1);
    };
    auto end = best_to;
    while (end + 1 < heard && smooth(end) < -depth / 2)
        ++end;
    while (end > best_from && smooth(end) > -depth / 2)
        --end;
    auto start = best_from;
    while (start > 0 && smooth(start) < -depth / 2)
        --start;
    b.gap_m = static_cast<double>(start) * s.cell_m;
    b.start_m = far_m + b.gap_m;
    b.end_m = std::min(far_m + static_cast<double>(end + 1) * s.cell_m, s.end_m[middle]);
    b.start_m = std::min(b.start_m, b.end_m);
    b.depth_db = depth;
    b.cut = end + 2 >= heard && heard < reach;
    b.end_sd_m = std::hypot(0.8 * s.cell_m, s.pulse_m / 2) +
                 0.15 * std::min(1.0, 4 / depth) / std::sqrt(static_cast<double>(lines.size()));
    // The same distances beside it.
    const auto width = std::max<std::ptrdiff_t>(1, std::min<std::ptrdiff_t>(in_lines(1), last - first + 1));
    double beside = 0;
    int sides = 0;
    for (const auto l0 : {first - margin - width, last + margin}) {
        if (l0 < 0 || l0 + width >= std::ssize(s.rows))
            continue;
        const auto edge = static_cast<std::ptrdiff_t>(edges[edges.size() / 2]) + 1;
        beside += mean_of(s, l0, l0 + width, edge + static_cast<std::ptrdiff_t>(start),
                          edge + static_cast<std::ptrdiff_t>(end));
        ++sides;
    }
    b.beside_db = sides > 0 ? beside / sides + depth : depth;
    // How wide: lines about the echo that are dark at those distances.
    const auto edge = static_cast<std::ptrdiff_t>(edges[edges.size() / 2]) + 1;
    const auto dark_at = [&](std::ptrdiff_t l) {
        return mean_of(s, l, l, edge + static_cast<std::ptrdiff_t>(start),
                       edge + static_cast<std::ptrdiff_t>(end)) < -depth / 2;
    };
    auto up = (first + last) / 2, down = up;
    while (up > first - in_lines(3) && up > 0 && (dark_at(up) || dark_at(up - 1)))
        --up;
    while (down < last + in_lines(3) && down + 1 < std::ssize(s.rows) && (dark_at(down) || dark_at(down + 1)))
        ++down;
    b.width_m = static_cast<double>(down - up) * s.spacing_m;
    return b;
}

} // namespace heron
