#include "sim/sounder.hpp"

#include "picture/scan.hpp"
#include "programs.hpp"

#include <algorithm>
#include <cmath>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <random>

using namespace heron;
using testing::HasSubstr;

namespace {

const char *const basin =
    R"({"name":"basin","seed":3,"origin":{"latitude":46.5,"longitude":-21.25},"water":{"temperature_c":14},
 "terrain":{"size_m":[90,90],"depth_m":5,"ground":"sand","undulation_m":0%s},"things":[%t],
 "boat":{"route":[[10,45],[80,45]],"speed_m_s":1.4}})";

std::string scene(const std::string &terrain = "", const std::string &things = "") {
    std::string s = basin;
    s.replace(s.find("%s"), 2, terrain);
    s.replace(s.find("%t"), 2, things);
    return s;
}

// The mean power (linear) of the bottom between two ranges over many pings, TVG and gain taken out.
double bottom_power(sim::Scene lake, const SoundingSettings &settings, double from, double to,
                    int pings = 60) {
    const sim::Scene kept = std::move(lake);
    sim::Acoustics acoustics(kept);
    sim::BoatState boat;
    boat.at = {45, 45};
    boat.heading_deg = 90;
    double sum = 0;
    int n = 0;
    for (int i = 0; i < pings; ++i) {
        boat.at.x = 30 + 0.5 * i;
        const auto p = acoustics.hear(boat, settings, static_cast<std::uint32_t>(i));
        const auto &b = *p.beam(Side::starboard);
        for (auto k = static_cast<std::size_t>(p.sample_at(from));
             k < static_cast<std::size_t>(p.sample_at(to)); ++k) {
            const double r = p.slant_m(static_cast<double>(k));
            sum += std::pow(10, (b.level_db(k) - b.gain_db - settings.tvg_log * std::log10(r)) / 10);
            ++n;
        }
    }
    return sum / n;
}

} // namespace

TEST(Simulator, TheSameSeedGivesTheSamePicture) {
    const auto lake = [] { return *sim::read_scene(scene(), "basin"); };
    sim::Sounder a(lake(), 0), b(lake(), 0);
    for (int i = 0; i < 60; ++i) {
        const auto x = a.next(), y = b.next();
        ASSERT_EQ(x.time, y.time);
        ASSERT_EQ(x.sentences, y.sentences);
        if (x.ping)
            ASSERT_EQ(x.ping->ping.beams[0].code, y.ping->ping.beams[0].code);
    }
}

// Lambert's law: seven decibels between sand (−28) and silt (−35) on equal geometry.
TEST(Simulator, GroundsDifferByTheirScatteringStrength) {
    auto sand = *sim::read_scene(scene(), "a"), silt = *sim::read_scene(scene(), "b");
    std::fill(silt.grounds.begin(), silt.grounds.end(), static_cast<std::uint8_t>(sim::Ground::silt));
    const SoundingSettings s;
    const double db = 10 * std::log10(bottom_power(sand, s, 8, 12) / bottom_power(silt, s, 8, 12));
    EXPECT_NEAR(db, 7, 1.2);
}

// Fully developed speckle: the intensity of one resolution cell is exponential, so its standard deviation
// equals its mean and the level in decibels has one of 5.57 dB (Ulaby & Dobson 1989, from memory).
TEST(Simulator, SpeckleHasTheSpreadOfRayleighScatter) {
    const auto lake = *sim::read_scene(scene(), "a");
    sim::Acoustics acoustics(lake);
    sim::BoatState boat;
    boat.at = {45, 45};
    boat.heading_deg = 90;
    double sum = 0, squares = 0;
    int n = 0;
    for (int i = 0; i < 300; ++i) {
        const auto p = acoustics.hear(boat, {}, static_cast<std::uint32_t>(i));
        const auto &b = *p.beam(Side::port);
        const double db = b.level_db(static_cast<std::size_t>(p.sample_at(12)));
        sum += db;
        squares += db * db;
        ++n;
    }
    const double sd = std::sqrt(squares / n - sum * sum / n / n);
    EXPECT_NEAR(sd, 5.57, 0.6);
}

