#include "sonar/stream_clock.hpp"

#include <cmath>

namespace heron {
namespace {
constexpr double a_step_s = 0.5, worth_it_s = 0.4;
}

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
    if (const auto d = difference_.seconds(); d && std::fabs(*d - shift_s_) > worth_it_s)
        shift_s_ = std::fabs(*d) > worth_it_s ? *d : 0;
    stamp.time = later(stamp.time, static_cast<UnixNs>(shift_s_ * 1e9));
    return stamp;
}

void StreamClock::restart() {
    base_.reset();
    told_step_s_ = 0;
}

} // namespace heron
