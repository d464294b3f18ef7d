#include "reading/behind.hpp"

#include "sonar/decibels.hpp"

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

std::ptrdiff_t lines_in(const Swath &s, double m) {
    return static_cast<std::ptrdiff_t>(std::lround(m / s.spacing_m));
}

std::ptrdiff_t columns_in(const Swath &s, double m) {
    return static_cast<std::ptrdiff_t>(std::lround(m / s.cell_m));
}

/// The lines of an echo without its ends, and where behind the echo each of them goes on.
struct EchoRays {
    std::ptrdiff_t first = 0, last = 0, trim = 0; ///< of the echo's lines; trimmed at either end
    std::vector<std::size_t> lines;
    std::vector<int> edges; ///< the last column of the echo on each
    double far_m = 0;       ///< slant distance of the middle one's edge

    std::size_t middle() const { return lines[lines.size() / 2]; }
    int edge() const { return edges[edges.size() / 2]; }
};

EchoRays rays_of(const Swath &s, const Echo &e) {
    EchoRays rays;
    rays.first = static_cast<std::ptrdiff_t>(e.first_line);
    rays.last = static_cast<std::ptrdiff_t>(e.last_line);
    rays.trim = static_cast<std::ptrdiff_t>(0.18 * static_cast<double>(rays.last - rays.first + 1));
    for (auto l = rays.first + rays.trim; l <= rays.last - rays.trim; ++l) {
        const auto i = static_cast<std::size_t>(l - rays.first);
        const int far = e.zone == Zone::dark ? e.near_edge[i] - 1 : e.far_edge[i];
        if (far < 0 || far >= (1 << 20) - 1)
            continue;
        rays.lines.push_back(static_cast<std::size_t>(l));
        rays.edges.push_back(far);
    }
    if (!rays.lines.empty())
        rays.far_m = s.slant_m(rays.middle(), static_cast<double>(rays.edge() + 1));
    return rays;
}

// Slant distance at which the echo has risen to half, rays brought to their near edges.
double rise_of(const Swath &s, const Echo &e, const EchoRays &rays) {
    std::vector<int> nears;
    nears.reserve(rays.lines.size());
    for (const auto l : rays.lines)
        nears.push_back(e.near_edge[l - e.first_line] - static_cast<int>(columns_in(s, 0.25)) - 1);
    const auto rise = profile(
        s, rays.lines, nears,
        static_cast<std::size_t>(columns_in(s, 0.25) + std::max<std::ptrdiff_t>(3, columns_in(s, 0.4))));
    const auto most = std::max_element(rise.begin(), rise.end());
    std::size_t at = 0;
    while (at + 1 < rise.size() && rise[at] < *most / 2)
        ++at;
    std::vector<int> sorted = nears;
    std::nth_element(sorted.begin(), sorted.begin() + std::ssize(sorted) / 2, sorted.end());
    return s.slant_m(rays.middle(), sorted[sorted.size() / 2] + 1 + static_cast<double>(at));
}

