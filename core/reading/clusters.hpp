// Bright grains that stand closer together than those about them: clouds of bait, groups, beds of weeds. An
// eye sees them from afar; none of their grains need be worth a word by itself.
#pragma once

#include "reading/swath.hpp"

#include <cstddef>
#include <vector>

namespace heron {

/// A maximum of energy on the ground that no other within a quarter of a metre along and a decimetre across
/// passes.
struct BrightGrain {
    std::size_t line = 0, column = 0; ///< of the swath's ground
    double along_m = 0, ground_m = 0;
    double over_db = 0; ///< over what is usual of such means of energy in the swath
};

/// All of a swath, from half a metre behind the first return to the end of what was sounded.
std::vector<BrightGrain> bright_grains(const Swath &swath);

/// Where more grains lie than chance puts there.
struct GrainCluster {
    double along_m = 0, ground_m = 0; ///< mean of its grains
    double radius_m = 0;              ///< of the disc that was counted: 0.7, 1, 1.5, 2.2 or 3
    std::size_t grains = 0;           ///< in it
    double usual = 0;                 ///< that would lie in it as they lie about it
    double z = 0; ///< root of twice the logarithm of the likelihood ratio over the counts' own dispersion
    double first_along_m = 0, last_along_m = 0, near_m = 0, far_m = 0; ///< extents of its grains
};

/// Root of twice the logarithm of the likelihood ratio of so many grains where so many are usual, over the
/// dispersion of counts (1: Poisson's); 0 where no more lie there than is usual.
double cluster_z(double grains, double usual, double dispersion);

/// Clusters from z = 3.5 on, the strongest first, none in another: the scan statistic for counts (Kulldorff
/// 1997, "A spatial scan statistic", Communications in Statistics 26), its discs about each of the brightest
/// grains. Two levels are tried, those that one grain in 10 m² and one in 25 m² pass, for grains as bright as
/// they are and as bright as they are against the maxima about; what is usual is counted within six metres,
/// and no less than all over the swath; ratios are divided by the dispersion of counts in squares of two
/// metres (no less than one: that of Poisson), as coarse ground holds grains in heaps. Where the levels are
/// known, only those between whose grains the ground shows that lies beside.
std::vector<GrainCluster> grain_clusters(const Swath &swath, const std::vector<BrightGrain> &grains);

/// What a cluster adds to the logarithm of the odds that a thing in its midst is real, 0 to 4: 0.4 for each
/// z beyond 3 (most likely on 49 of the lakes for fitting, docs/accuracy.md).
double cluster_evidence(double z);

/// A bed of weeds: grains all over a stretch of ground, and between them the ground that lies beside it.
struct WeedBed {
    std::size_t grains = 0;
    double area_m2 = 0;
    double between_db = 0; ///< median of its levels over that of the ground beside at the same ranges
    double over_db = 0;    ///< the same of their mean energies
    struct Cell {
        std::size_t line = 0; ///< of the swath
        double ground_m = 0;
    };
    std::vector<Cell> rim; ///< squares of half a metre on its edge
    std::vector<Cell> all; ///< all of its squares
    double nearest_m = 0;  ///< from the track over ground
};

/// Beds of 20 m² and 80 grains and more, at least 0.8 of them to a square metre, that fill 0.35 of the box
/// around them and more. A grain rises over speckle: four times as far over the median of all maxima as a
/// sixth of them lies below it, and 6 dB at the least. Coarse ground is brighter between its grains too: a
/// bed's `between_db` lies within −3 and +4 dB, and its energy stands 6 dB and more over the ground beside,
/// and 1.5 over `between_db`.
std::vector<WeedBed> weed_beds(const Swath &swath, const std::vector<BrightGrain> &grains);

} // namespace heron
