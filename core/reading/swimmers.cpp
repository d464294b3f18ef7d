#include "reading/swimmers.hpp"

#include "reading/assign.hpp"

#include <algorithm>
#include <cmath>
#include <set>

namespace heron {
namespace {

constexpr double acceleration_noise = 0.002; // a fish at its own pace: 0.2 m/s of change in ten seconds
constexpr double look_sd_m = 0.35, start_speed_sd_m_s = 0.4;
constexpr int most_missed = 2;
constexpr double least_real = 0.12, near_standing_m = 0.7;

} // namespace

void AxisFilter::predict(double t, double q) {
    auto &[pp, ps, ss] = covariance;
    place += t * speed;
    pp += 2 * t * ps + t * t * ss + q * t * t * t / 3;
    ps += t * ss + q * t * t / 2;
    ss += q * t;
}

void AxisFilter::correct(double measured, double sd) {
    auto &[pp, ps, ss] = covariance;
    const double s = pp + sd * sd, kp = pp / s, ks = ps / s, off = measured - place;
    place += kp * off;
    speed += ks * off;
    ss -= ks * ps;
    ps *= 1 - kp;
    pp *= 1 - kp;
}

EastNorth Swimmer::at(double seconds) const {
    return {east.place + seconds * east.speed, north.place + seconds * north.speed};
}

double Swimmer::speed_m_s() const {
    return std::hypot(east.speed, north.speed);
}

double Swimmer::course_deg() const {
    return wrap_360(std::atan2(east.speed, north.speed) * degrees_per_radian);
}

double Swimmer::place_sd_m(double seconds) const {
    auto e = east, n = north;
    e.predict(seconds, acceleration_noise);
    n.predict(seconds, acceleration_noise);
    return std::sqrt(e.covariance[0] + n.covariance[0]);
}

void SwimmerTracker::take(const std::vector<Contact> &looks, const std::vector<GeoPoint> &standing) {
    std::vector<const Contact *> some;
    UnixNs newest = 0;
    for (const auto &c : looks) {
        newest = std::max(newest, c.time);
        double fish = 0;
        for (std::size_t k = 1; k < kind_count; ++k)
            if (family_of(static_cast<Kind>(k)) == Family::fish)
                fish += c.chances[k];
        if (!c.place || c.real() < least_real || fish < 0.3 * c.real() || c.length_m.value_or(0) > 5)
            continue;
        if (std::any_of(standing.begin(), standing.end(), [&](const GeoPoint &p) {
                return leg_between(p, c.place->place).distance_m < near_standing_m;
            }))
            continue;
        some.push_back(&c);
    }
    if (!plane_ && !some.empty())
        plane_.emplace(some.front()->place->place);
    // The cost of giving look l to track t: how unlikely it is where the track should be.
    constexpr double gate = 9.2; // 99 in 100 of a plane's two (chi-square)
    constexpr double never = 1e9;
    std::vector<double> cost(tracks_.size() * some.size(), never);
    for (std::size_t t = 0; t < tracks_.size(); ++t)
        for (std::size_t l = 0; l < some.size(); ++l) {
            const auto at = plane_->to_plane(some[l]->place->place);
            const double s = seconds_between(tracks_[t].time, some[l]->time);
            if (s <= 0)
                continue;
            auto e = tracks_[t].east, n = tracks_[t].north;
            e.predict(s, acceleration_noise);
            n.predict(s, acceleration_noise);
            const double far =
                std::hypot(at.east_m - tracks_[t].east.place, at.north_m - tracks_[t].north.place);
            const double off = std::pow(at.east_m - e.place, 2) / (e.covariance[0] + look_sd_m * look_sd_m) +
                               std::pow(at.north_m - n.place, 2) / (n.covariance[0] + look_sd_m * look_sd_m);
            if (off < gate && far < fastest_m_s * s + 1)
                cost[t * some.size() + l] = off;
        }
    const auto given = assign(cost, tracks_.size(), some.size(), gate);
    std::vector<bool> taken(some.size(), false);
    for (std::size_t t = 0; t < tracks_.size(); ++t) {
        auto &track = tracks_[t];
        if (given[t] < 0) {
            ++track.missed;
            continue;
        }
        const auto l = static_cast<std::size_t>(given[t]);
        taken[l] = true;
        const auto &c = *some[l];
        const auto at = plane_->to_plane(c.place->place);
        const double s = seconds_between(track.time, c.time);
        track.east.predict(s, acceleration_noise);
        track.north.predict(s, acceleration_noise);
        track.east.correct(at.east_m, look_sd_m);
        track.north.correct(at.north_m, look_sd_m);
        track.time = c.time;
        track.missed = 0;
        ++track.looks;
        track.real += (c.real() - track.real) / track.looks;
        track.length_m = c.length_m.value_or(1);
        track.height_m = c.height_m;
    }
    std::erase_if(tracks_, [](const Swimmer &t) { return t.missed > most_missed; });
    for (std::size_t l = 0; l < some.size(); ++l) {
        if (taken[l])
            continue;
        Swimmer fresh;
        fresh.id = next_id_++;
        const auto at = plane_->to_plane(some[l]->place->place);
        const std::array<double, 3> doubt{look_sd_m * look_sd_m, 0, start_speed_sd_m_s * start_speed_sd_m_s};
        fresh.east = {at.east_m, 0, doubt};
        fresh.north = {at.north_m, 0, doubt};
        fresh.time = some[l]->time;
        fresh.looks = 1;
        fresh.real = some[l]->real();
        fresh.length_m = some[l]->length_m.value_or(1);
        fresh.height_m = some[l]->height_m;
        fresh.first = some[l]->place->place;
        tracks_.push_back(fresh);
    }
}

std::vector<Swimmer> SwimmerTracker::swimmers() const {
    constexpr int least_looks = 3;
    constexpr double least_way_m = 1.2, least_speed_m_s = 0.06;
    std::vector<Swimmer> all;
    for (const auto &t : tracks_) {
        if (t.looks < least_looks || t.missed > 1)
            continue;
        const auto from = plane_->to_plane(t.first);
        const double way = std::hypot(t.east.place - from.east_m, t.north.place - from.north_m),
                     sd = std::sqrt(std::max(t.east.covariance[2], t.north.covariance[2]));
        // It went somewhere, and faster than its speed is in doubt.
        if (way > least_way_m && t.speed_m_s() > std::max(least_speed_m_s, 2 * sd))
            all.push_back(t);
    }
    return all;
}

std::vector<GeoPoint> standing_places(const std::vector<Contact> &looks) {
    constexpr double on_one_spot_m = 0.7;
    constexpr std::size_t least_turns = 3;
    std::vector<GeoPoint> places;
    for (const auto &c : looks) {
        if (!c.place)
            continue;
        std::set<std::uint16_t> turns;
        for (const auto &o : looks)
            if (o.place && leg_between(c.place->place, o.place->place).distance_m < on_one_spot_m)
                turns.insert(o.leg);
        if (turns.size() >= least_turns)
            places.push_back(c.place->place);
    }
    return places;
}

} // namespace heron
