#include "around/turn_check.hpp"

#include "fault/told.hpp"
#include "sonar/median.hpp"
#include "sonar/peak.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace heron {
namespace {

constexpr double cell_m = 0.3, widest_turn_deg = 30, step_deg = 1, stretch_deg = 30;
constexpr std::size_t most_looks = 240, least_looks = 30;

// y = c0 + c1·a + c2·b by least squares.
std::optional<std::array<double, 3>> fit(const std::vector<std::array<double, 3>> &rows) {
    double m[3][4] = {};
    for (const auto &[y, a, b] : rows) {
        const double x[3] = {1, a, b};
        for (int i = 0; i < 3; ++i) {
            for (int j = 0; j < 3; ++j)
                m[i][j] += x[i] * x[j];
            m[i][3] += x[i] * y;
        }
    }
    // What hardly varies cannot be told apart from what is the same all round.
    const double n = static_cast<double>(rows.size());
    m[1][1] += 0.02 * n;
    m[2][2] += 0.02 * n;
    for (int i = 0; i < 3; ++i) {
        if (std::fabs(m[i][i]) < 1e-9)
            return std::nullopt;
        for (int r = 0; r < 3; ++r) {
            if (r == i)
                continue;
            const double f = m[r][i] / m[i][i];
            for (int c = i; c < 4; ++c)
                m[r][c] -= f * m[i][c];
        }
    }
    return std::array{m[0][3] / m[0][0], m[1][3] / m[1][1], m[2][3] / m[2][2]};
}

double spread(const std::vector<double> &v) {
    const double n = static_cast<double>(v.size()), mean = std::accumulate(v.begin(), v.end(), 0.0) / n;
    double sum = 0;
    for (const double x : v)
        sum += (x - mean) * (x - mean);
    return std::sqrt(sum / n);
}

} // namespace

// The ground of a turn as a raster: level and the line that laid it.
struct TurnCheck::Ground {
    double reach_m;
    EastNorth middle;
    std::size_t side;
    std::vector<float> level;
    std::vector<int> line;

    Ground(const EastNorth &at, double reach)
        : reach_m(reach), middle(at), side(static_cast<std::size_t>(2 * reach / cell_m) + 1),
          level(side * side, 0), line(side * side, -1) {}
    std::optional<std::size_t> cell(const EastNorth &p) const {
        const double x = (p.east_m - middle.east_m + reach_m) / cell_m,
                     y = (p.north_m - middle.north_m + reach_m) / cell_m;
        if (x < 0 || y < 0 || x >= static_cast<double>(side) || y >= static_cast<double>(side))
            return std::nullopt;
        return static_cast<std::size_t>(y) * side + static_cast<std::size_t>(x);
    }
};

double TurnCheck::Line::distance(std::size_t bin) const {
    return reach_m * (static_cast<double>(bin) + 0.5) / bins;
}

EastNorth TurnCheck::Line::at(double distance_m, double turned_deg) const {
    const double b = (ray.bearing_deg + turned_deg) / degrees_per_radian;
    return {ray.at.east_m + distance_m * std::sin(b), ray.at.north_m + distance_m * std::cos(b)};
}

void TurnCheck::forget_turns() {
    looks_.clear();
    before_.lines.clear();
    now_.lines.clear();
}

void TurnCheck::follow(const Rays &rays, const Scan &scan) {
    const auto &all = rays.rays();
    auto first = std::lower_bound(all.begin(), all.end(), next_row_,
                                  [](const PlacedRay &r, std::size_t row) { return r.row < row; });
    for (auto i = first; i != all.end(); ++i) {
        const auto &ray = *i;
        if (!ray.settled)
            return; // it comes again when its place is known
        next_row_ = ray.row + 1;
        if (!ray.on_ground || !(ray.altitude_m > 0) || !scan.holds(ray.row))
            continue;
        if (std::fabs(ray.range_m - range_m_) > 0.02 * range_m_) {
            *this = TurnCheck();
            next_row_ = ray.row + 1;
            range_m_ = ray.range_m;
            sweep_ = ray.sweep;
        }
        if (ray.sweep != sweep_) {
            end_turn();
            sweep_ = ray.sweep;
        }
        take(ray, scan);
    }
}

