#include "plan/round_plan.hpp"

#include "plan/round.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <limits>
#include <numeric>

namespace heron {
namespace {

constexpr std::size_t most_exact = 12;
constexpr double wind_worth = 1;

double hours_of(double run_m, std::size_t stops, const RoundLimits &l) {
    return run_m / std::max(0.1, l.run_m_s) / 3600 + static_cast<double>(stops) * l.stay_minutes / 60;
}

double fuel_of(double run_m, const RoundLimits &l) {
    return run_m / std::max(0.1, l.run_m_s) / 3600 * l.fuel_l_per_h;
}

bool fits(double run_m, std::size_t stops, const RoundLimits &l) {
    return hours_of(run_m, stops, l) <= l.hours && (!l.fuel_l || fuel_of(run_m, l) <= *l.fuel_l);
}

// Metres that a place lies upwind of the middle of all.
std::vector<double> upwind_of(const std::vector<GeoPoint> &places, double wind_from) {
    std::vector<double> upwind(places.size());
    if (places.empty())
        return upwind;
    const LocalPlane plane(places.front());
    double mean = 0;
    const double a = wind_from / degrees_per_radian;
    for (std::size_t i = 0; i < places.size(); ++i) {
        const auto at = plane.to_plane(places[i]);
        upwind[i] = at.east_m * std::sin(a) + at.north_m * std::cos(a);
        mean += upwind[i] / static_cast<double>(places.size());
    }
    for (auto &u : upwind)
        u -= mean;
    return upwind;
}

// The order of least cost: all orders of few, else the shortest one mended by turning stretches round.
std::vector<std::size_t> order_for(const GeoPoint &start, const std::vector<GeoPoint> &places,
                                   const std::optional<double> &wind) {
    auto best = round_over(start, places);
    if (!wind || places.size() < 2)
        return best;
    const auto cost = [&](const std::vector<std::size_t> &o) {
        return cost_of_round(start, places, o, wind);
    };
    double least = cost(best);
    constexpr std::size_t few = 8;
    if (places.size() <= few) {
        std::vector<std::size_t> order(places.size());
        std::iota(order.begin(), order.end(), 0);
        do {
            if (const double c = cost(order); c < least - 1e-9) {
                least = c;
                best = order;
            }
        } while (std::next_permutation(order.begin(), order.end()));
        return best;
    }
    for (bool better = true; better;) {
        better = false;
        for (std::size_t i = 0; i + 1 < best.size(); ++i)
            for (std::size_t j = i + 1; j < best.size(); ++j) {
                auto turned = best;
                std::reverse(turned.begin() + static_cast<std::ptrdiff_t>(i),
                             turned.begin() + static_cast<std::ptrdiff_t>(j) + 1);
                if (const double c = cost(turned); c < least - 1e-6) {
                    least = c;
                    best = std::move(turned);
                    better = true;
                }
            }
    }
    return best;
}

} // namespace

double cost_of_round(const GeoPoint &start, const std::vector<GeoPoint> &places,
                     const std::vector<std::size_t> &order, const std::optional<double> &wind) {
    double cost = length_of_round(start, places, order);
    if (!wind || order.size() < 2)
        return cost;
    const auto upwind = upwind_of(places, *wind);
    for (std::size_t i = 0; i < order.size(); ++i)
        cost +=
            wind_worth * upwind[order[i]] * static_cast<double>(i) / static_cast<double>(order.size() - 1);
    return cost;
}

RoundPlan plan_round(const GeoPoint &start, const std::vector<RoundStop> &stops, const RoundLimits &limits) {
    RoundPlan plan;
    plan.left_out = stops.size();
    // Of many the most worth for their way; what must be visited stands before all.
    std::vector<std::size_t> some(stops.size());
    std::iota(some.begin(), some.end(), 0);
    const auto for_its_way = [&](std::size_t i) {
        const double far = leg_between(start, stops[i].place).distance_m;
        return (stops[i].must ? 1e6 : 0) + stops[i].worth / hours_of(far, 1, limits);
    };
    std::stable_sort(some.begin(), some.end(),
                     [&](std::size_t a, std::size_t b) { return for_its_way(a) > for_its_way(b); });
    if (some.size() > most_exact)
        some.resize(most_exact);
    const auto n = some.size();
    if (n == 0)
        return plan;
    // Shortest way from the start through each set, ending at each of its stops.
    std::vector<double> from_start(n), apart(n * n);
    for (std::size_t i = 0; i < n; ++i) {
        from_start[i] = leg_between(start, stops[some[i]].place).distance_m;
        for (std::size_t j = 0; j < n; ++j)
            apart[i * n + j] = leg_between(stops[some[i]].place, stops[some[j]].place).distance_m;
    }
    constexpr double never = std::numeric_limits<double>::infinity();
    const std::size_t sets = std::size_t{1} << n;
    std::vector<double> shortest(sets * n, never);
    for (std::size_t i = 0; i < n; ++i)
        shortest[(std::size_t{1} << i) * n + i] = from_start[i];
    for (std::size_t set = 1; set < sets; ++set)
        for (std::size_t last = 0; last < n; ++last) {
            const double so_far = shortest[set * n + last];
            if (so_far == never)
                continue;
            for (std::size_t next = 0; next < n; ++next)
                if ((set >> next & 1U) == 0) {
                    auto &to = shortest[(set | std::size_t{1} << next) * n + next];
                    to = std::min(to, so_far + apart[last * n + next]);
                }
        }
    std::size_t must = 0;
    for (std::size_t i = 0; i < n; ++i)
        must |= stops[some[i]].must ? std::size_t{1} << i : 0;
    std::size_t chosen = 0;
    double best_worth = -1, best_run = never;
    for (const bool with_must : {true, false}) {
        if (chosen != 0)
            break;
        for (std::size_t set = 1; set < sets; ++set) {
            if (with_must && (set & must) != must)
                continue;
            const double run = *std::min_element(shortest.begin() + static_cast<std::ptrdiff_t>(set * n),
                                                 shortest.begin() + static_cast<std::ptrdiff_t>(set * n + n));
            if (!fits(run, static_cast<std::size_t>(std::popcount(set)), limits))
                continue;
            double worth = 0;
            for (std::size_t i = 0; i < n; ++i)
                if (set >> i & 1U)
                    worth += stops[some[i]].worth;
            if (worth > best_worth + 1e-9 || (worth > best_worth - 1e-9 && run < best_run)) {
                best_worth = worth;
                best_run = run;
                chosen = set;
            }
        }
    }
    if (chosen == 0)
        return plan;
    std::vector<std::size_t> which;
    std::vector<GeoPoint> places;
    for (std::size_t i = 0; i < n; ++i)
        if (chosen >> i & 1U) {
            which.push_back(some[i]);
            places.push_back(stops[some[i]].place);
        }
    auto order = order_for(start, places, limits.wind_from_deg);
    // With the wind's order it may take longer than there is time: then the shortest.
    if (!fits(length_of_round(start, places, order), places.size(), limits))
        order = round_over(start, places);
    plan.run_m = length_of_round(start, places, order);
    plan.hours = hours_of(plan.run_m, places.size(), limits);
    plan.fuel_l = fuel_of(plan.run_m, limits);
    plan.worth = best_worth;
    plan.left_out = stops.size() - places.size();
    for (const auto i : order)
        plan.order.push_back(which[i]);
    return plan;
}

} // namespace heron
