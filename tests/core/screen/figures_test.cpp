// Figures on a screen: what words mean, what is read of the stand-in's screens, what is left out; and a
// receiver beside a film.
#include "screen/film.hpp"

#include "programs.hpp"
#include "recording/recording.hpp"
#include "screen/straighten.hpp"
#include "screens.hpp"
#include "units/units.hpp"

#include <cmath>
#include <fmt/format.h>
#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

using namespace heron;
using test::ellemoor;
using test::heard_on_ellemoor;
using testing::HasSubstr;
using Of = FigureBox::Of;

namespace {

// Where layout 0 writes its figures.
std::vector<FigureBox> boxes() {
    return {{Of::depth, {10, 28}, {150, 58}, "ft"},
            {Of::speed, {160, 28}, {300, 58}, "mph"},
            {Of::heading, {310, 28}, {400, 58}, ""},
            {Of::position, {610, 28}, {930, 58}, ""}};
}

std::optional<double> value(const std::string &words, Of of, const std::string &unit = "") {
    const auto f = figure_of_words(words, {of, {}, {}, unit});
    return f ? std::optional(f->value) : std::nullopt;
}

} // namespace

TEST(Figures, WordsMeanWhatStandsInThem) {
    EXPECT_NEAR(value("11.4 ft", Of::depth, "m").value(), 11.4 * 0.3048, 1e-9) << "the unit beside it holds";
    EXPECT_NEAR(value("11,4", Of::depth, "m").value(), 11.4, 1e-9);
    EXPECT_NEAR(value("3.0 kts", Of::speed, "mph").value(), 3.0 * 1852 / 3600, 1e-9);
    EXPECT_NEAR(value("10 km/h", Of::speed).value(), 10 / 3.6, 1e-9);
    EXPECT_EQ(value("071", Of::heading), 71);
    EXPECT_FALSE(value("371", Of::heading));
    EXPECT_FALSE(value("12", Of::depth)) << "metres or feet?";
    EXPECT_FALSE(value("", Of::depth, "m"));
    EXPECT_FALSE(value("--", Of::speed, "kn"));
    EXPECT_FALSE(value("9999", Of::depth, "m"));
    EXPECT_FALSE(value(std::string(500, '1'), Of::depth, "m"));
    const auto place = [](const std::string &words) {
        return figure_of_words(words, {Of::position, {}, {}, ""});
    };
    // 46° 30.123' is 46.50205°.
    for (const char *words :
         {"46.50205N 21.25000W", "N 46.50205 W 21.25", "46 30.123'N\n021 15.000'W", "46.50205 -21.25"}) {
        const auto f = place(words);
        ASSERT_TRUE(f) << words;
        EXPECT_NEAR(f->place->latitude_deg, 46.50205, 1e-6) << words;
        EXPECT_NEAR(f->place->longitude_deg, -21.25, 1e-6) << words;
    }
    for (const char *words : {"46.5N", "95.0N 21.0W", "46.5N 221.0W", "46 75.0N 21 10.0W", "hello"})
        EXPECT_FALSE(place(words)) << words;
}

