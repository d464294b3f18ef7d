#include "picture/chip.hpp"
#include "picture/colour_map.hpp"
#include "picture/overview.hpp"
#include "picture/paint_side.hpp"
#include "picture/scan.hpp"

#include "files/json.hpp"
#include "programs.hpp"
#include "recording/recording.hpp"

#include <algorithm>
#include <cmath>
#include <fstream>
#include <gtest/gtest.h>
#include <random>

using namespace heron;

namespace {

// A made-up ping: quiet water, then speckled bottom from `first_return` on.
Ping water_and_bottom(double first_return, std::mt19937 &random, bool fish = false) {
    Ping p;
    p.sound_speed_m_s = 1480;
    p.sample_interval_s = 2 * 0.025 / 1480;
    std::normal_distribution<double> noise(0, 6);
    for (const auto side : {Side::port, Side::starboard}) {
        Beam b;
        b.side = side;
        b.scale = {0, 0.3, 0, 255};
        for (int k = 0; k < 900; ++k) {
            const double r = static_cast<double>(k) * 0.025;
            double level = r < first_return ? 12 : 110 - r;
            if (r < 0.3)
                level = 200;
            if (fish && r > first_return * 0.6 && r < first_return * 0.6 + 0.4)
                level = 180;
            b.code.push_back(static_cast<std::uint16_t>(std::clamp(level + noise(random), 0.0, 255.0)));
        }
        p.beams.push_back(b);
    }
    return p;
}

} // namespace

TEST(BottomTracker, FollowsAFallingBottomThroughFish) {
    std::mt19937 random(1);
    Scan scan;
    std::vector<double> truth;
    for (int i = 0; i < 300; ++i) {
        truth.push_back(4 + 0.01 * i);
        scan.push({water_and_bottom(truth.back(), random, i % 40 < 6), std::nullopt, {}});
    }
    for (std::size_t i = 30; i < 275; ++i) {
        ASSERT_TRUE(scan.bottom(i).found) << i;
        EXPECT_NEAR(scan.bottom(i).altitude_m, truth[i], 0.12) << i;
    }
}

// On a slope each side meets the bottom at its own range, also where a third beam looks straight down; a side
// that hears nothing takes what that beam says.
TEST(BottomTracker, EachSideKeepsItsOwnFirstReturnBesideABeamThatLooksDown) {
    std::mt19937 random(4);
    for (const bool deaf : {false, true}) {
        Scan scan;
        for (int i = 0; i < 120; ++i) {
            auto ping = water_and_bottom(5.0, random);
            const auto starboard = water_and_bottom(5.2, random), down = water_and_bottom(5.1, random);
            ping.beams[1] = starboard.beams[1];
            ping.beams.push_back(down.beams[0]);
            ping.beams[2].side = Side::down;
            if (deaf)
                std::fill(ping.beams[0].code.begin(), ping.beams[0].code.end(), std::uint16_t{0});
            scan.push({std::move(ping), std::nullopt, {}});
        }
        const auto &b = scan.bottom(60);
        ASSERT_TRUE(b.found);
        EXPECT_NEAR(b.port_m, deaf ? 5.1 : 5.0, 0.05) << deaf;
        EXPECT_NEAR(b.starboard_m, 5.2, 0.05) << deaf;
        EXPECT_NEAR(b.altitude_m, 5.2, 0.08) << "the farther side stands for the depth under the boat";
    }
}

TEST(BottomTracker, FindsANewBottomAfterAStep) {
    std::mt19937 random(2);
    Scan scan;
    for (int i = 0; i < 260; ++i)
        scan.push({water_and_bottom(i < 100 ? 3.0 : 9.0, random), std::nullopt, {}});
    EXPECT_NEAR(scan.bottom(90).altitude_m, 3, 0.12);
    EXPECT_NEAR(scan.newest().bottom.altitude_m, 9, 0.15);
}

TEST(BottomTracker, SaysNothingOverNoise) {
    std::mt19937 random(3);
    Scan scan;
    for (int i = 0; i < 60; ++i) {
        auto p = water_and_bottom(1, random);
        for (auto &b : p.beams)
            for (auto &c : b.code)
                c = static_cast<std::uint16_t>(100 + random() % 5);
        scan.push({std::move(p), std::nullopt, {}});
    }
    EXPECT_FALSE(scan.newest().bottom.found);
}

