// Fish it or leave it: what the looks at a place are worth as a search for fish.
#pragma once

#include "look/showing.hpp"
#include "picture/plan_patch.hpp"
#include "reading/contact.hpp"

namespace heron {

enum class FishThere {
    yes,            ///< the latest look that could show one shows fish
    perhaps,        ///< a grain in the wood may be one
    gone,           ///< an earlier look showed fish, a later one that would show them does not
    probably_empty, ///< one would have shown eight times in ten, and none did
    not_looked_at,  ///< not well enough to say
};

/// Of fish whose echo or shadow shows, the share that is told from stones and facets of that ground: measured
/// on the lakes for fitting (docs/accuracy.md): silt 0.8, sand 0.78, gravel 0.26, rock 0.05.
double told_from_ground(BottomType bottom);

/// Of fish within a tree or brush, the share that is seen as a grain of its own: measured on the lakes for
/// fitting.
inline constexpr double told_from_wood = 0.19;

struct PlacePass {
    Pass look;
    double chance = 0; ///< that a fish of that size would have shown to it, and been told from the ground
    bool fish = false; ///< one did, within reach of the place
    double grain = 0;  ///< the chance that the likeliest grain in the wood is one; 0: none is worth telling
};

struct FishOrLeave {
    FishThere answer = FishThere::not_looked_at;
    double chance = 0; ///< that a fish would have shown to any of the looks that showed none
    std::vector<PlacePass> looks;
    int more_looks = 0; ///< looks like the best one that it takes until none means empty; 0: enough
};

/// `fish_length_m`: the least fish that is sought. Fish count as at the place within half its length and 4 m.
/// In trees and brush `told_from_wood` takes the place of the ground's share; among weeds a grain is told
/// from a stalk one time in two (common practice, no published source).
FishOrLeave fish_or_leave(const Scan &scan, const Contact &place, std::span<const Pass> looks,
                          std::span<const Contact> contacts, const Gear &gear, const WaterState &water,
                          double fish_length_m);

/// The gear's band nearest to a frequency.
std::size_t band_near(const Gear &gear, double frequency_hz);

} // namespace heron
