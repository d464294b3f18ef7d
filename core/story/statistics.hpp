// What few counts support, and no more.
#pragma once

#include <cstddef>
#include <optional>
#include <vector>

namespace heron {

/// Where a share lies of which k of n were seen: E. B. Wilson (1927), "Probable inference, the law of
/// succession, and statistical inference", J. Am. Stat. Assoc. 22, 209–212; without correction for
/// continuity.
struct ShareInterval {
    double low = 0, high = 1;
};
/// `confidence` 0 … 1; of no tries at all everything is possible.
ShareInterval wilson(std::size_t k, std::size_t n, double confidence = 0.90);

/// The chance that two shares as far apart as a of a+b and c of c+d, or farther, come of one and the same:
/// Fisher's exact test, two-sided (the sum of all tables no likelier than the one seen).
double fisher_exact(std::size_t a, std::size_t b, std::size_t c, std::size_t d);

/// Of many comparisons the rate of false ones among those taken: Y. Benjamini, Y. Hochberg (1995), J. R.
/// Stat. Soc. B 57, 289–300. As long as the input, in its order.
std::vector<double> benjamini_hochberg(const std::vector<double> &p);

} // namespace heron