TEST(Simulator, ABadGainReallyLosesData) {
    const auto lake = *sim::read_scene(scene(), "a");
    sim::Acoustics acoustics(lake);
    sim::BoatState boat;
    boat.at = {45, 45};
    const auto share = [&](int gain, auto clipped) {
        SoundingSettings s;
        s.gain = gain;
        const auto p = acoustics.hear(boat, s, 1);
        const auto &code = p.beam(Side::port)->code;
        const auto from = code.begin() + static_cast<std::ptrdiff_t>(p.sample_at(6)),
                   to = code.begin() + static_cast<std::ptrdiff_t>(p.sample_at(20));
        return static_cast<double>(std::count_if(from, to, clipped)) / static_cast<double>(to - from);
    };
    const auto full = [](auto c) { return c == 255; };
    const auto none = [](auto c) { return c == 0; };
    EXPECT_LT(share(50, full) + share(50, none), 0.02);
    EXPECT_GT(share(100, full), 0.2);
    EXPECT_GT(share(0, none), 0.05);
}

TEST(Simulator, SpeedMakesNoise) {
    const auto lake = *sim::read_scene(
        scene(R"(,"features":[{"type":"hole","at":[45,45],"radius_m":200,"height_m":20}])"), "deep");
    sim::Acoustics acoustics(lake);
    const auto column = [&](double speed) {
        sim::BoatState boat;
        boat.at = {45, 45};
        boat.speed_m_s = speed;
        double sum = 0;
        for (std::uint32_t i = 0; i < 20; ++i) {
            const auto p = acoustics.hear(boat, {}, i);
            const auto &code = p.beam(Side::port)->code;
            for (std::size_t k = 400; k < 700; ++k)
                sum += code[k];
        }
        return sum;
    };
    EXPECT_GT(column(4.5), column(1.2) * 1.3);
}

TEST(Simulator, TheBoatKeepsToItsRoute) {
    sim::Sounder sounder(*sim::read_scene(scene(), "a"), 0);
    double worst = 0;
    for (int i = 0; i < 600; ++i) {
        sounder.next();
        if (sounder.boat().at.x < 75)
            worst = std::max(worst, std::fabs(sounder.boat().at.y - 45));
    }
    EXPECT_LT(worst, 1.5);
    EXPECT_GT(sounder.boat().at.x, 30);
}

TEST(Simulator, TakesSettingsWithinItsReach) {
    sim::Sounder sounder(*sim::read_scene(scene(), "a"), 0);
    sounder.ask({1000, 900e3, 400, 30, true});
    EXPECT_EQ(sounder.settings().range_m, 60);
    EXPECT_EQ(sounder.settings().frequency_hz, 770e3);
    EXPECT_EQ(sounder.settings().gain, 100);
    sounder.ask({25, 420e3, 50, 30, false});
    for (int i = 0; i < 20; ++i)
        EXPECT_FALSE(sounder.next().ping);
}

TEST(Scene, WhatIsWrongIsNamed) {
    const auto says = [](const std::string &text, const std::string &word) {
        const auto s = sim::read_scene(text, "x.json");
        ASSERT_FALSE(s);
        EXPECT_THAT(s.error().happened, HasSubstr(word));
    };
    says("{", "no JSON");
    says("[]", "'name' is missing");
    says(scene("", R"({"kind":"submarine","at":[1,1]})"), "things[0]: 'submarine'");
    says(scene("", R"({"kind":"stump","at":[1,1],"width_m":-3,"height_m":1})"), "'width_m' is -3");
    says(scene(R"(,"ground":"lava")"), "'lava'");
    says(scene("", R"({"kind":"stump","at":["a",1],"width_m":1,"height_m":1})"), "point");
}

TEST(FuzzScene, SurvivesChangedText) {
    const auto good = test::contents(test::lake());
    const auto small = scene(
        "",
        R"({"kind":"wall","path":[[1,1],[5,5]],"width_m":1,"height_m":1},{"kind":"fish","at":[3,3],"above_bottom_m":1,"length_m":0.4})");
    std::mt19937 random(8);
    int read = 0;
    for (int i = 0; i < 300; ++i) {
        auto bad = i < 5 ? good : small;
        for (int n = 1 + static_cast<int>(random() % 5); n > 0; --n)
            bad[random() % bad.size()] = static_cast<char>(32 + random() % 90);
        read += sim::read_scene(bad, "x").has_value();
    }
    EXPECT_LT(read, 300);
}

