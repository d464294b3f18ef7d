// Work on a file that may be damaged, tried in a child process first: where the library that reads it breaks
// down, the child goes and the program stays.
#pragma once

#include <atomic>
#include <cstddef>
#include <functional>

namespace heron {

struct Trial {
    enum class End { done, broke, stuck };
    End end = End::done;
    std::size_t reached = 0; ///< the last value that the work gave to its progress
};

/// Runs `work` in a forked child, and says how it ended. The work may read files and must touch nothing else;
/// `limit_s` (whole seconds, > 0) is the longest that it may take. Where no child can be had the work counts
/// as done.
Trial try_apart(const std::function<void(std::atomic<std::size_t> &progress)> &work, unsigned limit_s);

} // namespace heron
