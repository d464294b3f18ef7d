#include "sim/sounder.hpp"
#include "sim/texture.hpp"

#include "picture/scan.hpp"
#include "programs.hpp"

#include <algorithm>
#include <cmath>
#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <random>
#include <sstream>

using namespace heron;
using testing::HasSubstr;

namespace {

const char *const basin_words =
    R"({"name":"basin","seed":3,"origin":{"latitude":46.5,"longitude":-21.25},"water":{"temperature_c":14},
 "terrain":{"size_m":[90,90],"depth_m":5,"ground":"sand","undulation_m":0%s},"things":[%t],
 "boat":{"route":[[10,45],[80,45]],"speed_m_s":1.4}})";

std::string scene(const std::string &terrain = "", const std::string &things = "") {
    std::string s = basin_words;
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
    sounder.ask({1000, 900e3, 400, 30, true, std::nullopt});
    EXPECT_EQ(sounder.settings().range_m, 60);
    EXPECT_EQ(sounder.settings().frequency_hz, 770e3);
    EXPECT_EQ(sounder.settings().gain, 100);
    sounder.ask({25, 420e3, 50, 30, false, std::nullopt});
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

// The spectrum of a tile, as numpy's FFT has it: its power falls with the wave number as asked, is the same
// in all directions, and stands only between the shortest and the longest wave; the tile has unit variance.
TEST(Simulator, GroundIsRoughAtEveryScale) {
    std::mt19937 random(7);
    test::Folder folder;
    for (const double fall : {1.0, 2.0, 3.0}) {
        const auto tile = sim::broad_noise(512, 0.11, 0.22, 30, fall, random);
        std::ofstream(folder.file("tile"), std::ios::binary)
            .write(reinterpret_cast<const char *>(tile.data()),
                   static_cast<std::streamsize>(tile.size() * sizeof(float)));
        std::ofstream(folder.file("ask.py")) << R"(
import sys
import numpy as np
tile = np.fromfile(sys.argv[1], np.float32).astype(float).reshape(512, 512)
power = np.abs(np.fft.fft2(tile)) ** 2
k = np.fft.fftfreq(512, 0.11)
kx, ky = np.meshgrid(k, k)
r = np.hypot(kx, ky)
edges = np.geomspace(1 / 20, 1 / 0.25, 12)
middle, mean = [], []
for a, b in zip(edges, edges[1:]):
    of = (r >= a) & (r < b)
    middle.append(np.log(r[of].mean())); mean.append(np.log(power[of].mean()))
steep = np.polyfit(middle, mean, 1)[0]
inside = (r > 1 / 2) & (r < 2)
along, across = power[inside & (abs(kx) > abs(ky))].mean(), power[inside & (abs(kx) < abs(ky))].mean()
print(-steep, tile.var(), along / across, power[(r > 1 / 0.21) | (r < 1 / 31)].sum() / power.sum())
)";
        const auto ran = test::run("/usr/bin/python3 " + folder.file("ask.py") + " " + folder.file("tile"));
        std::istringstream in(ran.out);
        double steep = 0, variance = 0, ratio = 0, beyond = 1;
        in >> steep >> variance >> ratio >> beyond;
        EXPECT_NEAR(steep, fall, 0.15) << ran.out;
        EXPECT_NEAR(variance, 1, 1e-3);
        EXPECT_NEAR(ratio, 1, 0.1);
        EXPECT_LT(beyond, 1e-6);
    }
}

