#include "sonar/nav_track.hpp"

#include <algorithm>
#include <cmath>
#include <iterator>

namespace heron {
namespace {

template <class Sample>
bool earlier(const Sample &a, const Sample &b) {
    return a.time < b.time;
}

template <class Sample>
void insert_in_order(std::vector<Sample> &samples, const Sample &sample) {
    samples.insert(std::upper_bound(samples.begin(), samples.end(), sample, earlier<Sample>), sample);
}

// Many at once, in whatever order: sorted once, so that falling times cost no more than rising ones.
template <class Sample>
void merge_in_order(std::vector<Sample> &samples, const std::vector<Sample> &more) {
    const auto before = static_cast<std::ptrdiff_t>(samples.size());
    samples.insert(samples.end(), more.begin(), more.end());
    std::stable_sort(samples.begin() + before, samples.end(), earlier<Sample>);
    std::inplace_merge(samples.begin(), samples.begin() + before, samples.end(), earlier<Sample>);
}

// The samples on both sides of a time, and how far (0…1) it lies between them.
template <class Sample>
struct Between {
    const Sample *before;
    const Sample *after;
    double share;
};

template <class Sample>
std::optional<Between<Sample>> around(const std::vector<Sample> &samples, UnixNs time) {
    if (samples.empty())
        return std::nullopt;
    const auto after = std::lower_bound(samples.begin(), samples.end(), time,
                                        [](const Sample &s, UnixNs t) { return s.time < t; });
    if (after == samples.begin() || after == samples.end()) {
        const Sample &end = after == samples.end() ? samples.back() : samples.front();
        if (std::fabs(seconds_between(end.time, time)) > NavTrack::longest_hold_s)
            return std::nullopt;
        return Between<Sample>{&end, &end, 0};
    }
    if (after->time == time)
        return Between<Sample>{&*after, &*after, 0};
    const auto before = std::prev(after);
    const double gap = seconds_between(before->time, after->time);
    if (gap > NavTrack::longest_hold_s || after->broken_before)
        return std::nullopt;
    return Between<Sample>{&*before, &*after, seconds_between(before->time, time) / gap};
}

GeoPoint between(const GeoPoint &a, const GeoPoint &b, double share) {
    const double step = wrap_180(b.longitude_deg - a.longitude_deg);
    return {a.latitude_deg + share * (b.latitude_deg - a.latitude_deg),
            wrap_180(a.longitude_deg + share * step)};
}

} // namespace

void NavTrack::add(const PositionSample &sample) {
    insert_in_order(positions_, sample);
}
void NavTrack::add(const AttitudeSample &sample) {
    insert_in_order(attitudes_, sample);
}
void NavTrack::add(const DepthSample &sample) {
    insert_in_order(depths_, sample);
}
void NavTrack::add_speed(UnixNs time, double m_s) {
    insert_in_order(speeds_, SpeedSample{time, m_s});
}

void NavTrack::add(const NavSamples &more) {
    merge_in_order(positions_, more.positions);
    merge_in_order(attitudes_, more.attitudes);
    merge_in_order(depths_, more.depths);
    merge_in_order(speeds_, more.speeds);
}

std::optional<PositionSample> NavTrack::position_at(UnixNs time) const {
    const auto found = around(positions_, later(time, static_cast<UnixNs>(positions_late_s * 1e9)));
    if (!found)
        return std::nullopt;
    PositionSample p = *found->before;
    p.place = between(found->before->place, found->after->place, found->share);
    p.time = time;
    const double told = std::max(found->before->sd_m, found->after->sd_m);
    p.sd_m = told > 0 ? told : antenna_sd_m;
    return p;
}

std::optional<AttitudeSample> NavTrack::attitude_at(UnixNs time) const {
    const auto found = around(attitudes_, later(time, static_cast<UnixNs>(compass_late_s * 1e9)));
    if (!found)
        return std::nullopt;
    const auto &[a, b, share] = *found;
    AttitudeSample s;
    s.time = time;
    s.heading_deg = wrap_360(a->heading_deg + share * wrap_180(b->heading_deg - a->heading_deg));
    s.pitch_deg = a->pitch_deg + share * (b->pitch_deg - a->pitch_deg);
    s.roll_deg = a->roll_deg + share * (b->roll_deg - a->roll_deg);
    return s;
}

std::optional<NavTrack::Course> NavTrack::course_at(UnixNs time) const {
    // Where the track ends (the newest ping of a live one) the three seconds before it serve.
    UnixNs middle = time;
    constexpr UnixNs reach = 3 * ns_per_s / 2;
    if (positions_.size() < 3)
        return std::nullopt;
    const auto earliest = later(positions_.front().time, reach);
    middle = std::clamp(middle, earliest, std::max(earliest, later(positions_.back().time, -reach)));
    if (std::fabs(seconds_between(middle, time)) > 3.5)
        return std::nullopt;
    const auto from = later(middle, -reach), to = later(middle, reach);
    const auto a = position_at(from), m = position_at(middle), b = position_at(to);
    if (!a || !m || !b)
        return std::nullopt;
    const auto whole = leg_between(a->place, b->place);
    const double speed = whole.distance_m / seconds_between(from, to);
    if (speed < 0.5)
        return std::nullopt;
    const auto first = leg_between(a->place, m->place), second = leg_between(m->place, b->place);
    if (std::fabs(wrap_180(second.bearing_deg - first.bearing_deg)) > 10)
        return std::nullopt;
    return Course{whole.bearing_deg, speed};
}

std::optional<double> NavTrack::speed_at(UnixNs time) const {
    const auto near = std::lower_bound(speeds_.begin(), speeds_.end(), time,
                                       [](const SpeedSample &s, UnixNs t) { return s.time < t; });
    const SpeedSample *best = near == speeds_.end() ? nullptr : &*near;
    if (near != speeds_.begin()) {
        const auto &before = *std::prev(near);
        if (best == nullptr || ns_between(before.time, time) < ns_between(time, best->time))
            best = &before;
    }
    if (best != nullptr && std::fabs(seconds_between(best->time, time)) <= longest_hold_s)
        return best->m_s;
    if (const auto p = position_at(time); p && p->speed_m_s >= 0)
        return p->speed_m_s;
    if (const auto c = course_at(time))
        return c->speed_m_s;
    return std::nullopt;
}

std::optional<NavFix> NavTrack::fix_at(UnixNs time) const {
    const auto p = position_at(time);
    if (!p)
        return std::nullopt;
    NavFix fix;
    fix.pose.antenna = p->place;
    fix.pose.position_sd_m = p->sd_m;
    fix.pose.speed_m_s = speed_at(time).value_or(1);
    if (const auto a = attitude_at(time)) {
        fix.pose.heading_deg = a->heading_deg;
        fix.pose.heading_sd_deg = compass_sd_deg;
        fix.pose.pitch_deg = a->pitch_deg;
        fix.pose.roll_deg = a->roll_deg;
        return fix;
    }
    if (!attitudes_.empty() && !course_serves_where_compass_fails)
        return std::nullopt;
    const auto course = course_at(time);
    if (!course)
        return std::nullopt;
    fix.heading_source = HeadingSource::course_over_ground;
    fix.pose.heading_deg = course->bearing_deg;
    fix.pose.heading_sd_deg = std::atan2(0.3, course->speed_m_s) * degrees_per_radian;
    return fix;
}

std::optional<DepthSample> NavTrack::depth_at(UnixNs time) const {
    const DepthSample *best = nullptr;
    const auto near = std::lower_bound(depths_.begin(), depths_.end(), time,
                                       [](const DepthSample &s, UnixNs t) { return s.time < t; });
    if (near != depths_.end())
        best = &*near;
    if (near != depths_.begin() &&
        (best == nullptr || ns_between(std::prev(near)->time, time) < ns_between(time, best->time)))
        best = &*std::prev(near);
    if (best == nullptr || std::fabs(seconds_between(best->time, time)) > 3)
        return std::nullopt;
    return *best;
}

std::optional<DepthSample> NavTrack::steady_depth_at(UnixNs time) const {
    const auto nearest = depth_at(time);
    if (!nearest)
        return std::nullopt;
    constexpr double share = 0.25;
    constexpr UnixNs reach = 4 * ns_per_s, hung_after = 30 * ns_per_s;
    const double depth = nearest->below_transducer_m;
    const auto own = std::lower_bound(depths_.begin(), depths_.end(), *nearest, earlier<DepthSample>);
    std::size_t near = 0, agree = 0;
    const auto count = [&](const DepthSample &d) {
        ++near;
        agree += std::fabs(d.below_transducer_m - depth) <= share * depth;
    };
    for (auto d = own; d != depths_.begin() && ns_between(std::prev(d)->time, nearest->time) <= reach;)
        count(*--d);
    for (auto d = own; d != depths_.end() && ns_between(nearest->time, d->time) <= reach; ++d)
        count(*d);
    if (2 * agree < near)
        return std::nullopt;
    // A level bottom hardly reads alike to the bit for half a minute, unless the boat holds still over it.
    constexpr std::ptrdiff_t most_looked_at = 1000;
    constexpr double holds_within_m = 8;
    auto first = own, last = own;
    while (first != depths_.begin() && std::prev(first)->below_transducer_m == depth &&
           own - first < most_looked_at)
        --first;
    while (last != depths_.end() && last->below_transducer_m == depth && last - own < most_looked_at)
        ++last;
    if (first == last || ns_between(first->time, std::prev(last)->time) <= hung_after)
        return nearest;
    const auto from = position_at(first->time), to = position_at(std::prev(last)->time);
    if (from && to && leg_between(from->place, to->place).distance_m < holds_within_m)
        return nearest;
    return std::nullopt;
}

} // namespace heron
