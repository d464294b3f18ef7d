#include "screen/straighten.hpp"

#include "programs.hpp"

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
