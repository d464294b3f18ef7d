// Sightings of one thing: which marks are likely one, why, and what becomes of them when they are joined.
#pragma once

#include "marks/mark.hpp"
#include "units/units.hpp"

#include <string>
#include <vector>

namespace heron {

/// Two marks that are likely one thing, and the evidence side by side.
struct JoinProposal {
    std::string a, b;  ///< ids
    double chance = 0; ///< that they are one
    double apart_m = 0;
    double apart_sigmas = 0; ///< in units of what both places are in doubt by
    std::vector<std::string> speaks_for, speaks_against;
};

/// Of the places of two marks, of their kinds, heights and lengths. Two things of a lake lie anywhere; one
/// thing seen twice lies within what both places are in doubt by, and half a metre of what a receiver wanders
/// between two passes besides. `density_m2`: how many things there are a square metre of the ground about. 0
/// … 1.
double chance_of_one(const Mark &a, const Mark &b, double density_m2 = 0.004);

/// Pairs with a chance of at least one half, the likeliest first; each mark stands in one pair at most, and
/// two looks of one pass (the same source within ninety seconds) are never one. Hazards join hazards only.
std::vector<JoinProposal> propose_joins(const std::vector<Mark> &marks, double least_chance = 0.5,
                                        UnitSystem units = UnitSystem::metres);

/// One mark of two: the first keeps its id, name and note (the other's are added where they say more); the
/// place is the mean of all sightings weighed by their doubt, never surer than half a metre; height likewise;
/// the better picture stays. All sightings, outcomes and tags of both are kept, so that it can be split
/// again. The closer of the two levels holds.
Mark joined(const Mark &a, const Mark &b);

/// Takes one sighting out into a mark of its own (a new id); what is left is placed anew. Nothing where the
/// mark has fewer than two.
struct SplitMarks {
    Mark rest, taken;
};
std::optional<SplitMarks> split(const Mark &mark, std::size_t sighting);

} // namespace heron
