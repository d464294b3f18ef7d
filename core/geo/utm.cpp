#include "geo/utm.hpp"

#include "fault/told.hpp"

#include <GeographicLib/TransverseMercator.hpp>
#include <GeographicLib/UTMUPS.hpp>

namespace heron {
namespace {

using GeographicLib::TransverseMercator;
using GeographicLib::UTMUPS;

constexpr double false_east_m = 500'000, false_north_m = 10'000'000;

double middle_deg(const UtmZone &zone) {
    return 6.0 * zone.number - 183;
}

} // namespace

Result<UtmZone> utm_zone_of(const GeoPoint &place) {
    const int zone = UTMUPS::StandardZone(place.latitude_deg, wrap_180(place.longitude_deg));
    if (zone < UTMUPS::MINUTMZONE)
        return fail(told("a chart cannot lie so near the pole"), told("nothing was changed"),
                    told("charts reach from 80° south to 84° north"));
    return UtmZone{zone, place.latitude_deg >= 0};
}

OnUtm to_utm(const UtmZone &zone, const GeoPoint &place) {
    OnUtm on;
    TransverseMercator::UTM().Forward(middle_deg(zone), place.latitude_deg, wrap_180(place.longitude_deg),
                                      on.east_m, on.north_m, on.convergence_deg, on.scale);
    on.east_m += false_east_m;
    on.north_m += zone.north ? 0 : false_north_m;
    return on;
}

GeoPoint from_utm(const UtmZone &zone, double east_m, double north_m) {
    GeoPoint place;
    TransverseMercator::UTM().Reverse(middle_deg(zone), east_m - false_east_m,
                                      north_m - (zone.north ? 0 : false_north_m), place.latitude_deg,
                                      place.longitude_deg);
    place.longitude_deg = wrap_180(place.longitude_deg);
    return place;
}

} // namespace heron
