#include "screen/film.hpp"
#include "screen/hand.hpp"
#include "screen/newest.hpp"

#include "programs.hpp"
#include "reading/reader.hpp"
#include "screens.hpp"

#include <cmath>
#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

using namespace heron;
using test::heard_on_ellemoor;
using testing::Contains;
using testing::HasSubstr;

namespace {

// Which of the pings a row shows, about where it should be: the one most like it.
std::ptrdiff_t ping_shown(const LevelRow &row, const sim::SimulatedScreen &screen, std::ptrdiff_t about) {
    std::ptrdiff_t best = -1;
    double least = 1e18;
    const auto &c = screen.calibration();
    const double columns = static_cast<double>(row.size()), middle = c.middle * columns;
    const double metres = c.range_m / std::max(middle, columns - middle);
    for (auto i = std::max<std::ptrdiff_t>(0, about - 6); i <= about + 6; ++i) {
        if (i >= std::ssize(screen.pings()))
            break;
        const auto &ping = screen.pings()[static_cast<std::size_t>(i)];
        double off = 0;
        for (std::size_t k = 4; k + 4 < row.size(); ++k) {
            const double x = static_cast<double>(k) + 0.5 - middle;
            const auto *beam = ping.beam(x < 0 ? Side::port : Side::starboard);
            const auto at = static_cast<std::size_t>(std::max(0.0, ping.sample_at(std::fabs(x) * metres)));
            if (beam != nullptr && at < beam->code.size() && row[k] >= 0)
                off += std::fabs(row[k] - static_cast<double>(beam->code[at]));
        }
        if (off < least) {
            least = off;
            best = i;
        }
    }
    return best;
}

// Pixels of the panel along the track.
double panel_rows(const ScreenCalibration &c) {
    const auto size = panel_size(c);
    return c.across_is_level() ? size.height : size.width;
}

} // namespace

// From two to sixty rows from one picture to the next, in every layout: each ping's row once, in order.
TEST(Film, RowsAreTakenOnceAndInOrder) {
    int tried = 0;
    for (const int scroll : {2, 7, 23, 60}) {
        sim::ScreenOptions o;
        o.layout = tried % 5;
        o.map = tried % 4;
        ++tried;
        sim::SimulatedScreen screen(heard_on_ellemoor(), o);
        screen.advance(700);
        std::vector<LevelRow> rows;
        std::vector<double> times;
        FilmTaker taker(screen.calibration(), [&](const LevelRow &row, double s) {
            rows.push_back(row);
            times.push_back(s);
        });
        const int pictures = scroll >= 23 ? 14 : 30;
        for (int i = 0; i < pictures; ++i) {
            taker.add(screen.shown(), i / 30.0);
            if (i + 1 < pictures)
                screen.advance(scroll);
        }
        const auto expected = static_cast<std::size_t>(scroll * (pictures - 1));
        EXPECT_EQ(rows.size(), expected) << "scroll " << scroll << " layout " << o.layout;
        std::size_t right = 0;
        const auto first = std::ssize(screen.pings()) - static_cast<std::ptrdiff_t>(expected);
        for (std::size_t i = 0; i < rows.size(); ++i)
            right += ping_shown(rows[i], screen, first + static_cast<std::ptrdiff_t>(i)) ==
                     first + static_cast<std::ptrdiff_t>(i);
        EXPECT_GE(static_cast<double>(right), 0.98 * static_cast<double>(expected)) << "scroll " << scroll;
        EXPECT_TRUE(std::is_sorted(times.begin(), times.end()));
        EXPECT_NEAR(times.back(), (pictures - 1) / 30.0, 1e-9);
        EXPECT_TRUE(taker.facts().warnings.empty()) << taker.facts().warnings.front();
    }
}

// A stick on a video output and a phone scale the unit's pixels: rows then come in parts of a pixel, and as
// many are taken as the panel scrolls by, neither rounded up nor down at every picture.
TEST(Film, PartsOfARowNeitherAddUpNorGetLost) {
    for (const auto &[scale, scroll] : {std::pair{0.87, 3}, {1.5, 3}, {1.13, 2}, {0.71, 9}}) {
        sim::ScreenOptions o;
        o.layout = 2;
        sim::SimulatedScreen screen(heard_on_ellemoor(), o);
        screen.advance(720);
        auto first = screen.calibration();
        (void)sim::scaled(screen.shown(), first, scale);
        std::size_t rows = 0;
        FilmTaker taker(first, [&](const LevelRow &, double) { ++rows; });
        constexpr int pictures = 45;
        for (int i = 0; i < pictures; ++i) {
            auto c = screen.calibration();
            taker.add(sim::scaled(screen.shown(), c, scale), i / 30.0);
            if (i + 1 < pictures)
                screen.advance(scroll);
        }
        const double expected = scroll * scale * (pictures - 1);
        EXPECT_NEAR(static_cast<double>(rows), expected, 0.02 * expected) << scale << " x " << scroll;
        EXPECT_TRUE(taker.facts().warnings.empty()) << taker.facts().warnings.front();
    }
}