// Lambert's law against another: on level ground the levels differ by so many decibels as the sine of grazing
// to the difference of the powers, twice the sine being one at thirty degrees.
TEST(Simulator, AMakingChangesWhatItSaysAndNothingElse) {
    const auto lambert = *sim::read_scene(scene(), "basin");
    auto other = lambert;
    other.making.grazing_power = 1;
    other.making.tvg_db_per_m = 0.1;
    sim::BoatState boat;
    boat.at = {45, 45};
    boat.heading_deg = 90;
    sim::Acoustics a(lambert), b(other);
    const auto x = a.hear_levels(boat, {}, 1), y = b.hear_levels(boat, {}, 1);
    const double deep = lambert.depth_m(boat.at) - lambert.boat.installation.draught_m();
    for (const std::size_t k : {400U, 550U, 700U}) {
        const double r = x.ping.slant_m(static_cast<double>(k)), sine = deep / r;
        double off = 0;
        for (std::size_t j = k - 20; j < k + 20; ++j)
            off += static_cast<double>(y.expected_db[0][j] - x.expected_db[0][j]) / 40;
        EXPECT_NEAR(off, -10 * std::log10(2 * sine) + 0.1 * r, 0.7) << r;
    }
    other = lambert;
    other.making.beam_told = 1.25;
    sim::Acoustics c(other);
    const auto z = c.hear_levels(boat, {}, 1);
    EXPECT_EQ(x.level_db, z.level_db);
    EXPECT_DOUBLE_EQ(z.ping.beams[0].width_along_deg, 1.25 * x.ping.beams[0].width_along_deg);
    other = lambert;
    other.making.samples = 700;
    sim::Acoustics d(other);
    const auto few = d.hear_levels(boat, {}, 1);
    EXPECT_EQ(few.level_db[0].size(), 700u);
    EXPECT_NEAR(few.ping.slant_m(700), x.ping.slant_m(1000), 0.05);
}

namespace {

// A post eleven metres ahead and five to the right of the head of a boat that points north.
sim::Scene head_scene(const std::string &more = "") {
    auto lake = *sim::read_scene(
        scene("", R"({"kind":"boulder","at":[50,58],"length_m":1.2,"height_m":1.2})" + more), "basin");
    sim::Hold hold;
    hold.at = {45, 45};
    hold.drift_m = hold.swing_deg = 0;
    lake.boat.hold = hold;
    return lake;
}

// The rays of one turn: told azimuth and the range of the strongest echo beyond the near field.
std::vector<std::pair<double, double>> one_turn(sim::Sounder &sounder, std::size_t rays = 200) {
    std::vector<std::pair<double, double>> all;
    while (all.size() < rays) {
        const auto e = sounder.next();
        if (!e.ray)
            continue;
        const auto &ping = e.ray->ping;
        const auto &beam = ping.beams.front();
        std::size_t most = 300;
        for (std::size_t k = 300; k < beam.code.size(); ++k)
            if (beam.code[k] > beam.code[most])
                most = k;
        all.emplace_back(beam.azimuth_deg, ping.slant_m(static_cast<double>(most)));
    }
    return all;
}

void let_it_turn(sim::Sounder &sounder) {
    auto s = sounder.head_settings();
    s.pinging = true;
    sounder.ask_head(s);
    auto side = sounder.settings();
    side.pinging = false;
    sounder.ask(side);
    sounder.put_on_hold();
}

} // namespace

// Worked by hand: the head hangs 2.75 m ahead of and 0.15 m right of the boat's middle, so the boulder at 5 m
// east and 13 m north of it lies 10.25 m ahead and 4.85 m to the right of the head: atan(4.85/10.25) = 25.3°,
// 11.3 m over ground.
TEST(TurningHead, HearsAThingWhereItLies) {
    sim::Sounder sounder(head_scene(), 0);
    let_it_turn(sounder);
    const auto turn = one_turn(sounder);
    const auto nearest = *std::min_element(turn.begin(), turn.end(), [](const auto &a, const auto &b) {
        return std::fabs(a.first - 25.3) < std::fabs(b.first - 25.3);
    });
    EXPECT_NEAR(nearest.second, std::hypot(11.34, 4.2), 1.0);
    // Steps are even, all round, and it is a device of its own.
    EXPECT_NEAR(wrap_180(turn[51].first - turn[50].first), 1.8, 1e-9);
    EXPECT_NEAR(wrap_180(turn[199].first - turn[0].first), -1.8, 1e-9);
    const auto hello = sounder.head_hello();
    EXPECT_EQ(hello.stream, StreamId::around);
    EXPECT_NE(hello.installation.transducer.forward_m, sounder.hello().installation.transducer.forward_m);
}