// Speckle alone rises by a few decibels here and there, and a path can always be found through it.
TEST(BottomTracker, SaysNothingOverSpeckleNorWhereTheBottomBeginsWithThePulse) {
    std::mt19937 random(5);
    std::exponential_distribution<double> speckle(1);
    for (const bool aground : {false, true}) {
        Scan scan;
        int found = 0;
        for (int i = 0; i < 200; ++i) {
            auto p = water_and_bottom(1, random);
            for (auto &b : p.beams)
                for (std::size_t k = 0; k < b.code.size(); ++k) {
                    // Aground: the bottom's sound from the pulse on, falling into noise at 6 m.
                    const double level =
                        aground ? std::max(60.0, 160 - 17 * static_cast<double>(k) * 0.025) : 60;
                    b.code[k] = static_cast<std::uint16_t>(std::clamp(
                        level + 10 / 0.3 * std::log10(std::max(1e-4, speckle(random))), 0.0, 255.0));
                }
            scan.push({std::move(p), std::nullopt, {}});
            found += i > 20 && scan.newest().bottom.found;
        }
        EXPECT_LE(found, 9) << aground;
    }
}

// The recording of another maker; its depth sounder (DPT, once every half second) is the judge.
TEST(BottomTracker, AgreesWithTheSoundersOwnDepthOnTheSample) {
    auto r = read_recording(test::sample());
    ASSERT_TRUE(r);
    Scan scan;
    for (auto &p : r->pings)
        scan.push({std::move(p), std::nullopt, {}});
    double sum = 0;
    int n = 0;
    for (auto i = scan.first(); i < scan.end(); ++i) {
        const auto d = r->head.nav.depth_at(scan.facts(i).time);
        if (!d || !scan.bottom(i).found)
            continue;
        sum += std::fabs(scan.bottom(i).altitude_m - d->below_transducer_m);
        ++n;
    }
    ASSERT_GT(n, 600);
    EXPECT_LT(sum / n, 0.15);
}

// The matrices against the published white and red of OKLab (Ottosson 2020): white L = 1, a = b = 0; red L =
// 0.628, from memory.
TEST(ColourMap, OkLabOfWhiteAndRed) {
    const auto white = oklab_of({255, 255, 255}), red = oklab_of({255, 0, 0});
    EXPECT_NEAR(white.lightness, 1, 1e-4);
    EXPECT_NEAR(white.a, 0, 1e-4);
    EXPECT_NEAR(red.lightness, 0.628, 1e-3);
    for (int v = 0; v < 256; v += 5) {
        const Rgb c{static_cast<std::uint8_t>(v), static_cast<std::uint8_t>(255 - v),
                    static_cast<std::uint8_t>(v / 2)};
        EXPECT_EQ(rgb_of(oklab_of(c)), c);
    }
}

TEST(ColourMap, AllMapsRiseInLightnessStepByStep) {
    std::ifstream file(HERON_SOURCE "/data/tokens.json");
    const auto tokens = nlohmann::json::parse(file);
    int maps = 0;
    for (const auto &[name, map] : tokens["sonar_maps"].items()) {
        std::vector<Rgb> stops;
        for (const auto &s : map["stops"])
            stops.push_back(*rgb_from_hex(s.get<std::string>()));
        EXPECT_EQ(stops.size(), 9u);
        const ColourMap made(stops);
        double last = -1;
        for (const auto argb : made.table()) {
            const double l = oklab_of({static_cast<std::uint8_t>(argb >> 16),
                                       static_cast<std::uint8_t>(argb >> 8), static_cast<std::uint8_t>(argb)})
                                 .lightness;
            EXPECT_GT(l, last - 0.004) << name; // rounding to 8 bits may step back by less than an eye sees
            last = l;
        }
        ++maps;
    }
    EXPECT_EQ(maps, 4);
}

TEST(PaintSide, KeepsASingleBrightSampleWhereItIs) {
    Ping p;
    p.sound_speed_m_s = 1480;
    p.sample_interval_s = 2 * 0.02 / 1480; // 2 cm a sample
    Beam b;
    b.scale = {0, 1, -1, 1 << 17};
    b.code.assign(1000, 10);
    b.code[500] = 60; // at 10.00 m
    const DisplayWindow window{0, 100};
    // Wider pixels than samples: the mean of five; narrower: the sample itself.
    std::vector<std::uint8_t> coarse(200), fine(4000);
    paint_side(p, b, 20, window, coarse);
    paint_side(p, b, 20, window, fine);
    EXPECT_EQ(std::max_element(coarse.begin(), coarse.end()) - coarse.begin(),
              100 - 1 + (coarse[100] > coarse[99]));
    const auto bright = std::max_element(fine.begin(), fine.end()) - fine.begin();
    EXPECT_NEAR(static_cast<double>(bright) * 20 / 4000, 10.0, 0.02);
    EXPECT_EQ(fine[100], 25); // 10 dB of 100
}

