// Rays through layered water: Fermat's least time and Snell's law, a worked case, and what it makes of a
// picture.
#include "sim/layers.hpp"

#include "sim/acoustics.hpp"
#include "water/water.hpp"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>
#include <string>

using namespace heron;
using namespace heron::sim;

namespace {

const double warm = sound_speed_fresh_m_s(24), cold = sound_speed_fresh_m_s(12);

// How high something stands by its echo, the end of its shadow and the altitude, all along straight rays.
double height_by_shadow(double altitude, double echo, double shadow_end) {
    return altitude * (shadow_end - echo) / shadow_end;
}

} // namespace

TEST(BentRays, GoTheWayOfLeastTimeAndKeepSnellsLaw) {
    constexpr double layer = 3;
    const BentRays rays(warm, cold, layer, 12, 40);
    for (const double g : {0.7, 4.0, 11.3, 25.0, 38.0})
        for (const double z : {0.5, 2.9, 3.4, 6.1, 11.2}) {
            const auto met = rays.solved(g, z);
            double least = std::hypot(g, z);
            if (z > layer) {
                least = 1e9;
                constexpr int crossings = 200'000;
                for (int i = 0; i <= crossings; ++i) {
                    const double x = g * i / crossings;
                    least =
                        std::min(least, std::hypot(x, layer) + std::hypot(g - x, z - layer) * warm / cold);
                }
                EXPECT_NEAR(met.along / std::sqrt(1 - met.sine * met.sine), cold / warm, 1e-6);
            }
            EXPECT_NEAR(met.r, least, 1e-6) << g << " " << z;
            EXPECT_NEAR(std::hypot(met.along, met.down), 1, 1e-12);
            const auto looked_up = rays.at(g, z);
            EXPECT_NEAR(looked_up.r, met.r, 2e-3) << g << " " << z;
            EXPECT_NEAR(looked_up.sine, met.sine, 1e-3) << g << " " << z;
        }
}

// 24 °C over 12 °C, the cold beginning half way down, 6.7 m under the transducer to the bottom, a thing of 1
// m at 20 m: read as if sound ran straight it is 0.878 m tall (the path integrated through 4,000 slices with
// scipy).
TEST(BentRays, AThingFarOutReadsTooLow) {
    constexpr double a = 6.7;
    const BentRays rays(warm, cold, a / 2, 10, 40);
    const auto top = rays.solved(20, a - 1);
    double low = 20, high = 40;
    for (int i = 0; i < 60; ++i) {
        const double g = (low + high) / 2;
        (rays.solved(g, a).sine > top.sine ? low : high) = g;
    }
    EXPECT_NEAR(low, 22.868, 0.005) << "the same: where its shadow ends";
    EXPECT_NEAR(height_by_shadow(rays.solved(0, a).r, top.r, rays.solved(low, a).r), 0.878, 0.002);
}

// The same in what the stand-in makes: a wall of a metre, its echo and its shadow in the levels without
// chance.
TEST(BentRays, TheStandInsShadowsShortenSo) {
    const auto read = [](const std::string &water) {
        const auto lake =
            read_scene(R"({"name":"basin","seed":5,"origin":{"latitude":46.5,"longitude":-21.25},
 "water":)" + water + R"(,"terrain":{"size_m":[120,90],"depth_m":7.05,"ground":"sand","undulation_m":0},
 "things":[{"kind":"wall","path":[[5,25],[115,25]],"width_m":0.4,"height_m":1}],
 "boat":{"route":[[10,45],[110,45]],"speed_m_s":1.4,"transducer":[0,0,0.35],"antenna":[0,0,-1],"water_level_m":0}})",
                       "basin");
        EXPECT_TRUE(lake) << (lake ? std::string() : lake.error().line());
        Acoustics acoustics(*lake);
        acoustics.look_down(false);
        BoatState boat;
        boat.heading_deg = 90;
        SoundingSettings s;
        s.range_m = 40;
        s.frequency_hz = 1150e3;
        // Many pings along the wall, so that the grain of the ground goes.
        std::vector<double> power;
        Ping ping;
        for (int i = 0; i < 40; ++i) {
            boat.at = {30 + 1.5 * i, 45.2};
            auto heard = acoustics.hear_levels(boat, s, static_cast<std::uint32_t>(i));
            ping = heard.ping;
            const auto &side = heard.expected_db[1];
            power.resize(side.size());
            for (std::size_t k = 0; k < side.size(); ++k)
                power[k] += std::pow(10, static_cast<double>(side[k]) / 10);
        }
        const auto at = [&](double r) { return static_cast<std::size_t>(ping.sample_at(r)); };
        const auto peak = std::max_element(power.begin() + static_cast<std::ptrdiff_t>(at(18)),
                                           power.begin() + static_cast<std::ptrdiff_t>(at(23)));
        // The shadow's end: where the level has come half way back to that beyond it.
        double beyond = 0;
        for (auto k = at(26); k < at(28); ++k)
            beyond += power[k] / static_cast<double>(at(28) - at(26));
        auto end = peak + static_cast<std::ptrdiff_t>(at(21) - at(20));
        while (end + 1 != power.end() && *end < beyond / 2)
            ++end;
        return std::pair(ping.slant_m(static_cast<double>(peak - power.begin())),
                         ping.slant_m(static_cast<double>(end - power.begin())));
    };
    const auto straight = read(R"({"temperature_c":24})"),
               layered = read(R"({"temperature_c":24,"cold":{"below_m":3.7,"temperature_c":12}})");
    constexpr double a = 6.7;
    const BentRays rays(warm, cold, a / 2, 10, 40);
    const double plain = height_by_shadow(a, straight.first, straight.second),
                 bent = height_by_shadow(rays.solved(0, a).r, layered.first, layered.second);
    EXPECT_NEAR(plain, 1, 0.08);
    EXPECT_NEAR(bent / plain, 0.878, 0.04);
}

TEST(Scene, ColdWaterMustBeColder) {
    const auto made = [](const std::string &water) {
        return read_scene(R"({"name":"basin","seed":5,"origin":{"latitude":46.5,"longitude":-21.25},
 "water":)" + water + R"(,"terrain":{"size_m":[90,90],"depth_m":5,"ground":"sand"},
 "boat":{"route":[[10,45],[80,45]]}})",
                          "basin");
    };
    EXPECT_TRUE(made(R"({"temperature_c":20,"cold":{"below_m":3,"temperature_c":9}})"));
    const auto warmer = made(R"({"temperature_c":9,"cold":{"below_m":3,"temperature_c":20}})");
    ASSERT_FALSE(warmer);
    EXPECT_NE(warmer.error().line().find("cold"), std::string::npos) << warmer.error().line();
}
