#include "sim/surface.hpp"

#include "sim/acoustics.hpp"
#include "tuning/budget.hpp"

#include <cmath>
#include <gtest/gtest.h>
#include <numbers>
#include <numeric>

using namespace heron;
using namespace heron::sim;

// Worked by hand: 4 m of water, source half a metre down, a strong echo 20 m aside. Straight it is 20.304 m
// away; by bottom and surface 23.071 m, met under 29.9°. Out one way and back the other arrives at 21.687 m.
// The bounces keep 0.0620 (surface, 3 m/s) and 0.4579 · 0.0495 (sand) within a fan of 0.8°, Lambert's sines
// add 0.4985/0.1724, spreading and 0.1 dB/m of absorption take (20.304/23.071)² and 0.277 dB; both orders:
// 0.0059 of it in all.
TEST(AddSurface, AGhostFollowsAStrongEcho) {
    ShallowWater water;
    water.depth_m = 4;
    water.draught_m = 0.5;
    water.wind_m_s = 3;
    water.bottom = usual_sediment(1);
    water.along_rad = 0.8 * std::numbers::pi / 180;
    water.absorption_db_per_m = 0.1;
    constexpr double cell = 0.02;
    std::vector<float> energy(1500, 0.0F), still(1500, 0.0F);
    const auto at = static_cast<std::size_t>(20.304 / cell);
    energy[at] = 1;
    const auto even = [](double) { return 1.0; };
    add_surface(energy, cell, water, even);
    add_surface(still, cell, water, even);
    const auto ghost = static_cast<std::size_t>(21.687 / cell);
    double sum = 0;
    for (auto k = ghost - 2; k <= ghost + 2; ++k)
        sum += static_cast<double>(energy[k] - still[k]);
    EXPECT_NEAR(sum, 0.0059027, 3e-5);
    EXPECT_NEAR(energy[at], 1, 1e-6) << "what is there stays";
}

namespace {

// The mean level without chance at a range, decibels, over pings along a lake of even depth.
double level_at(const Scene &lake, double range, double from, double to) {
    Acoustics acoustics(lake);
    acoustics.look_down(false);
    SoundingSettings s;
    s.range_m = range;
    s.frequency_hz = 770e3;
    double sum = 0, n = 0;
    for (int i = 0; i < 30; ++i) {
        BoatState boat;
        boat.at = {60 + 0.7 * i, 60};
        const auto heard = acoustics.hear_levels(boat, s, static_cast<std::uint32_t>(i));
        const auto &levels = heard.energy.front();
        const double cell = range / static_cast<double>(levels.size());
        for (auto k = static_cast<std::size_t>(from / cell); k < static_cast<std::size_t>(to / cell); ++k) {
            sum += static_cast<double>(levels[k]);
            n += 1;
        }
    }
    return sum / n;
}

Scene flat(double depth, bool surface) {
    auto lake = read_scene(
        R"({"name":"flat","seed":3,"origin":{"latitude":46.5,"longitude":-21.25},"water":{"wind_m_s":3},
        "terrain":{"size_m":[120,120],"depth_m":)" +
            std::to_string(depth) +
            R"(,"ground":"sand","undulation_m":0},"things":[],"boat":{"route":[[10,60],[110,60]],"speed_m_s":1.4}})",
        "flat.json");
    EXPECT_TRUE(lake);
    lake->making.surface = surface;
    lake->making.rough = lake->making.patchy = 0; // the closed form knows no relief
    return std::move(*lake);
}

} // namespace

// What the advice reckons with and what the stand-in does are worked apart: one in closed form, one echo by
// echo.
TEST(AddSurface, TheAdviceReckonsWithTheSameHaze) {
    Gear gear = usual_gear();
    gear.bands = {{770e3, 0.8, 52, 45e3, 140}};
    gear.tilt_deg = Acoustics::tilt_deg;
    gear.draught_m = flat(3, true).boat.installation.draught_m();
    for (const double depth : {1.8, 3.0, 5.0}) {
        const double with = level_at(flat(depth, true), 36, 22, 26),
                     without = level_at(flat(depth, false), 36, 22, 26);
        WaterState water;
        water.shallowest_m = water.deepest_m = depth;
        water.bottom = BottomType::sand;
        water.wind_m_s = 3;
        const double reckoned = BySurface(gear, water, 0, depth).at(24), heard = with / without - 1;
        EXPECT_GT(heard, 0.01);
        EXPECT_NEAR(10 * std::log10(reckoned), 10 * std::log10(heard), 2) << depth << " m: " << heard;
    }
}
