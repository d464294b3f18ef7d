#include "screen/picture_reading.hpp"

#include "programs.hpp"
#include "reading/reader.hpp"
#include "recording/recording.hpp"
#include "recording/write_recording.hpp"
#include "screen/guess.hpp"
#include "screen/rows.hpp"
#include "screens.hpp"

#include <algorithm>
#include <cmath>
#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

using namespace heron;
using test::ellemoor;
using test::heard_on_ellemoor;
using testing::HasSubstr;

namespace {

struct Errors {
    std::vector<double> of_truth, of_recording; ///< heights, in units of what is asked
    std::vector<double> aside_share;            ///< side distances off the truth, of the range
    std::size_t in_recording = 0, found = 0;
};

// What is told on a picture: against the lake's stumps and boulders, and against what the pings themselves
// tell.
void compare(const sim::SimulatedScreen &screen, const sim::Scene &lake, const PictureReading &reading,
             double least_m, double share, Errors &e) {
    const LocalPlane plane(lake.origin);
    const auto rows = reading.first_return_m.size(), first = screen.pings().size() - rows;
    Scan scan;
    scan.nav = screen.nav();
    for (auto i = first; i < screen.pings().size(); ++i)
        scan.push({screen.pings()[i], std::nullopt, {}});
    Reader reader;
    const auto own = join_contacts(reader.advance(scan, true), 0.5);
    const double shown_m =
        screen.calibration().range_m * 0.55; // of the narrower side of the one-sided layout
    for (const auto &c : own)
        if (c.confidence > 0.8 && c.slant_m < shown_m) {
            ++e.in_recording;
            e.found +=
                std::any_of(reading.contacts.begin(), reading.contacts.end(), [&](const PictureContact &p) {
                    return p.contact.side == c.side && std::fabs(p.contact.slant_m - c.slant_m) < 1 &&
                           std::fabs(static_cast<double>(p.contact.row) - static_cast<double>(c.row)) < 20;
                });
        }
    std::vector<double> aside;
    for (const auto &[c, at] : reading.contacts) {
        if (c.large || c.family != Family::structure || !c.height_m)
            continue;
        for (const auto &o : own)
            if (o.side == c.side && !o.large && o.height_m && std::fabs(o.slant_m - c.slant_m) < 0.5 &&
                std::fabs(static_cast<double>(o.row) - static_cast<double>(c.row)) < 15)
                e.of_recording.push_back(std::fabs(c.height_m->value - o.height_m->value) /
                                         std::max(least_m, share * o.height_m->value));
        const auto fix = screen.nav().fix_at(screen.pings()[first + c.row].time);
        if (!fix)
            continue;
        const auto p = plane.to_plane(locate_sample(fix->pose, screen.installation(),
                                                    nominal_azimuth_deg(c.side), c.ground_m.value, 0.1)
                                          .place);
        const auto boat = plane.to_plane(transducer_place(fix->pose, screen.installation()));
        for (const auto &t : lake.truth)
            if (std::hypot(t.at.x - p.east_m, t.at.y - p.north_m) < 2 &&
                (t.kind == "stump" || t.kind == "boulder")) {
                e.of_truth.push_back(std::fabs(c.height_m->value - t.height_m) /
                                     std::max(least_m, share * t.height_m));
                aside.push_back((c.side == Side::port ? -1 : 1) *
                                (c.ground_m.value - std::hypot(t.at.x - boat.east_m, t.at.y - boat.north_m)));
            }
    }
    // What the receiver wanders shifts all of one picture alike.
    auto sorted = aside;
    std::sort(sorted.begin(), sorted.end());
    for (const double a : aside)
        e.aside_share.push_back(std::fabs(a - sorted[sorted.size() / 2]) / screen.calibration().range_m);
}

double share_under(const std::vector<double> &all, double limit) {
    return static_cast<double>(std::count_if(all.begin(), all.end(), [&](double v) { return v <= limit; })) /
           static_cast<double>(std::max<std::size_t>(1, all.size()));
}

struct Measured {
    Errors saved, photo;
};

// Layouts in four colour maps, day and night, as saved and as photographed by hand.
void measure_layouts(int first, int end, Measured &m) {
    const auto lake = ellemoor();
    auto &[saved, photo] = m;
    for (int layout = first; layout < end; ++layout) {
        sim::ScreenOptions o;
        o.layout = layout;
        o.map = layout % 4;
        o.night = layout % 2 == 1;
        sim::SimulatedScreen screen(heard_on_ellemoor(), o);
        screen.advance(1150);
        const auto shown = screen.shown();
        const auto reading = read_picture(shown, screen.calibration(), 1'780'000'000LL * ns_per_s, "saved");
        ASSERT_TRUE(reading) << reading.error().line();
        compare(screen, lake, *reading, 0.2, 0.15, saved);
        // Photographed: the corners are put down by hand, to a pixel or so; the colours are not known.
        auto c = screen.calibration();
        const auto picture = sim::photographed(shown, c.corners, 7 + static_cast<unsigned>(layout));
        c.width = picture.width;
        c.height = picture.height;
        c.ramp.clear();
        c.pixel_sd = 1;
        const auto by_hand = read_picture(picture, c, 1'780'000'000LL * ns_per_s, "photographed");
        ASSERT_TRUE(by_hand) << by_hand.error().line();
        compare(screen, lake, *by_hand, 0.3, 0.2, photo);
    }
    for (const auto &[e, within] : {std::pair{&saved, 0.03}, {&photo, 0.05}})
        std::printf("%zu heights: as the recording tells %.2f, true %.2f; side distance %.2f; found of the "
                    "recording's "
                    "%zu of %zu\n",
                    e->of_truth.size(), share_under(e->of_recording, 1), share_under(e->of_truth, 1),
                    share_under(e->aside_share, within), e->found, e->in_recording);
}

} // namespace

// The five layouts that were at hand while the reading of pictures was made.
TEST(ScreenPicture, WhatAScreenShowsIsMeasuredAsARecordingIs) {
    Measured m;
    ASSERT_NO_FATAL_FAILURE(measure_layouts(0, 5, m));
    const auto &[saved, photo] = m;
    ASSERT_GT(saved.of_truth.size(), 20u);
    ASSERT_GT(photo.of_truth.size(), 15u);
    EXPECT_GE(share_under(saved.of_recording, 1), 0.75);
    EXPECT_GE(share_under(photo.of_recording, 1), 0.75);
    EXPECT_GE(share_under(saved.aside_share, 0.03), 0.9);
    EXPECT_GE(share_under(photo.aside_share, 0.05), 0.9);
    EXPECT_GE(saved.found * 10, saved.in_recording * 8);
}

// And two that were drawn after it.
TEST(ScreenPicture, SoItIsOnLayoutsThatWereNotAtHand) {
    Measured m;
    ASSERT_NO_FATAL_FAILURE(measure_layouts(5, 7, m));
    const auto &[saved, photo] = m;
    ASSERT_GT(saved.of_truth.size(), 8u);
    EXPECT_GE(share_under(saved.of_recording, 1), 0.75);
    EXPECT_GE(share_under(photo.of_recording, 1), 0.75);
    EXPECT_GE(share_under(saved.aside_share, 0.03), 0.9);
    EXPECT_GE(share_under(photo.aside_share, 0.05), 0.9);
    EXPECT_GE(saved.found * 10, saved.in_recording * 8);
}

TEST(ScreenPicture, ThePanelItsMiddleAndTheFirstReturnAreSeenWithoutAHand) {
    int right = 0, edges = 0, all = 0;
    for (int layout = 0; layout < 5; ++layout)
        for (const int map : {layout % 2 == 0 ? 0 : 2}) {
            sim::ScreenOptions o;
            o.layout = layout;
            o.map = map;
            o.night = map == 2;
            sim::SimulatedScreen screen(heard_on_ellemoor(), o);
            screen.advance(1130);
            const auto shown = screen.shown();
            const auto guess = guess_screen(shown);
            ++all;
            ASSERT_TRUE(guess) << layout;
            EXPECT_FALSE(guess->photographed) << layout;
            auto c = screen.calibration();
            const auto truth = c;
            double off = 0;
            for (std::size_t i = 0; i < 4; ++i)
                off = std::max({off, std::fabs(guess->corners[i].x - truth.corners[i].x),
                                std::fabs(guess->corners[i].y - truth.corners[i].y)});
            edges += off <= 3;
            const bool level = guess->newest == NewestAt::top;
            if (level != c.across_is_level())
                continue;
            // The middle on the picture itself.
            const auto line = [](const ScreenCalibration &k) {
                const auto &a = k.corners[0], &b = k.corners[2];
                return k.across_is_level() ? a.x + k.middle * (b.x - a.x) : a.y + k.middle * (b.y - a.y);
            };
            c.corners = guess->corners;
            c.middle = guess->middle;
            const auto across =
                level ? truth.corners[1].x - truth.corners[0].x : truth.corners[3].y - truth.corners[0].y;
            if (std::fabs(line(c) - line(truth)) > 0.012 * across)
                continue;
            auto used = truth;
            used.ramp.clear();
            const auto reading = read_picture(shown, used, 0, "guessed");
            ASSERT_TRUE(reading);
            // 5.2 to 5.7 m of water under the boat, the transducer 0.3 m down.
            const auto &first = reading->first_return_m;
            const auto found =
                std::count_if(first.begin(), first.end(), [](double m) { return m > 4.5 && m < 6; });
            right += found * 10 > std::ssize(first) * 9;
        }
    EXPECT_GE(right, all * 8 / 10) << right << " of " << all;
    EXPECT_GE(edges, all * 8 / 10) << "figures beside the panel are none of it";
}

// All seven layouts were looked at while this was made, by other shakes of the hand.
TEST(ScreenPicture, ThePanelIsSeenOnAPhotograph) {
    for (const auto &[first, end] : {std::pair{0, 4}, {4, 7}}) {
        int right = 0, all = 0;
        for (int layout = first; layout < end; ++layout) {
            sim::ScreenOptions o;
            o.layout = layout;
            o.map = (layout + 1) % 4;
            o.night = layout % 3 == 1;
            sim::SimulatedScreen screen(heard_on_ellemoor(), o);
            screen.advance(1600); // the widest is full then
            const auto shown = screen.shown();
            for (const unsigned seed : {51u, 52u, 53u}) {
                auto truth = screen.calibration();
                const auto picture =
                    sim::photographed(shown, truth.corners, seed + 10 * static_cast<unsigned>(layout));
                const auto guess = guess_screen(picture);
                ++all;
                if (!guess)
                    continue;
                double off = 0;
                for (std::size_t i = 0; i < 4; ++i)
                    off = std::max(off, std::hypot(guess->corners[i].x - truth.corners[i].x,
                                                   guess->corners[i].y - truth.corners[i].y));
                right += guess->photographed && off < 0.005 * picture.width &&
                         (guess->newest == NewestAt::top) == truth.across_is_level() &&
                         std::fabs(guess->middle - truth.middle) < 0.015;
            }
        }
        std::printf("%d of %d photographs\n", right, all);
        EXPECT_GE(right * 10, all * 8) << right << " of " << all;
    }
}

TEST(ScreenPicture, ColoursComeBackAsLevels) {
    for (int map = 0; map < 4; ++map)
        for (const bool night : {false, true}) {
            const auto ramp = ramp_of(sim::screen_colours(map, night));
            EXPECT_TRUE(ramp.rises) << map;
            LevelOfColour level(ramp);
            for (std::size_t i = 0; i < ramp.colours.size(); ++i)
                EXPECT_NEAR(level(ramp.colours[i]),
                            255.0 * static_cast<double>(i) / (static_cast<double>(ramp.colours.size()) - 1),
                            9)
                    << map << ' ' << night << ' ' << i;
        }
    EXPECT_FALSE(ramp_of(sim::screen_colours(4, false)).rises);
}

TEST(ScreenPicture, ColoursThatDoNotRiseAreTold) {
    sim::ScreenOptions o;
    o.map = 4;
    sim::SimulatedScreen screen(heard_on_ellemoor(), o);
    screen.advance(900);
    auto c = screen.calibration();
    const auto told = read_picture(screen.shown(), c, 0, "odd");
    ASSERT_TRUE(told);
    EXPECT_THAT(told->warnings, testing::Contains(HasSubstr("do not grow lighter")));
}

TEST(ScreenPicture, WithoutAScaleAlongTheTrackLengthsAreLeftOut) {
    sim::SimulatedScreen screen(heard_on_ellemoor(), {});
    screen.advance(1200);
    auto c = screen.calibration();
    c.along_m = 0;
    c.rows_a_second = 0;
    const auto r = read_picture(screen.shown(), c, 0, "no scale");
    ASSERT_TRUE(r);
    ASSERT_FALSE(r->contacts.empty());
    for (const auto &[contact, at] : r->contacts) {
        EXPECT_FALSE(contact.length_m);
        EXPECT_FALSE(contact.place);
        EXPECT_TRUE(at.x >= 0 && at.x <= c.width && at.y >= 0 && at.y <= c.height);
    }
}

// What is read of it goes through a file: the way from row to row holds there too, without any place.
TEST(ScreenPicture, WithAScaleAlongTheTrackItsRecordingTellsASpeed) {
    const test::Folder folder;
    sim::SimulatedScreen screen(heard_on_ellemoor(), {});
    screen.advance(800);
    auto c = screen.calibration();
    c.start.reset();
    ASSERT_GT(c.along_m, 0);
    c.depth_m = 5.25;
    const auto rows = rows_of(screen.shown(), c, 1'780'000'000LL * ns_per_s, "a scale");
    ASSERT_TRUE(rows);
    ASSERT_TRUE(write_recording(folder.file("s.nc"), rows->recording.head, rows->recording.pings));
    const auto back = read_recording(folder.file("s.nc"));
    ASSERT_TRUE(back) << back.error().line();
    for (const auto i : {std::size_t{30}, back->pings.size() / 2, back->pings.size() - 2}) {
        const auto time = back->pings[i].time;
        const auto speed = back->head.nav.speed_at(time);
        ASSERT_TRUE(speed) << i;
        EXPECT_NEAR(*speed, c.along_m * c.rows_a_second, 0.01);
        ASSERT_TRUE(back->head.nav.depth_at(time)) << i;
        EXPECT_NEAR(back->head.nav.depth_at(time)->below_transducer_m, 5.25, 0.01);
    }
}

TEST(ScreenPicture, WhatIsNoneIsRefusedInWords) {
    const test::Folder folder;
    const auto refused = [&](const std::string &name, const std::string &bytes) {
        std::ofstream(folder.file(name), std::ios::binary) << bytes;
        const auto r = open_picture(folder.file(name));
        return r ? std::string("taken") : r.error().line();
    };
    EXPECT_THAT(refused("a.png", "no picture at all"), HasSubstr("no picture"));
    EXPECT_THAT(refused("b.jpg", ""), HasSubstr("no picture"));
    EXPECT_FALSE(open_picture(folder.file("none.png")).has_value());
    // A header that claims 40,000 by 40,000 pixels.
    std::string bomb("\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\x9c\x40\0\0\x9c\x40\x08\2\0\0\0", 29);
    bomb += std::string("\x7f\x3e\x6d\x2c", 4);
    EXPECT_NE(refused("bomb.png", bomb), "taken");
    // Cut short.
    sim::SimulatedScreen screen(heard_on_ellemoor(), {});
    screen.advance(200);
    ASSERT_TRUE(sim::write_picture(screen.shown(), folder.file("whole.jpg")));
    ASSERT_TRUE(open_picture(folder.file("whole.jpg")).has_value());
    std::ifstream in(folder.file("whole.jpg"), std::ios::binary);
    std::string whole{std::istreambuf_iterator<char>(in), {}};
    EXPECT_THAT(refused("short.jpg", whole.substr(0, whole.size() / 2)), HasSubstr("cut short"));
    std::mt19937 random(5);
    for (int i = 0; i < 150; ++i) {
        auto bad = whole;
        for (int n = 0; n < 8; ++n)
            bad[random() % bad.size()] = static_cast<char>(random());
        refused("fuzzed.jpg", bad); // whatever it says, it comes back
    }
}

// A picture of something else: grain all over and no first return is asked about, flat colour is refused.
TEST(ScreenPicture, APictureOfNoSonarSaysSo) {
    ScreenPicture flat;
    flat.width = 640;
    flat.height = 480;
    flat.pixels.assign(640 * 480, Rgb{90, 120, 80});
    EXPECT_FALSE(guess_screen(flat));
    ScreenCalibration c;
    c.width = 640;
    c.height = 480;
    c.corners = {Pixel{0, 0}, {640, 0}, {640, 480}, {0, 480}};
    EXPECT_FALSE(read_picture(flat, c, 0, "flat"));
    std::mt19937 random(9);
    auto noise = flat;
    for (auto &p : noise.pixels)
        p.red = p.green = p.blue = static_cast<std::uint8_t>(random() % 256);
    const auto r = read_picture(noise, c, 0, "noise");
    ASSERT_TRUE(r) << "grain alone is none that could be refused";
    EXPECT_LT(r->contacts.size(), 4u);
}
