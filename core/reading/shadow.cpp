#include "reading/shadow.hpp"

#include "geo/position.hpp"

#include <cmath>

namespace heron {
namespace {

double tangent(double degrees) {
    return std::tan(degrees / degrees_per_radian);
}

// Root of the sum of squares of an outcome's changes when each input moves by its own sigma.
template <class Outcome>
double spread(Outcome outcome, const BottomPlane &b) {
    const auto here = outcome(b);
    const auto change = [&](BottomPlane moved) {
        const auto there = outcome(moved);
        return here && there ? *there - *here : 0.0;
    };
    BottomPlane a = b, s = b;
    a.altitude_m += b.altitude_sd_m;
    s.slope_deg += b.slope_sd_deg;
    double slope_change = change(s);
    if (slope_change == 0) { // the far side may have no root there
        s.slope_deg = b.slope_deg - b.slope_sd_deg;
        slope_change = change(s);
    }
    return std::hypot(change(a), slope_change);
}

} // namespace

double BottomPlane::depth_at(double ground_m) const {
    return altitude_m - ground_m * tangent(slope_deg) + depth_on(off, ground_m);
}

namespace {

// As points, out to `reach`: knots of the plane's company and one far behind them.
BottomProfile points_of(const BottomPlane &b, double reach) {
    BottomProfile points;
    for (const auto &[g, off] : b.off)
        points.emplace_back(g, b.depth_at(g));
    const double far = std::max(reach, b.off.back().first) * 1.5;
    points.emplace_back(far, b.depth_at(far));
    return points;
}

} // namespace

double first_return_m(const BottomPlane &bottom) {
    return bottom.altitude_m * std::cos(bottom.slope_deg / degrees_per_radian);
}

std::optional<double> ground_range_m(double r, const BottomPlane &b) {
    if (!b.off.empty()) {
        if (!(r > 0) || b.altitude_m <= 0)
            return std::nullopt;
        const auto far = ground_range_on(r, points_of(b, r));
        return far && b.depth_at(*far) >= 0 ? far : std::nullopt;
    }
    const double t = tangent(b.slope_deg), a = b.altitude_m;
    const double inside = (1 + t * t) * r * r - a * a;
    if (inside < 0 || a <= 0 || !(r > 0))
        return std::nullopt;
    const double g = (a * t + std::sqrt(inside)) / (1 + t * t);
    if (g < 0 || b.depth_at(g) < 0)
        return std::nullopt; // the slope has come out of the water before that
    return g;
}

std::optional<Estimate> ground_range(double r, double slant_sd, const BottomPlane &b) {
    const auto g = ground_range_m(r, b);
    if (!g)
        return std::nullopt;
    const auto farther = ground_range_m(r + slant_sd, b);
    const double by_range = farther ? *farther - *g : slant_sd;
    return Estimate{
        *g, std::hypot(by_range, spread([r](const BottomPlane &p) { return ground_range_m(r, p); }, b))};
}

std::optional<ShadowReading> read_shadow(double top, double end, double slant_sd, const BottomPlane &b,
                                         bool cut) {
    if (!(top > 0) || !(end > top))
        return std::nullopt;
    const auto far = ground_range_m(end, b);
    if (!far)
        return std::nullopt;
    ShadowReading s;
    s.at_least = cut;
    s.shadow_ground_m = *far;
    const double a = b.altitude_m;
    s.height_m.value = a * (end - top) / end;
    s.height_m.sd = std::hypot(b.altitude_sd_m * (end - top) / end,
                               std::hypot(slant_sd * a * top / (end * end), slant_sd * a / end));
    s.ground_m.value = *far * top / end;
    if (!b.off.empty()) {
        const auto bent = read_shadow_on(top, end, points_of(b, end));
        if (!bent)
            return std::nullopt;
        s.height_m.sd = std::hypot(s.height_m.sd, 0.3 * (bent->first - s.height_m.value));
        s.height_m.value = bent->first;
        s.ground_m.value = bent->second;
    }
    const auto ground_of = [](double t, double e, const BottomPlane &p) -> std::optional<double> {
        const auto g = ground_range_m(e, p);
        if (!g)
            return std::nullopt;
        return *g * t / e;
    };
    const auto moved_end = ground_of(top, end + slant_sd, b);
    s.ground_m.sd = std::hypot(*far / end * slant_sd, moved_end ? *moved_end - s.ground_m.value : slant_sd);
    s.ground_m.sd =
        std::hypot(s.ground_m.sd, spread([&](const BottomPlane &p) { return ground_of(top, end, p); }, b));
    return s;
}

double depth_on(const BottomProfile &profile, double g) {
    if (profile.empty())
        return 0;
    if (g <= profile.front().first)
        return profile.front().second;
    for (std::size_t i = 1; i < profile.size(); ++i) {
        const auto &[g0, d0] = profile[i - 1];
        const auto &[g1, d1] = profile[i];
        if (g <= g1)
            return d0 + (d1 - d0) * (g - g0) / (g1 - g0);
    }
    return profile.back().second;
}

std::optional<double> ground_range_on(double r, const BottomProfile &profile) {
    for (std::size_t i = profile.size(); i-- > 1;) {
        const auto &[g0, d0] = profile[i - 1];
        const auto &[g1, d1] = profile[i];
        const double r0 = std::hypot(g0, d0), r1 = std::hypot(g1, d1);
        if ((r0 <= r) == (r1 <= r) && r != r1)
            continue;
        // On this straight piece: (g0 + s·dg)² + (d0 + s·dd)² = r².
        const double dg = g1 - g0, dd = d1 - d0;
        const double qa = dg * dg + dd * dd, qb = g0 * dg + d0 * dd, qc = r0 * r0 - r * r;
        const double root = qb * qb - qa * qc;
        if (qa <= 0 || root < 0)
            continue;
        const double s = (-qb + std::sqrt(root)) / qa;
        if (s >= -1e-9 && s <= 1 + 1e-9)
            return g0 + s * dg;
    }
    return std::nullopt;
}

std::optional<std::pair<double, double>> read_shadow_on(double top, double end,
                                                        const BottomProfile &profile) {
    const auto far = ground_range_on(end, profile);
    if (!far || !(end > top) || !(top > 0))
        return std::nullopt;
    const double phi = std::atan2(depth_on(profile, *far), *far);
    const double g = top * std::cos(phi);
    return std::pair{depth_on(profile, g) - top * std::sin(phi), g};
}

double ground_by_shortcut_m(double slant, double altitude) {
    return slant > altitude ? std::sqrt(slant * slant - altitude * altitude) : 0;
}

} // namespace heron
