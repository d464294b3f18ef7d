// A day's round: which places to visit within the hours and the fuel there are, and in which order.
#pragma once

#include "geo/position.hpp"

#include <cstddef>
#include <optional>
#include <vector>

namespace heron {

struct RoundStop {
    GeoPoint place;
    double worth = 0;  ///< 0 …; what a visit is expected to bring
    bool must = false; ///< it is visited if anything is
};

struct RoundLimits {
    double hours = 4;
    double stay_minutes = 20; ///< at each place
    double run_m_s = 4;       ///< between them
    std::optional<double> fuel_l;
    double fuel_l_per_h = 0; ///< while running
    /// Where the wind comes from, true: the sheltered end of the round, upwind, comes first (common practice,
    /// no published source). Nothing: the order is the shortest.
    std::optional<double> wind_from_deg;
};

struct RoundPlan {
    std::vector<std::size_t> order; ///< of the stops, as visited
    double run_m = 0, hours = 0, fuel_l = 0;
    double worth = 0;
    std::size_t left_out = 0;
};

/// Of all sets of stops that fit into the limits the one of the most worth, run in its shortest order; of
/// equal worth the shorter. Exact for up to twelve stops (Held and Karp's dynamic programme over sets: M.
/// Held, R. M. Karp (1962), "A dynamic programming approach to sequencing problems"); of more the twelve of
/// the most worth for their way are looked at. With a wind the chosen stops are put in the order that is
/// short and has what lies upwind early: a metre of run is given for each metre that a stop lies upwind
/// of the middle, counted by its share of the way through.
RoundPlan plan_round(const GeoPoint &start, const std::vector<RoundStop> &stops, const RoundLimits &limits);

/// What the order is chosen by: the run, and what wind adds.
double cost_of_round(const GeoPoint &start, const std::vector<GeoPoint> &places,
                     const std::vector<std::size_t> &order, const std::optional<double> &wind_from_deg);

} // namespace heron
