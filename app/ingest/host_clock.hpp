// This machine's time of day at the start, carried on by a clock that nobody sets: a step of the system's
// clock is no step here.
#pragma once

#include "sonar/instant.hpp"

#include <chrono>

namespace heron::app {

inline UnixNs host_now() {
    using namespace std::chrono;
    static const auto steady = steady_clock::now();
    static const UnixNs wall = duration_cast<nanoseconds>(system_clock::now().time_since_epoch()).count();
    return wall + duration_cast<nanoseconds>(steady_clock::now() - steady).count();
}

} // namespace heron::app
