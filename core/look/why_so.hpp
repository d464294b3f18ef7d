// Why a thing looks as it does: what grazing angle, slope, distance, speed and turn did to its picture.
#pragma once

#include "reading/contact.hpp"
#include "tuning/gear.hpp"

#include <string>
#include <vector>

namespace heron {

/// What a slope across the track changes against a level bottom of the same depth at the thing.
struct SlopeEffect {
    double shadow_ratio = 1; ///< length over ground of the shadow, over that on the level
    double brighter_db = 0;  ///< of the bottom around it, by Lambert's law
};
/// `ground_m` and `height_m` of the thing, `bottom` with its slope. A shadow that never ends has ratio
/// infinity.
SlopeEffect slope_effect(const BottomPlane &bottom, double ground_m, double height_m);

/// Lines for the guide, the most telling first.
std::vector<std::string> why_so(const Scan &scan, const Contact &contact, const Gear &gear, UnitSystem units);

} // namespace heron