// Levels by distance over ground, over what that distance usually shows.
void TurnCheck::take(const PlacedRay &ray, const Scan &scan) {
    const auto &ping = scan.ping(ray.row);
    const auto *beam = ping.beam(Side::around);
    const auto a = scan.nav.attitude_at(later(ray.time, -ns_per_s / 2)),
               b = scan.nav.attitude_at(later(ray.time, ns_per_s / 2));
    if (beam == nullptr || !a || !b)
        return;
    Line line;
    line.ray = ray;
    line.heading_deg = wrap_360(ray.bearing_deg - ray.off_bow_deg);
    line.turning_deg_s = wrap_180(b->heading_deg - a->heading_deg);
    line.reach_m = std::sqrt(std::max(1.0, range_m_ * range_m_ - ray.altitude_m * ray.altitude_m));
    std::array<double, 2> part{}, part_n{};
    for (std::size_t k = 0; k < bins; ++k) {
        const double g0 = line.reach_m * static_cast<double>(k) / bins, g1 = g0 + line.reach_m / bins;
        if (g0 < 0.8 * ray.altitude_m)
            continue; // before the beam meets the bottom
        const auto s0 = std::max<std::ptrdiff_t>(
                       0, static_cast<std::ptrdiff_t>(ping.sample_at(std::hypot(g0, ray.altitude_m)))),
                   s1 = std::min(std::ssize(beam->code),
                                 std::max(s0 + 1, static_cast<std::ptrdiff_t>(
                                                      ping.sample_at(std::hypot(g1, ray.altitude_m)))));
        double sum = 0, n = 0;
        for (auto i = s0; i < s1; ++i)
            if (beam->code[static_cast<std::size_t>(i)] != missing_code) {
                sum += beam->level_db(static_cast<std::size_t>(i));
                n += 1;
            }
        if (n == 0)
            continue;
        usual_[k] += sum / n;
        usual_n_[k] += 1;
        line.heard[k] = true;
        line.level[k] = static_cast<float>(sum / n - usual_[k] / usual_n_[k]);
        const std::size_t half = 2 * k < bins ? 0 : 1;
        part[half] += static_cast<double>(line.level[k]);
        part_n[half] += 1;
    }
    const auto sector = static_cast<std::size_t>(wrap_360(ray.off_bow_deg) / 360 * sectors) % sectors;
    if (part_n[0] > 0 && part_n[1] > 0) {
        near_[sector] += part[0] / part_n[0];
        far_[sector] += part[1] / part_n[1];
        sector_n_[sector] += 1;
    }
    now_.lines.push_back(line);
}

void TurnCheck::end_turn() {
    ++turns_;
    if (!before_.lines.empty() && now_.lines.size() > 20)
        compare(before_, now_);
    before_ = std::move(now_);
    now_ = {};
}

// The turn before on the ground; wide enough that neighbours meet.
void TurnCheck::lay(const Turn &turn, Ground &ground) {
    for (std::size_t i = 0; i < turn.lines.size(); ++i) {
        const auto &l = turn.lines[i];
        for (std::size_t k = 0; k < bins; ++k) {
            if (!l.heard[k])
                continue;
            const double g = l.distance(k);
            const double step = std::max(0.3, cell_m / g * degrees_per_radian);
            for (double off = -l.ray.half_deg; off <= l.ray.half_deg; off += step)
                if (const auto c = ground.cell(l.at(g, off))) {
                    ground.level[*c] = l.level[k];
                    ground.line[*c] = static_cast<int>(i);
                }
        }
    }
}

// How well some lines fit the ground when they are turned by an angle: −1 … 1; −1 where too little meets.
double TurnCheck::agreement(std::span<const Line> lines, const Ground &ground, double turned_deg) {
    double ab = 0, aa = 0, bb = 0;
    std::size_t count = 0;
    for (const auto &l : lines)
        for (std::size_t k = 0; k < bins; ++k) {
            if (!l.heard[k])
                continue;
            const auto c = ground.cell(l.at(l.distance(k), turned_deg));
            if (!c || ground.line[*c] < 0)
                continue;
            const double x = static_cast<double>(l.level[k]), y = static_cast<double>(ground.level[*c]);
            ab += x * y;
            aa += x * x;
            bb += y * y;
            ++count;
        }
    return count > 100 && aa > 0 && bb > 0 ? ab / std::sqrt(aa * bb) : -1;
}

