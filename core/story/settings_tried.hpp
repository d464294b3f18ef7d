// With which settings things were read that later proved to be so.
#pragma once

#include "marks/mark.hpp"
#include "story/statistics.hpp"
#include "units/units.hpp"

#include <string>
#include <vector>

namespace heron {

/// Marks that were first seen on one water, in one band of depth, with one range and frequency, and what a
/// second look or the guide's own knowledge made of them.
struct SettingsTried {
    std::string water;  ///< empty: not told
    std::string depth;  ///< a band of it in the units asked for: "10 to 20 ft"; empty: not told
    double range_m = 0; ///< to each side, as it was set
    double frequency_hz = 0;
    std::size_t looked = 0; ///< marks of which more is known than the first look
    std::size_t borne_out = 0;
    ShareInterval share;  ///< 90 in 100
    bool too_few = false; ///< under five: nothing is said
};

/// A mark counts where somebody found out what it is (borne out when that is of the family it was marked as),
/// else where it was looked at again ten minutes later or more (borne out when the last such look is of the
/// family of the first). Marks that were seen without a sonar count nowhere. Those with most looks first.
std::vector<SettingsTried> settings_tried(const std::vector<Mark> &marks, UnitSystem units);

} // namespace heron
