#include "around/rays.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr double widest_step_deg = 20; // a wider one is a jump, not a step

} // namespace

void Rays::place(const Scan &scan, PlacedRay &ray) {
    const auto fix = scan.nav.fix_at(ray.time);
    ray.on_ground = fix.has_value() && !scan.facts(ray.row).place_unknown;
    if (ray.on_ground) {
        const auto head = transducer_place(fix->pose, scan.installation);
        if (!plane_)
            plane_.emplace(head);
        ray.at = plane_->to_plane(head);
        ray.bearing_deg = wrap_360(fix->pose.heading_deg + ray.off_bow_deg);
    } else {
        ray.at = {};
        ray.bearing_deg = wrap_360(ray.off_bow_deg);
    }
    const auto &attitudes = scan.nav.attitudes();
    const auto &positions = scan.nav.positions();
    ray.settled = ray.row < scan.settled_until() &&
                  ((!attitudes.empty() && !positions.empty() &&
                    seconds_between(ray.time, attitudes.back().time) >= scan.nav.compass_late_s &&
                    positions.back().time >= ray.time) ||
                   seconds_between(ray.time, scan.newest().time) > NavTrack::longest_hold_s);
    const auto &bottom = scan.bottom(ray.row);
    ray.altitude_m = bottom.found ? bottom.altitude_m : 0;
}

// Which turn a ray belongs to: another begins after a whole turn, or where a sector turns back.
void Rays::count(PlacedRay &ray) {
    if (rays_.empty()) {
        sweep_began_ = ray.time;
        return;
    }
    const auto &before = rays_.back();
    ray.sweep = before.sweep;
    const double step = wrap_180(ray.off_bow_deg - before.off_bow_deg);
    still_ = std::fabs(step) < 0.01 ? still_ + 1 : 0;
    const auto next = [&] {
        ++ray.sweep;
        turn_s_ = seconds_between(sweep_began_, ray.time);
        sweep_began_ = ray.time;
    };
    if (step == 0 || std::fabs(step) > widest_step_deg)
        return;
    const bool back = turned_deg_ != 0 && (step > 0) != (turned_deg_ > 0);
    turned_deg_ = back ? step : turned_deg_ + step;
    if (back && std::fabs(step_deg_) > 0.01)
        next();
    else if (std::fabs(turned_deg_) >= 360) {
        turned_deg_ -= turned_deg_ > 0 ? 360 : -360;
        next();
    }
    step_deg_ = step;
    // Each stands for half of the way to its neighbours; of the one before it is known now.
    ray.half_deg = std::max(0.05, std::fabs(step) / 2);
    if (rays_.size() == 1)
        rays_.back().half_deg = ray.half_deg;
}

std::size_t Rays::follow(const Scan &scan, std::size_t end) {
    end = std::min(end, scan.end());
    if (end < next_row_) { // another scan, or a jump back
        *this = Rays();
        next_row_ = end > 400 ? end - 400 : scan.first();
    }
    next_row_ = std::max(next_row_, scan.first());
    auto changed = rays_.size();
    for (auto i = unsettled_; i < rays_.size(); ++i) {
        auto &ray = rays_[i];
        if (ray.settled || !scan.holds(ray.row))
            continue;
        const auto before = ray;
        place(scan, ray);
        if (std::fabs(wrap_180(ray.bearing_deg - before.bearing_deg)) > 0.05 ||
            std::fabs(ray.altitude_m - before.altitude_m) > 0.05 ||
            std::hypot(ray.at.east_m - before.at.east_m, ray.at.north_m - before.at.north_m) > 0.02)
            changed = std::min(changed, i);
    }
    for (; next_row_ < end; ++next_row_) {
        const auto &ping = scan.ping(next_row_);
        const auto *beam = ping.beam(Side::around);
        if (beam == nullptr || beam->code.empty())
            continue;
        PlacedRay ray;
        ray.row = next_row_;
        ray.time = scan.facts(next_row_).time;
        ray.off_bow_deg = wrap_180(beam->azimuth_deg);
        ray.half_deg = std::max(0.05, beam->width_along_deg / 2);
        ray.range_m = ping.slant_m(static_cast<double>(beam->code.size()));
        count(ray);
        place(scan, ray);
        // The boat swings meanwhile: what it opens between two rays is the newer one's.
        if (!rays_.empty() && rays_.back().on_ground == ray.on_ground) {
            const double apart = std::fabs(wrap_180(ray.bearing_deg - rays_.back().bearing_deg));
            if (apart < widest_step_deg)
                ray.half_deg = std::max(ray.half_deg, apart - rays_.back().half_deg);
        }
        rays_.push_back(ray);
    }
    std::size_t dropped = 0;
    while (rays_.size() > most_kept) {
        rays_.pop_front();
        ++dropped;
    }
    changed = changed > dropped ? changed - dropped : 0;
    unsettled_ = unsettled_ > dropped ? unsettled_ - dropped : 0;
    while (unsettled_ < rays_.size() && rays_[unsettled_].settled)
        ++unsettled_;
    return std::min(changed, rays_.size());
}

} // namespace heron
