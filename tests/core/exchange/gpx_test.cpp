#include "exchange/gpx.hpp"
#include "files/identifier.hpp"

#include "programs.hpp"

#include <chrono>
#include <fmt/format.h>
#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>
#include <set>

using namespace heron;
using testing::HasSubstr;

namespace {

Mark stump() {
    Mark m;
    m.id = new_identifier();
    m.name = "Larch & <4>";
    m.family = Family::structure;
    m.kind = Kind::stump;
    m.note = "roots \"north\"";
    m.time = *parse_rfc3339("2026-05-14T06:12:40.123Z");
    m.place = GeoPoint{46.50012345, -21.24987654};
    m.place_covariance.add_along(30, 1.5);
    m.depth_m = Estimate{5.6, 0.2};
    m.height_m = Estimate{1.1, 0.1};
    m.frequency_hz = 770e3;
    return m;
}

} // namespace

TEST(Gpx, OursComesBackWhole) {
    auto unnamed = stump();
    unnamed.id = new_identifier();
    unnamed.name.clear();
    const auto back = marks_from_gpx(gpx_from_marks({stump(), unnamed}), "a.gpx");
    ASSERT_TRUE(back);
    ASSERT_EQ(back->marks.size(), 2u);
    const auto &m = back->marks[0];
    EXPECT_EQ(m.name, "Larch & <4>");
    EXPECT_EQ(m.note, "roots \"north\"");
    EXPECT_EQ(m.kind, Kind::stump);
    EXPECT_EQ(m.family, Family::structure);
    EXPECT_EQ(m.time, stump().time);
    EXPECT_NEAR(m.place->latitude_deg, 46.50012345, 1e-8);
    EXPECT_DOUBLE_EQ(m.height_m->sd, 0.1);
    EXPECT_DOUBLE_EQ(m.place_covariance.north_north, stump().place_covariance.north_north);
    EXPECT_EQ(back->marks[1].id, unnamed.id);
    EXPECT_TRUE(back->marks[1].name.empty());
}

TEST(Gpx, WhatOthersWroteSurvivesTheRoundTrip) {
    const std::string theirs =
        R"(<?xml version="1.0"?><gpx version="1.1" creator="other" xmlns="http://www.topografix.com/GPX/1/1" xmlns:o="http://example.org/o">
 <wpt lat="46.5" lon="-21.25"><ele>12.5</ele><name>Pin</name><desc>their words</desc><link href="http://example.org/x"><text>t</text></link><sym>Flag, Blue</sym><hdop>0.8</hdop>
  <extensions><o:depth unit="ft">17</o:depth><o:more><o:deep>1</o:deep></o:more></extensions></wpt></gpx>)";
    const auto in = marks_from_gpx(theirs, "theirs.gpx");
    ASSERT_TRUE(in);
    auto changed = in->marks;
    changed[0].name = "Renamed";
    const auto out = gpx_from_marks(changed);
    for (const char *kept :
         {"<ele>12.5</ele>", "<hdop>0.8</hdop>", "href=\"http://example.org/x\"", "Flag, Blue", "unit=\"ft\"",
          ">17<", "<o:deep>1</o:deep>", "xmlns:o=\"http://example.org/o\"", "Renamed"})
        EXPECT_THAT(out, HasSubstr(kept));
    // And once more: nothing is doubled.
    const auto again = gpx_from_marks(marks_from_gpx(out, "b")->marks);
    EXPECT_EQ(out, again);
}

// The GPX 1.1 schema's order of elements, checked by two other readers: gpsbabel and GDAL's ogr2ogr; xmllint
// for the XML.
TEST(Gpx, OtherProgramsReadOurs) {
    const test::Folder folder;
    ASSERT_TRUE(write_gpx(folder.file("a.gpx"), {stump()}));
    EXPECT_EQ(test::run("xmllint --noout " + folder.file("a.gpx")).code, 0);
    const auto babel = test::run("gpsbabel -i gpx -f " + folder.file("a.gpx") + " -o unicsv,utc=0 -F -");
    EXPECT_EQ(babel.code, 0);
    EXPECT_THAT(babel.out, HasSubstr("46.500123"));
    EXPECT_THAT(babel.out, HasSubstr("Larch & <4>"));
    EXPECT_THAT(babel.out, HasSubstr("stump"));
    EXPECT_THAT(babel.out, HasSubstr("2026/05/14"));
    const auto ogr =
        test::run("ogr2ogr -f CSV /vsistdout/ " + folder.file("a.gpx") + " waypoints -lco GEOMETRY=AS_XY");
    EXPECT_EQ(ogr.code, 0);
    EXPECT_THAT(ogr.out, HasSubstr("-21.24987654,46.50012345"));
    EXPECT_THAT(ogr.out, HasSubstr("2026/05/14 06:12:40.123"));
}

