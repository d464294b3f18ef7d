#include "units/units.hpp"

#include <cmath>
#include <gtest/gtest.h>
#include <limits>
#include <rapidcheck/gtest.h>

using namespace heron;

// NIST Handbook 44, Appendix C: 1 ft = 0.3048 m, 1 mi = 1609.344 m, 1 nautical mile = 1852 m, all exact. From
// memory.
TEST(Units, FollowTheDefinitionsOfTheFootTheMileAndTheNauticalMile) {
    EXPECT_DOUBLE_EQ(metres_from_feet(14), 4.2672);
    EXPECT_DOUBLE_EQ(mph_from_m_s(1609.344 / 3600), 1);
    EXPECT_NEAR(m_s_from_knots(1), 0.514444, 1e-6);
    EXPECT_DOUBLE_EQ(fahrenheit_from_celsius(100), 212);
    EXPECT_NEAR(celsius_from_fahrenheit(57), 13.889, 1e-3);
}

TEST(Units, PrintWithTrueMinusAndNoMinusZero) {
    EXPECT_EQ(print_number(-0.04, 1), "0.0");
    EXPECT_EQ(print_number(-1.25, 2), "−1.25");
    EXPECT_EQ(print_number(std::nan(""), 1), "–");
    EXPECT_EQ(print_length(5.2, UnitSystem::feet).text(), "17.1 ft");
    EXPECT_EQ(print_speed(1.3, UnitSystem::metres).text(), "4.7 km/h");
    EXPECT_EQ(print_temperature(13.889, UnitSystem::feet).text(), "57 °F");
}

TEST(Units, ADoubtNeverPrintsAsNone) {
    EXPECT_EQ(print_doubt(0.001, UnitSystem::feet), "0.1");
    EXPECT_EQ(print_doubt(0.16, UnitSystem::metres), "0.2");
    EXPECT_EQ(print_doubt(0.3, UnitSystem::metres), "0.3");
}

TEST(Units, BearingsWrapAfterRounding) {
    EXPECT_EQ(print_bearing(359.7), "000°");
    EXPECT_EQ(print_bearing(-1), "359°");
    EXPECT_EQ(print_bearing(12), "012°");
}

TEST(Units, MinutesOfAPositionNeverReachSixty) {
    EXPECT_EQ(print_position(57.99999999, -14.1098425), "58° 00.000′ N  014° 06.591′ W");
    EXPECT_EQ(print_position(-0.5, 179.5), "00° 30.000′ S  179° 30.000′ E");
}

TEST(Units, UnderstandWhatPeopleWrite) {
    EXPECT_NEAR(*parse_length_m("14 ft", UnitSystem::metres), 4.2672, 1e-12);
    EXPECT_NEAR(*parse_length_m(" 7' ", UnitSystem::metres), 2.1336, 1e-12);
    EXPECT_NEAR(*parse_length_m("4.2", UnitSystem::metres), 4.2, 1e-12);
    EXPECT_NEAR(*parse_length_m("4.2", UnitSystem::feet), 1.28016, 1e-12);
    EXPECT_NEAR(*parse_speed_m_s("3 kn", UnitSystem::feet), 1.54333, 1e-5);
    EXPECT_NEAR(*parse_temperature_c("57 °F", UnitSystem::metres), 13.8889, 1e-4);
    for (const char *bad : {"", "ft", "4.2 parsecs", "nan", "1e999", "4 4"})
        EXPECT_FALSE(parse_length_m(bad, UnitSystem::feet)) << bad;
}

RC_GTEST_PROP(Units, WhatIsPrintedIsReadBackAlike, (double raw)) {
    RC_PRE(std::isfinite(raw));
    const double metres = std::fmod(raw, 5000.0);
    const auto system = *rc::gen::element(UnitSystem::feet, UnitSystem::metres);
    const auto back = parse_length_m(print_length(metres, system, 3).text(), system);
    RC_ASSERT(back.has_value());
    RC_ASSERT(std::fabs(*back - metres) < 6e-4);
}
