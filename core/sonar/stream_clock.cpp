#include "sonar/stream_clock.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {
constexpr double a_step_s = 0.5, worth_it_s = 0.4, off_by_a_lot_s = 1;
constexpr double follows_s_per_s = 0.05; // slowly enough that times never run back
} // namespace

StreamClock::Stamp StreamClock::stamp(UnixNs own, std::int64_t monotonic_ns, UnixNs host) {
    Stamp stamp{own, false};
    if (monotonic_ns != 0) {
        if (!base_)
            base_ = later(own, -monotonic_ns);
        if (!plausible_time(later(*base_, monotonic_ns)))
            base_ = later(own, -monotonic_ns); // no counter does that: it began anew
        const auto by_counter = later(*base_, monotonic_ns);
        const double step = seconds_between(by_counter, own);
        if (std::fabs(step - told_step_s_) > a_step_s) {
            stamp.was_set = true;
            told_step_s_ = step;
        }
        stamp.time = by_counter;
    }
    difference_.ping(host, stamp.time);
    if (const auto d = difference_.seconds()) {
        proved_ = proved_ || std::fabs(*d) > worth_it_s;
        const double off = *d - shift_s_,
                     most = follows_s_per_s * std::clamp(seconds_between(last_, stamp.time), 0.0, 1.0);
        if (proved_)
            shift_s_ += std::fabs(off) > off_by_a_lot_s ? off : std::clamp(off, -most, most);
    }
    last_ = stamp.time;
    stamp.time = later(stamp.time, static_cast<UnixNs>(shift_s_ * 1e9));
    return stamp;
}

void StreamClock::restart() {
    base_.reset();
    told_step_s_ = 0;
}

} // namespace heron
