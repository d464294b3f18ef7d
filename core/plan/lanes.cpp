#include "plan/lanes.hpp"

#include "units/units.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace heron {
namespace {

constexpr double every_m = 2, most_lanes = 2000;

double along(const Lane &lane, const EastNorth &p) {
    const double b = lane.bearing_deg() / degrees_per_radian;
    return (p.east_m - lane.from.east_m) * std::sin(b) + (p.north_m - lane.from.north_m) * std::cos(b);
}

double aside(const Lane &lane, const EastNorth &p) {
    const double b = lane.bearing_deg() / degrees_per_radian;
    return (p.east_m - lane.from.east_m) * std::cos(b) - (p.north_m - lane.from.north_m) * std::sin(b);
}

// Lanes and the ways between them: half circles where it turns about.
void count_run(LanePlan &plan) {
    constexpr double on_the_spot_m = 0.5; // the corner of a zigzag
    plan.run_m = 0;
    plan.turns = 0;
    for (std::size_t i = 0; i < plan.lanes.size(); ++i) {
        plan.run_m += plan.lanes[i].length_m();
        if (i == 0)
            continue;
        const auto &a = plan.lanes[i - 1].to, &c = plan.lanes[i].from;
        const double gap = std::hypot(a.east_m - c.east_m, a.north_m - c.north_m);
        const bool turns =
            std::fabs(wrap_180(plan.lanes[i].bearing_deg() - plan.lanes[i - 1].bearing_deg())) > 90;
        plan.turns += turns;
        plan.run_m +=
            turns && gap > on_the_spot_m ? std::max(gap, std::numbers::pi / 2 * plan.spacing_m) : gap;
    }
}

} // namespace

double Lane::length_m() const {
    return std::hypot(to.east_m - from.east_m, to.north_m - from.north_m);
}

double Lane::bearing_deg() const {
    return wrap_360(std::atan2(to.east_m - from.east_m, to.north_m - from.north_m) * degrees_per_radian);
}

double LanePlan::minutes(double speed) const {
    return speed > 0 ? run_m / speed / 60 : 0;
}

LanePlan plan_lanes(std::vector<EastNorth> area, double spacing, std::optional<double> bearing) {
    LanePlan plan;
    plan.area = std::move(area);
    plan.spacing_m = spacing;
    const auto n = plan.area.size();
    if (n < 3 || !(spacing > 0.5))
        return plan;
    double longest = -1, twice = 0;
    for (std::size_t i = 0; i < n; ++i) {
        const auto &a = plan.area[i], &b = plan.area[(i + 1) % n];
        twice += a.east_m * b.north_m - b.east_m * a.north_m;
        const Lane edge{a, b};
        if (!bearing && edge.length_m() > longest) {
            longest = edge.length_m();
            plan.bearing_deg = edge.bearing_deg();
        }
    }
    plan.area_m2 = std::fabs(twice) / 2;
    if (bearing)
        plan.bearing_deg = wrap_360(*bearing);
    // Across the lanes is x, along them y.
    const double b = plan.bearing_deg / degrees_per_radian;
    const auto turned = [b](const EastNorth &p) {
        return EastNorth{p.east_m * std::cos(b) - p.north_m * std::sin(b),
                         p.east_m * std::sin(b) + p.north_m * std::cos(b)};
    };
    const auto back = [b](double x, double y) {
        return EastNorth{x * std::cos(b) + y * std::sin(b), -x * std::sin(b) + y * std::cos(b)};
    };
    std::vector<EastNorth> corners;
    double west = 1e18, east = -1e18;
    for (const auto &p : plan.area) {
        corners.push_back(turned(p));
        west = std::min(west, corners.back().east_m);
        east = std::max(east, corners.back().east_m);
    }
    const double count = std::max(1.0, std::round((east - west) / spacing));
    if (count > most_lanes)
        return plan;
    const double first = west + ((east - west) - (count - 1) * spacing) / 2;
    for (int i = 0; i < static_cast<int>(count); ++i) {
        const double x = first + i * spacing;
        std::vector<double> crossings;
        for (std::size_t c = 0; c < n; ++c) {
            const auto &p = corners[c], &q = corners[(c + 1) % n];
            if ((p.east_m <= x) == (q.east_m <= x))
                continue;
            crossings.push_back(p.north_m + (x - p.east_m) / (q.east_m - p.east_m) * (q.north_m - p.north_m));
        }
        std::sort(crossings.begin(), crossings.end());
        std::vector<Lane> parts;
        for (std::size_t c = 0; c + 1 < crossings.size(); c += 2)
            if (crossings[c + 1] - crossings[c] > 0.2 * spacing)
                parts.push_back({back(x, crossings[c]), back(x, crossings[c + 1])});
        // Back and forth.
        if (i % 2 == 1) {
            std::reverse(parts.begin(), parts.end());
            for (auto &lane : parts)
                std::swap(lane.from, lane.to);
        }
        plan.lanes.insert(plan.lanes.end(), parts.begin(), parts.end());
    }
    count_run(plan);
    return plan;
}

