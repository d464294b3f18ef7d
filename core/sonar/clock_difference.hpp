// How far the sounder's clock and the receiver's are apart.
#pragma once

#include "sonar/instant.hpp"

#include <deque>
#include <optional>

namespace heron {

/// Both streams arrive at one machine; carried to the same moment of that machine's clock, their own times
/// differ by what their clocks differ, give or take the way through the cables. The median of a minute is
/// told.
class ClockDifference {
  public:
    /// `host`: when it arrived, by a clock that nobody sets; `own`: the time that it bears.
    void ping(UnixNs host, UnixNs own);
    void position(UnixNs host, UnixNs own);
    /// Seconds to add to a ping's time to have the receiver's; nothing until both have spoken for a while.
    std::optional<double> seconds() const;
    void clear() { *this = ClockDifference(); }

  private:
    struct Pair {
        UnixNs host, own;
    };
    // The receiver's own time at a moment of the host, carried on at the rate of the last seconds.
    std::optional<UnixNs> receiver_at(UnixNs host) const;
    std::deque<Pair> positions_;
    std::deque<double> differences_;
};

} // namespace heron