// By day and by night, as saved and as photographed: 99 in 100 of what is told is right.
TEST(Figures, WhatIsToldOfTheStandInsScreensIsRight) {
    std::size_t told = 0, right = 0, asked = 0;
    for (const bool night : {false, true})
        for (const double by_hand : {0.0, 0.5}) {
            sim::ScreenOptions o;
            o.night = night;
            o.live_figures = true;
            sim::SimulatedScreen screen(heard_on_ellemoor(), o);
            screen.advance(60);
            auto reader = FigureReader::create(boxes());
            ASSERT_TRUE(reader) << reader.error().line();
            for (int second = 0; second < 25; ++second) {
                screen.advance(15);
                auto picture = screen.shown();
                auto drawn = boxes();
                if (by_hand > 0) {
                    // The boxes are drawn on the photograph, as a guide would.
                    const std::array<Pixel, 4> whole{Pixel{0, 0}, {1024, 0}, {1024, 768}, {0, 768}};
                    auto corners = whole;
                    picture = sim::photographed(picture, corners, 3, by_hand);
                    const auto h = homography(whole, corners);
                    for (auto &box : drawn) {
                        const auto a = mapped(h, box.from), d = mapped(h, box.to),
                                   e = mapped(h, {box.to.x, box.from.y}),
                                   f = mapped(h, {box.from.x, box.to.y});
                        box.from = {std::min(a.x, f.x), std::min(a.y, e.y)};
                        box.to = {std::max(d.x, e.x), std::max(d.y, f.y)};
                    }
                    if (second == 0) {
                        reader = FigureReader::create(drawn);
                        ASSERT_TRUE(reader);
                    }
                }
                const auto at = screen.pings().back().time / ns_per_s * ns_per_s;
                asked += 4;
                for (const auto &f : reader->read(picture, second)) {
                    ++told;
                    switch (f.of) {
                    case Of::depth:
                        right += std::fabs(f.value - screen.nav().depth_at(at)->below_transducer_m) < 0.02;
                        break;
                    case Of::speed:
                        right += std::fabs(f.value - *screen.nav().speed_at(at)) < 0.03;
                        break;
                    case Of::heading:
                        right +=
                            std::fabs(wrap_180(f.value - screen.nav().attitude_at(at)->heading_deg)) < 0.6;
                        break;
                    default:
                        right += leg_between(*f.place, screen.nav().position_at(at)->place).distance_m < 1.2;
                    }
                }
            }
        }
    EXPECT_GE(static_cast<double>(right), 0.99 * static_cast<double>(told)) << right << " of " << told;
    EXPECT_GE(static_cast<double>(told), 0.7 * static_cast<double>(asked)) << told << " of " << asked;
    RecordProperty("told", static_cast<int>(told));
    RecordProperty("right", static_cast<int>(right));
}

TEST(Figures, ALeapIsLeftOutUntilItIsReadTwice) {
    sim::ScreenOptions o;
    o.live_figures = true;
    sim::SimulatedScreen screen(heard_on_ellemoor(), o);
    screen.advance(60);
    const auto usual = screen.shown();
    sim::ScreenOptions fixed;
    sim::SimulatedScreen other(heard_on_ellemoor(), fixed); // its depth stands at 11.4 ft
    other.advance(60);
    const auto leapt = other.shown();
    auto reader = FigureReader::create({boxes()[0]});
    ASSERT_TRUE(reader);
    EXPECT_TRUE(reader->read(usual, 0).empty()) << "once is not enough";
    ASSERT_EQ(reader->read(usual, 1).size(), 1u);
    EXPECT_TRUE(reader->read(leapt, 2).empty()) << "no boat leaps so";
    EXPECT_EQ(reader->read(usual, 3).size(), 1u);
    EXPECT_TRUE(reader->read(leapt, 4).empty());
    const auto later = reader->read(leapt, 5.5);
    ASSERT_EQ(later.size(), 1u) << "in two seconds and a half it may have come so far";
    EXPECT_NEAR(later[0].value, metres_from_feet(11.4), 0.01);
    // Off the picture and of one colour: nothing.
    EXPECT_TRUE(reader->words(usual, {Of::depth, {5000, 5000}, {5100, 5050}, "m"}).words.empty());
    EXPECT_FALSE(reader->words(usual, {Of::depth, {945, 100}, {1020, 140}, "m"}).figure);
}

