#include "refuse.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace heron::cli {

int refuse(const Fault &fault) {
    auto line = fault.line();
    std::replace(line.begin(), line.end(), '\n', ' ');
    fmt::print(stderr, "heron: {}\n", line);
    return 2;
}

} // namespace heron::cli
