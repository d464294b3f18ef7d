#include "bottom/clock_check.hpp"

#include "sonar/median.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <opencv2/imgproc.hpp>

namespace heron {
namespace {

constexpr double pass_cell_m = 0.25, turned_deg = 12, gap_s = 5, least_run_m = 15, least_m_s = 0.5;
// What is held of them: each pass has a map of its own.
constexpr std::size_t most_passes = 20, most_pairs = 12;
constexpr double most_run_m = 120, near_m = 60;

// Levels on axes along and across a heading, less the mean about them; 0 where nothing was seen.
struct PassStrip {
    cv::Mat over, known;
};

PassStrip strip_of(const GroundMap &map, double heading_deg, const EastNorth &middle, double half_along,
                   double half_across) {
    const int along = static_cast<int>(2 * half_along / pass_cell_m),
              across = static_cast<int>(2 * half_across / pass_cell_m);
    cv::Mat level(along, across, CV_32F, cv::Scalar(0)), known(along, across, CV_32F, cv::Scalar(0));
    const double turn = heading_deg / degrees_per_radian, s = std::sin(turn), c = std::cos(turn);
    for (int y = 0; y < along; ++y)
        for (int x = 0; x < across; ++x) {
            const double u = y * pass_cell_m - half_along, v = x * pass_cell_m - half_across;
            const auto *cell =
                map.cell(static_cast<int>(std::floor((middle.east_m + u * s + v * c) / pass_cell_m)),
                         static_cast<int>(std::floor((middle.north_m + u * c - v * s) / pass_cell_m)));
            if (cell == nullptr || cell->weight() <= 0)
                continue;
            level.at<float>(y, x) = cell->mean_db();
            known.at<float>(y, x) = 1;
        }
    // Speckle is smaller than what is known again, and slow changes of level are none of it.
    constexpr int fine = 3, wide = 25;
    cv::Mat a, an, b, bn;
    cv::boxFilter(level, a, CV_32F, {fine, fine}, {-1, -1}, true, cv::BORDER_CONSTANT);
    cv::boxFilter(known, an, CV_32F, {fine, fine}, {-1, -1}, true, cv::BORDER_CONSTANT);
    cv::boxFilter(level, b, CV_32F, {wide, wide}, {-1, -1}, true, cv::BORDER_CONSTANT);
    cv::boxFilter(known, bn, CV_32F, {wide, wide}, {-1, -1}, true, cv::BORDER_CONSTANT);
    cv::Mat over = a / (an + 1e-6F) - b / (bn + 1e-6F);
    return {over.mul(known), known};
}

} // namespace

bool ClockCheck::belongs(const Scan &scan, std::size_t row, double heading_deg, const OnUtm &at) const {
    if (passes_.empty() || std::fabs(seconds_between(last_, scan.facts(row).time)) > gap_s)
        return false;
    const auto &p = passes_.back();
    return p.run_m < most_run_m && std::fabs(wrap_180(heading_deg - p.heading_deg)) <= turned_deg &&
           std::hypot(at.east_m - p.last.east_m, at.north_m - p.last.north_m) < 5;
}

void ClockCheck::add(const Scan &scan, std::size_t row, const GroundCurve &curve) {
    const auto &f = scan.facts(row);
    if (f.place_unknown || !f.bottom.found || scan.ping(row).beam(Side::around) != nullptr)
        return;
    const auto fix = scan.nav.fix_at(f.time);
    if (!fix || fix->pose.speed_m_s < least_m_s)
        return;
    if (!zone_) {
        const auto zone = utm_zone_of(fix->pose.antenna);
        if (!zone)
            return;
        zone_ = *zone;
    }
    const auto at = to_utm(*zone_, transducer_place(fix->pose, scan.installation));
    const double heading = fix->pose.heading_deg - at.convergence_deg;
    if (!belongs(scan, row, heading, at)) {
        if (!passes_.empty() && passes_.back().run_m < least_run_m)
            passes_.pop_back();
        if (passes_.size() >= most_passes)
            return;
        passes_.push_back({GroundMap(*zone_, pass_cell_m), heading, 0, 0, {at.east_m, at.north_m}, 0});
    }
    auto &p = passes_.back();
    p.run_m += std::hypot(at.east_m - p.last.east_m, at.north_m - p.last.north_m);
    p.last = {at.east_m, at.north_m};
    p.speed_m_s += fix->pose.speed_m_s;
    ++p.rows;
    p.map.add(scan, row, curve);
    last_ = f.time;
}

// By how much farther along the first's way the other saw the same ground.
std::optional<double> ClockCheck::apart(const Pass &one, const Pass &other) {
    constexpr double most_m = 6, aside_m = 1.5, least_like = 0.08, least_sigmas = 5;
    constexpr float least_cells = 1500;
    // Where both ran.
    double east = 0, north = 0, n = 0;
    for (const auto *pass : {&one, &other})
        for (const auto &s : pass->map.soundings()) {
            east += s.east_m;
            north += s.north_m;
            n += 1;
        }
    if (n < 2)
        return std::nullopt;
    const EastNorth middle{east / n, north / n};
    const double half_along = std::min(60.0, (one.run_m + other.run_m) / 4 + 10), half_across = 40;
    const auto a = strip_of(one.map, one.heading_deg, middle, half_along, half_across),
               b = strip_of(other.map, one.heading_deg, middle, half_along, half_across);
    const int reach = static_cast<int>(most_m / pass_cell_m), aside = static_cast<int>(aside_m / pass_cell_m);
    std::vector<double> likes;
    double most = -1;
    int best = 0;
    for (int dy = -reach; dy <= reach; ++dy) {
        double like = -1;
        for (int dx = -aside; dx <= aside; dx += 2) {
            const cv::Rect here(std::max(0, -dx), std::max(0, -dy), a.over.cols - std::abs(dx),
                                a.over.rows - std::abs(dy)),
                there(std::max(0, dx), std::max(0, dy), here.width, here.height);
            const cv::Mat both = a.known(here).mul(b.known(there));
            const auto cells = static_cast<float>(cv::sum(both)[0]);
            if (cells < least_cells)
                continue;
            const cv::Mat x = a.over(here).mul(both), y = b.over(there).mul(both);
            like = std::max(like, x.dot(y) / std::sqrt(std::max(1e-9, x.dot(x) * y.dot(y))));
        }
        likes.push_back(like);
        if (like > most) {
            most = like;
            best = dy;
        }
    }
    // It must stand out of what chance gives away from it.
    std::vector<double> away;
    for (int dy = -reach; dy <= reach; ++dy)
        if (std::abs(dy - best) > 4 && likes[static_cast<std::size_t>(dy + reach)] > -1)
            away.push_back(likes[static_cast<std::size_t>(dy + reach)]);
    if (away.size() < 8 || std::abs(best) == reach)
        return std::nullopt;
    const double mean = std::accumulate(away.begin(), away.end(), 0.0) / static_cast<double>(away.size());
    double squares = 0;
    for (const double v : away)
        squares += (v - mean) * (v - mean);
    const double sd = std::sqrt(squares / static_cast<double>(away.size()));
    if (most < least_like || most < mean + least_sigmas * std::max(sd, 0.005))
        return std::nullopt;
    // Between cells: a parabola through the three about the best.
    const double l = likes[static_cast<std::size_t>(best + reach - 1)],
                 r = likes[static_cast<std::size_t>(best + reach + 1)], bend = l - 2 * most + r,
                 between = bend < 0 ? std::clamp((l - r) / (2 * bend), -0.5, 0.5) : 0;
    return (best + between) * pass_cell_m;
}

std::optional<ClockCheck::Found> ClockCheck::found() const {
    constexpr double opposite_deg = 25;
    std::vector<double> late, ways;
    std::vector<EastNorth> middles;
    for (const auto &p : passes_) {
        EastNorth m;
        const auto n = static_cast<double>(std::max<std::size_t>(1, p.map.soundings().size()));
        for (const auto &s : p.map.soundings()) {
            m.east_m += s.east_m / n;
            m.north_m += s.north_m / n;
        }
        middles.push_back(m);
    }
    for (std::size_t i = 0; i < passes_.size(); ++i)
        for (std::size_t k = i + 1; k < passes_.size() && late.size() < most_pairs; ++k) {
            if (std::hypot(middles[i].east_m - middles[k].east_m, middles[i].north_m - middles[k].north_m) >
                near_m)
                continue;
            const auto &a = passes_[i], &b = passes_[k];
            if (a.run_m < least_run_m || b.run_m < least_run_m ||
                std::fabs(wrap_180(a.heading_deg - b.heading_deg - 180)) > opposite_deg)
                continue;
            if (const auto off = apart(a, b)) {
                late.push_back(*off / (a.speed_m_s / a.rows + b.speed_m_s / b.rows));
                ways.push_back(std::fabs(*off));
            }
        }
    if (late.empty())
        return std::nullopt;
    Found f;
    f.positions_late_s = median(late);
    f.apart_m = median(ways);
    f.pairs = static_cast<int>(late.size());
    std::vector<double> off;
    for (const double l : late)
        off.push_back(std::fabs(l - f.positions_late_s));
    // Of the median; one pair alone is known to a wandering receiver's half metre.
    constexpr double one_pair_s = 0.25;
    f.sd_s = std::max(1.25 * 1.4826 * median(off), one_pair_s) / std::sqrt(static_cast<double>(late.size()));
    return f;
}

} // namespace heron
