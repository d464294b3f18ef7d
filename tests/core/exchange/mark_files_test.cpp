// Marks in and out: each format comes back, other programs read ours and we read theirs, and what is lost is
// told before.
#include "comma_locale.hpp"
#include "exchange/mark_files.hpp"
#include "files/identifier.hpp"
#include "files/json.hpp"
#include "marks/mark_json.hpp"
#include "picture/chip_png.hpp"
#include "programs.hpp"

#include <algorithm>
#include <cmath>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using namespace heron;
using testing::HasSubstr;

namespace {

Mark one(const std::string &name, double north = 0) {
    Mark m;
    m.id = new_identifier();
    m.name = name;
    m.family = Family::structure;
    m.kind = Kind::stump;
    m.note = "<b>bold?</b> & \"quoted\", with; parts\nand a second line";
    m.time = *parse_rfc3339("2026-05-14T06:12:40.125Z");
    m.place = GeoPoint{46.50012345 + north, -21.24987654};
    m.place_covariance = {2, 0, 2};
    m.depth_m = Estimate{5.25, 0.25};
    m.height_m = Estimate{1.25, 0.125};
    m.tags = {"autumn", "deep"};
    m.lake = "Ellemoor Water";
    m.chip = {3, 2, {0, 50, 100, 150, 200, 250}};
    Outcome o;
    o.what = Outcome::What::bite;
    m.outcomes = {o};
    return m;
}

void each_format_comes_back() {
    const test::Folder folder;
    const std::vector<Mark> marks{one("Larch stump"), one("", 0.001)};
    for (const char *suffix : {".gpx", ".kml", ".kmz", ".geojson", ".csv", ".gpkg"}) {
        const auto file = folder.file(std::string("m") + suffix);
        const auto written = write_mark_file(file, marks);
        ASSERT_TRUE(written) << suffix << written.error().line();
        EXPECT_EQ(written->written, 2u);
        const auto back = read_mark_file(file);
        ASSERT_TRUE(back) << suffix << back.error().line();
        ASSERT_EQ(back->marks.size(), 2u) << suffix;
        for (std::size_t i = 0; i < 2; ++i) {
            const auto &a = marks[i], &b = back->marks[i];
            EXPECT_EQ(a.id, b.id) << suffix;
            EXPECT_EQ(a.name, b.name) << suffix;
            EXPECT_EQ(a.note, b.note) << suffix;
            EXPECT_EQ(a.family, b.family) << suffix;
            EXPECT_EQ(a.kind, b.kind) << suffix;
            EXPECT_EQ(a.time, b.time) << suffix;
            EXPECT_LT(leg_between(*a.place, *b.place).distance_m, 0.002) << suffix;
            EXPECT_NEAR(b.depth_m.value().value, 5.25, 1e-9) << suffix;
            EXPECT_NEAR(b.height_m.value().sd, 0.125, 0.006) << suffix;
            EXPECT_EQ(a.tags, b.tags) << suffix;
            EXPECT_EQ(a.lake, b.lake) << suffix;
            const auto lost = lost_in(file, marks);
            const bool picture_lost = std::any_of(lost.begin(), lost.end(), [](const std::string &l) {
                return l.find("pictures") != std::string::npos;
            });
            EXPECT_EQ(b.chip.empty(), picture_lost) << suffix << ": a loss is told before";
        }
        // Taken in where they are known, nothing is new.
        const auto plan = plan_import(marks, back->marks);
        EXPECT_TRUE(plan.fresh.empty()) << suffix;
    }
}

} // namespace

TEST(MarkFiles, EachFormatComesBackWithAllThatItHolds) {
    each_format_comes_back();
}

// The same bytes and the same numbers wherever the desktop is at home.
TEST(MarkFiles, ADecimalCommaOfTheDesktopChangesNothing) {
    const std::vector<Mark> marks{one("Larch stump")};
    const auto kml = kml_from_marks(marks, true), geojson = geojson_from_marks(marks),
               csv = csv_from_marks(marks);
    const test::CommaLocale comma;
    ASSERT_TRUE(comma.in_force());
    EXPECT_EQ(kml_from_marks(marks, true), kml);
    EXPECT_EQ(geojson_from_marks(marks), geojson);
    EXPECT_EQ(csv_from_marks(marks), csv);
    each_format_comes_back();
}