LanePlan plan_zigzag(std::vector<EastNorth> area, double spacing, std::optional<double> bearing) {
    // Between the lanes: the end of one to the end of the next on the same side.
    auto plan = plan_lanes(std::move(area), spacing / 2, bearing);
    plan.spacing_m = spacing;
    if (plan.lanes.size() < 2)
        return plan;
    std::vector<Lane> legs;
    for (std::size_t i = 0; i + 1 < plan.lanes.size(); ++i)
        legs.push_back({i == 0 ? plan.lanes[0].from : legs.back().to, plan.lanes[i + 1].from});
    plan.lanes = std::move(legs);
    count_run(plan);
    return plan;
}

LanePlan plan_along(const std::vector<EastNorth> &line, double right, double piece) {
    LanePlan plan;
    plan.spacing_m = std::max(4.0, 2 * std::fabs(right));
    if (line.size() < 2 || !(piece > 1))
        return plan;
    // Every metre, then the mean of what lies within a piece: no boat follows a seam's every tooth.
    std::vector<EastNorth> fine;
    for (std::size_t i = 0; i + 1 < line.size(); ++i) {
        const Lane edge{line[i], line[i + 1]};
        const int n = std::max(1, static_cast<int>(std::lround(edge.length_m())));
        for (int k = 0; k < n; ++k) {
            const double t = static_cast<double>(k) / n;
            fine.push_back({edge.from.east_m + t * (edge.to.east_m - edge.from.east_m),
                            edge.from.north_m + t * (edge.to.north_m - edge.from.north_m)});
        }
    }
    fine.push_back(line.back());
    const auto half = static_cast<std::ptrdiff_t>(piece / 2);
    const auto last = std::ssize(fine) - 1;
    std::vector<EastNorth> smooth;
    for (std::ptrdiff_t i = 0; i <= last; ++i) {
        const auto reach = std::min({half, i, last - i}); // ends stay where they are
        EastNorth sum;
        for (auto k = i - reach; k <= i + reach; ++k) {
            sum.east_m += fine[static_cast<std::size_t>(k)].east_m;
            sum.north_m += fine[static_cast<std::size_t>(k)].north_m;
        }
        const auto n = static_cast<double>(2 * reach + 1);
        smooth.push_back({sum.east_m / n, sum.north_m / n});
    }
    std::vector<EastNorth> corners;
    const auto step = std::max<std::ptrdiff_t>(1, static_cast<std::ptrdiff_t>(piece));
    for (std::ptrdiff_t i = 0; i <= last; i = i + step > last && i < last ? last : i + step) {
        const auto before = std::max<std::ptrdiff_t>(0, i - half), after = std::min(last, i + half);
        const Lane way{smooth[static_cast<std::size_t>(before)], smooth[static_cast<std::size_t>(after)]};
        const double b = way.bearing_deg() / degrees_per_radian;
        const auto &at = smooth[static_cast<std::size_t>(i)];
        corners.push_back({at.east_m + right * std::cos(b), at.north_m - right * std::sin(b)});
    }
    for (std::size_t i = 0; i + 1 < corners.size(); ++i)
        plan.lanes.push_back({corners[i], corners[i + 1]});
    count_run(plan);
    return plan;
}