// What a floating thing throws: a short dark somewhere behind. Any ground has dark spots; those behind
// its neighbours along the track tell how dark and how often.
void tell_apart(const Swath &s, const EchoRays &rays, const std::vector<double> &p, std::size_t heard,
                ShadowBehind &b) {
    const auto box = static_cast<std::size_t>(std::max<std::ptrdiff_t>(2, columns_in(s, 0.3)));
    if (heard <= 2 * box)
        return;
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
    const auto shift = rays.last - rays.first + 1 + lines_in(s, 0.6);
    for (const auto by : {-2 * shift, -shift, shift, 2 * shift}) {
        std::vector<std::size_t> there;
        std::vector<int> there_edges;
        for (std::size_t i = 0; i < rays.lines.size(); ++i) {
            const auto l = static_cast<std::ptrdiff_t>(rays.lines[i]) + by;
            if (l >= 0 && l < std::ssize(s.rows)) {
                there.push_back(static_cast<std::size_t>(l));
                there_edges.push_back(rays.edges[i]);
            }
        }
        if (there.size() * 2 > rays.lines.size())
            beside = std::min(beside, darkest(profile(s, there, there_edges, p.size()), &around));
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

struct DarkRun {
    double sum = 0; ///< of decibels under the threshold
    std::size_t from = 0, to = 0;
};

// The run of darkness with the greatest sum.
DarkRun darkest_run(const std::vector<double> &p, std::size_t heard, std::ptrdiff_t lit_columns) {
    // Lit ground of some length ends it: what is dark beyond that is another thing's.
    const auto lit_enough = static_cast<std::size_t>(std::max<std::ptrdiff_t>(4, lit_columns));
    DarkRun best;
    double run = 0;
    std::size_t from = 0, lit = 0;
    for (std::size_t d = 0; d < heard; ++d) {
        lit = p[d] > -threshold_db / 2 ? lit + 1 : lit > 0 ? lit - 1 : 0;
        if (run <= 0 || lit >= lit_enough) {
            run = 0;
            from = d;
        }
        run += std::clamp(-p[d] - threshold_db, -deepest_db, deepest_db);
        if (run > best.sum)
            best = {run, from, d};
    }
    return best;
}

// How dark it is beside the shadow at the same distances, and how wide the shadow is.
void tell_beside(const Swath &s, const EchoRays &rays, std::ptrdiff_t start, std::ptrdiff_t end,
                 ShadowBehind &b) {
    const auto first = rays.first, last = rays.last, margin = lines_in(s, 0.4) + 1;
    // The same distances beside it.
    const auto width =
        std::max<std::ptrdiff_t>(1, std::min<std::ptrdiff_t>(lines_in(s, 1), last - first + 1));
    double beside = 0;
    int sides = 0;
    for (const auto l0 : {first - margin - width, last + margin}) {
        if (l0 < 0 || l0 + width >= std::ssize(s.rows))
            continue;
        const auto edge = static_cast<std::ptrdiff_t>(rays.edge()) + 1;
        beside += mean_of(s, l0, l0 + width, edge + start, edge + end);
        ++sides;
    }
    b.beside_db = sides > 0 ? beside / sides + b.depth_db : b.depth_db;
    // How wide: lines about the echo that are dark at those distances.
    const auto edge = static_cast<std::ptrdiff_t>(rays.edge()) + 1;
    const auto dark_at = [&](std::ptrdiff_t l) {
        return mean_of(s, l, l, edge + start, edge + end) < -b.depth_db / 2;
    };
    auto up = (first + last) / 2, down = up;
    while (up > first - lines_in(s, 3) && up > 0 && (dark_at(up) || dark_at(up - 1)))
        --up;
    while (down < last + lines_in(s, 3) && down + 1 < std::ssize(s.rows) &&
           (dark_at(down) || dark_at(down + 1)))
        ++down;
    b.width_m = static_cast<double>(down - up) * s.spacing_m;
}

} // namespace

ShadowBehind look_behind(const Swath &s, const Echo &e) {
    ShadowBehind b;
    if (e.zone == Zone::water)
        return b;
    const auto rays = rays_of(s, e);
    if (rays.lines.empty())
        return b;
    const auto first = rays.first, last = rays.last, trim = rays.trim;
    const auto in_lines = [&](double m) { return lines_in(s, m); };
    const auto in_columns = [&](double m) { return columns_in(s, m); };
    // A thing as tall as half the water throws a shadow as long as its distance.
    const auto reach = static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(
        in_columns(std::max(2.5, rays.far_m)), 8, static_cast<std::ptrdiff_t>(s.ground.columns)));
    std::vector<double> count;
    auto p = profile(s, rays.lines, rays.edges, reach, &count);
    std::size_t heard = 0;
    while (heard < reach && count[heard] >= 0.5 * static_cast<double>(rays.lines.size()))
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
    if (e.zone == Zone::ground)
        b.top_m = rise_of(s, e, rays);
    if (heard < 4)
        return b;
    if (e.zone == Zone::ground)
        tell_apart(s, rays, p, heard, b);
    const auto close =
        std::min<std::size_t>(heard, static_cast<std::size_t>(std::max<std::ptrdiff_t>(3, in_columns(0.5))));
    for (std::size_t d = 1; d < close; ++d)
        b.touch_db -= p[d] / static_cast<double>(close - 1);
    const auto dark = darkest_run(p, heard, in_columns(0.35));
    if (dark.sum <= 0)
        return b;
    b.found = true;
    b.score = dark.sum * s.cell_m;
    // Half-way between the run's own depth and the ground.
    std::vector<double> inside(p.begin() + static_cast<std::ptrdiff_t>(dark.from),
                               p.begin() + static_cast<std::ptrdiff_t>(dark.to) + 1);
    std::nth_element(inside.begin(), inside.begin() + std::ssize(inside) / 2, inside.end());
    const double depth = std::max(1.0, -inside[inside.size() / 2]);
    const auto smooth = [&](std::size_t d) {
        const auto a = d > 0 ? d - 1 : 0, z = std::min(heard - 1, d + 1);
        double sum = 0;
        for (auto i = a; i <= z; ++i)
            sum += p[i];
        return sum / static_cast<double>(z - a + 1);
    };
    auto end = dark.to;
    while (end + 1 < heard && smooth(end) < -depth / 2)
        ++end;
    while (end > dark.from && smooth(end) > -depth / 2)
        --end;
    auto start = dark.from;
    while (start > 0 && smooth(start) < -depth / 2)
        --start;
    b.gap_m = static_cast<double>(start) * s.cell_m;
    b.start_m = rays.far_m + b.gap_m;
    b.end_m = std::min(rays.far_m + static_cast<double>(end + 1) * s.cell_m, s.end_m[rays.middle()]);
    b.start_m = std::min(b.start_m, b.end_m);
    b.depth_db = depth;
    b.cut = end + 2 >= heard && heard < reach;
    b.end_sd_m = std::hypot(0.8 * s.cell_m, s.pulse_m / 2) +
                 0.15 * std::min(1.0, 4 / depth) / std::sqrt(static_cast<double>(rays.lines.size()));
    tell_beside(s, rays, static_cast<std::ptrdiff_t>(start), static_cast<std::ptrdiff_t>(end), b);
    return b;
}