// What is expected is what many pings come to: the mean energy, noise and pulse included.
TEST(Simulator, ExpectedLevelsAreTheMeanOfManyPings) {
    const auto lake = *sim::read_scene(scene(), "basin");
    sim::Acoustics acoustics(lake);
    sim::BoatState boat;
    boat.at = {45, 45};
    boat.heading_deg = 90;
    const SoundingSettings settings;
    std::vector<double> sum;
    std::vector<float> expected;
    constexpr int pings = 400;
    for (int i = 0; i < pings; ++i) {
        const auto heard = acoustics.hear_levels(boat, settings, static_cast<std::uint32_t>(i) + 1);
        if (sum.empty()) {
            expected = heard.expected_db[0];
            sum.assign(expected.size(), 0);
        }
        for (std::size_t k = 0; k < sum.size(); ++k)
            sum[k] += std::pow(10, static_cast<double>(heard.level_db[0][k]) / 10);
    }
    double off = 0, most = 0, n = 0;
    for (std::size_t k = 300; k + 50 < sum.size(); ++k) {
        const double d = 10 * std::log10(sum[k] / pings) - static_cast<double>(expected[k]);
        off += d;
        most = std::max(most, std::fabs(d));
        n += 1;
    }
    // A mean of 400 exponentials has a spread of a twentieth, 0.22 dB.
    EXPECT_NEAR(off / n, 0, 0.05);
    EXPECT_LT(most, 1.1);
}

// Speckle of one look in decibels spreads by 5.57 dB (exponential energy, any text on speckle); a device that
// averages nine leaves about a third of its energy's spread, and no other level.
TEST(Simulator, ADeviceThatAveragesLooksLeavesLessSpeckle) {
    const auto spread = [](double looks) {
        auto lake = *sim::read_scene(scene(), "basin");
        lake.sounder_looks = looks;
        sim::Acoustics acoustics(lake);
        sim::BoatState boat;
        boat.at = {45, 45};
        boat.heading_deg = 90;
        double sum = 0, squares = 0, n = 0;
        for (std::uint32_t i = 1; i < 120; ++i) {
            const auto heard = acoustics.hear_levels(boat, {}, i);
            for (std::size_t k = 400; k < 700; ++k) {
                const double d = static_cast<double>(heard.level_db[0][k] - heard.expected_db[0][k]);
                sum += d;
                squares += d * d;
                n += 1;
            }
        }
        return std::sqrt(squares / n - sum * sum / n / n);
    };
    EXPECT_NEAR(spread(1), 5.57, 0.3);
    const double nine = spread(9);
    EXPECT_LT(nine, 1.8);
    EXPECT_GT(nine, 0.9);
}

// The mean of n independent exponentials is spread as the gamma distribution of shape n and scale 1/n (any
// text on probability; J. W. Goodman, Speckle Phenomena in Optics, chapter 3): of shape 3, P(x < t) = 1 -
// e^(-3t)(1 + 3t + 9t²/2). No floor lies under it.
TEST(Simulator, AveragedLooksAreSpreadAsTheGammaDistribution) {
    auto lake = *sim::read_scene(scene(), "basin");
    lake.sounder_looks = 3;
    sim::Acoustics acoustics(lake);
    sim::BoatState boat;
    boat.at = {45, 45};
    boat.heading_deg = 90;
    std::vector<double> ratio;
    for (std::uint32_t i = 1; i < 300; ++i) {
        const auto heard = acoustics.hear_levels(boat, {}, i);
        for (std::size_t k = 400; k < 700; k += 5)
            ratio.push_back(
                std::pow(10, static_cast<double>(heard.level_db[0][k] - heard.expected_db[0][k]) / 10));
    }
    for (const double t : {0.1, 0.2, 0.5, 1.0, 1.5, 2.0}) {
        const auto below =
            static_cast<double>(std::count_if(ratio.begin(), ratio.end(), [t](double x) { return x < t; }));
        const double share = below / static_cast<double>(ratio.size());
        EXPECT_NEAR(share, 1 - std::exp(-3 * t) * (1 + 3 * t + 4.5 * t * t), 0.012) << t;
    }
}