TEST(TurningHead, TakesSectorsStepsAndPacesWithinItsReach) {
    sim::Sounder sounder(head_scene(), 0);
    auto s = sounder.head_settings();
    s.pinging = true;
    s.turning = Turning{100, 9, -45, 90};
    s.range_m = 500;
    s.frequency_hz = 1e6;
    sounder.ask_head(s);
    EXPECT_NEAR(sounder.head_settings().turning->step_deg, 5.4, 1e-9);
    EXPECT_EQ(sounder.head_settings().turning->pace, 5);
    EXPECT_EQ(sounder.head_settings().range_m, 45);
    EXPECT_EQ(sounder.head_settings().frequency_hz, 800e3);
    let_it_turn(sounder);
    double least = 999, most = -999;
    for (const auto &[azimuth, range] : one_turn(sounder, 100)) {
        least = std::min(least, azimuth);
        most = std::max(most, azimuth);
    }
    EXPECT_NEAR(least, -45, 1e-9);
    EXPECT_LE(most, 45);
    EXPECT_GT(most, 39);
    // A slower pace: longer between rays, but never shorter than the sound's way there and back.
    EXPECT_GT(sounder.ray_period_s(), 2 * 45 / 1480.0);
    s.turning->pace = 1;
    s.range_m = 10;
    sounder.ask_head(s);
    EXPECT_NEAR(sounder.ray_period_s(), 0.1, 1e-9);
}

// What is wrong with it shows in what it hears, not in what it tells.
TEST(TurningHead, FaultsAreUntold) {
    auto lake = head_scene();
    lake.head_fault.zero_deg = 40;
    sim::Sounder turned(lake, 0);
    let_it_turn(turned);
    const auto turn = one_turn(turned);
    const auto at = [&](double azimuth) {
        return std::min_element(turn.begin(), turn.end(),
                                [azimuth](const auto &a, const auto &b) {
                                    return std::fabs(a.first - azimuth) < std::fabs(b.first - azimuth);
                                })
            ->second;
    };
    EXPECT_NEAR(at(25.3 - 40), std::hypot(11.34, 4.2), 1.0) << "told forty degrees too far to the left";
    EXPECT_DOUBLE_EQ(turn[1].first - turn[0].first, 1.8);
}

TEST(TurningHead, FishThatSwimAreElsewhereATurnLater) {
    sim::Swimmers w;
    w.path = {{0, 0}, {30, 40}};
    w.speed_m_s = 0.5;
    const auto a = w.at(0), b = w.at(10), there = w.at(100), back = w.at(110), again = w.at(200);
    EXPECT_NEAR(std::hypot(b.x - a.x, b.y - a.y), 5, 1e-9);
    EXPECT_NEAR(there.x, 30, 1e-9);
    EXPECT_NEAR(std::hypot(back.x - there.x, back.y - there.y), 5, 1e-9) << "and back";
    EXPECT_NEAR(std::hypot(again.x, again.y), 0, 1e-9);
    const auto lake = sim::read_scene(
        scene(
            "",
            R"({"kind":"swimmers","path":[[40,50],[50,50]],"speed_m_s":0.3,"above_bottom_m":1,"length_m":0.3,"count":5,"radius_m":1})"),
        "basin");
    ASSERT_TRUE(lake) << lake.error().line();
    EXPECT_EQ(lake->swimmers.at(0).fish.size(), 5u);
}

TEST(Simulator, TheBoatHoldsOverItsSpot) {
    auto lake = head_scene();
    lake.boat.hold->drift_m = 1;
    lake.boat.hold->swing_deg = 8;
    lake.boat.hold->heading_deg = 90;
    sim::Boat boat(lake.boat, 5);
    ASSERT_TRUE(boat.hold(true));
    for (int i = 0; i < 3000; ++i)
        boat.advance(0.05); // it runs there
    double far = 0, most = 0, least = 0, fastest = 0;
    for (int i = 0; i < 12000; ++i) {
        boat.advance(0.05);
        far = std::max(far, std::hypot(boat.state().at.x - 45, boat.state().at.y - 45));
        most = std::max(most, wrap_180(boat.state().heading_deg - 90));
        least = std::min(least, wrap_180(boat.state().heading_deg - 90));
        fastest = std::max(fastest, boat.state().speed_m_s);
    }
    EXPECT_LT(far, 6);
    EXPECT_GT(far, 0.5) << "it drifts";
    EXPECT_GT(most, 4) << "it swings";
    EXPECT_LT(least, -4);
    EXPECT_LT(fastest, 1.2);
    EXPECT_TRUE(boat.hold(false));
    for (int i = 0; i < 200; ++i)
        boat.advance(0.05);
    EXPECT_GT(boat.state().speed_m_s, 1) << "and goes on along its route";
    lake.boat.hold.reset();
    EXPECT_FALSE(sim::Boat(lake.boat, 5).hold(true)) << "no spot";
}