// Filmed by hand: the screen wanders, rolls and tilts, its rows are read one after another by the camera,
// with blur, glare, grain and moiré. What stands about the panel tells where it lies.
TEST(Film, FromAHandRowsAreTakenOnceAndInOrderToo) {
    for (const auto &[layout, scroll] : {std::pair{0, 3}, {1, 4}, {2, 2}, {4, 9}, {5, 3}}) {
        sim::ScreenOptions o;
        o.layout = layout;
        sim::SimulatedScreen screen(heard_on_ellemoor(), o);
        screen.advance(820);
        auto c = screen.calibration();
        const double own = panel_rows(c);
        const auto seed = static_cast<unsigned>(layout) + 3;
        const auto first = sim::filmed_by_hand(screen.shown(), c.corners, seed, 0);
        c.width = first.width;
        c.height = first.height;
        c.ramp.clear();
        HandFollower hand(c);
        std::size_t rows = 0, found = 0;
        FilmTaker taker(c, [&](const LevelRow &, double) { ++rows; });
        double farthest = 0, off = 0;
        constexpr int pictures = 60;
        for (int i = 0; i < pictures; ++i) {
            auto there = screen.calibration().corners;
            const auto picture = sim::filmed_by_hand(screen.shown(), there, seed, i / 30.0);
            const auto onto = hand.next(picture);
            found += onto.has_value();
            ASSERT_TRUE(onto) << "layout " << layout << " at " << i;
            for (std::size_t k = 0; k < 4; ++k) {
                const auto told = mapped(*onto, c.corners[k]);
                off = std::max(off, std::hypot(told.x - there[k].x, told.y - there[k].y));
                farthest =
                    std::max(farthest, std::hypot(c.corners[k].x - there[k].x, c.corners[k].y - there[k].y));
            }
            taker.add(picture, i / 30.0, onto);
            if (i + 1 < pictures)
                screen.advance(scroll);
        }
        const double expected = scroll * (pictures - 1) * panel_rows(c) / own;
        EXPECT_NEAR(static_cast<double>(rows), expected, 0.02 * expected) << layout;
        EXPECT_GT(farthest, 8) << "the hand shakes";
        // Worst where marks stand on two sides of the panel only.
        EXPECT_LT(off, 0.4 * farthest) << layout;
        EXPECT_TRUE(taker.facts().warnings.empty()) << taker.facts().warnings.front();
    }
}

TEST(Film, APauseAMenuAndACutAreTold) {
    sim::SimulatedScreen screen(heard_on_ellemoor(), {});
    screen.advance(710);
    std::vector<LevelRow> rows;
    FilmTaker taker(screen.calibration(), [&](const LevelRow &row, double) { rows.push_back(row); });
    double t = 0;
    const auto go_on = [&](int pictures, int scroll) {
        for (int i = 0; i < pictures; ++i) {
            taker.add(screen.shown(), t);
            t += 1 / 30.0;
            if (scroll > 0)
                screen.advance(scroll);
        }
    };
    go_on(10, 4);
    go_on(120, 0); // four seconds without a new row
    go_on(10, 4);
    EXPECT_THAT(taker.facts().warnings, Contains(HasSubstr("stood still for 4 s")));
    screen.open_menu(true);
    go_on(10, 4);
    screen.open_menu(false);
    EXPECT_THAT(taker.facts().warnings, Contains(HasSubstr("lies under something")));
    const auto covered = std::count_if(
        rows.begin(), rows.end(), [](const LevelRow &r) { return std::count(r.begin(), r.end(), -1) > 0; });
    EXPECT_GT(covered, 20);
    go_on(4, 4);
    screen.advance(720); // an advert in between: all else is new
    go_on(10, 4);
    EXPECT_THAT(taker.facts().warnings, Contains(HasSubstr("nothing of the picture before is found again")));
    const auto before = rows.size();
    go_on(5, 4);
    EXPECT_EQ(rows.size(), before + 20) << "and it goes on";
}

TEST(Film, WhatIsNoneIsRefusedInWords) {
    const test::Folder folder;
    const auto said = [&](const std::string &name, const std::string &bytes) {
        std::ofstream(folder.file(name), std::ios::binary) << bytes;
        const auto r = record_film(folder.file(name), {}, folder.file("out.nc"));
        EXPECT_FALSE(std::filesystem::exists(folder.file("out.nc")));
        return r ? std::string("taken") : r.error().line();
    };
    EXPECT_THAT(said("a.mp4", "no film"), HasSubstr("no film"));
    EXPECT_THAT(said("b.avi", ""), HasSubstr("no film"));
    EXPECT_FALSE(record_film(folder.file("none.avi"), {}, folder.file("out.nc")).has_value());
}