void look_before(const Swath &s, const Echo &e, ShadowBehind &b, const std::vector<Echo> &other) {
    const auto first = static_cast<std::ptrdiff_t>(e.first_line),
               last = static_cast<std::ptrdiff_t>(e.last_line);
    const auto trim = static_cast<std::ptrdiff_t>(0.18 * static_cast<double>(last - first + 1));
    const auto in_columns = [&](double m) { return static_cast<std::ptrdiff_t>(std::lround(m / s.cell_m)); };
    std::vector<int> nears;
    for (auto l = first + trim; l <= last - trim; ++l)
        if (e.far_edge[static_cast<std::size_t>(l - first)] >= 0)
            nears.push_back(e.near_edge[static_cast<std::size_t>(l - first)]);
    if (nears.empty())
        return;
    std::nth_element(nears.begin(), nears.begin() + std::ssize(nears) / 2, nears.end());
    const auto dark = static_cast<std::ptrdiff_t>(nears[nears.size() / 2]), from = in_columns(0.3);
    const auto width = std::max<std::ptrdiff_t>(2, in_columns(std::max(1.5 * s.pulse_m, 0.12)));
    if (dark < from + 3 * width)
        return;
    const auto reach = static_cast<std::size_t>(dark - from);
    // Means of energy in boxes of those lines, in decibels; box i ends at column from + i.
    const auto boxes = [&](std::ptrdiff_t by) {
        std::vector<double> mean(reach, 0), out;
        double lines = 0;
        for (auto l = first + trim + by; l <= last - trim + by; ++l) {
            if (l < 0 || l >= std::ssize(s.rows))
                continue;
            lines += 1;
            for (std::size_t d = 0; d < reach; ++d)
                mean[d] += std::exp(0.2302585 *
                                    static_cast<double>(s.ground.at(static_cast<std::size_t>(l),
                                                                    static_cast<std::size_t>(from) + d)));
        }
        if (2 * lines < static_cast<double>(last - first + 1 - 2 * trim))
            return out;
        double sum = 0;
        for (std::size_t d = 0; d < reach; ++d) {
            sum += mean[d];
            if (d >= static_cast<std::size_t>(width))
                sum -= mean[d - static_cast<std::size_t>(width)];
            if (d + 1 >= static_cast<std::size_t>(width))
                out.push_back(decibels_of(std::max(1e-4, sum / lines / static_cast<double>(width))));
        }
        return out;
    };
    const auto here = boxes(0);
    std::vector<double> beside;
    const auto shift = last - first + 1 + static_cast<std::ptrdiff_t>(std::lround(0.6 / s.spacing_m));
    for (const auto by : {-2 * shift, -shift, shift, 2 * shift}) {
        const auto some = boxes(by);
        beside.insert(beside.end(), some.begin(), some.end());
    }
    if (here.empty() || beside.size() < 20)
        return;
    const auto nth = [&](double share) {
        const auto at =
            beside.begin() + static_cast<std::ptrdiff_t>(share * static_cast<double>(beside.size() - 1));
        std::nth_element(beside.begin(), at, beside.end());
        return *at;
    };
    const double middle = nth(0.5), sd = std::max(0.5, nth(0.84) - middle);
    // What shines there belongs to another.
    std::vector<bool> closed(here.size(), false);
    for (const auto &o : other)
        if (o.first_line <= e.last_line && o.last_line >= e.first_line)
            for (auto d = std::max<std::ptrdiff_t>(0, static_cast<std::ptrdiff_t>(o.first_column) - from -
                                                          2 * width);
                 d < std::min(std::ssize(here), static_cast<std::ptrdiff_t>(o.last_column) - from + width);
                 ++d)
                closed[static_cast<std::size_t>(d)] = true;
    // The farther it may be looked for, the brighter chance alone makes the best.
    double best = 1.8;
    std::ptrdiff_t at = -1;
    for (std::size_t d = 0; d < here.size(); ++d) {
        const double gap = static_cast<double>(here.size() - 1 - d) * s.cell_m;
        if (closed[d])
            continue;
        const double score = (here[d] - middle) / sd - 0.6 * std::log1p(gap / 0.3);
        if (score > best) {
            best = score;
            at = static_cast<std::ptrdiff_t>(d);
        }
    }
    if (at < 0)
        return;
    const double peak = here[static_cast<std::size_t>(at)] - middle;
    auto begin = at, end = at;
    while (begin > 0 && here[static_cast<std::size_t>(begin - 1)] - middle > peak / 2)
        --begin;
    while (end + 1 < std::ssize(here) && here[static_cast<std::size_t>(end + 1)] - middle > peak / 2)
        ++end;
    const auto line = static_cast<std::size_t>((first + last) / 2);
    b.source_z = peak / sd;
    b.source_db = peak;
    // A box is wider than what fills it.
    b.source_m = s.slant_m(line, static_cast<double>(from + begin) + static_cast<double>(width) / 2);
    b.source_end_m = std::max(b.source_m + s.cell_m, s.slant_m(line, static_cast<double>(from + end) +
                                                                         static_cast<double>(width) / 2));
    b.gap_m = std::max(0.0, b.start_m - b.source_end_m);
}

