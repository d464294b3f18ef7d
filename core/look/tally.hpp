// Where the fish are now: by side, distance, depth and ground; whether they lean to one of these; and a line
// to run along.
#pragma once

#include "picture/scan.hpp"
#include "reading/contact.hpp"

namespace heron {

struct FishTally {
    int seen = 0, left = 0, right = 0;
    double aside_low_m = 0, aside_high_m = 0; ///< that hold the middle six tenths of them, over ground
    double depth_low_m = 0, depth_high_m = 0; ///< of the bottom under them, the same, from the surface
    int in_band = 0;                          ///< of them in that band of depth
    double water_in_band = 0;                 ///< share of the run that had such a depth under the boat
    int on_firmer = 0, on_softer = 0;         ///< than the ground of that stretch, by 2 dB and more

    /// Chance that so many on one side, or so many in the band, come about by themselves: binomial.
    double chance_of_side = 1, chance_of_band = 1, chance_of_firmness = 1;
    bool leans_left() const { return chance_of_side < 0.05 && left > right; }
    bool leans_right() const { return chance_of_side < 0.05 && right > left; }
    bool keeps_to_band() const { return chance_of_band < 0.05; }

    /// Along the band: true heading (the other way serves as well) through `middle`, from the contour of the
    /// depths that the track told about there; nothing where the track tells no slope.
    std::optional<double> heading_deg;
    std::optional<GeoPoint> middle;

    std::string counts, leans, offer; ///< in words; the last two may be empty
};

/// Fish among contacts of rows in `from`…`to`. Says that they lean only where chance would do so less than
/// one time in twenty.
FishTally tally_fish(const Scan &scan, const std::vector<Contact> &contacts, std::size_t from, std::size_t to,
                     UnitSystem units);

/// P(X ≥ k) of a binomial with n tries of chance p.
double binomial_tail(int k, int n, double p);

} // namespace heron
