// Reading the turns of a head: things of a lake of the stand-in found on the circle, standing and moving;
// turns joined; what cannot be seen is not told.
#include "programs.hpp"
#include "reading/sweep_reader.hpp"
#include "recording/nmea_feed.hpp"
#include "sim/sounder.hpp"

#include <cmath>
#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <numeric>

using namespace heron;

namespace {

const char *const lake =
    R"({"name":"basin","seed":11,"origin":{"latitude":46.5,"longitude":-21.25},"water":{"temperature_c":14},
 "terrain":{"size_m":[120,120],"depth_m":5,"ground":"sand","undulation_m":0.05},
 "things":[THINGS],
 "boat":{"route":[[60,50],[60,70],[64,70],[64,50]],"speed_m_s":0.9,"hold":{"at":[60,58],"heading_deg":0,"drift_m":0.6,"swing_deg":6}}})";
const char *const stones =
    R"({"kind":"boulder","at":[67,66],"length_m":1.3,"height_m":0.9},{"kind":"boulder","at":[51,62],"length_m":1.1,"height_m":0.8},
 {"kind":"stump","at":[53,70],"width_m":0.6,"height_m":0.9},{"kind":"fish","at":[65,55],"above_bottom_m":1.2,"length_m":0.6})";
const std::vector<EastNorth> places{{67, 66}, {51, 62}, {53, 70}, {65, 55}};

struct Turned {
    Scan scan;
    std::vector<Contact> contacts;
    std::vector<SweepView> views;
};