// A film written and read back by way of its file, compressed: what is found on it against what the scene's
// own recording tells.
TEST(Film, ReadingItFindsWhatTheRecordingHolds) {
    const test::Folder folder;
    const std::string bin = HERON_BIN;
    auto ran =
        test::run(bin + "/heron-screens " HERON_LAKES "/ellemoor.json " + folder.file("f.avi") +
                  " --layout 3 --map 1 --rows 760 --scroll 8 --pictures 130 --rate 2.5 --calibration " +
                  folder.file("c.json"));
    ASSERT_EQ(ran.code, 0) << ran.out;
    ran = test::run(bin + "/heron film " + folder.file("f.avi") + " --calibration " + folder.file("c.json") +
                    " --recording " + folder.file("f.nc") + " --start 2026-06-01T06:00:00Z");
    ASSERT_EQ(ran.code, 0) << ran.out;
    const auto film = read_recording(folder.file("f.nc"));
    ASSERT_TRUE(film) << film.error().line();
    EXPECT_NEAR(static_cast<double>(film->pings.size()), 8 * 129, 0.02 * 8 * 129);
    EXPECT_THAT(film->head.summary, HasSubstr("Assumed"));
    // Ended on the way, as a device is: what came before is whole.
    const auto calibration = calibration_from_json(test::contents(folder.file("c.json")));
    ASSERT_TRUE(calibration);
    FilmOptions ended;
    ended.calibration = *calibration;
    ended.enough = [pictures = 0]() mutable { return ++pictures > 60; };
    const auto some = record_film(folder.file("f.avi"), ended, folder.file("some.nc"));
    ASSERT_TRUE(some) << some.error().line();
    EXPECT_EQ(some->pictures, 61u);
    EXPECT_THAT(some->warnings, testing::Contains(HasSubstr("what came before was kept")));
    EXPECT_NEAR(static_cast<double>(read_recording(folder.file("some.nc"))->pings.size()), 8 * 60, 10);
    // The same rows as sounded.
    sim::ScreenOptions o;
    o.layout = 3;
    o.map = 1;
    sim::SimulatedScreen screen(heard_on_ellemoor(), o);
    screen.advance(760 + 8 * 129);
    const auto read = [](auto begin, auto end, const NavTrack &nav) {
        Scan scan;
        scan.nav = nav;
        for (auto i = begin; i != end; ++i)
            scan.push({*i, std::nullopt, {}});
        Reader reader;
        return join_contacts(reader.advance(scan, true), 0.5);
    };
    const auto own = read(screen.pings().begin() + 760, screen.pings().end(), screen.nav());
    const auto filmed = read(film->pings.begin(), film->pings.end(), film->head.nav);
    ASSERT_GT(own.size(), 5u);
    std::size_t found = 0, told = 0;
    const auto same = [](const Contact &a, const Contact &b) {
        return std::fabs(static_cast<double>(a.row) - static_cast<double>(b.row)) < 25 && a.side == b.side &&
               std::fabs(a.slant_m - b.slant_m) < 1.2;
    };
    const auto on_both = [](const Contact &c) {
        // This layout shows port's side to nine sixteenths of the range only.
        return c.side == Side::starboard || c.slant_m < 13.5;
    };
    std::size_t shown = 0;
    for (const auto &c : own)
        if (on_both(c)) {
            ++shown;
            found += std::any_of(filmed.begin(), filmed.end(), [&](const Contact &f) { return same(c, f); });
        }
    for (const auto &f : filmed)
        told += std::any_of(own.begin(), own.end(), [&](const Contact &c) { return same(c, f); });
    EXPECT_GE(static_cast<double>(found), 0.8 * static_cast<double>(shown)) << found << " of " << shown;
    EXPECT_GE(static_cast<double>(told), 0.7 * static_cast<double>(filmed.size()))
        << told << " of " << filmed.size();
}

// What a still does not tell, on all layouts, those that nothing was made by among them.
TEST(Film, TheEdgeAtWhichRowsComeInIsSeenByHowItScrolls) {
    for (int layout = 0; layout < 7; ++layout) {
        sim::ScreenOptions o;
        o.layout = layout;
        o.map = layout % 4;
        sim::SimulatedScreen screen(heard_on_ellemoor(), o);
        screen.advance(150);
        auto c = screen.calibration();
        const auto truth = std::exchange(c.newest, NewestAt::top);
        std::vector<ScreenPicture> pictures{screen.shown()}, still;
        still.assign(4, pictures.front());
        for (int i = 0; i < 4; ++i) {
            screen.advance(5);
            pictures.push_back(screen.shown());
        }
        const auto found = newest_of(pictures, c);
        ASSERT_TRUE(found) << layout;
        EXPECT_EQ(*found, truth) << layout;
        EXPECT_FALSE(newest_of(still, c)) << layout;
    }
    EXPECT_FALSE(newest_of({}, {}));
}
