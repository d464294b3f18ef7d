#include "story/promise.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr double whole_record_visits = 3, others_weight = 1.0 / 3,
                 confidence_z = 1.6448536269514722; // 90 in 100, two-sided
// Of a mark itself; all else a visit knows is of the day.
constexpr const char *of_the_mark[] = {"kind", "depth", "bottom", "transition", "drop", "company", "water"};

// In how much both agree, of what both know; 1 where they share no word of it.
double alike(const std::map<std::string, std::string> &a, const std::map<std::string, std::string> &b,
             bool of_mark) {
    double same = 0, known = 0;
    for (const auto &[factor, value] : a) {
        const bool marks =
            std::find(std::begin(of_the_mark), std::end(of_the_mark), factor) != std::end(of_the_mark);
        const auto other = b.find(factor);
        if (marks != of_mark || other == b.end())
            continue;
        known += 1;
        same += other->second == value;
    }
    return known > 0 ? same / known : 1;
}

// Wilson's interval, of counts that need not be whole.
ShareInterval wilson_of(double k, double n) {
    if (!(n > 0))
        return {};
    const double z2 = confidence_z * confidence_z, p = k / n, middle = (p + z2 / (2 * n)) / (1 + z2 / n),
                 half = confidence_z / (1 + z2 / n) * std::sqrt(p * (1 - p) / n + z2 / (4 * n * n));
    return {std::max(0.0, middle - half), std::min(1.0, middle + half)};
}

} // namespace

Promise promise_of(const std::string &mark, const std::map<std::string, std::string> &of,
                   const std::vector<Visit> &visits) {
    Promise p;
    double bitten = 0, all_bitten = 0;
    for (const auto &v : visits) {
        all_bitten += v.bitten;
        const bool own = v.mark == mark;
        const double weight = alike(of, v.of, false) * (own ? 1 : others_weight * alike(of, v.of, true));
        p.visits += weight;
        bitten += weight * v.bitten;
        p.own = p.own || own;
    }
    const double base = visits.empty() ? 0.5 : all_bitten / static_cast<double>(visits.size());
    p.share = (bitten + base * whole_record_visits) / (p.visits + whole_record_visits);
    p.within = wilson_of(bitten, p.visits);
    return p;
}

} // namespace heron
