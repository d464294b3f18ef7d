// The middle of some figures.
#pragma once

#include <algorithm>
#include <cstddef>
#include <limits>
#include <vector>

namespace heron {

/// The upper of both middles where their number is even; `of_nothing` of none. Their order changes.
template <class T>
T median_in_place(std::vector<T> &values, T of_nothing = std::numeric_limits<T>::quiet_NaN()) {
    if (values.empty())
        return of_nothing;
    const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}
template <class T>
T median(std::vector<T> values, T of_nothing = std::numeric_limits<T>::quiet_NaN()) {
    return median_in_place(values, of_nothing);
}

} // namespace heron
