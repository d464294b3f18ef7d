// Work over lakes, some at once.
#pragma once

#include <cstddef>
#include <functional>

namespace heron::study {

/// Calls `work` for 0…n − 1, on so many threads; each number once, in no order.
void in_parallel(std::size_t n, unsigned threads, const std::function<void(std::size_t)> &work);

} // namespace heron::study
