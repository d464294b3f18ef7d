#include "screen/straighten.hpp"

#include "programs.hpp"
#include "screen/sighting.hpp"

#include <cmath>
#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>
#include <sstream>

using namespace heron;
using testing::HasSubstr;

namespace {

ScreenCalibration some_calibration() {
    ScreenCalibration c;
    c.source = "bow screen";
    c.width = 640;
    c.height = 480;
    c.corners = {Pixel{40, 30}, {600, 30}, {600, 450}, {40, 450}};
    c.newest = NewestAt::bottom;
    c.middle = 0.4;
    c.range_m = 30;
    c.along_m = 0.1;
    c.depth_m = 4.2;
    c.ramp = {{0, 0, 0}, {255, 240, 200}};
    c.start = KnownStart{{46.5, -21.25}, 75};
    return c;
}

} // namespace

TEST(ScreenCalibration, GoesThroughItsFileAndBack) {
    const auto c = some_calibration();
    const auto back = calibration_from_json(calibration_to_json(c));
    ASSERT_TRUE(back) << back.error().line();
    EXPECT_EQ(*back, c);
    EXPECT_THAT(assumed_in(c), testing::Not(testing::Contains(HasSubstr("not known"))));
    auto bare = c;
    bare.start.reset();
    bare.along_m = 0;
    EXPECT_THAT(assumed_in(bare), testing::Contains(HasSubstr("lengths along it mean nothing")));
}

TEST(ScreenCalibration, WhatIsWrongIsNamed) {
    const auto good = calibration_to_json(some_calibration());
    const auto refused = [&](const std::string &from, const std::string &to) {
        auto bad = good;
        const auto at = bad.find(from);
        EXPECT_NE(at, std::string::npos) << from;
        bad.replace(at, from.size(), to);
        const auto c = calibration_from_json(bad);
        return c ? std::string() : c.error().line();
    };
    EXPECT_THAT(refused("\"range_m\": 30.0", "\"range_m\": -3"), HasSubstr("range_m"));
    EXPECT_THAT(refused("\"bottom\"", "\"below\""), HasSubstr("newest"));
    EXPECT_THAT(refused("\"corners\"", "\"corner\""), HasSubstr("corners"));
    EXPECT_THAT(refused("600.0", "-600.0"), HasSubstr("upper left")) << "corners the other way round";
    EXPECT_THAT(refused("#000000", "black"), HasSubstr("ramp"));
    EXPECT_THAT(refused("46.5", "99"), HasSubstr("latitude"));
    EXPECT_FALSE(calibration_from_json("").has_value());
    EXPECT_FALSE(calibration_from_json("[1,2]").has_value());
}

TEST(FuzzScreenCalibration, NoTextBreaksIt) {
    const auto good = calibration_to_json(some_calibration());
    std::mt19937 random(3);
    for (int i = 0; i < 5000; ++i) {
        auto bad = good;
        for (int n = 1 + static_cast<int>(random() % 5); n > 0; --n)
            bad[random() % bad.size()] = static_cast<char>(random() % 96 + 32);
        if (const auto c = calibration_from_json(bad)) {
            EXPECT_GT(c->range_m, 0);
            EXPECT_GE(panel_size(*c).width, 16);
        }
    }
}

// Four corners into four others, and back: the plane's projective map is its inverse's inverse.
RC_GTEST_PROP(Homography, TakesCornersWhereTheyBelongAndBack, ()) {
    std::array<Pixel, 4> from{Pixel{0, 0}, {800, 0}, {800, 500}, {0, 500}}, to;
    for (std::size_t i = 0; i < 4; ++i)
        to[i] = {from[i].x + *rc::gen::inRange(-120, 120), from[i].y + *rc::gen::inRange(-80, 80)};
    const auto there = homography(from, to), back = homography(to, from);
    for (std::size_t i = 0; i < 4; ++i) {
        const auto p = mapped(there, from[i]);
        RC_ASSERT(std::hypot(p.x - to[i].x, p.y - to[i].y) < 1e-6);
    }
    const Pixel any{static_cast<double>(*rc::gen::inRange(0, 800)),
                    static_cast<double>(*rc::gen::inRange(0, 500))};
    const auto again = mapped(back, mapped(there, any));
    RC_ASSERT(std::hypot(again.x - any.x, again.y - any.y) < 1e-6);
}

// The same eight equations solved by numpy.
TEST(Homography, AgreesWithNumpy) {
    const std::array<Pixel, 4> from{Pixel{0, 0}, {640, 0}, {640, 480}, {0, 480}},
        to{Pixel{31, 22}, {610, 44}, {590, 455}, {12, 470}};
    const auto h = homography(from, to);
    const auto ran = test::run("/usr/bin/python3 -c \"import numpy as n\n"
                               "f=[(0,0),(640,0),(640,480),(0,480)];t=[(31,22),(610,44),(590,455),(12,470)]\n"
                               "a=[];b=[]\n"
                               "for (x,y),(u,v) in zip(f,t):\n"
                               "  a+=[[x,y,1,0,0,0,-u*x,-u*y],[0,0,0,x,y,1,-v*x,-v*y]];b+=[u,v]\n"
                               "print(*n.linalg.solve(n.array(a,float),n.array(b,float)))\"");
    ASSERT_EQ(ran.code, 0) << ran.out;
    std::istringstream in(ran.out);
    for (std::size_t k = 0; k < 8; ++k) {
        double v = 0;
        ASSERT_TRUE(in >> v);
        EXPECT_NEAR(h[k], v, 1e-9 + 1e-9 * std::fabs(v));
    }
}

