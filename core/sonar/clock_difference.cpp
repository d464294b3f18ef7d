#include "sonar/clock_difference.hpp"

#include <algorithm>
#include <vector>

namespace heron {
namespace {
constexpr std::size_t most_positions = 20, most_differences = 600, least_differences = 20;
constexpr double fastest_rate = 1000; // a recording may be played to us faster than it ran
} // namespace

void ClockDifference::position(UnixNs host, UnixNs own) {
    if (!positions_.empty() && own <= positions_.back().own)
        positions_.clear(); // the receiver began anew
    positions_.push_back({host, own});
    if (positions_.size() > most_positions)
        positions_.pop_front();
}

std::optional<UnixNs> ClockDifference::receiver_at(UnixNs host) const {
    if (positions_.size() < 5)
        return std::nullopt;
    const auto &a = positions_.front(), &b = positions_.back();
    if (seconds_between(b.host, host) > 3)
        return std::nullopt;
    const double rate = seconds_between(a.own, b.own) / std::max(1e-3, seconds_between(a.host, b.host));
    if (!(rate > 1 / fastest_rate && rate < fastest_rate))
        return std::nullopt; // the receiver's clock was set between
    return later(b.own, static_cast<UnixNs>(rate * static_cast<double>(ns_between(b.host, host))));
}

void ClockDifference::ping(UnixNs host, UnixNs own) {
    const auto receiver = receiver_at(host);
    if (!receiver)
        return;
    differences_.push_back(seconds_between(own, *receiver));
    if (differences_.size() > most_differences)
        differences_.pop_front();
}

std::optional<double> ClockDifference::seconds() const {
    if (differences_.size() < least_differences)
        return std::nullopt;
    std::vector<double> sorted(differences_.begin(), differences_.end());
    const auto middle = sorted.begin() + static_cast<std::ptrdiff_t>(sorted.size() / 2);
    std::nth_element(sorted.begin(), middle, sorted.end());
    return *middle;
}

} // namespace heron