namespace {

// What was found is another's: what lies before, beside and right behind the echo stays.
void forget_shadow(ShadowBehind &b) {
    ShadowBehind none;
    none.top_m = b.top_m;
    none.touch_db = b.touch_db;
    none.before_db = b.before_db;
    none.halo_db = b.halo_db;
    b = none;
}

} // namespace

Found find_all(const Swath &s, const DetectionLevels &levels) {
    Found all;
    all.echoes = find_echoes(s, levels);
    std::vector<std::size_t> own;
    std::vector<Echo> with_own; // shadow
    for (const auto &e : all.echoes) {
        const auto b = look_behind(s, e);
        // What touches it is its own; what stands off may be another's.
        const auto line = (e.first_line + e.last_line) / 2;
        double until = s.slant_m(line, static_cast<double>(e.last_column + 1)) + 0.3;
        if (b.found && b.gap_m < 0.5)
            until = std::max(until, b.end_m + 0.3);
        if (b.found && b.gap_m < 0.5 && b.score > 0.5)
            with_own.push_back(e);
        own.push_back(static_cast<std::size_t>(std::max(0.0, (until - s.edge_m[line]) / s.cell_m)));
        all.behinds.push_back(b);
    }
    // Nor is what touches another echo.
    for (std::size_t i = 0; i < own.size(); ++i) {
        const auto &e = all.echoes[i];
        auto &b = all.behinds[i];
        if (e.zone != Zone::ground || !b.found || b.gap_m < 0.5)
            continue;
        for (std::size_t j = 0; j < own.size(); ++j) {
            const auto &o = all.echoes[j];
            const auto &theirs = all.behinds[j];
            if (j == i || o.zone != Zone::ground || !theirs.found || theirs.gap_m >= 0.5 ||
                theirs.score < 0.5 || o.last_line < e.first_line || o.first_line > e.last_line)
                continue;
            if (std::min(b.end_m, theirs.end_m) - std::max(b.start_m, theirs.start_m) >
                0.5 * (b.end_m - b.start_m)) {
                forget_shadow(b);
                break;
            }
        }
    }
    const auto darks = find_darks(s, all.echoes, own, levels);
    for (const auto &dark : darks) {
        auto b = look_behind(s, dark);
        look_before(s, dark, b, with_own);
        const auto line = (dark.first_line + dark.last_line) / 2;
        const double start = s.slant_m(line, static_cast<double>(dark.first_column)),
                     end = s.slant_m(line, static_cast<double>(dark.last_column + 1));
        bool told = false;
        std::vector<std::size_t> claims;
        for (std::size_t i = 0; i < own.size(); ++i) {
            const auto &e = all.echoes[i];
            const auto &theirs = all.behinds[i];
            if (e.zone != Zone::ground || !theirs.found || theirs.gap_m < 0.5 ||
                e.last_line < dark.first_line || e.first_line > dark.last_line ||
                std::min(end, theirs.end_m) - std::max(start, theirs.start_m) <
                    0.5 * std::min(end - start, theirs.end_m - theirs.start_m))
                continue;
            const double echo_end = theirs.start_m - theirs.gap_m;
            if (b.source_z > 0 && b.source_m < echo_end + 0.3 &&
                b.source_end_m > s.slant_m(line, static_cast<double>(e.first_column)) - 0.3)
                told = true; // the very echo that is told of already
            else
                claims.push_back(i);
        }
        for (const auto i : claims)
            if (told || b.source_z > 0)
                forget_shadow(all.behinds[i]);
        if (told)
            continue;
        all.echoes.push_back(dark);
        all.behinds.push_back(b);
    }
    return all;
}

} // namespace heron