// A row and a column are where they were drawn, whichever way the picture scrolls.
TEST(Panel, TimeRunsDownAndPortComesFirst) {
    ScreenPicture f;
    f.width = 20;
    f.height = 30;
    f.pixels.resize(600);
    for (int y = 0; y < 30; ++y)
        for (int x = 0; x < 20; ++x)
            f.at(x, y) = {static_cast<std::uint8_t>(x), static_cast<std::uint8_t>(y), 0};
    const auto top = panel_of(f, NewestAt::top), bottom = panel_of(f, NewestAt::bottom),
               left = panel_of(f, NewestAt::left), right = panel_of(f, NewestAt::right);
    EXPECT_EQ(top.rows, 30);
    EXPECT_EQ(top.at(29, 3), (Rgb{3, 0, 0})) << "the newest row last";
    EXPECT_EQ(bottom.at(29, 3), (Rgb{3, 29, 0}));
    EXPECT_EQ(left.rows, 20);
    EXPECT_EQ(left.at(19, 4), (Rgb{0, 4, 0}));
    EXPECT_EQ(right.at(19, 4), (Rgb{19, 4, 0}));
}

namespace {

ScreenSighting kept_one(const test::Folder &folder) {
    ScreenSighting s;
    s.recording = folder.file("a.nc");
    s.original = "/pictures/evening 7.jpg";
    s.read_at = 1'780'000'000LL * ns_per_s;
    s.film = true;
    s.told = "at 0:04.0: the picture stood still for 4 s";
    s.calibration = some_calibration();
    return s;
}

} // namespace

TEST(ScreenSighting, IsKeptBesideItsRecordingAndFoundAgain) {
    const test::Folder folder;
    const auto s = kept_one(folder);
    EXPECT_TRUE(sightings_in(folder.file("")).empty());
    EXPECT_TRUE(sightings_in("/nowhere/at/all").empty());
    ASSERT_TRUE(keep(s));
    EXPECT_TRUE(sightings_in(folder.file("")).empty()) << "its recording is gone";
    std::ofstream(folder.file("a.nc")) << "a recording";
    const auto back = sighting_of(s.recording);
    ASSERT_TRUE(back) << back.error().line();
    EXPECT_EQ(*back, s);
    // The newest first; a note that cannot be read hides no other.
    auto later = s;
    later.recording = folder.file("b.nc");
    later.read_at += 60 * ns_per_s;
    std::ofstream(folder.file("b.nc")) << "a recording";
    ASSERT_TRUE(keep(later));
    std::ofstream(folder.file("c.nc")) << "a recording";
    std::ofstream(folder.file("c.nc.json")) << "{ no note";
    const auto all = sightings_in(folder.file(""));
    ASSERT_EQ(all.size(), 2u);
    EXPECT_EQ(all[0], later);
    EXPECT_EQ(all[1], s);
}

TEST(ScreenSighting, WhatIsNoNoteIsNamedAndNothingBreaksIt) {
    const test::Folder folder;
    ASSERT_TRUE(keep(kept_one(folder)));
    const auto text = test::contents(folder.file("a.nc.json"));
    const auto with = [&](const std::string &bytes) {
        std::ofstream(folder.file("a.nc.json"), std::ios::binary | std::ios::trunc) << bytes;
        return sighting_of(folder.file("a.nc"));
    };
    const auto changed = [&](const std::string &from, const std::string &to) {
        auto t = text;
        const auto at = t.find(from);
        EXPECT_NE(at, std::string::npos) << from;
        return t.replace(at, from.size(), to);
    };
    for (const auto &[from, to, entry] : {std::tuple{"\"/pictures/evening 7.jpg\"", "\"\"", "original"},
                                          {"2026-", "noon-", "read_at"},
                                          {"true", "7", "form"},
                                          {"\"newest\": \"", "\"newest\": \"x", "calibration"}}) {
        const auto refused = with(changed(from, to));
        ASSERT_FALSE(refused) << from;
        EXPECT_THAT(refused.error().line(), testing::HasSubstr(entry));
    }
    std::mt19937 random(5);
    for (int i = 0; i < 400; ++i) {
        auto bytes = text;
        for (auto n = 1 + random() % 6; n > 0; --n)
            bytes[random() % bytes.size()] = static_cast<char>(random());
        if (i % 4 == 0)
            bytes.resize(random() % bytes.size());
        (void)with(bytes);
    }
}
