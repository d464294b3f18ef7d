// What the record of visits supports: shares with their intervals, differences with their chance, never a
// bare verdict.
#pragma once

#include "marks/mark.hpp"
#include "story/day_conditions.hpp"
#include "story/statistics.hpp"
#include "story/sun.hpp"
#include "units/units.hpp"

#include <map>
#include <string>
#include <vector>

namespace heron {

/// One visit to a mark on which something could have bitten, with all that may matter.
struct Visit {
    std::string mark;
    UnixNs time = 0;
    bool bitten = false;                   ///< a bite or a fish
    std::map<std::string, std::string> of; ///< factor and its value: "kind": "stump", "light": "low sun", …
};

/// The band of depth that a depth lies in: "10 to 15 ft", "4 to 6 m".
std::string depth_band(double m, UnitSystem units);
/// And of the water's temperature and the lake's level: "12 to 14 °C", "-1 to -0.5 m".
std::string temperature_band(double celsius, UnitSystem units);
std::string level_band(double m, UnitSystem units);

/// Visits at which somebody fished (looks alone say nothing). Several outcomes of one mark within two hours
/// are one visit. Factors: kind, depth band, bottom, light, hour by the sun (of the day at the place, not the
/// clock's), month, and those conditions of the day that are known (by date, "2026-05-14"), figures in bands.
/// `extra`: further factors by mark, such as how near a transition is.
std::vector<Visit> visits_of(const std::vector<Mark> &marks,
                             const std::map<std::string, DayConditions> &days = {},
                             const std::map<std::string, std::map<std::string, std::string>> &extra = {},
                             UnitSystem units = UnitSystem::metres);

/// All visits and what is known of them as a table (RFC 4180): mark, time, bitten, then a column a factor.
std::string table_of(const std::vector<Visit> &visits);

struct Finding {
    std::string factor, value;
    std::size_t k = 0, n = 0, rest_k = 0, rest_n = 0;
    ShareInterval share, rest; ///< 90 in 100
    bool too_few = false;      ///< under five visits: nothing is said
    double chance = 1;         ///< Fisher's: of such a difference by chance alone
    double false_rate = 1;     ///< Benjamini and Hochberg's, over all comparisons of this record
    std::string rival; ///< another factor that goes along with this one in the same visits; empty: none seen
};
struct Record {
    std::size_t visits = 0, bitten = 0, comparisons = 0;
    std::vector<Finding> findings; ///< the least likely by chance first; those with too few visits last
};
Record record_of(const std::vector<Visit> &visits);

} // namespace heron