TEST(PaintSide, BeyondTheDataIsNothing) {
    std::mt19937 random(1);
    const auto p = water_and_bottom(3, random);
    std::vector<std::uint8_t> out(400);
    paint_side(p, p.beams[0], 45, {0, 40}, out); // the data end at 22.5 m
    EXPECT_GT(out[100], 0);
    EXPECT_EQ(out[300], 0);
}

TEST(Scan, KeepsTheNumbersOfItsRowsWhenItLetsOldOnesGo) {
    std::mt19937 random(1);
    Scan scan(1 << 20);
    for (int i = 0; i < 600; ++i) {
        auto p = water_and_bottom(4, random);
        p.time = i;
        scan.push({std::move(p), std::nullopt, {}});
    }
    EXPECT_EQ(scan.end(), 600u);
    EXPECT_GT(scan.first(), 0u);
    EXPECT_EQ(scan.facts(scan.first()).time, static_cast<UnixNs>(scan.first()));
    EXPECT_FALSE(scan.holds(scan.first() - 1));
}

// What a device adds is no part of what is shown: window, picture, chip and overview are the same whatever
// gain the pings tell, and the bottom lies in the middle of the scale.
TEST(LevelHistogram, TheDevicesGainIsNoPartOfWhatIsShown) {
    struct Shown {
        DisplayWindow window;
        std::vector<std::uint8_t> side, chip;
        OverviewLine line;
        std::vector<float> levels;
    };
    const auto shown_at = [](double gain_db) {
        std::mt19937 random(1);
        Scan scan;
        LevelHistogram levels;
        Overview overview;
        for (int i = 0; i < 100; ++i) {
            auto p = water_and_bottom(4, random);
            for (auto &b : p.beams) {
                b.scale.db_at_zero += gain_db;
                b.gain_db += gain_db;
            }
            overview.add(p);
            scan.push({std::move(p), std::nullopt, {}});
            levels.add(scan.ping(scan.end() - 1), scan.newest().bottom);
        }
        Shown s;
        s.window = levels.fitting_window();
        s.side.resize(300);
        const auto &ping = scan.ping(50);
        paint_side(ping, ping.beams[0], 20, s.window, s.side);
        s.chip = cut_chip(scan, 50, ping.beams[0].side, 12, s.window, 40, 30).level;
        s.line = overview.lines(0).at(2);
        row_levels(ping, ping.beams[0], scan.bottom(50), {}, AngleLevels(), nullptr, nullptr, 0, s.levels);
        return s;
    };
    const auto plain = shown_at(0);
    for (const double gain_db : {20.0, -14.0, 60.0}) {
        const auto s = shown_at(gain_db);
        EXPECT_NEAR(s.window.floor_db, plain.window.floor_db, 0.01) << gain_db;
        EXPECT_NEAR(s.window.span_db, plain.window.span_db, 0.01) << gain_db;
        EXPECT_EQ(s.line, plain.line) << gain_db;
        ASSERT_EQ(s.levels.size(), plain.levels.size());
        for (std::size_t k = 0; k < s.levels.size(); ++k)
            EXPECT_NEAR(s.levels[k], plain.levels[k], 1e-3);
        for (std::size_t k = 0; k < s.side.size(); ++k)
            EXPECT_NEAR(s.side[k], plain.side[k], 1);
        for (std::size_t k = 0; k < s.chip.size(); ++k)
            EXPECT_NEAR(s.chip[k], plain.chip[k], 1);
        std::vector<float> bottom;
        for (std::size_t k = 0; k < s.levels.size(); ++k)
            if (s.levels[k] == s.levels[k])
                bottom.push_back(s.levels[k]);
        std::nth_element(bottom.begin(), bottom.begin() + std::ssize(bottom) / 2, bottom.end());
        EXPECT_GT(s.window.level_of(static_cast<double>(bottom[bottom.size() / 2])), 80) << gain_db;
        EXPECT_LT(s.window.level_of(static_cast<double>(bottom[bottom.size() / 2])), 200) << gain_db;
    }
}

TEST(LevelHistogram, TheWindowShowsBottomInTheMiddleAndClipsLittle) {
    std::mt19937 random(1);
    Scan scan;
    LevelHistogram levels;
    for (int i = 0; i < 100; ++i) {
        scan.push({water_and_bottom(4, random), std::nullopt, {}});
        levels.add(scan.ping(scan.end() - 1), scan.newest().bottom);
    }
    const auto w = levels.fitting_window();
    const double middle = levels.bottom_quantile_db(0.5);
    EXPECT_GT(w.level_of(middle), 80);
    EXPECT_LT(w.level_of(middle), 200);
    EXPECT_LT(w.level_of(12 * 0.3), 40); // the water is dark
}
