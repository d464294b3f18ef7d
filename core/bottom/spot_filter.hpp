// "Lone big stones within 10 m of a seam in 6-8 ft": a wish in words, and what meets it.
#pragma once

#include "bottom/spot.hpp"
#include "units/units.hpp"

#include <string_view>

namespace heron {

/// What is wished of a thing; what is not said does not count.
struct SpotFilter {
    std::vector<SpotMatter> matters; ///< any of them; none: all
    std::vector<std::string> names;  ///< words that must stand in the thing's own words, in small letters
    std::optional<bool> lone;        ///< alone, or in a pile
    bool bigger = false;             ///< than its neighbours; where it has none, half a metre and more
    bool wood_with_stone = false;
    bool weed_opening = false, weed_edge = false, weed_point = false;
    bool ripples = false, lane = false, beds = false;
    std::optional<bool> hard; ///< on hard ground, or on soft
    std::optional<GroundClass> ground;
    std::optional<double> transition_m, drop_m, deep_m; ///< within so much of the nearest
    std::optional<double> depth_from_m, depth_to_m;
    std::optional<double> taller_m, shorter_m;
    std::vector<std::string> not_understood; ///< words that it could not make sense of

    bool empty() const;
};

/// Reads a wish. Lengths without a unit are in the unit of `units`. Kinds and grounds by their names in the
/// singular or the plural; "lone", "piled", "big", "near a seam" (10 m), "within 30 ft of a drop", "close to
/// deep water", "6-8 ft", "in 6 to 8 ft", "deeper than", "shallower than", "taller than", "on gravel", "on
/// hard", "wood with stone", "weed edge", "opening", "point", "in ripples", "on a lane", "in spawning beds".
/// What is not understood is told, not guessed.
SpotFilter spot_filter_of(std::string_view words, UnitSystem units);

/// `depth_m`: of the bottom at the thing as it was read, where the chart knows none. `words`: the thing's own
/// (name, kind, note), in small letters.
bool meets(const SpotFilter &filter, const SpotThing &thing, const SpotFacts &facts,
           std::optional<double> depth_m, std::string_view words);

} // namespace heron
