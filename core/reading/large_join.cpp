// What hangs together of large things, and what is a part of them.
#include "reading/large.hpp"

#include "geo/position.hpp"
#include "reading/measure.hpp"
#include "sonar/median.hpp"

#include <algorithm>
#include <cmath>
#include <iterator>
#include <utility>

namespace heron {
namespace {

using Points = std::vector<EastNorth>;

// The hull of points, counter-clockwise (Andrew's monotone chain, 1979).
Points hull_of(Points all) {
    std::sort(all.begin(), all.end(), [](const EastNorth &a, const EastNorth &b) {
        return std::pair(a.east_m, a.north_m) < std::pair(b.east_m, b.north_m);
    });
    const auto left = [](const EastNorth &o, const EastNorth &a, const EastNorth &b) {
        return (a.east_m - o.east_m) * (b.north_m - o.north_m) -
                   (a.north_m - o.north_m) * (b.east_m - o.east_m) >
               0;
    };
    Points hull;
    for (const bool back : {false, true}) {
        const auto from = hull.size();
        for (const auto &p : all) {
            while (hull.size() >= from + 2 && !left(hull[hull.size() - 2], hull.back(), p))
                hull.pop_back();
            hull.push_back(p);
        }
        hull.pop_back();
        if (!back)
            std::reverse(all.begin(), all.end());
    }
    return hull;
}

struct Line {
    EastNorth middle;
    double east = 1, north = 0;   ///< its direction
    double from_m = 0, to_m = 0;  ///< along that, from the middle
    double near_m = 0, far_m = 0; ///< aside
    double along(const EastNorth &p) const {
        return (p.east_m - middle.east_m) * east + (p.north_m - middle.north_m) * north;
    }
    double aside(const EastNorth &p) const {
        return (p.north_m - middle.north_m) * east - (p.east_m - middle.east_m) * north;
    }
    double length_m() const { return to_m - from_m; }
};
Line line_through(const Points &all) {
    Line l;
    const auto n = static_cast<double>(all.size());
    for (const auto &p : all) {
        l.middle.east_m += p.east_m / n;
        l.middle.north_m += p.north_m / n;
    }
    double ee = 0, nn = 0, en = 0;
    for (const auto &p : all) {
        const double e = p.east_m - l.middle.east_m, m = p.north_m - l.middle.north_m;
        ee += e * e;
        nn += m * m;
        en += e * m;
    }
    const double turned = 0.5 * std::atan2(2 * en, ee - nn);
    l.east = std::cos(turned);
    l.north = std::sin(turned);
    l.from_m = l.near_m = 1e9;
    l.to_m = l.far_m = -1e9;
    for (const auto &p : all) {
        l.from_m = std::min(l.from_m, l.along(p));
        l.to_m = std::max(l.to_m, l.along(p));
        l.near_m = std::min(l.near_m, l.aside(p));
        l.far_m = std::max(l.far_m, l.aside(p));
    }
    return l;
}

Points on_plane(const LocalPlane &plane, const std::vector<LocatedPoint> &edge) {
    Points all;
    for (const auto &e : edge)
        all.push_back(plane.to_plane(e.place));
    return all;
}

} // namespace

void settle_large(Contact &c) {
    if (!c.large || c.large->edge.size() < 3)
        return;
    const LocalPlane plane(c.large->edge.front().place);
    const auto all = on_plane(plane, c.large->edge);
    const auto line = line_through(all);
    EastNorth middle;
    if (c.large->closed) {
        // Of the hull, by its triangles.
        const auto hull = hull_of(all);
        double area = 0;
        for (std::size_t i = 1; i + 1 < hull.size(); ++i) {
            const double a = ((hull[i].east_m - hull[0].east_m) * (hull[i + 1].north_m - hull[0].north_m) -
                              (hull[i].north_m - hull[0].north_m) * (hull[i + 1].east_m - hull[0].east_m)) /
                             2;
            area += a;
            middle.east_m += a * (hull[0].east_m + hull[i].east_m + hull[i + 1].east_m) / 3;
            middle.north_m += a * (hull[0].north_m + hull[i].north_m + hull[i + 1].north_m) / 3;
        }
        if (area > 0.01) {
            middle.east_m /= area;
            middle.north_m /= area;
        } else {
            middle = line.middle;
        }
        c.width_m = line.far_m - line.near_m;
    } else {
        const double half = (line.from_m + line.to_m) / 2;
        middle = {line.middle.east_m + half * line.east, line.middle.north_m + half * line.north};
    }
    c.length_m = line.length_m();
    if (c.place)
        c.place->place = plane.to_globe(middle);
}

void place_large(const Scan &scan, Large large, Contact &c) {
    c.depth_m = c.bottom.depth_at(c.ground_m.value) + scan.installation.draught_m();
    const auto placed = place_beside(scan, c.row, c.side, c.ground_m);
    c.place = placed.at;
    c.place_state = placed.state;
    c.large = std::move(large);
    settle_large(c);
    if (std::isnan(scan.facts(c.row).speed_m_s)) {
        c.length_m.reset();
        c.width_m.reset();
    }
}

namespace {

double between(const Points &a, const Points &b) {
    double least = 1e9;
    for (const auto &p : a)
        for (const auto &q : b)
            least = std::min(least, std::hypot(p.east_m - q.east_m, p.north_m - q.north_m));
    return least;
}

enum class Together { no, goes_on, encloses };
Together together(const Contact &a, const Contact &b) {
    constexpr double wander_m = 3, goes_on_m = 4, gate_m = 9;
    if (a.kind != b.kind || a.large->edge.empty() || b.large->edge.empty())
        return Together::no;
    const LocalPlane plane(a.large->edge.front().place);
    const auto p = on_plane(plane, a.large->edge), q = on_plane(plane, b.large->edge);
    const double apart = between(p, q);
    if (a.kind == Kind::rock_pile || a.kind == Kind::weeds)
        return apart < wander_m ? Together::goes_on : Together::no;
    const auto l = line_through(p), m = line_through(q);
    const double turned = std::asin(std::min(1.0, std::fabs(l.east * m.north - l.north * m.east)));
    const double degrees = turned * degrees_per_radian;
    constexpr double alike_deg = 25, square_deg = 65, court_m = 16;
    // The same line, or its next stretch; what bends a little goes on.
    // A gap as wide as a gate is none where both point at each other.
    const double aside = std::fabs(l.aside(m.middle));
    if ((degrees < alike_deg && apart < goes_on_m && aside < wander_m + 0.25 * m.length_m()) ||
        (degrees < alike_deg && apart < gate_m && aside < 1 + 0.25 * m.length_m()))
        return Together::goes_on;
    // Ground that falls away encloses nothing.
    if (a.kind == Kind::ledge || std::max(l.length_m(), m.length_m()) > court_m)
        return Together::no;
    if ((a.large->closed || b.large->closed) && apart < wander_m)
        return Together::encloses;
    if (degrees > square_deg && apart < wander_m)
        return Together::encloses; // a corner
    const double overlap = std::min(l.to_m, std::max(l.along({q.front()}), l.along({q.back()}))) -
                           std::max(l.from_m, std::min(l.along({q.front()}), l.along({q.back()})));
    if (degrees < alike_deg && aside < court_m && overlap > 0.6 * std::min(l.length_m(), m.length_m()))
        return Together::encloses;
    return Together::no;
}

void take_in(Contact &kept, const Contact &other, bool encloses) {
    auto &l = *kept.large;
    l.edge.insert(l.edge.end(), other.large->edge.begin(), other.large->edge.end());
    l.rays += other.large->rays;
    l.closed = l.closed || other.large->closed || encloses;
    l.stray_m = std::max(l.stray_m, other.large->stray_m);
    l.steady = std::min(l.steady, other.large->steady);
    if (kept.height_m && other.height_m) {
        if (kept.kind == Kind::rock_pile) {
            if (other.height_m->value > kept.height_m->value)
                kept.height_m = other.height_m;
        } else {
            const double u = 1 / (kept.height_m->sd * kept.height_m->sd),
                         v = 1 / (other.height_m->sd * other.height_m->sd);
            kept.height_m = Estimate{(u * kept.height_m->value + v * other.height_m->value) / (u + v),
                                     std::max(std::sqrt(1 / (u + v)),
                                              0.4 * std::fabs(kept.height_m->value - other.height_m->value))};
        }
    }
    if (!kept.height_m)
        kept.height_m = other.height_m;
    kept.height_at_least = kept.height_at_least && other.height_at_least;
    kept.first_row = std::min(kept.first_row, other.first_row);
    kept.last_row = std::max(kept.last_row, other.last_row);
    if (kept.leg != other.leg || kept.side != other.side)
        kept.looks += other.looks;
    // Walls about a court are built beyond doubt; another look leaves less.
    if (!kept.said) {
        auto &none = kept.chances[static_cast<std::size_t>(Kind::none)];
        none = std::max(0.005, none * (encloses ? 0.1 : 0.6));
        kept.chances[static_cast<std::size_t>(kept.kind)] = 1 - none;
    }
    settle_kind(kept);
    settle_large(kept);
}

} // namespace

std::vector<GeoPoint> Large::outline() const {
    std::vector<GeoPoint> told;
    if (edge.size() < 3)
        return told;
    const LocalPlane plane(edge.front().place);
    const auto all = on_plane(plane, edge);
    if (closed) {
        for (const auto &p : hull_of(all))
            told.push_back(plane.to_globe(p));
        return told;
    }
    // The median aside in every three metres along.
    const auto line = line_through(all);
    const auto n = static_cast<std::size_t>(std::clamp(std::round(line.length_m() / 3), 1.0, 60.0));
    std::vector<std::vector<double>> aside(n + 1);
    for (const auto &p : all)
        aside[static_cast<std::size_t>(std::clamp(
                  std::round((line.along(p) - line.from_m) / line.length_m() * static_cast<double>(n)), 0.0,
                  static_cast<double>(n)))]
            .push_back(line.aside(p));
    for (std::size_t i = 0; i <= n; ++i) {
        if (aside[i].empty())
            continue;
        const double at = line.from_m + line.length_m() * static_cast<double>(i) / static_cast<double>(n),
                     off = median_in_place(aside[i]);
        told.push_back(plane.to_globe({line.middle.east_m + at * line.east - off * line.north,
                                       line.middle.north_m + at * line.north + off * line.east}));
    }
    return told;
}

namespace {

// The tops of stalks under the boat are heard before the first return, many at once: what looks like a cloud
// in the water within a bed that reaches under the boat, no higher than the bed, is the bed.
bool tops_of_weeds(const Contact &part, const Contact &large) {
    constexpr double under_m = 3, usual_height_m = 1.5, over_m = 0.5;
    const double a = large.bottom.altitude_m,
                 nearest = std::sqrt(std::max(0.0, large.slant_m * large.slant_m - a * a));
    const double top = (large.height_m ? large.height_m->value : usual_height_m) + over_m;
    return part.zone == Zone::water && part.loose() && !part.said && part.leg == large.leg &&
           part.row >= large.first_row && part.row <= large.last_row && nearest < under_m &&
           a - part.slant_m < top;
}

} // namespace

bool part_of_large(const Contact &part, const Contact &large) {
    if (large.large && large.kind == Kind::weeds && !part.large && tops_of_weeds(part, large))
        return true;
    if (part.large || !part.place || !large.large || part.family == Family::fish ||
        part.zone == Zone::track || part.zone == Zone::water || part.said)
        return false;
    const LocalPlane plane(part.place->place);
    const auto all = on_plane(plane, large.large->edge);
    constexpr double beside_m = 1.6, surely = 0.9;
    if (large.kind == Kind::weeds && part.kind != Kind::weeds && part.kind != Kind::brush &&
        part.kind != Kind::bed && part.confidence >= surely)
        return false;
    if (between({EastNorth{}}, all) < beside_m)
        return true;
    if (!large.large->closed)
        return false;
    const auto hull = hull_of(all);
    bool inside = hull.size() > 2;
    for (std::size_t i = 0; i < hull.size() && inside; ++i) {
        const auto &a = hull[i], &b = hull[(i + 1) % hull.size()];
        inside = (b.east_m - a.east_m) * -a.north_m - (b.north_m - a.north_m) * -a.east_m >= -1;
    }
    return inside;
}

void join_large(std::vector<Contact> &contacts) {
    for (std::size_t i = 0; i < contacts.size(); ++i) {
        if (!contacts[i].large)
            continue;
        for (auto j = i + 1; j < contacts.size();) {
            const auto how = contacts[j].large ? together(contacts[i], contacts[j]) : Together::no;
            if (how == Together::no) {
                ++j;
                continue;
            }
            take_in(contacts[i], contacts[j], how == Together::encloses);
            contacts.erase(contacts.begin() + static_cast<std::ptrdiff_t>(j));
            j = i + 1; // what has grown may reach another
        }
    }
    std::vector<Contact> larges;
    std::copy_if(contacts.begin(), contacts.end(), std::back_inserter(larges),
                 [](const Contact &c) { return c.large.has_value(); });
    std::erase_if(contacts, [&](const Contact &c) {
        return std::any_of(larges.begin(), larges.end(),
                           [&](const Contact &l) { return part_of_large(c, l); });
    });
}

} // namespace heron
