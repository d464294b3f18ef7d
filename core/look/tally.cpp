#include "look/tally.hpp"

#include "fault/told.hpp"
#include "reading/slope.hpp"

#include <algorithm>
#include <boost/math/special_functions/beta.hpp>
#include <cmath>

namespace heron {
namespace {

constexpr int least_fish = 4;
constexpr double patch_db = 0.2; // tens of dB, as the feature has it
constexpr double least_slope_told_deg = 0.6;

std::pair<double, double> middle_six_tenths(std::vector<double> v) {
    std::sort(v.begin(), v.end());
    return {v[v.size() / 5], v[v.size() - 1 - v.size() / 5]};
}

// The heading of the contour about a place, from the slope that the track's own depths tell there.
std::optional<double> contour(const Scan &scan, const GeoPoint &middle, std::size_t from, std::size_t to) {
    TrackDepths depths;
    depths.add(scan, from, to);
    const auto north = depths.slope_towards(middle, 0), east = depths.slope_towards(middle, 90);
    const double steep = std::hypot(north.rises_deg, east.rises_deg);
    // A straight track tells nothing across itself.
    if (steep < least_slope_told_deg || steep < std::max(north.sd_deg, east.sd_deg))
        return std::nullopt;
    return wrap_360(std::atan2(east.rises_deg, north.rises_deg) * degrees_per_radian + 90);
}

} // namespace

double binomial_tail(int k, int n, double p) {
    if (k <= 0)
        return 1;
    if (k > n)
        return 0;
    return boost::math::ibeta(static_cast<double>(k), static_cast<double>(n - k + 1),
                              std::clamp(p, 0.0, 1.0));
}

FishTally tally_fish(const Scan &scan, const std::vector<Contact> &contacts, std::size_t from, std::size_t to,
                     UnitSystem units) {
    FishTally t;
    std::vector<double> aside, depth;
    std::vector<const Contact *> fish;
    for (const auto &c : contacts)
        if (c.family == Family::fish && c.row >= from && c.row < to) {
            fish.push_back(&c);
            (c.side == Side::port ? t.left : t.right) += 1;
            aside.push_back(c.ground_m.value);
            depth.push_back(c.depth_m);
            const double patch = c.features[feature_named("patch")];
            t.on_firmer += patch > patch_db;
            t.on_softer += patch < -patch_db;
        }
    t.seen = t.left + t.right;
    if (t.seen == 0) {
        t.counts = told("no fish found");
        return t;
    }
    std::tie(t.aside_low_m, t.aside_high_m) = middle_six_tenths(aside);
    std::tie(t.depth_low_m, t.depth_high_m) = middle_six_tenths(depth);
    const auto m = [units](double v) { return print_length(v, units, 0); };
    const auto band = [&](double low, double high) {
        return told("{} to {}", m(low).figure, m(high).text());
    };
    t.counts = t.seen == 1 ? told("one fish or group found: {} left, {} right", t.left, t.right)
                           : told("{} fish or groups found: {} left, {} right", t.seen, t.left, t.right);
    if (t.seen < least_fish)
        return t;
    t.chance_of_side = std::min(1.0, 2 * binomial_tail(std::max(t.left, t.right), t.seen, 0.5));
    // A band as wide as is told: at least a metre, whatever the fish.
    const double half = std::max(0.0, 0.5 - (t.depth_high_m - t.depth_low_m) / 2);
    t.depth_low_m -= half;
    t.depth_high_m += half;
    for (const double d : depth)
        t.in_band += d >= t.depth_low_m - 0.01 && d <= t.depth_high_m + 0.01;
    double in = 0, all = 0, last = -1e9;
    for (auto row = from; row < to; ++row) {
        const auto &f = scan.facts(row);
        if (!f.bottom.found || (f.along_m - last < 1 && f.along_m != last))
            continue;
        last = f.along_m;
        const double d = f.bottom.altitude_m + scan.installation.draught_m();
        in += d >= t.depth_low_m && d <= t.depth_high_m;
        all += 1;
    }
    t.water_in_band = all > 0 ? in / all : 1;
    t.chance_of_band = binomial_tail(t.in_band, t.seen, std::max(0.02, t.water_in_band));
    const int told_ground = t.on_firmer + t.on_softer;
    t.chance_of_firmness =
        told_ground > 0
            ? std::min(1.0, 2 * binomial_tail(std::max(t.on_firmer, t.on_softer), told_ground, 0.5))
            : 1;
    if (t.leans_left())
        t.leans = told("{} of {} on the left: they keep to that side", t.left, t.seen);
    else if (t.leans_right())
        t.leans = told("{} of {} on the right: they keep to that side", t.right, t.seen);
    if (t.keeps_to_band())
        t.leans += (t.leans.empty() ? "" : "; ") +
                   told("{} of {} over {}, though only {} in 100 of the run was that deep", t.in_band, t.seen,
                        band(t.depth_low_m, t.depth_high_m), std::lround(100 * t.water_in_band));
    if (t.chance_of_firmness < 0.05)
        t.leans += (t.leans.empty() ? "" : "; ") +
                   (t.on_firmer > t.on_softer
                        ? told("{} of {} over firmer ground than around", t.on_firmer, t.seen)
                        : told("{} of {} over softer ground than around", t.on_softer, t.seen));
    if (t.leans.empty())
        t.leans = told("too few to show a leaning");
    // A line to run: through the middle of those in the band.
    std::vector<double> east, north;
    std::optional<LocalPlane> plane;
    for (const auto *c : fish)
        if (c->place && c->depth_m >= t.depth_low_m && c->depth_m <= t.depth_high_m) {
            if (!plane)
                plane.emplace(c->place->place);
            const auto p = plane->to_plane(c->place->place);
            east.push_back(p.east_m);
            north.push_back(p.north_m);
        }
    if (plane) {
        std::nth_element(east.begin(), east.begin() + std::ssize(east) / 2, east.end());
        std::nth_element(north.begin(), north.begin() + std::ssize(north) / 2, north.end());
        t.middle = plane->to_globe({east[east.size() / 2], north[north.size() / 2]});
        t.heading_deg = contour(scan, *t.middle, from, to);
    }
    if ((t.keeps_to_band() || t.leans_left() || t.leans_right()) && t.heading_deg) {
        const double one = *t.heading_deg < 180 ? *t.heading_deg : *t.heading_deg - 180;
        t.offer = told("To run along it: keep over {}, heading {} or {}", band(t.depth_low_m, t.depth_high_m),
                       print_bearing(one), print_bearing(one + 180));
    } else if (t.keeps_to_band()) {
        t.offer = told("To run along it: keep over {}", band(t.depth_low_m, t.depth_high_m));
    }
    return t;
}

} // namespace heron