TEST(MarkFiles, OtherProgramsReadOurs) {
    const test::Folder folder;
    const std::vector<Mark> marks{one("Larch stump"), one("Sill", 0.001)};
    for (const char *suffix : {".kml", ".geojson", ".gpx", ".gpkg"}) {
        const auto file = folder.file(std::string("m") + suffix);
        ASSERT_TRUE(write_mark_file(file, marks));
        const auto seen = test::run("ogrinfo -ro -al " + file);
        EXPECT_EQ(seen.code, 0) << seen.out;
        EXPECT_THAT(seen.out, HasSubstr("Larch stump")) << suffix;
    }
    for (const char *suffix : {".kml", ".gpx"})
        EXPECT_EQ(test::run("xmllint --noout " + folder.file(std::string("m") + suffix)).code, 0);
    const auto babel = test::run("gpsbabel -i kml -f " + folder.file("m.kml") + " -o gpx -F -");
    EXPECT_THAT(babel.out, HasSubstr("Larch stump"));
    ASSERT_TRUE(write_mark_file(folder.file("m.csv"), marks));
    const auto rows =
        test::run("/usr/bin/python3 -c \"import csv; r=list(csv.DictReader(open('" + folder.file("m.csv") +
                  "', newline=''))); print(len(r), r[0]['name'], r[0]['note'].count(chr(10)), "
                  "float(r[1]['latitude']))\"");
    EXPECT_THAT(rows.out, HasSubstr("2 Larch stump 1 46.501"));
    ASSERT_TRUE(write_mark_file(folder.file("m.kmz"), marks));
    EXPECT_THAT(test::run("/usr/bin/python3 -c \"import zipfile; z=zipfile.ZipFile('" + folder.file("m.kmz") +
                          "'); print(z.testzip(), sorted(n[:5] for n in z.namelist()))\"")
                    .out,
                HasSubstr("None ['chips', 'chips', 'doc.k']"));
}

TEST(MarkFiles, WhatOthersWroteIsTaken) {
    // Any order of columns, semicolons, decimal commas, degrees and minutes, feet.
    const auto csv = marks_from_csv("Comment;LON;Waypoint;Lat;Depth ft;Type\r\n"
                                    "\"good; in autumn\";-21,2498;Gate;46,5012;17,5;stump\r\n"
                                    "x;W 21 14.99;Sill;46\xC2\xB0 30.07' N;;Hazard\r\n"
                                    "y;far away;Bad;99;;\r\n",
                                    "theirs.csv");
    ASSERT_TRUE(csv) << csv.error().line();
    ASSERT_EQ(csv->marks.size(), 2u);
    EXPECT_EQ(csv->marks[0].name, "Gate");
    EXPECT_EQ(csv->marks[0].note, "good; in autumn");
    EXPECT_EQ(csv->marks[0].kind, Kind::stump);
    EXPECT_EQ(csv->marks[0].family, Family::structure);
    EXPECT_NEAR(csv->marks[0].place->latitude_deg, 46.5012, 1e-9);
    EXPECT_NEAR(csv->marks[0].depth_m->value, 17.5 * 0.3048, 1e-9);
    EXPECT_NEAR(csv->marks[1].place->latitude_deg, 46 + 30.07 / 60, 1e-9);
    EXPECT_NEAR(csv->marks[1].place->longitude_deg, -(21 + 14.99 / 60), 1e-9);
    EXPECT_EQ(csv->marks[1].family, Family::hazard);
    EXPECT_THAT(csv->warnings, testing::ElementsAre(HasSubstr("line 4")));
    const auto geo = marks_from_geojson(
        R"({"type":"FeatureCollection","features":[
          {"type":"Feature","id":"a-1","geometry":{"type":"Point","coordinates":[-21.25,46.5]},"properties":{"title":"Old gate","time":"2026-05-14T06:00:00Z"}},
          {"type":"Feature","geometry":{"type":"Polygon","coordinates":[[[-21.25,46.5],[-21.249,46.5],[-21.249,46.501],[-21.25,46.5]]]},"properties":{"name":"Bed","kind":"weeds"}},
          {"type":"Feature","geometry":{"type":"Point","coordinates":[200,46.5]},"properties":{}},
          {"type":"Feature","geometry":null,"properties":{"name":"nowhere"}}]})",
        "theirs.geojson");
    ASSERT_TRUE(geo) << geo.error().line();
    ASSERT_EQ(geo->marks.size(), 3u);
    EXPECT_EQ(geo->marks[0].name, "Old gate");
    EXPECT_EQ(geo->marks[0].id, "a-1");
    EXPECT_TRUE(geo->marks[1].closed);
    ASSERT_EQ(geo->marks[1].shape.size(), 4u);
    EXPECT_NEAR(geo->marks[1].shape[1].east_m, 76.7, 0.5);
    EXPECT_FALSE(geo->marks[2].place);
    EXPECT_EQ(geo->warnings.size(), 1u);
    const auto kml = marks_from_kml(
        "<kml xmlns=\"http://www.opengis.net/kml/2.2\"><Document><Folder><Placemark><name>Gate</name>"
        "<description>old</description><Point><coordinates> -21.25,46.5,0 </coordinates></Point></Placemark>"
        "<Placemark><name>Line</name><LineString><coordinates>1,1 2,2</coordinates></LineString></Placemark>"
        "</Folder></Document></kml>",
        "theirs.kml");
    ASSERT_TRUE(kml);
    ASSERT_EQ(kml->marks.size(), 1u);
    EXPECT_EQ(kml->marks[0].name, "Gate");
    EXPECT_EQ(kml->warnings.size(), 1u);
}

