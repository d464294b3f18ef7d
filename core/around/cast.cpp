#include "around/cast.hpp"

#include "geo/position.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace heron {

double OffBow::clock_hours() const {
    const double quarters = std::round(wrap_360(degrees) / 7.5);
    return std::fmod(quarters, 48.0) / 4;
}

std::string OffBow::clock() const {
    const double hours = clock_hours();
    const int hour = static_cast<int>(hours), minute = static_cast<int>(std::lround((hours - hour) * 60));
    return fmt::format("{}:{:02d}", hour == 0 ? 12 : hour, minute);
}

Polar polar_of(const FromHead &at) {
    return {std::atan2(at.right_m, at.ahead_m) * degrees_per_radian, std::hypot(at.ahead_m, at.right_m)};
}

FromHead of_polar(const Polar &at) {
    const double a = at.off_bow_deg / degrees_per_radian;
    return {at.distance_m * std::cos(a), at.distance_m * std::sin(a)};
}

bool line_goes_over(const OwnBoat &boat, const Seat &seat, const Seat &neighbour, const FromHead &thing) {
    constexpr double clear_m = 0.9;
    const auto from = from_head(boat, seat.at), other = from_head(boat, neighbour.at);
    const double da = thing.ahead_m - from.ahead_m, dr = thing.right_m - from.right_m,
                 length = std::max(0.1, std::hypot(da, dr)), a = other.ahead_m - from.ahead_m,
                 r = other.right_m - from.right_m, along = (a * da + r * dr) / length,
                 aside = std::fabs(a * dr - r * da) / length;
    return along > 0 && along < length && aside < clear_m;
}

Cast cast_from(const OwnBoat &boat, const Seat &seat, const FromHead &thing, double sd,
               const std::vector<InTheWay> &in_the_way) {
    const auto from = from_head(boat, seat.at);
    const FromHead way{thing.ahead_m - from.ahead_m, thing.right_m - from.right_m};
    const auto polar = polar_of(way);
    Cast cast;
    cast.off_bow.degrees = polar.off_bow_deg;
    cast.distance_m = polar.distance_m;
    cast.sd_m = sd;
    cast.spare_m = seat.reach_m - polar.distance_m;
    if (!cast.in_reach() && std::fabs(way.right_m) < seat.reach_m) {
        // Ahead until the thing lies on the circle of the seat's reach.
        const double up = way.ahead_m - std::sqrt(seat.reach_m * seat.reach_m - way.right_m * way.right_m);
        if (up > 0)
            cast.come_up_m = up;
    }
    std::vector<std::pair<double, std::string>> past;
    constexpr double line_m = 1;
    for (const auto &o : in_the_way) {
        const double ahead = o.at.ahead_m - from.ahead_m, right = o.at.right_m - from.right_m;
        if (polar.distance_m < 0.1)
            break;
        const double along = (ahead * way.ahead_m + right * way.right_m) / polar.distance_m,
                     aside = std::fabs(ahead * way.right_m - right * way.ahead_m) / polar.distance_m;
        // What is cast at is no obstacle, nor what lies beyond it.
        const double apart = std::hypot(o.at.ahead_m - thing.ahead_m, o.at.right_m - thing.right_m);
        if (along > 0 && along < polar.distance_m && aside < o.radius_m + line_m && apart > o.radius_m + 0.5)
            past.emplace_back(along, o.name);
    }
    for (std::size_t i = 0; i < boat.seats.size(); ++i)
        if (!(boat.seats[i].at == seat.at) && line_goes_over(boat, seat, boat.seats[i], thing))
            cast.over.push_back(i);
    std::sort(past.begin(), past.end());
    for (auto &[at, name] : past)
        cast.past.push_back(std::move(name));
    return cast;
}

FromHead lead(const FromHead &fish, const FromHead &velocity, double flight_s, double sink_s) {
    const double t = flight_s + sink_s;
    return {fish.ahead_m + t * velocity.ahead_m, fish.right_m + t * velocity.right_m};
}

} // namespace heron
