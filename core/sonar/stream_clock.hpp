// The one time of a ping: stamped where it comes in, before anything keeps or shows it.
#pragma once

#include "sonar/clock_difference.hpp"

#include <optional>

namespace heron {

/// The clock of one stream. A sounder's time of day may be set while it runs; its own counter never is, so
/// times follow the counter from the first time told. What is left between it and the positions' clock is
/// added once it has proved to be more than the cables' delay (0.4 s), so that pings, positions and marks
/// share one clock: at once where it is more than a second, else by a twentieth of a second a second. From
/// then on a clock that drifts is followed.
class StreamClock {
  public:
    struct Stamp {
        UnixNs time = 0;
        bool was_set = false; ///< the sounder's time of day was set just before this ping; said once a step
    };
    /// `own`: the sounder's time of day; `monotonic_ns`: its clock that is never set, 0 where it has none;
    /// `host`: when it arrived, by a clock of this machine that nobody sets.
    Stamp stamp(UnixNs own, std::int64_t monotonic_ns, UnixNs host);
    /// A position arrived at `host` that bears the time `receiver`.
    void position(UnixNs host, UnixNs receiver) { difference_.position(host, receiver); }
    /// The sounder was connected anew: its counter may begin anew.
    void restart();
    /// Seconds to add to the sounder's clock to have the receiver's; nothing until both have spoken for a
    /// while.
    std::optional<double> difference_s() const { return difference_.seconds(); }

  private:
    ClockDifference difference_;
    std::optional<UnixNs> base_; // its time of day less its own counter, as first told
    double told_step_s_ = 0;     // how far the time of day has moved against the counter, as last said
    bool proved_ = false;        // that there is a difference worth adding
    double shift_s_ = 0;
    UnixNs last_ = 0; // by the counter
};

} // namespace heron