TEST(MarkFiles, WhatIsBrokenOrHostileIsRefusedAndNothingIsChanged) {
    const test::Folder folder;
    const auto why = [&](const std::string &name, const std::string &text) {
        std::ofstream(folder.file(name), std::ios::binary) << text;
        const auto read = read_mark_file(folder.file(name));
        return read ? std::string("taken") : read.error().line();
    };
    EXPECT_THAT(why("a.kml", "<!DOCTYPE kml [<!ENTITY a \"b\">]><kml/>"), HasSubstr("entities"));
    EXPECT_THAT(why("a.gpx", "<!DOCTYPE gpx SYSTEM \"file:///etc/passwd\"><gpx/>"), HasSubstr("entities"));
    EXPECT_THAT(why("b.kml", "<kml><Document>"), HasSubstr("line"));
    EXPECT_THAT(why("c.kml", "<html/>"), HasSubstr("no KML"));
    EXPECT_THAT(why("a.geojson", "{\"type\":"), HasSubstr("byte"));
    EXPECT_THAT(why("b.geojson", "{\"type\":\"Topology\"}"), HasSubstr("no GeoJSON"));
    EXPECT_THAT(why("c.geojson", std::string(200, '[')), HasSubstr("JSON"));
    EXPECT_THAT(why("a.csv", "a,b,c\n1,2,3\n"), HasSubstr("latitude"));
    EXPECT_THAT(why("b.csv", ""), HasSubstr("empty"));
    EXPECT_THAT(why("a.kmz", "PK\x03\x04 cut"), HasSubstr("archive"));
    EXPECT_THAT(why("a.gpkg", "SQLite format 3"), HasSubstr("a.gpkg"));
    EXPECT_THAT(read_mark_file(folder.file("not there.csv")).error().line(), HasSubstr("no such file"));
    EXPECT_THAT(write_mark_file(folder.file("a.doc"), {}).error().line(), HasSubstr("no kind"));
    // An old file stands until a new one is whole.
    ASSERT_TRUE(write_mark_file(folder.file("keep.kml"), {one("Old")}));
    EXPECT_FALSE(write_mark_file("/nowhere/at/all/m.kml", {one("New")}));
    EXPECT_THAT(test::contents(folder.file("keep.kml")), HasSubstr("Old"));
    // A formula in a name is words to a spreadsheet.
    EXPECT_THAT(csv_from_marks({one("=cmd()")}), HasSubstr("'=cmd()"));
    EXPECT_EQ(marks_from_csv(csv_from_marks({one("=cmd()")}), "x")->marks[0].name, "=cmd()");
}

TEST(MarkFiles, AnImportSaysWhatIsNewTheSameAndDifferent) {
    const auto a = one("Same"), b = one("Other", 0.001), c = one("New", 0.002);
    auto changed = b;
    changed.note = "changed by somebody";
    auto copy = a;
    copy.id = new_identifier(); // another program gave it a new id; name and place are the same
    const auto plan = plan_import({a, b}, {copy, changed, c});
    ASSERT_EQ(plan.fresh.size(), 1u);
    EXPECT_EQ(plan.fresh[0].name, "New");
    ASSERT_EQ(plan.different.size(), 1u);
    EXPECT_EQ(plan.different[0].note, "changed by somebody");
    EXPECT_EQ(plan.same, 1u);
    // A file cannot open what the guide keeps closer.
    auto open = b;
    open.level = Level::anyone;
    EXPECT_EQ(plan_import({b}, {open}).same, 1u);
}

TEST(MarkFiles, APhoneGetsAUri) {
    // RFC 5870: geo:lat,lon;u=uncertainty; the name as common map programs take it.
    EXPECT_EQ(geo_uri(one("Old gate")),
              "geo:46.5001234,-21.2498765;u=4?q=46.5001234,-21.2498765(Old%20gate)");
    Mark nowhere;
    EXPECT_EQ(geo_uri(nowhere), "");
}

TEST(ChipPng, ComesBackAndSaysNothingElse) {
    const Chip chip{3, 2, {0, 50, 100, 150, 200, 250}};
    const auto png = png_of_chip(chip);
    EXPECT_EQ(chip_from_png(png), chip);
    for (const char *chunk : {"tEXt", "iTXt", "zTXt", "eXIf", "tIME"})
        EXPECT_EQ(png.find(chunk), std::string::npos);
    EXPECT_FALSE(chip_from_png("no picture"));
    EXPECT_FALSE(chip_from_png(png.substr(0, png.size() / 2)));
    EXPECT_TRUE(png_of_chip({}).empty());
}

RC_GTEST_PROP(MarkFiles, NoTextBreaksAReader, (const std::string &text)) {
    (void)marks_from_csv(text, "x");
    (void)marks_from_csv("lat,lon,name\n" + text, "x");
    (void)marks_from_kml(text, "x");
    (void)marks_from_geojson(text, "x");
}
