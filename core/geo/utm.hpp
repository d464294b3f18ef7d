// Universal Transverse Mercator: the plane that charts and rasters lie on.
#pragma once

#include "fault/fault.hpp"
#include "geo/position.hpp"

namespace heron {

struct UtmZone {
    int number = 0; ///< 1 … 60
    bool north = true;
    bool operator==(const UtmZone &) const = default;
    /// 326xx in the north, 327xx in the south: what GIS call it.
    int epsg() const { return (north ? 32600 : 32700) + number; }
};

/// The zone that a place lies in (with the exceptions of Norway and Svalbard). Refuses the poles, beyond
/// 84° north and 80° south, where UTM ends.
Result<UtmZone> utm_zone_of(const GeoPoint &place);

struct OnUtm {
    double east_m = 0, north_m = 0;
    double convergence_deg =
        0;            ///< of grid north, clockwise from true north: bearing on the grid = true − this
    double scale = 1; ///< metres on the grid a metre on the ground
};

/// On the plane of a zone, also from beyond its edges: a lake in two zones lies on one. By GeographicLib
/// (Karney 2011, "Transverse Mercator with an accuracy of a few nanometers", J. Geodesy 85).
OnUtm to_utm(const UtmZone &zone, const GeoPoint &place);
GeoPoint from_utm(const UtmZone &zone, double east_m, double north_m);

} // namespace heron