TEST(Scene, WeedsBedsRipplesAndLanesAreWhatTheyAreToldToBe) {
    const auto scene = sim::read_scene(R"({"name":"x","seed":3,"origin":{"latitude":46.5,"longitude":-21.25},
      "terrain":{"size_m":[60,60],"depth_m":4,"ground":"silt","undulation_m":0,"features":[
        {"type":"ripples","outline":[[5,5],[25,5],[25,25],[5,25]],"wave_m":1,"height_m":0.2,"across_deg":90},
        {"type":"lane","path":[[40,5],[40,55]],"width_m":3,"ditch_m":0.3}]},
      "things":[{"kind":"weeds","outline":[[5,35],[25,35],[25,55],[5,55]],"height_m":1.5,"stalks_a_m2":4,
                 "openings":[{"at":[15,45],"radius_m":3}]},
                {"kind":"bed","at":[52,30],"pits":7,"radius_m":3,"pit_m":1,"deep_m":0.2}],
      "boat":{"route":[[10,30],[50,30]]}})",
                                       "x.json");
    ASSERT_TRUE(scene) << scene.error().line();
    const auto &s = *scene;
    // Crests a metre apart across, as high as asked; none elsewhere.
    double low = 1, high = -1;
    for (double x = 10; x < 20; x += 0.05) {
        low = std::min(low, s.ripple_m({x, 15}));
        high = std::max(high, s.ripple_m({x, 15}));
    }
    EXPECT_NEAR(high - low, 0.2, 0.02);
    EXPECT_EQ(s.ripple_m({15, 45}), 0);
    // A lane: firm in the middle, a ditch beside it, the old ground beyond.
    EXPECT_EQ(s.ground({40, 30}), sim::Ground::gravel);
    EXPECT_EQ(s.ground({45, 30}), sim::Ground::silt);
    EXPECT_NEAR(s.depth_m({40, 30}), 4, 0.02);
    EXPECT_NEAR(s.depth_m({42, 30}), 4.3, 0.06);
    // Stalks inside the outline and none in the opening, none taller than told.
    std::size_t stalks = 0;
    for (const auto &b : s.bodies) {
        ++stalks;
        EXPECT_LE(b.height_m, 1.5);
        EXPECT_GE(std::hypot(b.at.x - 15, b.at.y - 45), 2.7);
        EXPECT_TRUE(b.at.x > 4.7 && b.at.x < 25.3 && b.at.y >= 35 && b.at.y <= 55);
    }
    EXPECT_GT(stalks, 4000u);
    // Bowls on ground swept clean, as round as told, each with a rim; the bare bottom is as it was.
    double deepest = 0, highest = 0, sunk_m2 = 0;
    int clean = 0;
    for (double x = 46; x < 58; x += 0.05)
        for (double y = 24; y < 36; y += 0.05) {
            deepest = std::max(deepest, s.sunk_m({x, y}));
            highest = std::min(highest, s.sunk_m({x, y}));
            sunk_m2 += s.sunk_m({x, y}) > 0 ? 0.05 * 0.05 : 0;
            clean += s.ground({x, y}) == sim::Ground::gravel;
            EXPECT_NEAR(s.depth_m({x, y}), 4, 0.001);
        }
    EXPECT_NEAR(deepest, 0.2, 0.003);
    EXPECT_NEAR(highest, -0.03, 0.003);
    EXPECT_NEAR(sunk_m2, 7 * std::numbers::pi * 0.25, 0.25);
    EXPECT_GT(clean, 40 * 25);
    EXPECT_EQ(s.sunk_m({15, 15}), 0);
    // Too many stalks are refused by name.
    const auto much = sim::read_scene(R"({"name":"x","seed":3,"origin":{"latitude":46.5,"longitude":-21.25},
      "terrain":{"size_m":[600,600],"depth_m":4},"things":[{"kind":"weeds","outline":[[5,5],[500,5],[500,500]],"height_m":1}],
      "boat":{"route":[[10,30],[50,30]]}})",
                                      "x.json");
    ASSERT_FALSE(much);
    EXPECT_NE(much.error().line().find("things[0]"), std::string::npos);
}