TEST(Gpx, BrokenXmlIsToldWithItsLine) {
    const auto bad =
        marks_from_gpx("<gpx>\n<wpt lat=\"1\" lon=\"2\">\n<name>x</nam>\n</wpt></gpx>", "bad.gpx");
    ASSERT_FALSE(bad);
    EXPECT_THAT(bad.error().happened, HasSubstr("bad.gpx"));
    EXPECT_THAT(bad.error().happened, HasSubstr("line 3"));
    EXPECT_FALSE(bad.error().kept.empty());
    EXPECT_FALSE(marks_from_gpx("", "empty.gpx"));
    EXPECT_FALSE(marks_from_gpx("<kml/>", "other.gpx"));
}

TEST(Gpx, WaypointsWithoutAPlaceAreLeftOutAndTold) {
    const auto r = marks_from_gpx(
        "<gpx><wpt lat='95' lon='2'><name>north of north</name></wpt><wpt lat='46' lon='2'/></gpx>", "a");
    ASSERT_TRUE(r);
    EXPECT_EQ(r->marks.size(), 1u);
    ASSERT_EQ(r->warnings.size(), 1u);
    EXPECT_THAT(r->warnings[0], HasSubstr("north of north"));
}

TEST(Gpx, AHundredThousandPointsComeIn) {
    std::string text = "<gpx>";
    for (int i = 0; i < 100000; ++i)
        text += fmt::format("<wpt lat=\"46.{:06d}\" lon=\"-21.25\"><name>{}</name></wpt>", i, i);
    text += "</gpx>";
    const auto r = marks_from_gpx(text, "many.gpx");
    ASSERT_TRUE(r);
    EXPECT_EQ(r->marks.size(), 100000u);
}

TEST(Gpx, WritingToAPlaceThatCannotBeWrittenKeepsTheOldFile) {
    const auto r = write_gpx("/proc/nowhere.gpx", {stump()});
    ASSERT_FALSE(r);
    EXPECT_FALSE(r.error().to_do.empty());
}

RC_GTEST_PROP(Gpx, AnyTextOfANoteSurvives, (const std::string &raw)) {
    // XML knows no other control characters; what a keyboard gives is kept.
    std::string note;
    for (const char c : raw)
        if (c >= 0x20 && c < 0x7f)
            note += c;
    while (!note.empty() && note.front() == ' ')
        note.erase(0, 1);
    while (!note.empty() && note.back() == ' ')
        note.pop_back();
    auto m = stump();
    m.note = note;
    const auto back = marks_from_gpx(gpx_from_marks({m}), "a");
    RC_ASSERT(back.has_value());
    RC_ASSERT(back->marks[0].note == note);
}

TEST(FuzzGpx, SurvivesChangedBytes) {
    std::mt19937 random(6);
    const auto good = gpx_from_marks({stump(), stump()});
    for (int i = 0; i < 3000; ++i) {
        auto bad = good;
        for (int n = 1 + static_cast<int>(random() % 8); n > 0; --n)
            bad[random() % bad.size()] = static_cast<char>(random());
        if (i % 3 == 0)
            bad.resize(random() % bad.size());
        if (const auto r = marks_from_gpx(bad, "x")) {
            for (const auto &m : r->marks)
                EXPECT_LE(std::abs(m.place->latitude_deg), 90);
        }
    }
}

// All that a mark tells comes back, but its pictures; its line is shown by other programs as a route.
TEST(Gpx, TheWholeStoryComesBackAndTheLineIsARoute) {
    auto wall = stump();
    wall.kind = Kind::built;
    wall.tags = {"autumn", "quiet; shallow"};
    wall.lake = "Ellemoor Water";
    wall.shape = {{-4, 1}, {0, 0}, {5, -2}};
    wall.length_m = 9.5;
    wall.confirmed = Confirmed::diver;
    wall.level = Level::client;
    wall.seen_from_deg = 214;
    wall.sightings = {sighting_of(wall), sighting_of(wall)};
    wall.sightings[1].reasons = {"an even bar with corners"};
    Outcome bite;
    bite.what = Outcome::What::bite;
    bite.species = "zander";
    wall.outcomes = {bite};
    const test::Folder folder;
    const auto file = folder.file("wall.gpx");
    std::ofstream(file) << gpx_from_marks({wall});
    const auto back = read_gpx(file);
    ASSERT_TRUE(back);
    ASSERT_EQ(back->marks.size(), 1u) << "its own route is no other mark";
    const auto &m = back->marks[0];
    EXPECT_EQ(m.tags, wall.tags);
    EXPECT_EQ(m.lake, wall.lake);
    ASSERT_EQ(m.shape.size(), 3u);
    EXPECT_DOUBLE_EQ(m.shape[2].east_m, 5);
    EXPECT_EQ(m.confirmed, Confirmed::diver);
    EXPECT_EQ(m.level, Level::client);
    EXPECT_EQ(m.seen_from_deg, 214);
    EXPECT_EQ(m.sightings, wall.sightings);
    EXPECT_EQ(m.outcomes, wall.outcomes);
    EXPECT_EQ(test::run("xmllint --noout " + file).code, 0);
    const auto babel = test::run("gpsbabel -r -i gpx -f " + file + " -o gpx -F -");
    EXPECT_THAT(babel.out, HasSubstr("<rtept"));
    const auto seen = test::run("ogrinfo -ro -so " + file + " routes");
    EXPECT_THAT(seen.out, HasSubstr("Feature Count: 1"));
}

