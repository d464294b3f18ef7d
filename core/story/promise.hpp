// What a visit to a mark may be expected to bring in the conditions foretold: from its own visits and those
// to marks like it, with how little is known.
#pragma once

#include "story/record.hpp"

#include <map>
#include <string>
#include <vector>

namespace heron {

struct Promise {
    double share = 0;     ///< of visits with a bite, as expected
    ShareInterval within; ///< 90 in 100
    double visits = 0;    ///< that speak of it, weighed by how like they are
    bool own = false;     ///< it was visited itself
};

/// `of`: what is known of the mark and foretold of the day, by the factors of `visits_of` ("kind": "stump",
/// "wind": "light"). A visit to the mark itself counts whole, one to another mark by a third of what its
/// factors agree in, both in those conditions that were foretold. The share of the whole record counts as
/// three visits besides, so that little is promised by little. The interval is Wilson's of the weighed
/// counts.
Promise promise_of(const std::string &mark, const std::map<std::string, std::string> &of,
                   const std::vector<Visit> &visits);

} // namespace heron
