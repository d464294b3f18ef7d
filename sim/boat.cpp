#include "sim/boat.hpp"

#include <algorithm>
#include <cmath>

namespace heron::sim {

Boat::Boat(const BoatPlan &plan, std::uint32_t seed) : plan_(plan), random_(seed) {
    state_.at = plan.route.front();
    const auto &to = plan.route[1];
    state_.heading_deg = wrap_360(std::atan2(to.x - state_.at.x, to.y - state_.at.y) * degrees_per_radian);
    state_.speed_m_s = plan.speed_m_s;
    gnss_ = {plan.gnss_wander_m * normal_(random_), plan.gnss_wander_m * normal_(random_)};
}

// One step of an Ornstein–Uhlenbeck process: a value that strays and is drawn back.
double Boat::wander(double value, double sd, double tau, double dt) {
    const double keep = std::exp(-dt / tau);
    return value * keep + sd * std::sqrt(1 - keep * keep) * normal_(random_);
}

bool Boat::hold(bool on) {
    if (on && !plan_.hold)
        return false;
    holding_ = on;
    arrived_ = false;
    return true;
}

void Boat::put_on_hold() {
    if (!hold(true))
        return;
    arrived_ = true;
    state_.at = plan_.hold->at;
    state_.heading_deg = wrap_360(plan_.hold->heading_deg);
    state_.speed_m_s = 0;
}

// On the anchor or the motor's hold: it swings and drifts about its spot, a length in half a minute.
void Boat::stray(double dt) {
    const auto &spot = *plan_.hold;
    const auto before = state_;
    drift_.x = wander(drift_.x, spot.drift_m, 25, dt);
    drift_.y = wander(drift_.y, spot.drift_m, 25, dt);
    swing_ = wander(swing_, spot.swing_deg, 14, dt);
    // The water smooths what wind and motor push at.
    const double ease = std::min(1.0, dt / 3);
    state_.at.x += (spot.at.x + drift_.x - state_.at.x) * ease;
    state_.at.y += (spot.at.y + drift_.y - state_.at.y) * ease;
    const double off = wrap_180(spot.heading_deg + swing_ - state_.heading_deg);
    state_.heading_deg = wrap_360(state_.heading_deg + std::clamp(off * ease, -14 * dt, 14 * dt));
    if (dt > 0) {
        state_.turn_deg_s = wrap_180(state_.heading_deg - before.heading_deg) / dt;
        state_.speed_m_s = std::hypot(state_.at.x - before.at.x, state_.at.y - before.at.y) / dt;
    }
}

// Waves, and what the instruments stray.
void Boat::jostle(double dt) {
    state_.roll_deg = wander(state_.roll_deg, 0.9, 0.9, dt);
    state_.pitch_deg = wander(state_.pitch_deg, 0.5, 1.2, dt);
    gnss_.x = wander(gnss_.x, plan_.gnss_wander_m, 90, dt);
    gnss_.y = wander(gnss_.y, plan_.gnss_wander_m, 90, dt);
    compass_ = wander(compass_, plan_.heading_noise_deg, 20, dt);
}

void Boat::advance(double dt) {
    seconds_ += dt;
    headings_.emplace_back(seconds_, state_.heading_deg);
    while (headings_.front().first < seconds_ - 5)
        headings_.pop_front();
    if (holding_ && arrived_) {
        stray(dt);
        jostle(dt);
        return;
    }
    auto to = plan_.route[next_];
    if (holding_) {
        to = plan_.hold->at;
        arrived_ = std::hypot(to.x - state_.at.x, to.y - state_.at.y) < 3;
    } else if (std::hypot(to.x - state_.at.x, to.y - state_.at.y) < 3) {
        next_ = (next_ + 1) % plan_.route.size();
        to = plan_.route[next_];
    }
    const double wanted = std::atan2(to.x - state_.at.x, to.y - state_.at.y) * degrees_per_radian;
    const double off = wrap_180(wanted - state_.heading_deg);
    helm_ = wander(helm_, 0.4, 4, dt);
    const double turn = std::clamp(0.5 * off, -14.0, 14.0) + helm_;
    state_.turn_deg_s += (turn - state_.turn_deg_s) * std::min(1.0, dt / 0.8);
    state_.heading_deg = wrap_360(state_.heading_deg + state_.turn_deg_s * dt);
    heave_speed_ = wander(heave_speed_, 0.06, 5, dt);
    state_.speed_m_s = std::max(0.0, plan_.speed_m_s + heave_speed_);
    jostle(dt);
    const double h = state_.heading_deg / degrees_per_radian;
    state_.at.x += state_.speed_m_s * dt * std::sin(h);
    state_.at.y += state_.speed_m_s * dt * std::cos(h);
}

Point Boat::antenna_told() {
    const auto lever =
        turned(plan_.installation.antenna, state_.heading_deg, state_.pitch_deg, state_.roll_deg);
    return {state_.at.x + lever.east_m + gnss_.x + plan_.gnss_noise_m * normal_(random_),
            state_.at.y + lever.north_m + gnss_.y + plan_.gnss_noise_m * normal_(random_)};
}

double Boat::heading_told_deg(double late_s) {
    auto heading = state_.heading_deg;
    if (late_s > 0)
        for (const auto &[at, was] : headings_)
            if (at <= seconds_ - late_s)
                heading = was;
    return wrap_360(heading + compass_ + 0.3 * normal_(random_));
}

} // namespace heron::sim
