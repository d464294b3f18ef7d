// Work whose end is not taken for granted, in a child of its own.
#pragma once

#include "recording/apart.hpp"

#include <functional>

namespace heron::test {

/// How it ended; in less than so many seconds, and half a gigabyte more than there is.
inline Apart::End done_apart(const std::function<void()> &work, double limit_s) {
    auto child = Apart::start([&](std::span<const std::uint8_t>) {
        work();
        return Apart::Bytes{};
    });
    return child ? child->ask({}, limit_s, 0).end : Apart::End::broke;
}

} // namespace heron::test
