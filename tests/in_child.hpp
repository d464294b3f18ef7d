// Work whose end is not taken for granted, in a child of its own.
#pragma once

#include "recording/answering_child.hpp"

#include <functional>

namespace heron::test {

/// How it ended; in less than so many seconds, and half a gigabyte more than there is.
inline AnsweringChild::End done_in_child(const std::function<void()> &work, double limit_s) {
    auto child = AnsweringChild::start([&](std::span<const std::uint8_t>) {
        work();
        return AnsweringChild::Bytes{};
    });
    return child ? child->ask({}, limit_s, 0).end : AnsweringChild::End::broke;
}

} // namespace heron::test
