// What leaves for whom: marks with all taken out that a receiver may not see.
#pragma once

#include "marks/mark.hpp"

#include <optional>
#include <set>
#include <string>
#include <vector>

namespace heron {

struct PackSettings {
    Level receiver = Level::anyone;
    std::optional<double> coarsen_m; ///< the receiver learns a place only to within a circle of this radius
    std::set<Family> families;       ///< only these; empty: all
    std::set<Kind> kinds;            ///< only these; empty: all
    std::vector<std::string> tags;   ///< only marks that bear one of these; empty: all
    std::string lake;                ///< only of this water; empty: all
};

/// What a field stands for in a mark, taken over from one to another.
void copy_field(Field field, const Mark &from, Mark &to);
/// Who may see a field of this mark.
Level level_of(const Mark &mark, Field field);

/// A mark as the receiver may see it; nothing where he may not see it at all. Without a place nothing of it
/// goes to anyone but the guide.
std::optional<Mark> as_seen_by(const Mark &mark, Level receiver);

/// The place to within a circle: the middle of the square of a fixed grid that it lies in, whose corners lie
/// within `radius_m` of its middle. The same place always gives the same answer, and grids of smaller circles
/// lie within those of larger ones, so that nothing is won by asking often or by laying packs over each
/// other. What would tell more (the doubt, distances from the boat, the time of day, pictures, outlines)
/// goes. `radius_m`: 5 m to 50 km.
void coarsen(Mark &mark, double radius_m);
/// The circle that a wish comes to: the next smaller of 5 m · 2ⁿ.
double circle_of(double radius_m);

/// All that the receiver may see of these marks.
std::vector<Mark> packed(const std::vector<Mark> &marks, const PackSettings &settings);

/// What the receiver will see and what not, a sentence each.
std::vector<std::string> told_of_pack(const std::vector<Mark> &marks, const PackSettings &settings);

} // namespace heron
