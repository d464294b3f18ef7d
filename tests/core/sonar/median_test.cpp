#include "sonar/median.hpp"

#include <cmath>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using heron::median;

RC_GTEST_PROP(Median, HalfLieToEitherSide, (const std::vector<int> &some)) {
    const std::vector<double> values(some.begin(), some.end());
    if (values.empty()) {
        RC_ASSERT(std::isnan(median(values)));
        RC_ASSERT(median(values, 3.0) == 3);
        return;
    }
    const double m = median(values);
    const auto under = std::count_if(values.begin(), values.end(), [m](double v) { return v < m; }),
               over = std::count_if(values.begin(), values.end(), [m](double v) { return v > m; });
    RC_ASSERT(2 * under <= std::ssize(values));
    RC_ASSERT(2 * over < std::ssize(values));
}