void TurnCheck::compare(const Turn &before, const Turn &now) {
    Ground ground(before.lines[before.lines.size() / 2].ray.at, range_m_ + 1);
    lay(before, ground);
    for (std::size_t from = 0, to = 0; from < now.lines.size(); from = to) {
        double wide = 0;
        for (to = from; to < now.lines.size() && wide < stretch_deg; ++to)
            if (to > from)
                wide +=
                    std::fabs(wrap_180(now.lines[to].ray.off_bow_deg - now.lines[to - 1].ray.off_bow_deg));
        if (wide < 0.6 * stretch_deg)
            return;
        const std::span some(now.lines.data() + from, to - from);
        constexpr auto n = static_cast<int>(widest_turn_deg / step_deg);
        std::vector<double> agree;
        for (int s = -n; s <= n; ++s)
            agree.push_back(agreement(some, ground, s * step_deg));
        const auto best = std::max_element(agree.begin(), agree.end());
        constexpr double least_agreement = 0.2;
        if (*best < least_agreement || best == agree.begin() || best + 1 == agree.end())
            continue;
        const double share = peak_between(*(best - 1), *best, *(best + 1)),
                     turned = (static_cast<double>(best - agree.begin()) - n + share) * step_deg;
        // Beside which lines of the turn before it came to lie.
        std::vector<double> heading, rate, moved;
        for (const auto &l : some) {
            const auto cell = ground.cell(l.at(0.6 * l.reach_m, turned));
            if (!cell || ground.line[*cell] < 0)
                continue;
            const auto &other = before.lines[static_cast<std::size_t>(ground.line[*cell])];
            heading.push_back(wrap_180(l.heading_deg - other.heading_deg));
            rate.push_back(l.turning_deg_s - other.turning_deg_s);
            moved.push_back(
                std::hypot(l.ray.at.east_m - other.ray.at.east_m, l.ray.at.north_m - other.ray.at.north_m) /
                l.reach_m);
        }
        // Under way the ground is seen from elsewhere a turn later: echoes and shadows are others, and what
        // seems to fit is chance.
        constexpr double most_moved = 0.3;
        if (heading.size() <= 3 || median(moved) > most_moved)
            continue;
        looks_.push_back({turned, median(heading), median(rate)});
        if (looks_.size() > most_looks)
            looks_.pop_front();
    }
}

TurnFindings TurnCheck::findings(double hull_deg) const {
    TurnFindings found;
    if (looks_.size() >= least_looks)
        judge_looks(found);
    found.zero_deg = zero_by_hull(hull_deg);
    return found;
}

TurnFindings TurnCheck::judge(std::span<const Look> looks) {
    TurnFindings found;
    std::vector<std::array<double, 3>> rows;
    std::vector<double> headings, rates;
    for (const auto &l : looks) {
        rows.push_back({l.turned_deg, l.heading_change_deg, l.rate_change_deg_s});
        headings.push_back(l.heading_change_deg);
        rates.push_back(l.rate_change_deg_s);
    }
    auto c = fit(rows);
    double left = 0;
    for (int round = 0; c && round < 4; ++round) {
        std::vector<double> off;
        for (const auto &r : rows)
            off.push_back(std::fabs(r[0] - (*c)[0] - (*c)[1] * r[1] - (*c)[2] * r[2]));
        left = std::max(0.4, 1.4826 * median(off));
        std::vector<std::array<double, 3>> near;
        for (std::size_t i = 0; i < rows.size(); ++i)
            if (off[i] < 2.5 * left)
                near.push_back(rows[i]);
        c = near.size() > 12 ? fit(near) : std::nullopt;
    }
    if (!c)
        return found;
    const double n = std::sqrt(static_cast<double>(looks.size()));
    constexpr double least_swing_deg = 1, least_rate = 0.6, least_late_s = 0.25;
    const double heading_spread = spread(headings), rate_spread = spread(rates);
    found.backwards = heading_spread > least_swing_deg && (*c)[1] < -1.3;
    if (!found.backwards && rate_spread > least_rate && std::fabs((*c)[2]) > least_late_s &&
        std::fabs((*c)[2]) > 3 * left / n / rate_spread)
        found.heading_late_s = (*c)[2];
    if (std::fabs((*c)[0]) > 1.5 && std::fabs((*c)[0]) > 5 * left / n)
        found.slips_deg = -(*c)[0];
    return found;
}