TEST(Gpx, RoutesAndTracksOfOthersComeInAsLines) {
    std::string text =
        R"(<?xml version="1.0"?><gpx version="1.1" creator="o" xmlns="http://www.topografix.com/GPX/1/1">
<rte><name>Morning round</name><rtept lat="46.5" lon="-21.25"/><rtept lat="46.501" lon="-21.25"/><rtept lat="99" lon="0"/></rte>
<rte><name>one point</name><rtept lat="46.5" lon="-21.25"/></rte><trk><name>Drift</name><trkseg>)";
    for (int i = 0; i < 5000; ++i)
        text += fmt::format("<trkpt lat=\"{:.6f}\" lon=\"-21.25\"/>", 46.5 + i * 1e-6);
    text += "</trkseg><trkseg><trkpt lat=\"46.4\" lon=\"-21.2\"/></trkseg></trk></gpx>";
    const auto read = marks_from_gpx(text, "others.gpx");
    ASSERT_TRUE(read);
    ASSERT_EQ(read->marks.size(), 2u);
    EXPECT_EQ(read->marks[0].name, "Morning round");
    EXPECT_EQ(read->marks[0].tags, std::vector<std::string>{"route"});
    // A thousandth of a degree of latitude there is 111.15 m (WGS 84).
    EXPECT_NEAR(*read->marks[0].length_m, 111.15, 0.1);
    EXPECT_EQ(read->marks[1].name, "Drift");
    EXPECT_EQ(read->marks[1].shape.size(), 2000u) << "thinned, both ends kept";
    EXPECT_NEAR(*read->marks[1].length_m, 4999e-6 * 111'150, 1);
}

TEST(Gpx, NamesFitASimpleReceiverAndComeBackWhole) {
    std::vector<Mark> marks(4, stump());
    const char *names[] = {"Große Larche am Wehr", "Große Larche am Tor", "Große Larche am Ufer", "Gate"};
    for (std::size_t i = 0; i < marks.size(); ++i) {
        marks[i].id = new_identifier();
        marks[i].name = names[i];
    }
    const NameProfile profile{10, true};
    const auto shown = fitted_names(marks, profile);
    EXPECT_EQ(shown, (std::vector<std::string>{"GROSSE LAR", "GROSSE LA2", "GROSSE LA3", "GATE"}));
    const auto text = gpx_from_marks(marks, nullptr, {}, profile);
    const auto back = marks_from_gpx(text, "a");
    ASSERT_TRUE(back);
    for (std::size_t i = 0; i < marks.size(); ++i)
        EXPECT_EQ(back->marks[i].name, names[i]);
    const test::Folder folder;
    std::ofstream(folder.file("short.gpx")) << text;
    EXPECT_THAT(test::run("gpsbabel -i gpx -f " + folder.file("short.gpx") + " -o unicsv -F -").out,
                HasSubstr("GROSSE LA3"));
}

// Whatever the names: none is longer than it may be, all differ, and plain ones are plain.
RC_GTEST_PROP(Gpx, FittedNamesFitAndDiffer, ()) {
    std::vector<Mark> marks;
    for (int i = *rc::gen::inRange(1, 30); i > 0; --i) {
        Mark m;
        m.name = *rc::gen::container<std::string>(rc::gen::element('a', 'b', ' ', '-', '1', '\xc3', '\x9f'));
        marks.push_back(m);
    }
    const NameProfile profile{*rc::gen::inRange<std::size_t>(3, 12), true};
    const auto shown = fitted_names(marks, profile);
    RC_ASSERT(std::set<std::string>(shown.begin(), shown.end()).size() == shown.size());
    for (const auto &s : shown) {
        RC_ASSERT(!s.empty() && s.size() <= profile.most_letters);
        RC_ASSERT(std::all_of(s.begin(), s.end(), [](char c) {
            return (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == ' ' || c == '-';
        }));
    }
}
