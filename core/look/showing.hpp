// What chance a thing had of showing to a look: its echo and its shadow against what the ground's own texture
// reaches by itself.
#pragma once

#include "tuning/budget.hpp"

#include <span>

namespace heron {

/// Looks of speckle that a mean over `looks` independent cells is worth where the ground itself is patchy by
/// `patchy_db` (one sigma): squares of the variation add, 1/n_eff = 1/n + e^(σ²) − 1 with σ in nepers.
double effective_looks(double looks, double patchy_db);

/// Level, as a ratio to the mean, that the mean of so many looks of fully developed speckle passes by chance
/// `false_alarm`: its mean is Gamma(n, 1/n). `looks` > 0.
double bright_level(double looks, double false_alarm);
/// The level that it stays under by that chance.
double dark_level(double looks, double false_alarm);
/// Chance that the mean of `looks` looks with mean `ratio` passes `level`.
double chance_over(double ratio, double looks, double level);

struct Showing {
    double echo = 0, shadow = 0; ///< chance that each stands out by itself
    double either = 0;           ///< that one of them does
    double pings = 0;            ///< that fall on it
    bool in_blind_strip = false; ///< nearer than half the water's depth: no shadow can be told there
    bool in_strip = false;       ///< a fish before the first return: seen against the water, not the ground
};

/// Against what bare ground reaches once in 1,000 m². `ground_m` over ground from the boat's line.
/// Holds for single pings with independent speckle; the patchiness of grounds is common practice, no
/// published source (see tuning/budget.cpp).
Showing showing_of(const Gear &gear, const WaterState &water, const SmallestThing &thing,
                   const Setting &setting, double depth_m, double ground_m);

/// Chance that a thing shows to one of several looks that do not depend on each other.
double shows_to_any(std::span<const double> chances);

} // namespace heron