Turned turn(const std::string &things, bool hold, double seconds, double wide_deg = 360,
            bool sounds_depth = true) {
    std::string text = lake;
    text.replace(text.find("THINGS"), 6, things);
    auto scene = sim::read_scene(text, "basin");
    EXPECT_TRUE(scene);
    sim::Sounder sounder(std::move(*scene), 1'800'000'000LL * ns_per_s);
    auto side = sounder.settings();
    side.pinging = false;
    sounder.ask(side);
    auto head = sounder.head_settings();
    head.pinging = true;
    head.turning->wide_deg = wide_deg;
    head.turning->from_deg = wide_deg < 360 ? -wide_deg / 2 : 0;
    sounder.ask_head(head);
    if (hold)
        sounder.put_on_hold();
    Turned t;
    t.scan.installation = sounder.scene().boat.head_installation();
    NmeaFeed feed;
    while (true) {
        auto e = sounder.next();
        if (seconds_between(1'800'000'000LL * ns_per_s, e.time) > seconds)
            break;
        for (auto &line : e.sentences)
            if (sounds_depth || line.find("SDD") == std::string::npos)
                feed.take(line, e.time, t.scan.nav);
        if (e.ray)
            t.scan.push({std::move(e.ray->ping), std::nullopt, e.ray->settings});
    }
    SweepReader reader;
    const auto looks = reader.advance(t.scan, true);
    t.views = reader.views();
    t.contacts = join_sweeps(looks, t.views, 0.5);
    return t;
}

double nearest(const Turned &t, const EastNorth &place) {
    const LocalPlane plane({46.5, -21.25});
    double least = 99;
    for (const auto &c : t.contacts)
        if (c.place) {
            const auto at = plane.to_plane(c.place->place);
            least = std::min(least, std::hypot(at.east_m - place.east_m, at.north_m - place.north_m));
        }
    return least;
}

} // namespace

TEST(SweepReader, FindsWhatLiesAboutABoatThatHolds) {
    const auto t = turn(stones, true, 60);
    EXPECT_GE(t.views.size(), 3u);
    int found = 0;
    for (const auto &p : places)
        found += nearest(t, p) < 1.3;
    EXPECT_GE(found, 3) << "of four";
    EXPECT_LE(t.contacts.size(), 6u);
    for (const auto &c : t.contacts) {
        EXPECT_EQ(c.side, Side::around);
        EXPECT_FALSE(c.reasons.empty());
        EXPECT_TRUE(c.place);
        EXPECT_LE(c.looks, static_cast<int>(t.views.size()));
    }
    // What is there in every turn is one thing, seen in most of them.
    EXPECT_GE(std::max_element(t.contacts.begin(), t.contacts.end(),
                               [](const auto &a, const auto &b) { return a.looks < b.looks; })
                  ->looks,
              3);
}

TEST(SweepReader, FindsTheSameWhileItRuns) {
    const auto t = turn(stones, false, 60);
    int found = 0;
    for (const auto &p : places)
        found += nearest(t, p) < 1.5;
    EXPECT_GE(found, 3) << "of four";
    EXPECT_LE(t.contacts.size(), 7u);
}

TEST(SweepReader, EmptyGroundTellsNothing) {
    EXPECT_LE(turn("", true, 60).contacts.size(), 1u);
}

TEST(SweepReader, ASectorIsReadToo) {
    const auto t = turn(stones, true, 60, 150);
    ASSERT_GE(t.views.size(), 4u);
    EXPECT_NEAR(t.views[1].half_deg, 75, 3);
    EXPECT_LT(nearest(t, places[0]), 1.3) << "ahead";
    EXPECT_GT(nearest(t, places[3]), 2) << "what lies behind was not looked at";
}

TEST(SweepReader, WithoutADepthSounderTheRaysTellHowDeepItIs) {
    const auto t = turn(stones, true, 60, 360, false);
    std::vector<std::size_t> rows(200);
    std::iota(rows.begin(), rows.end(), std::size_t{0});
    const auto altitude = altitude_of_rays(t.scan, rows);
    ASSERT_TRUE(altitude);
    EXPECT_NEAR(*altitude, 4.6, 1.0);
    int found = 0;
    for (const auto &p : places)
        found += nearest(t, p) < 1.8;
    EXPECT_GE(found, 2) << "of four";
    EXPECT_LE(t.contacts.size(), 8u);
}

TEST(SweepReader, LiveAndAtOnceTellTheSame) {
    const auto t = turn(stones, true, 45);
    SweepReader live;
    Scan growing;
    growing.nav = t.scan.nav;
    growing.installation = t.scan.installation;
    std::vector<Contact> looks;
    for (std::size_t row = 0; row < t.scan.end(); ++row) {
        growing.push(t.scan.row(row));
        if (row % 97 == 0)
            for (auto &c : live.advance(growing, false))
                looks.push_back(std::move(c));
    }
    for (auto &c : live.advance(growing, true))
        looks.push_back(std::move(c));
    const auto joined = join_sweeps(looks, live.views(), 0.5);
    ASSERT_EQ(joined.size(), t.contacts.size());
    for (std::size_t i = 0; i < joined.size(); ++i)
        EXPECT_NEAR(joined[i].confidence, t.contacts[i].confidence, 0.05);
}

// Ten turns that saw a thing, and ten of which five did not: the second is believed less. From one spot ten
// turns are hardly more than one.
TEST(JoinSweeps, TurnsThatDidNotSeeItSpeakAgainstIt) {
    const LocalPlane plane({46.5, -21.25});
    const auto look = [&](std::uint16_t sweep, double real) {
        Contact c;
        c.side = Side::around;
        c.leg = sweep;
        c.row = sweep * 200u;
        c.chances[0] = 1 - real;
        c.chances[static_cast<std::size_t>(Kind::boulder)] = real;
        settle_kind(c);
        c.ground_m = {10, 0.2};
        c.place = LocatedPoint{plane.to_globe({10, 0}), {0.1, 0, 0.1}};
        return c;
    };
    std::vector<SweepView> here, moving;
    std::vector<Contact> all, half;
    for (std::uint16_t i = 0; i < 10; ++i) {
        SweepView v;
        v.sweep = i;
        v.range_m = 20;
        v.placed = true;
        v.head = plane.to_globe({0, 0});
        here.push_back(v);
        v.head = plane.to_globe({0, 3.0 * i - 13});
        moving.push_back(v);
        all.push_back(look(i, 0.75));
        if (i % 2 == 0)
            half.push_back(look(i, 0.75));
    }
    const auto sure = [](const std::vector<Contact> &joined) {
        EXPECT_EQ(joined.size(), 1u);
        return joined.empty() ? 0 : joined[0].real();
    };
    const double still = sure(join_sweeps(all, here));
    EXPECT_NEAR(still, sure(join_sweeps({all[0], all[1], all[2]}, {here[0], here[1], here[2]})), 0.01)
        << "one texture, however often it is looked at";
    EXPECT_GT(sure(join_sweeps(all, moving)), still + 0.05) << "from ten spots it is surer";
    EXPECT_LT(sure(join_sweeps(half, here)), still - 0.15);
    EXPECT_EQ(join_sweeps(all, here)[0].looks, 10);
    // Two of one turn are two things.
    auto two = all;
    two.push_back(look(0, 0.9));
    two.back().place->place = plane.to_globe({10, 2.5});
    EXPECT_EQ(join_sweeps(two, here).size(), 2u);
}
