#include "geo/position.hpp"

#include <GeographicLib/AzimuthalEquidistant.hpp>
#include <GeographicLib/Geodesic.hpp>
#include <algorithm>
#include <cmath>

namespace heron {

Leg leg_between(const GeoPoint &from, const GeoPoint &to) {
    Leg leg;
    double arriving = 0;
    GeographicLib::Geodesic::WGS84().Inverse(from.latitude_deg, from.longitude_deg, to.latitude_deg,
                                             to.longitude_deg, leg.distance_m, leg.bearing_deg, arriving);
    leg.bearing_deg = wrap_360(leg.bearing_deg);
    return leg;
}

GeoPoint point_along(const GeoPoint &from, double bearing_deg, double distance_m) {
    GeoPoint to;
    GeographicLib::Geodesic::WGS84().Direct(from.latitude_deg, from.longitude_deg, bearing_deg, distance_m,
                                            to.latitude_deg, to.longitude_deg);
    return to;
}

EastNorth LocalPlane::to_plane(const GeoPoint &point) const {
    EastNorth p;
    GeographicLib::AzimuthalEquidistant(GeographicLib::Geodesic::WGS84())
        .Forward(origin_.latitude_deg, origin_.longitude_deg, point.latitude_deg, point.longitude_deg,
                 p.east_m, p.north_m);
    return p;
}

GeoPoint LocalPlane::to_globe(const EastNorth &point) const {
    GeoPoint g;
    GeographicLib::AzimuthalEquidistant(GeographicLib::Geodesic::WGS84())
        .Reverse(origin_.latitude_deg, origin_.longitude_deg, point.east_m, point.north_m, g.latitude_deg,
                 g.longitude_deg);
    return g;
}

double wrap_360(double degrees) {
    const double turned = std::fmod(degrees, 360.0);
    return turned < 0 ? turned + 360 : turned;
}

double wrap_180(double degrees) {
    return std::remainder(degrees, 360.0);
}

EastNorth turned(const BodyOffset &o, double heading_deg, double pitch_deg, double roll_deg) {
    const double h = heading_deg / degrees_per_radian;
    const double p = pitch_deg / degrees_per_radian;
    const double r = roll_deg / degrees_per_radian;
    const double y = o.starboard_m * std::cos(r) - o.down_m * std::sin(r);
    const double z = o.starboard_m * std::sin(r) + o.down_m * std::cos(r);
    const double x = o.forward_m * std::cos(p) + z * std::sin(p);
    return {x * std::sin(h) + y * std::cos(h), x * std::cos(h) - y * std::sin(h)};
}

void PlaceCovariance::add_along(double bearing_deg, double sd_m) {
    const double e = std::sin(bearing_deg / degrees_per_radian);
    const double n = std::cos(bearing_deg / degrees_per_radian);
    const double v = sd_m * sd_m;
    east_east += v * e * e;
    east_north += v * e * n;
    north_north += v * n * n;
}

double PlaceCovariance::radial_sd_m() const {
    return std::sqrt(east_east + north_north);
}

ErrorEllipse ellipse_of(const PlaceCovariance &c) {
    const double mean = (c.east_east + c.north_north) / 2;
    const double spread = std::hypot((c.east_east - c.north_north) / 2, c.east_north);
    const double bearing = std::atan2(2 * c.east_north, c.north_north - c.east_east) / 2 * degrees_per_radian;
    return {std::sqrt(mean + spread), std::sqrt(std::max(0.0, mean - spread)),
            std::fmod(bearing + 180, 180.0)};
}

GeoPoint transducer_place(const BoatPose &pose, const Installation &at) {
    const BodyOffset lever{at.transducer.forward_m - at.antenna.forward_m,
                           at.transducer.starboard_m - at.antenna.starboard_m,
                           at.transducer.down_m - at.antenna.down_m};
    return LocalPlane(pose.antenna).to_globe(turned(lever, pose.heading_deg, pose.pitch_deg, pose.roll_deg));
}

LocatedPoint locate_sample(const BoatPose &pose, const Installation &installation, double azimuth_deg,
                           double ground_m, double ground_sd_m) {
    const double bearing = pose.heading_deg + azimuth_deg;
    LocatedPoint located;
    located.place = point_along(transducer_place(pose, installation), bearing, ground_m);
    auto &c = located.covariance;
    c.add_along(0, pose.position_sd_m);
    c.add_along(90, pose.position_sd_m);
    c.add_along(bearing, ground_sd_m);
    c.add_along(bearing + 90, ground_m * pose.heading_sd_deg / degrees_per_radian);
    c.add_along(pose.heading_deg, pose.speed_m_s * pose.clock_sd_s);
    return located;
}

} // namespace heron
