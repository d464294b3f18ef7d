// All that stands out in a swath, by value: for loops over it.
#pragma once

#include "reading/behind.hpp"

#include <vector>

namespace heron::test {

inline std::vector<Echo> everything_in(const Swath &s) {
    return find_all(s).echoes;
}

} // namespace heron::test
