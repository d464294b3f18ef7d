// Local rules as the guide enters them: closed seasons, protected places, what a licence asks. Reminders, no
// more: the authority's own word holds.
#pragma once

#include "fault/fault.hpp"

#include <string>
#include <string_view>
#include <vector>

namespace heron {

struct LocalRule {
    std::string text;
    std::string water;                                          ///< on this water only; empty: on any
    int from_month = 0, from_day = 0, to_month = 0, to_day = 0; ///< both ends within; 0: the whole year
    bool whole_year() const { return from_month == 0; }
    bool operator==(const LocalRule &) const = default;
};

/// "03-15" as a month and its day; nothing for what is no day of a year.
bool day_of_year(std::string_view text, int &month, int &day);
/// Whether it holds on a day ("2026-05-14") on a water; a season may run over the new year.
bool holds(const LocalRule &rule, std::string_view date, std::string_view water);
std::vector<LocalRule> rules_on(const std::vector<LocalRule> &rules, std::string_view date,
                                std::string_view water);

std::string rules_to_json(const std::vector<LocalRule> &rules);
/// Refuses text that is no such list, naming the entry; 200 rules of 400 bytes at most.
Result<std::vector<LocalRule>> rules_from_json(std::string_view text);

} // namespace heron
