#include "reading/slope.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr double square_m = 20, reach_m = 30;
constexpr double degrees = 57.29577951308232;

// Which square a distance lies in; the farthest there is for what is no distance on this globe.
int square_of(double m) {
    constexpr double farthest = 1e7; // twice the way round the globe
    return std::isfinite(m) ? static_cast<int>(std::clamp(std::floor(m / square_m), -farthest, farthest)) : 0;
}

} // namespace

void TrackDepths::add(const Scan &scan, std::size_t first, std::size_t end) {
    for (auto row = first; row < end; ++row) {
        const auto &f = scan.facts(row);
        if (!f.bottom.found || f.place_unknown || std::fabs(f.along_m - last_along_) < 1)
            continue;
        const auto fix = scan.nav.fix_at(f.time);
        if (!fix)
            continue;
        last_along_ = f.along_m;
        const auto under = transducer_place(fix->pose, scan.installation);
        if (!plane_)
            plane_.emplace(under);
        const auto at = plane_->to_plane(under);
        squares_[{square_of(at.east_m), square_of(at.north_m)}].push_back(
            {at.east_m, at.north_m, f.bottom.altitude_m, f.along_m});
        ++count_;
    }
}

TrackDepths::Slope TrackDepths::slope_towards(const GeoPoint &place, double bearing_deg,
                                              double prior_deg) const {
    if (!plane_)
        return {0, prior_deg};
    const auto at = plane_->to_plane(place);
    // Weighted normal equations of depth = a + b·e + c·n, with a prior that b and c are nought.
    constexpr double doubt_m = 0.12; // of one depth against a plane
    const double prior = std::pow(doubt_m / std::tan(prior_deg / degrees), 2);
    double s[3][3] = {{0, 0, 0}, {0, prior, 0}, {0, 0, prior}}, v[3] = {0, 0, 0};
    const int ce = square_of(at.east_m), cn = square_of(at.north_m);
    double used = 0;
    for (int i = ce - 2; i <= ce + 2; ++i)
        for (int j = cn - 2; j <= cn + 2; ++j) {
            const auto square = squares_.find({i, j});
            if (square == squares_.end())
                continue;
            for (const auto &p : square->second) {
                const double e = p.east - at.east_m, n = p.north - at.north_m, d = std::hypot(e, n);
                if (d > reach_m)
                    continue;
                // Depths a metre apart are not independent of each other.
                const double w = 0.25 * std::exp(-0.5 * std::pow(d / (reach_m / 2), 2));
                const double x[3] = {1, e, n};
                for (int a = 0; a < 3; ++a) {
                    for (int b = 0; b < 3; ++b)
                        s[a][b] += w * x[a] * x[b];
                    v[a] += w * x[a] * p.depth;
                }
                used += w;
            }
        }
    if (used < 0.5)
        return {0, prior_deg};
    // The constant taken out, two by two are left.
    const double m00 = s[1][1] - s[1][0] * s[0][1] / s[0][0], m01 = s[1][2] - s[1][0] * s[0][2] / s[0][0],
                 m11 = s[2][2] - s[2][0] * s[0][2] / s[0][0];
    const double r0 = v[1] - s[1][0] * v[0] / s[0][0], r1 = v[2] - s[2][0] * v[0] / s[0][0];
    const double det = std::max(1e-9, m00 * m11 - m01 * m01);
    const double b = (r0 * m11 - r1 * m01) / det, c = (r1 * m00 - r0 * m01) / det;
    const double te = std::sin(bearing_deg / degrees), tn = std::cos(bearing_deg / degrees);
    const double gradient = b * te + c * tn; // of depth towards the bearing
    const double variance = doubt_m * doubt_m * (te * te * m11 - 2 * te * tn * m01 + tn * tn * m00) / det;
    return {-std::atan(gradient) * degrees, std::max(0.5, std::sqrt(variance) * degrees)};
}

std::optional<TrackDepths::Depth> TrackDepths::depth_at(const GeoPoint &place,
                                                        std::optional<double> but_along_m) const {
    if (!plane_)
        return std::nullopt;
    const auto at = plane_->to_plane(place);
    constexpr double near_m = 2.5, farthest_m = 6, own_m = 25;
    const int ce = square_of(at.east_m), cn = square_of(at.north_m);
    double weight = 0, sum = 0;
    for (int i = ce - 1; i <= ce + 1; ++i)
        for (int j = cn - 1; j <= cn + 1; ++j) {
            const auto square = squares_.find({i, j});
            if (square == squares_.end())
                continue;
            for (const auto &p : square->second) {
                const double d = std::hypot(p.east - at.east_m, p.north - at.north_m);
                if (d > farthest_m || (but_along_m && std::fabs(p.along - *but_along_m) < own_m))
                    continue;
                // Some six depths lie on a track within reach.
                const double w = std::exp(-0.5 * d * d / (near_m * near_m)) / 6;
                weight += w;
                sum += w * p.depth;
            }
        }
    if (weight < 0.02)
        return std::nullopt;
    return Depth{sum / weight, std::min(1.0, weight)};
}

std::optional<TrackDepths::Slope> slope_of_sides(const Scan &scan, const std::vector<double> &run_m,
                                                 std::size_t row) {
    constexpr double reach_m = 10, steepest_deg = 8, per_share = 45, least_same_sign = 0.7;
    constexpr std::size_t fewest = 20;
    if (row >= run_m.size())
        return std::nullopt;
    auto first = row, end = row + 1;
    while (first > scan.first() && run_m[row] - run_m[first - 1] < reach_m)
        --first;
    while (end < std::min(run_m.size(), scan.end()) && run_m[end] - run_m[row] < reach_m)
        ++end;
    // A boat that hardly moves tells the same over and over: some hundreds are enough.
    const auto step = std::max<std::size_t>(1, (end - first) / 400);
    std::vector<double> off;
    for (auto r = first; r < end; r += step) {
        const auto &b = scan.bottom(r);
        if (b.found && b.port_m > 0 && b.starboard_m > 0 && b.altitude_m > 0.5)
            off.push_back((b.port_m - b.starboard_m) / b.altitude_m);
    }
    if (off.size() < fewest)
        return std::nullopt;
    const auto middle = off.begin() + static_cast<std::ptrdiff_t>(off.size() / 2);
    std::nth_element(off.begin(), middle, off.end());
    const double usual = *middle;
    const auto same = static_cast<double>(
        std::count_if(off.begin(), off.end(), [&](double v) { return (v > 0) == (usual > 0); }));
    const double rises = steepest_deg * std::tanh(per_share * usual);
    if (same < least_same_sign * static_cast<double>(off.size()))
        return TrackDepths::Slope{0, 1.2 + 0.7 * std::fabs(rises)};
    return TrackDepths::Slope{rises, 1.2 + 0.35 * std::fabs(rises)};
}

TrackDepths::Slope both_slopes(const TrackDepths::Slope &a, const TrackDepths::Slope &b, double prior_deg) {
    const double wa = 1 / (a.sd_deg * a.sd_deg), wb = 1 / (b.sd_deg * b.sd_deg);
    const double w = std::max({wa, wb, wa + wb - 1 / (prior_deg * prior_deg)});
    return {(wa * a.rises_deg + wb * b.rises_deg) / w, 1 / std::sqrt(w)};
}

} // namespace heron