TEST(Figures, AFilmsFiguresAndAReceiversSentencesPlaceItsRows) {
    const test::Folder folder;
    const std::string bin = HERON_BIN;
    auto ran = test::run(
        bin + "/heron-screens " HERON_LAKES "/ellemoor.json " + folder.file("f.avi") +
        " --layout 0 --map 1 --rows 760 --scroll 4 --pictures 60 --rate 4 --live-figures --calibration " +
        folder.file("c.json"));
    ASSERT_EQ(ran.code, 0) << ran.out;
    auto c = calibration_from_json(test::contents(folder.file("c.json")));
    ASSERT_TRUE(c);
    c->figures = boxes();
    std::ofstream(folder.file("c.json")) << calibration_to_json(*c);
    const auto film = bin + "/heron film " + folder.file("f.avi") + " --calibration " +
                      folder.file("c.json") + " --recording " + folder.file("f.nc") +
                      " --start 2026-06-01T06:00:00Z";
    ran = test::run(film);
    ASSERT_EQ(ran.code, 0) << ran.out;
    EXPECT_THAT(ran.out, HasSubstr("position: "));
    const auto scene = ellemoor();
    auto read = read_recording(folder.file("f.nc"));
    ASSERT_TRUE(read) << read.error().line();
    ASSERT_GT(read->head.nav.positions().size(), 8u);
    EXPECT_LT(leg_between(read->head.nav.positions()[2].place, scene.origin).distance_m, 600)
        << "on the lake";
    EXPECT_GT(read->head.nav.depths().size(), 8u) << "kept as sentences";
    // A receiver's sentences take the place of what the screen says; another day's are refused.
    const auto log = [&](const char *name, const char *date) {
        std::ofstream out(folder.file(name));
        for (int s = 0; s < 30; ++s) {
            auto body = fmt::format("GPRMC,0600{:02}.00,A,4630.{:04},N,02115.0000,W,2.7,000.0,{},,,A", s,
                                    100 + 8 * s, date);
            unsigned sum = 0;
            for (const char ch : body)
                sum ^= static_cast<unsigned char>(ch);
            out << fmt::format("${}*{:02X}\r\n", body, sum);
        }
    };
    log("right.nmea", "010626");
    log("wrong.nmea", "010526");
    ran = test::run(film + " --nmea " + folder.file("right.nmea"));
    ASSERT_EQ(ran.code, 0) << ran.out;
    read = read_recording(folder.file("f.nc"));
    ASSERT_TRUE(read);
    const auto at = read->head.nav.position_at(*parse_rfc3339("2026-06-01T06:00:05Z"));
    ASSERT_TRUE(at);
    EXPECT_NEAR(at->place.latitude_deg, 46 + 30.014 / 60, 1e-5);
    std::filesystem::remove(folder.file("f.nc"));
    ran = test::run(film + " --nmea " + folder.file("wrong.nmea"));
    EXPECT_EQ(ran.code, 2);
    EXPECT_THAT(ran.out, HasSubstr("no place while the film runs"));
    EXPECT_FALSE(std::filesystem::exists(folder.file("f.nc")));
}

TEST(Figures, BoxesAreKeptAndBadOnesRefused) {
    ScreenCalibration c;
    c.width = 1024;
    c.height = 768;
    c.corners = {Pixel{0, 64}, {940, 64}, {940, 768}, {0, 768}};
    c.figures = boxes();
    const auto text = calibration_to_json(c);
    const auto back = calibration_from_json(text);
    ASSERT_TRUE(back) << back.error().line();
    EXPECT_EQ(back->figures, c.figures);
    for (const auto &[from, to, said] : {std::tuple{"\"depth\"", "\"mood\"", "none of depth"},
                                         {"\"mph\"", "\"ft\"", "no unit of speed"},
                                         {"610.0", "9610.0", "off the picture"}}) {
        auto bad = text;
        const auto at = bad.find(from);
        ASSERT_NE(at, std::string::npos) << from;
        bad.replace(at, std::string(from).size(), to);
        const auto read = calibration_from_json(bad);
        ASSERT_FALSE(read) << from;
        EXPECT_THAT(read.error().line(), HasSubstr(said));
    }
}
