#include "water/water.hpp"

#include "programs.hpp"

#include <cmath>
#include <gtest/gtest.h>
#include <sstream>
#include <vector>

using namespace heron;

// Marczak (1997), J. Acoust. Soc. Am. 102(5), table of the polynomial; values from memory.
TEST(SoundSpeed, FollowsMarczak) {
    const std::vector<std::pair<double, double>> table{{0, 1402.385},  {5, 1426.170},  {10, 1447.289},
                                                       {15, 1465.960}, {20, 1482.380}, {25, 1496.728},
                                                       {30, 1509.167}};
    for (const auto &[t, c] : table)
        EXPECT_NEAR(sound_speed_fresh_m_s(t), c, 0.002) << t;
}

// Bilaniuk & Wong (1993, corrected 1996): 1482.36 m/s at 20 °C; from memory. Independent measurements.
TEST(SoundSpeed, AgreesWithBilaniukAndWong) {
    EXPECT_NEAR(sound_speed_fresh_m_s(20), 1482.36, 0.05);
}

// TEOS-10 (IOC, 2010) at absolute salinity 0 and the surface, computed by its own library.
TEST(SoundSpeed, AgreesWithTeos10) {
    const auto ran = test::run("/usr/bin/python3 -c \"import gsw; print(*[gsw.sound_speed(0.0, "
                               "gsw.CT_from_t(0.0, t, 0.0), 0.0) for t in (1,5,10,15,20,25,30)])\"");
    ASSERT_EQ(ran.code, 0) << ran.out;
    std::istringstream in(ran.out);
    for (const double t : {1.0, 5.0, 10.0, 15.0, 20.0, 25.0, 30.0}) {
        double c = 0;
        ASSERT_TRUE(in >> c);
        EXPECT_NEAR(sound_speed_fresh_m_s(t), c, 0.15) << t; // 0.1 per mille
    }
}

// Francois & Garrison (1982), J. Acoust. Soc. Am. 72(6), pure-water term; values computed by hand,
// coefficients from memory.
TEST(Absorption, FollowsFrancoisAndGarrison) {
    EXPECT_NEAR(absorption_fresh_db_per_m(455e3, 15) * 1000, 53.7, 0.1);
    EXPECT_NEAR(absorption_fresh_db_per_m(800e3, 15) * 1000, 166.1, 0.2);
    EXPECT_NEAR(absorption_fresh_db_per_m(1200e3, 15) * 1000, 373.8, 0.4);
    // The two branches of the fit meet at 20 °C.
    EXPECT_NEAR(absorption_fresh_db_per_m(800e3, 20.0) / absorption_fresh_db_per_m(800e3, 20.0001), 1, 0.01);
}

// Ainslie & McColm (1998), J. Acoust. Soc. Am. 103(3): 0.00049 f² exp(−T/27); an independent fit, some 8 %
// higher.
TEST(Absorption, LiesNearAinslieAndMcColm) {
    for (const double f : {455e3, 800e3, 1200e3}) {
        const double theirs = 0.00049 * f / 1000 * f / 1000 * std::exp(-15.0 / 27) / 1000;
        EXPECT_NEAR(absorption_fresh_db_per_m(f, 15) / theirs, 1, 0.1);
    }
}
