// Places on the globe, and where a sonar sample lies on it.
#pragma once

#include <array>
#include <optional>

namespace heron {

inline constexpr double degrees_per_radian = 57.29577951308232;

/// WGS 84; latitude −90…90, longitude −180…180, degrees.
struct GeoPoint {
    double latitude_deg = 0;
    double longitude_deg = 0;
};

/// A course to steer along the ellipsoid.
struct Leg {
    double distance_m = 0;
    double bearing_deg = 0; ///< true, 0…360, at the start
};

/// The geodesic from `from` to `to`. Karney (2013), "Algorithms for geodesics", J. Geodesy 87, 43–55, as
/// implemented by GeographicLib; accurate to nanometres.
Leg leg_between(const GeoPoint &from, const GeoPoint &to);
/// The point `distance_m` along the geodesic that leaves `from` at `bearing_deg` (true).
GeoPoint point_along(const GeoPoint &from, double bearing_deg, double distance_m);

/// Metres east and north on a plane that touches the ellipsoid at its origin (azimuthal equidistant:
/// distances and bearings from the origin are exact).
struct EastNorth {
    double east_m = 0;
    double north_m = 0;
};
class LocalPlane {
  public:
    explicit LocalPlane(GeoPoint origin) : origin_(origin) {}
    EastNorth to_plane(const GeoPoint &point) const;
    GeoPoint to_globe(const EastNorth &point) const;
    const GeoPoint &origin() const { return origin_; }

  private:
    GeoPoint origin_;
};

/// Brings any angle to 0…360.
double wrap_360(double degrees);
/// Brings any angle to −180…180.
double wrap_180(double degrees);

/// An offset in the boat's frame: x forward, y starboard, z down, metres.
struct BodyOffset {
    double forward_m = 0;
    double starboard_m = 0;
    double down_m = 0;
};

/// Where things hang on the boat, from its reference point.
struct Installation {
    BodyOffset transducer;
    BodyOffset antenna;
    double water_level_m = 0; ///< z of the waterline
    /// How late the receiver tells positions, seconds, as far as it was found out: they are looked up so much
    /// later.
    double positions_late_s = 0;
    static constexpr double most_late_s = 10;
    /// How deep the transducer hangs under the surface, metres.
    double draught_m() const { return transducer.down_m - water_level_m; }
};

/// Turns a body offset into east, north (m) by heading, then pitch (bow up positive), then roll (starboard
/// down positive), all degrees; z-y-x Euler angles as in navigation.
EastNorth turned(const BodyOffset &offset, double heading_deg, double pitch_deg = 0, double roll_deg = 0);

/// Uncertainty of a place: covariance of east and north, m².
struct PlaceCovariance {
    double east_east = 0;
    double east_north = 0;
    double north_north = 0;

    /// Adds an independent error of `sd_m` along the direction `bearing_deg`.
    void add_along(double bearing_deg, double sd_m);
    /// One-sigma radial error, √(σ²east + σ²north), metres.
    double radial_sd_m() const;
};

/// The one-sigma ellipse of a covariance.
struct ErrorEllipse {
    double semi_major_m = 0;
    double semi_minor_m = 0;
    double bearing_deg = 0; ///< of the major axis, 0…180
};
ErrorEllipse ellipse_of(const PlaceCovariance &covariance);

/// What is known of the boat at the time of a ping.
struct BoatPose {
    GeoPoint antenna;
    double position_sd_m = 2; ///< one sigma of each of east and north
    double heading_deg = 0;   ///< true
    double heading_sd_deg = 2;
    double pitch_deg = 0;
    double roll_deg = 0;
    double speed_m_s = 0;
    double clock_sd_s = 0.05; ///< doubt of the time between ping and position
};

struct LocatedPoint {
    GeoPoint place;
    PlaceCovariance covariance;
};

/// The place of the transducer itself.
GeoPoint transducer_place(const BoatPose &pose, const Installation &installation);

/// Where a sample at horizontal distance `ground_m` (≥ 0, one sigma `ground_sd_m`) lies, in the direction
/// `azimuth_deg` clockwise from the bow (−90 port, +90 starboard). The ellipse holds antenna, heading,
/// distance and clock errors, taken as independent.
LocatedPoint locate_sample(const BoatPose &pose, const Installation &installation, double azimuth_deg,
                           double ground_m, double ground_sd_m);

} // namespace heron
