#include "sonar/nav_guard.hpp"

#include "sonar/boat_limits.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr double slack_m = 4, slack_deg = 25;
constexpr double believed_after_s = 3;

bool reachable(const PositionSample &a, const PositionSample &b) {
    return leg_between(a.place, b.place).distance_m <=
           fastest_boat_m_s * std::fabs(seconds_between(a.time, b.time)) + slack_m;
}
bool reachable(const AttitudeSample &a, const AttitudeSample &b) {
    return std::fabs(wrap_180(b.heading_deg - a.heading_deg)) <=
           fastest_turn_deg_s * std::fabs(seconds_between(a.time, b.time)) + slack_deg;
}

// Takes a sample that may have leapt: what is true goes on, what may not be is held until time has told.
template <class Sample>
NavGuard::State admit(const Sample &sample, std::optional<Sample> &last, std::deque<Sample> &held,
                      NavTrack &into) {
    if (!last || reachable(*last, sample)) {
        held.clear();
        into.add(sample);
        last = sample;
        return NavGuard::State::fine;
    }
    if (!held.empty() && !reachable(held.back(), sample))
        held.clear();
    held.push_back(sample);
    if (seconds_between(held.front().time, sample.time) < believed_after_s)
        return NavGuard::State::leaping;
    held.front().broken_before = true;
    for (const auto &h : held)
        into.add(h);
    last = held.back();
    held.clear();
    return NavGuard::State::fine;
}

} // namespace

void NavGuard::take(const PositionSample &sample, NavTrack &into) {
    const bool same = still_ && still_->place.latitude_deg == sample.place.latitude_deg &&
                      still_->place.longitude_deg == sample.place.longitude_deg;
    if (!same) {
        still_ = sample;
        same_since_ = sample.time;
    }
    if (same && sample.speed_m_s > 0.5 && seconds_between(same_since_, sample.time) > frozen_after_s) {
        positions_ = State::frozen;
        return;
    }
    auto s = sample;
    s.broken_before = s.broken_before || positions_ == State::frozen;
    positions_ = admit(s, last_position_, held_, into);
}

void NavGuard::take(const AttitudeSample &sample, NavTrack &into) {
    if (last_heading_) {
        const bool differs = sample.heading_deg != last_heading_->heading_deg;
        if (differs)
            heading_same_since_ = sample.time;
        else if (heading_same_since_ == 0)
            heading_same_since_ = last_heading_->time;
        const auto jittered = std::count(jitter_.begin(), jitter_.end(), true);
        if (!differs && jitter_.size() >= 20 && jittered * 2 > std::ssize(jitter_) &&
            seconds_between(heading_same_since_, sample.time) > frozen_after_s) {
            headings_ = State::frozen;
            return; // the jitter of before stays the measure
        }
        if (differs || headings_ == State::fine) {
            jitter_.push_back(differs);
            if (jitter_.size() > 100)
                jitter_.pop_front();
        }
    }
    auto s = sample;
    s.broken_before = s.broken_before || headings_ == State::frozen;
    headings_ = admit(s, last_heading_, held_headings_, into);
}

} // namespace heron
