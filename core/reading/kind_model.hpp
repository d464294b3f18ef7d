// From what is measured of a thing to what it may be: a weighing that can be read.
#pragma once

#include "reading/features.hpp"
#include "reading/kind.hpp"
#include "sonar/ping.hpp"

#include <string>
#include <vector>

namespace heron {

/// Multinomial logistic regression on the features and their squares, one set of weights for each zone. The
/// weights are fitted on scenes of the stand-in (docs/accuracy.md) and stand in kind_weights.inc and
/// circle_weights.inc;
/// probabilities are brought to what was counted by one temperature a zone.
class KindModel {
  public:
    static constexpr std::size_t inputs = 2 * feature_count + 1;
    struct ZoneWeights {
        Features usual{}; ///< medians of the scene's figures anywhere (usual.hpp)
        std::array<double, feature_count> mean{}, scale{}; ///< features are taken off their mean and divided
        std::array<std::array<double, inputs>, kind_count> weight{}; ///< bias, features, squares
        double temperature = 1;
        double share_real = 0; ///< of all candidates for fitting; 0: not known, nothing is shifted by it
    };
    std::array<ZoneWeights, 3> zones; ///< by Zone; a step under the track is weighed by itself
    /// Brings the chance of being real to what was counted on joined contacts: logit' = slope · logit +
    /// shift.
    double real_slope = 1, real_shift = 0;
    /// What was said of contacts like these (reading/corrections.hpp): near such features the scores of kinds
    /// move by `most` × likeness, likeness = e^(−d²/2·reach²), d the root mean square of the differences in
    /// scaled features.
    struct Nudge {
        Zone zone = Zone::ground;
        Features features{};
        KindChances
            moves{}; ///< of each kind: what was said less what was thought, times how much it counts for
        double reach =
            nudge_reach; ///< how unlike it may be, a mean deviation of the features, in their scale
    };
    std::vector<Nudge> nudges;
    static constexpr double nudge_most = 3.5, nudge_reach = 0.22;
    KindChances shift{}; ///< added to the logarithm of each kind's odds: how often a water holds it

    /// The one that ships: for the sides, and for single turns of a head (its rays spread with distance).
    static const KindModel &shipped(Side side = Side::starboard);

    /// `features` as they are weighed: over what is usual in the recording (`over_usual`).
    KindChances chances(Zone zone, const Features &features) const;
    /// The features of a step under the track: how far it stands out over its doubt, its height and how steep
    /// it is; all else is 0.
    static Features of_drop(double z, double height_m, double run_m);
    /// What a feature adds for one kind against another, in natural logarithms of the odds; the largest
    /// first.
    struct Share {
        std::size_t feature = 0;
        double adds = 0;
    };
    std::vector<Share> shares(Zone zone, const Features &features, Kind for_kind, Kind against) const;

    static std::array<double, inputs> expand(const ZoneWeights &zone, const Features &features);
};

} // namespace heron