// A fault of the gear stays: a head that slips or turns backwards is told only if the older half and the
// newer half of the looks tell it each for itself. One hard turn, or a moment in which the compass's words
// were held up, tells it in one.
void TurnCheck::judge_looks(TurnFindings &found) const {
    const std::vector<Look> all(looks_.begin(), looks_.end());
    const auto half = static_cast<std::ptrdiff_t>(all.size() / 2);
    const auto older = judge({all.begin(), all.begin() + half}),
               newer = judge({all.begin() + half, all.end()});
    found = judge(all);
    found.backwards = found.backwards && older.backwards && newer.backwards;
    const auto &o = older.slips_deg, &n = newer.slips_deg;
    if (!(found.slips_deg && o && n && (*o > 0) == (*n > 0)))
        found.slips_deg.reset();
}

// The one sector that is dark near and far alike, of a full turn, three turns and more.
std::optional<double> TurnCheck::zero_by_hull(double hull_deg) const {
    constexpr double dark_db = -7, least_deg = 10, widest_deg = 110, told_from_deg = 25,
                     sector_deg = 360.0 / sectors;
    if (turns_ < 3 || *std::min_element(sector_n_.begin(), sector_n_.end()) < 3)
        return std::nullopt;
    std::vector<double> shown;
    for (std::size_t i = 0; i < sectors; ++i)
        shown.push_back(near_[i] / sector_n_[i]);
    const double usual = median(shown);
    const auto dark = [&](std::size_t i) {
        i %= sectors;
        return near_[i] / sector_n_[i] - usual < dark_db && far_[i] / sector_n_[i] < 0.6 * dark_db;
    };
    std::size_t start = 0;
    while (start < sectors && dark(start))
        ++start;
    std::vector<std::pair<double, double>> darks; // middle, width, degrees
    for (auto i = start; i < start + sectors; ++i) {
        if (!dark(i))
            continue;
        auto end = i;
        while (end < start + sectors && dark(end))
            ++end;
        darks.emplace_back(static_cast<double>(i + end) / 2 * sector_deg,
                           static_cast<double>(end - i) * sector_deg);
        i = end;
    }
    if (darks.size() != 1 || darks[0].second < least_deg || darks[0].second > widest_deg)
        return std::nullopt;
    const double zero = wrap_180(hull_deg - darks[0].first);
    return std::fabs(zero) > told_from_deg ? std::optional(zero) : std::nullopt;
}

std::vector<Fault> say(const TurnFindings &f) {
    std::vector<Fault> all;
    if (f.backwards)
        all.push_back({told("the head at the bow turns the other way than it says: the circle is mirrored"),
                       told("rays are shown as told"),
                       told("set its sense of turning, and cast by eye until then")});
    if (f.heading_late_s)
        all.push_back({*f.heading_late_s > 0
                           ? told("the heading comes {} s late", print_number(*f.heading_late_s, 1))
                           : told("the heading comes {} s early", print_number(-*f.heading_late_s, 1)),
                       told("rays are laid with that put right"), told("see to the compass's smoothing")});
    if (f.slips_deg)
        all.push_back({told("the head at the bow misses steps: the circle slips by {}° a turn",
                            print_number(std::fabs(*f.slips_deg), 0)),
                       told("rays are shown as told"), told("let the head find its zero again")});
    if (f.zero_deg)
        all.push_back(
            {std::fabs(*f.zero_deg) > 150
                 ? told("the hull's shadow lies ahead: the head is mounted the wrong way round")
                 : told("the hull's shadow lies {}° from the hull: the head's zero is not at the bow",
                        print_number(std::fabs(*f.zero_deg), 0)),
             told("rays are shown as told"), told("turn the head, or set its zero")});
    return all;
}

} // namespace heron
