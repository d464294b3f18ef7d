// What is measured of a found thing: the named figures that the naming of it rests on.
#pragma once

#include "reading/behind.hpp"
#include "reading/echoes.hpp"

#include <array>
#include <string_view>

namespace heron {

/// Names in the order of `Features`; each figure is scaled to some −2…+3.
inline constexpr std::array<std::string_view, 46> feature_names{
    "length",        ///< log₂ of the longer extent over ground, metres
    "width",         ///< log₂ of the shorter one
    "slender",       ///< log₂ of their ratio
    "area",          ///< log₂ of the region's area over ground, m², halved
    "filled",        ///< share of its box that the region fills
    "grains",        ///< log₂ of separate peaks
    "peak",          ///< of the smallest box over the ground, tens of dB
    "mean",          ///< of the region over the ground, tens of dB
    "stands out",    ///< log₂ of the largest box mean in standard deviations
    "stands small",  ///< the same of the smallest box
    "rough",         ///< standard deviation of the smallest box hereabouts, halves of 10 dB
    "clutter",       ///< share of the surroundings that stands out, times 5
    "shadow",        ///< log₂ of one plus the shadow's score
    "shadow depth",  ///< tens of dB
    "shadow beside", ///< how much darker than beside it, tens of dB
    "gap",           ///< from echo to shadow beyond pulse and beam, metres
    "gap height",    ///< what that gap means as height off the bottom, metres
    "height",        ///< log₂ of one plus the height that the shadow's end tells, metres
    "stature",       ///< log₂ of height over length
    "shadow width",  ///< log₂ of the shadow's width over the echo's length along the track
    "before",        ///< level just before it, tens of dB
    "halo",          ///< level beside it, tens of dB
    "grazing",       ///< sine of the grazing angle
    "distance",      ///< share of the range
    "turned",        ///< sine of the angle between its longer axis and the track
    "bend",          ///< how far its near edge strays from a straight line, metres
    "along",         ///< log₂ of lines that it lies on
    "deep",          ///< in the water: share of the way down
    "cut",           ///< 1 where the shadow reaches the edge of the range
    "crowd",         ///< log₂ of one plus how many within 10 m stand out nearly as much
    "shadow crowd",  ///< log₂ of one plus how many within 10 m throw nearly such a shadow
    "alone",         ///< log₂ of how far it stands out over the best of the others within 10 m
    "touching",      ///< how dark the first half metre behind it is, tens of dB
    "foot missing",  ///< length over ground that no dark touches: the longer of it, the less can stand there
    "clipped",       ///< share of the bottom that the receiver could not tell from nothing, times 3
    "border",        ///< how far the ground's own level differs within 1.5 m of it, tens of dB
    "patch",         ///< the ground's own level there over the rest of the stretch, tens of dB
    "shadow odds",   ///< log₂ of its shadow's score over what stands behind places with no echo
    "dark apart",    ///< the darkest spot behind it, in spreads of such spots beside it, quarters
    "darkest apart", ///< how much darker than the darkest of those, tens of dB
    "source",        ///< of a dark region: log₂ of one plus how far what throws it stands out
    "source level",  ///< of it over the ground, tens of dB
    "grainy",        ///< how much more than the ground it is made of single grains, fives of dB
    "as bright",     ///< log₂ of one plus how many others in 1,000 m² here stand out as much
    "as dark",       ///< the same of those that throw such a shadow
    "as both",       ///< and of those that do both
};
inline constexpr std::size_t feature_count = feature_names.size();
using Features = std::array<double, feature_count>;
/// Where a figure stands in `Features`; `feature_count` for a name that is none.
constexpr std::size_t feature_named(std::string_view name) {
    std::size_t i = 0;
    while (i < feature_count && feature_names[i] != name)
        ++i;
    return i;
}

/// What the other regions say, those within 10 m along the track and those of the whole block: ground that
/// throws up many alike is believed less.
struct Crowd {
    int standing = 0;      ///< with seven tenths of its standing and more
    int shadowed = 0;      ///< with seven tenths of its shadow's score and more
    double best_other = 4; ///< standing of the best of the others
    /// Of the whole block, in 1,000 m²: others that stand out as much, that throw such a shadow, that do
    /// both.
    double as_bright = 0, as_dark = 0, as_both = 0;
};
Crowd crowd_of(const Swath &swath, const std::vector<Echo> &echoes, const std::vector<ShadowBehind> &behinds,
               std::size_t which);

/// What a search for shadows finds behind places of this swath where nothing was found: the score that one
/// such place in six passes, dB·m. Ground that is dark by itself makes shadows believed less.
double chance_shadow(const Swath &swath, const std::vector<Echo> &echoes);

Features features_of(const Swath &swath, const Echo &echo, const ShadowBehind &behind, const Crowd &crowd,
                     double chance_shadow);

} // namespace heron
