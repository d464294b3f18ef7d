// The plane of charts, against GeoConvert (GeographicLib's own program) and by properties.
#include "geo/utm.hpp"
#include "programs.hpp"

#include <cmath>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <sstream>

using namespace heron;

TEST(Utm, AgreesWithGeoConvert) {
    for (const auto &place : {GeoPoint{46.5, -21.25},
                              {57.23, 14.11},
                              {-33.2, 150.9},
                              {60.4, 5.3},
                              {0.01, -179.99},
                              {71.5, 179.999}}) {
        const auto ran = test::run(fmt::format("GeoConvert -u -p 3 --input-string '{} {}'",
                                               place.latitude_deg, place.longitude_deg));
        ASSERT_EQ(ran.code, 0) << ran.out;
        std::istringstream words(ran.out); // "26n 634368.123 5151005.456"
        int number = 0;
        char half = 0;
        double east = 0, north = 0;
        words >> number >> half >> east >> north;
        const auto zone = utm_zone_of(place);
        ASSERT_TRUE(zone);
        EXPECT_EQ(zone->number, number) << ran.out;
        EXPECT_EQ(zone->north, half == 'n');
        const auto on = to_utm(*zone, place);
        EXPECT_NEAR(on.east_m, east, 0.001);
        EXPECT_NEAR(on.north_m, north, 0.001);
    }
}

TEST(Utm, ThePolesAreRefusedInWords) {
    for (const double latitude : {84.5, -81.0, 90.0}) {
        const auto zone = utm_zone_of({latitude, 10});
        ASSERT_FALSE(zone) << latitude;
        EXPECT_NE(zone.error().happened.find("pole"), std::string::npos);
    }
}

RC_GTEST_PROP(Utm, ThereAndBackAlsoFromTheNextZone, ()) {
    const GeoPoint place{*rc::gen::inRange(-7900, 8300) / 100.0, *rc::gen::inRange(-17900, 17900) / 100.0};
    auto zone = *utm_zone_of(place);
    // A lake in two zones lies on one.
    zone.number = (zone.number + *rc::gen::inRange(-1, 2) + 59) % 60 + 1;
    const auto on = to_utm(zone, place);
    const auto back = from_utm(zone, on.east_m, on.north_m);
    RC_ASSERT(leg_between(place, back).distance_m < 0.001);
}
