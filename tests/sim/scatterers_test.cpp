// The second engine against Rayleigh's law, against the first engine's places and levels, and against itself.
#include "sim/scatterers.hpp"

#include "sim/acoustics.hpp"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>
#include <string>

using namespace heron;
using namespace heron::sim;

namespace {

Scene even_basin(const std::string &things, Engine engine) {
    auto lake = *read_scene(R"({"name":"basin","seed":5,"origin":{"latitude":46.5,"longitude":-21.25},
 "water":{"temperature_c":14},"terrain":{"size_m":[90,90],"depth_m":5,"ground":"sand","undulation_m":0},
 "things":[)" + things + R"(],"boat":{"route":[[10,45],[80,45]],"speed_m_s":1.4}})",
                            "basin");
    lake.engine = engine;
    return lake;
}

// A boat on its way east, that device of it 40 m along; it looks south with its right side.
BoatState boat_under(const Installation &hung) {
    const auto lever = turned(hung.transducer, 90);
    BoatState boat;
    boat.at = {40 - lever.east_m, 45 - lever.north_m};
    boat.heading_deg = 90;
    return boat;
}

SoundingSettings usual() {
    SoundingSettings s;
    s.range_m = 25;
    s.frequency_hz = 770e3;
    return s;
}

} // namespace

// Of many independent phases the power is spread exponentially: its deviation is its mean, and e^−t of it
// lies over t means (Goodman 2007, "Speckle Phenomena in Optics", chapter 3; from memory).
TEST(Scatterers, EchoesOfGroundAreSpreadAsRayleighsLawHasIt) {
    const auto lake = even_basin("", Engine::scatterers);
    Scatterers scatterers(lake);
    constexpr std::size_t cells = 1000;
    constexpr int pings = 60;
    std::vector<std::vector<double>> powers(cells);
    for (int i = 0; i < pings; ++i) {
        const auto heard = scatterers.hear({{15 + i * 1.0, 45}, 0.5, 3.14159265, 32, 0.8, 52}, 770e3, 45e3,
                                           cells, 0.025, 1, {});
        for (std::size_t k = 0; k < cells; ++k)
            powers[k].push_back(
                static_cast<double>(heard.re[0][k] * heard.re[0][k] + heard.im[0][k] * heard.im[0][k]));
    }
    // Each cell against its own mean over places a metre apart.
    std::vector<double> all;
    for (std::size_t k = 400; k < 900; k += 7) {
        double mean = 0;
        for (const double v : powers[k])
            mean += v / pings;
        for (const double v : powers[k])
            all.push_back(v / mean);
    }
    double mean = 0, square = 0;
    for (const double v : all)
        mean += v / static_cast<double>(all.size());
    for (const double v : all)
        square += (v - mean) * (v - mean) / static_cast<double>(all.size());
    EXPECT_NEAR(std::sqrt(square) / mean, 1, 0.12) << "patches of the ground add a little";
    for (const double t : {0.5, 1.0, 2.0}) {
        const auto over = std::count_if(all.begin(), all.end(), [&](double v) { return v > t * mean; });
        EXPECT_NEAR(static_cast<double>(over) / static_cast<double>(all.size()), std::exp(-t), 0.03) << t;
    }
}

// A scatterer keeps its phase: from the same place the field is the same to the last bit, half a metre on it
// is another.
TEST(Scatterers, PhasesAreKeptFromPingToPing) {
    const auto lake = even_basin("", Engine::scatterers);
    Scatterers scatterers(lake);
    const auto at = [&](double east) {
        return scatterers.hear({{east, 45}, 0.5, 3.14159265, 32, 0.8, 52}, 770e3, 45e3, 1000, 0.025, 1, {});
    };
    const auto a = at(40), b = at(40.5), c = at(40);
    EXPECT_EQ(a.re, c.re);
    double ab = 0, aa = 0, bb = 0;
    for (std::size_t k = 400; k < 900; ++k) {
        ab += static_cast<double>(a.re[0][k] * b.re[0][k] + a.im[0][k] * b.im[0][k]);
        aa += static_cast<double>(a.re[0][k] * a.re[0][k] + a.im[0][k] * a.im[0][k]);
        bb += static_cast<double>(b.re[0][k] * b.re[0][k] + b.im[0][k] * b.im[0][k]);
    }
    EXPECT_LT(std::fabs(ab) / std::sqrt(aa * bb), 0.3);
}

// Two roads to one place: a boulder and its shadow by rays and by scatterers.
TEST(Scatterers, AThingLiesWhereTheRaysHaveIt) {
    const std::string stone = R"({"kind":"boulder","at":[40,33],"height_m":1,"length_m":1.2,"name":"stone"})";
    double echo[2], dark[2], level[2];
    for (const auto engine : {Engine::rays, Engine::scatterers}) {
        const auto lake = even_basin(stone, engine);
        Acoustics acoustics(lake);
        acoustics.look_down(false);
        const auto heard = acoustics.hear_levels(boat_under(lake.boat.installation), usual(), 3);
        const auto &energy = heard.energy[1];
        const auto mean = [&](double from, double to) {
            double sum = 0;
            for (auto k = static_cast<std::size_t>(from / 0.025); k < static_cast<std::size_t>(to / 0.025);
                 ++k)
                sum += static_cast<double>(energy[k]);
            return sum / ((to - from) / 0.025);
        };
        const int i = engine == Engine::rays ? 0 : 1;
        const auto brightest = std::max_element(energy.begin() + 440, energy.begin() + 560);
        echo[i] = static_cast<double>(brightest - energy.begin()) * 0.025;
        // The ray over its top meets the ground some 15.5 m aside, 16 m away.
        dark[i] = 10 * std::log10(mean(13.6, 14.9) / mean(17.5, 20));
        level[i] = 10 * std::log10(mean(8, 10));
    }
    EXPECT_NEAR(echo[1], echo[0], 0.5) << "its near face";
    EXPECT_LT(dark[0], -6);
    EXPECT_LT(dark[1], -6);
    EXPECT_NEAR(level[1], level[0], 4) << "Lambert's law either way";
}

// The head at the bow and the look down hear them as the sides do.
TEST(Scatterers, TheHeadAndTheLookDownHearThemToo) {
    const auto lake =
        even_basin(R"({"kind":"boulder","at":[40,57],"height_m":1.2,"length_m":1.5,"name":"stone"})",
                   Engine::scatterers);
    Acoustics acoustics(lake);
    const auto s = usual();
    const auto ping = acoustics.hear(boat_under(lake.boat.installation), s, 1);
    ASSERT_EQ(ping.beams.size(), 4u);
    const auto &cone = ping.beams[3].code;
    const auto first = std::max_element(cone.begin() + 60, cone.end()) - cone.begin();
    EXPECT_NEAR(static_cast<double>(first) * 0.025, 4.5, 0.5) << "the bottom below";
    const auto bow = boat_under(lake.boat.head_installation());
    const auto brightest = [&](double azimuth_deg) {
        const auto ray = acoustics.hear_ray(bow, s, azimuth_deg, 1);
        const auto &code = ray.beams[0].code;
        return *std::max_element(code.begin() + 400, code.begin() + 560);
    };
    EXPECT_GT(brightest(-90), brightest(90) + 20);
}
