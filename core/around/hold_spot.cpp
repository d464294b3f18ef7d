#include "around/hold_spot.hpp"

#include "fault/told.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace heron {
namespace {

constexpr double to_spare_m = 0.5, hull_clear_m = 4, still_m_s = 0.05;

EastNorth placed(const EastNorth &head, double heading_deg, const FromHead &spot) {
    const double h = heading_deg / degrees_per_radian;
    return {head.east_m + spot.ahead_m * std::sin(h) + spot.right_m * std::cos(h),
            head.north_m + spot.ahead_m * std::cos(h) - spot.right_m * std::sin(h)};
}

FromHead seen_from(const EastNorth &head, double heading_deg, const EastNorth &at) {
    const double h = heading_deg / degrees_per_radian, de = at.east_m - head.east_m,
                 dn = at.north_m - head.north_m;
    return {de * std::sin(h) + dn * std::cos(h), de * std::cos(h) - dn * std::sin(h)};
}

double bearing(const EastNorth &from, const EastNorth &to) {
    return std::atan2(to.east_m - from.east_m, to.north_m - from.north_m) * degrees_per_radian;
}

bool crosses_a_seat(const OwnBoat &boat, std::size_t seat, const FromHead &thing) {
    for (std::size_t i = 0; i < boat.seats.size(); ++i)
        if (i != seat && line_goes_over(boat, boat.seats[seat], boat.seats[i], thing))
            return true;
    return false;
}

struct Judge {
    const HoldQuestion &q;

    // In parts that one may trade for another, about a metre's worth each; nothing where the hull may not be.
    std::optional<double> cost(const EastNorth &head, double heading) const {
        for (const auto &k : q.obstacles) {
            if (!k.hull)
                continue;
            const auto at = seen_from(head, heading, k.at);
            const double bow = q.boat.head.behind_bow_m,
                         ahead = std::max({at.ahead_m - bow, bow - q.boat.length_m - at.ahead_m, 0.0}),
                         aside = std::max(0.0, std::fabs(at.right_m) - q.boat.beam_m / 2);
            if (std::hypot(ahead, aside) < hull_clear_m + k.radius_m)
                return std::nullopt;
        }
        const auto thing = seen_from(head, heading, q.thing);
        double cost = 0, least_reach = 1e9, nearest = 1e9;
        for (std::size_t i = 0; i < q.boat.seats.size(); ++i) {
            const auto &seat = q.boat.seats[i];
            const auto from = from_head(q.boat, seat.at);
            const double d = std::hypot(thing.ahead_m - from.ahead_m, thing.right_m - from.right_m);
            least_reach = std::min(least_reach, seat.reach_m);
            nearest = std::min(nearest, d);
            // A seat out of reach outweighs everything else.
            cost += d > seat.reach_m - to_spare_m ? 100 + 3 * (d - seat.reach_m) : 0;
            cost += crosses_a_seat(q.boat, i, thing) ? 8 : 0;
            const auto from_ground = placed(head, heading, from);
            for (const auto &k : q.obstacles)
                cost += fouls(from_ground, k) ? 4 : 0;
        }
        // As far off as all can still cast with ease: three quarters of the shortest reach.
        cost += std::fabs(nearest - 0.75 * least_reach);
        // What the boat would run over is frightened.
        cost += nearest < 4 ? 20 : 0;
        if (q.drift && q.drift->speed_m_s() > still_m_s) {
            const double from = wrap_360(q.drift->towards_deg() + 180),
                         strength = std::min(1.0, q.drift->speed_m_s() / 0.3);
            cost += strength * 6 * (1 - std::cos((heading - from) / degrees_per_radian));
            // Above it in the drift the boat comes down on it.
            cost +=
                strength * 8 * std::max(0.0, std::cos((bearing(q.thing, head) - from) / degrees_per_radian));
        }
        if (q.shows_from_deg)
            cost +=
                2 * std::fabs(std::sin((bearing(q.thing, head) - *q.shows_from_deg) / degrees_per_radian));
        // A motor at the bow holds it better ahead than astern; and who turns about has lost the fish.
        const double off_bow = polar_of(thing).off_bow_deg;
        cost += 6 * std::max(0.0, -std::cos(off_bow / degrees_per_radian));
        if (q.heading_deg)
            cost += 1.5 * (1 - std::cos((heading - *q.heading_deg) / degrees_per_radian));
        cost += 0.05 * std::hypot(head.east_m - q.head.east_m, head.north_m - q.head.north_m);
        return cost;
    }

    bool fouls(const EastNorth &seat, const Obstacle &k) const {
        const double de = q.thing.east_m - seat.east_m, dn = q.thing.north_m - seat.north_m,
                     length = std::max(0.1, std::hypot(de, dn)), ke = k.at.east_m - seat.east_m,
                     kn = k.at.north_m - seat.north_m, along = (ke * de + kn * dn) / length,
                     aside = std::fabs(ke * dn - kn * de) / length;
        return along > 0 && along < length - k.radius_m - 0.5 && aside < k.radius_m + 1;
    }
};

} // namespace

Drift leeway(double from_deg, double wind_m_s) {
    constexpr double share = 0.035;
    const double towards = (from_deg + 180) / degrees_per_radian;
    return {{share * wind_m_s * std::sin(towards), share * wind_m_s * std::cos(towards)}};
}

double Drift::speed_m_s() const {
    return std::hypot(m_s.east_m, m_s.north_m);
}

double Drift::towards_deg() const {
    return wrap_360(std::atan2(m_s.east_m, m_s.north_m) * degrees_per_radian);
}

std::string side_word(double off_bow_deg) {
    const std::array<std::string, 8> words{
        told("ahead"),  told("ahead on the right"), told("the right"), told("astern on the right"),
        told("astern"), told("astern on the left"), told("the left"),  told("ahead on the left")};
    return words[static_cast<std::size_t>(std::lround(wrap_360(off_bow_deg) / 45)) % 8];
}

std::optional<HoldSpot> best_hold(const HoldQuestion &q) {
    if (q.boat.seats.empty())
        return std::nullopt;
    double longest = 0;
    for (const auto &s : q.boat.seats)
        longest = std::max(longest, s.reach_m);
    const Judge judge{q};
    std::optional<HoldSpot> best;
    double least = 0;
    for (double off = 3; off <= longest + 2; off += 0.5)
        for (int from = 0; from < 360; from += 5) {
            const double b = from / degrees_per_radian;
            const EastNorth head{q.thing.east_m + off * std::sin(b), q.thing.north_m + off * std::cos(b)};
            for (int heading = 0; heading < 360; heading += 10)
                if (const auto cost = judge.cost(head, heading); cost && (!best || *cost < least)) {
                    least = *cost;
                    best = HoldSpot{head, static_cast<double>(heading), off, {}, {}, {}};
                }
        }
    if (!best)
        return best;
    std::vector<InTheWay> ways;
    for (const auto &k : q.obstacles)
        ways.push_back({k.name, seen_from(best->head, best->heading_deg, k.at), k.radius_m});
    const auto thing = seen_from(best->head, best->heading_deg, q.thing);
    for (std::size_t i = 0; i < q.boat.seats.size(); ++i) {
        best->casts.push_back(cast_from(q.boat, q.boat.seats[i], thing, q.thing_sd_m, ways));
        if (best->casts.back().in_reach())
            best->reached_from.push_back(i);
    }
    if (q.drift && q.drift->speed_m_s() > still_m_s)
        best->drift_from_deg = wrap_180(q.drift->towards_deg() + 180 - best->heading_deg);
    return best;
}

} // namespace heron