LanePlan keep_off(LanePlan plan, const std::vector<NoGo> &places) {
    std::vector<Lane> kept;
    for (const auto &lane : plan.lanes) {
        // Stretches of the lane, metres from its start, that lie within a place.
        std::vector<std::pair<double, double>> closed;
        for (const auto &p : places) {
            const double a = along(lane, p.at), off = aside(lane, p.at);
            if (std::fabs(off) >= p.radius_m)
                continue;
            const double half = std::sqrt(p.radius_m * p.radius_m - off * off);
            closed.emplace_back(a - half, a + half);
        }
        std::sort(closed.begin(), closed.end());
        const double length = lane.length_m();
        const auto at = [&](double m) {
            const double t = length > 0 ? m / length : 0;
            return EastNorth{lane.from.east_m + t * (lane.to.east_m - lane.from.east_m),
                             lane.from.north_m + t * (lane.to.north_m - lane.from.north_m)};
        };
        double from = 0;
        const double least = closed.empty() ? 0 : 0.2 * plan.spacing_m;
        for (const auto &[a, b] : closed) {
            if (std::min(a, length) - from > least)
                kept.push_back({at(from), at(std::min(a, length))});
            from = std::max(from, b);
        }
        if (length - from > least || (closed.empty() && length > 0))
            kept.push_back({at(std::max(0.0, from)), lane.to});
    }
    plan.lanes = std::move(kept);
    count_run(plan);
    return plan;
}

LaneProgress::LaneProgress(LanePlan plan) : plan_(std::move(plan)) {
    for (const auto &lane : plan_.lanes)
        met_.emplace_back(static_cast<std::size_t>(lane.length_m() / every_m) + 1, false);
}

void LaneProgress::take(const EastNorth &at) {
    const double near = 0.3 * plan_.spacing_m;
    for (std::size_t i = 0; i < plan_.lanes.size(); ++i) {
        if (std::fabs(aside(plan_.lanes[i], at)) > near)
            continue;
        const double a = along(plan_.lanes[i], at);
        // Half a step each way: a boat is told every metre or so.
        for (const double off : {-every_m / 2, 0.0, every_m / 2}) {
            const double k = std::round((a + off) / every_m);
            if (k >= 0 && k < static_cast<double>(met_[i].size()))
                met_[i][static_cast<std::size_t>(k)] = true;
        }
    }
}

double LaneProgress::share_run() const {
    double met = 0, all = 0;
    for (const auto &lane : met_) {
        met += static_cast<double>(std::count(lane.begin(), lane.end(), true));
        all += static_cast<double>(lane.size());
    }
    return all > 0 ? met / all : 0;
}

bool LaneProgress::is_run(std::size_t lane) const {
    return static_cast<double>(std::count(met_[lane].begin(), met_[lane].end(), true)) >=
           0.9 * static_cast<double>(met_[lane].size());
}

std::optional<LaneCue> LaneProgress::cue(const EastNorth &at) const {
    for (std::size_t i = 0; i < plan_.lanes.size(); ++i) {
        if (is_run(i))
            continue;
        const auto &lane = plan_.lanes[i];
        LaneCue cue;
        cue.lane = i;
        cue.off_m = aside(lane, at);
        cue.left_m = lane.length_m() - along(lane, at);
        if (i + 1 < plan_.lanes.size())
            cue.turn_right = aside(lane, plan_.lanes[i + 1].from) + aside(lane, plan_.lanes[i + 1].to) > 0;
        return cue;
    }
    return std::nullopt;
}

} // namespace heron
