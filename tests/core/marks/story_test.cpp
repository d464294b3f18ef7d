// A mark with its whole story: on the disk and back, from an older file, as JSON, and what is refused.
#include "marks/mark_json.hpp"
#include "marks/mark_store.hpp"

#include "files/identifier.hpp"
#include "files/json.hpp"
#include "files/json_in.hpp"
#include "programs.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using namespace heron;
using testing::HasSubstr;

namespace {

Mark whole() {
    Mark m;
    m.id = new_identifier();
    m.name = "Rock pile by the old gate";
    m.family = Family::structure;
    m.kind = Kind::rock_pile;
    m.time = *parse_rfc3339("2026-05-14T06:12:40.123456789Z");
    m.place = GeoPoint{46.50012345, -21.24987654};
    m.place_covariance = {1.2, 0.1, 0.8};
    m.depth_m = Estimate{5.2, 0.2};
    m.height_m = Estimate{1.2, 0.1};
    m.lake = "Ellemoor Water";
    m.tags = {"autumn", "zander; maybe"};
    m.shape = {{0, 0}, {4, 0}, {4, 3}};
    m.closed = true;
    m.length_m = 5;
    m.bottom = "silt";
    m.lake_level_m = 0.4;
    m.confirmed = Confirmed::camera;
    m.turned_out = Kind::rock_pile;
    m.by = "Runa, bow";
    m.level = Level::client;
    m.field_levels = {{Field::note, Level::me}, {Field::outcomes, Level::crew}};
    m.chip = {2, 2, {1, 2, 3, 4}};
    m.sightings = {sighting_of(m), sighting_of(m)};
    m.sightings[1].time += 3600 * ns_per_s;
    m.sightings[1].chip = {2, 1, {9, 8}};
    m.sightings[1].reasons = {"many grains with one rim", "a torn shadow"};
    Outcome fish;
    fish.what = Outcome::What::landed;
    fish.time = m.time + 7200 * ns_per_s;
    fish.species = "zander";
    fish.length_m = 0.62;
    fish.released = true;
    fish.out_of_water_s = 25;
    m.outcomes = {fish};
    return m;
}

void expect_same_story(const Mark &a, const Mark &b) {
    EXPECT_EQ(json_of(a, true), json_of(b, true));
    EXPECT_EQ(a.sightings, b.sightings);
    EXPECT_EQ(a.outcomes, b.outcomes);
}

} // namespace

TEST(MarkStory, IsKeptWholeOnTheDiskAndReadByAnyGis) {
    const test::Folder folder;
    auto m = whole();
    m.tags = {"autumn", "zander"}; // parted by semicolons in the table
    {
        auto store = MarkStore::open(folder.file("m.gpkg"));
        ASSERT_TRUE(store) << store.error().line();
        ASSERT_TRUE(store->write({{m}, {}}));
    }
    const auto store = MarkStore::open(folder.file("m.gpkg"));
    ASSERT_TRUE(store);
    const auto marks = store->load();
    ASSERT_TRUE(marks);
    ASSERT_EQ(marks->size(), 1u);
    expect_same_story((*marks)[0], m);
    const auto seen = test::run("ogrinfo -ro -al " + folder.file("m.gpkg") + " marks").out;
    EXPECT_THAT(seen, HasSubstr("lake (String) = Ellemoor Water"));
    EXPECT_THAT(seen, HasSubstr("confirmed (String) = camera"));
    EXPECT_THAT(seen, HasSubstr("level (String) = client"));
    // Gone, it leaves no looks behind.
    auto again = MarkStore::open(folder.file("m.gpkg"));
    ASSERT_TRUE(again->write({{}, {m.id}}));
    EXPECT_EQ(test::run("sqlite3 " + folder.file("m.gpkg") + " 'select count(*) from heron_sightings'").out,
              "0\n");
}

TEST(MarkStory, AnOlderFileIsBroughtUpToDateAndKeptBesideAsItWas) {
    const test::Folder folder;
    const auto file = folder.file("old.gpkg");
    {
        auto store = MarkStore::open(file);
        ASSERT_TRUE(store->write({{whole()}, {}}));
    }
    // As schema 1 had it: without the later columns and tables.
    std::string sql = "BEGIN;";
    for (const char *c :
         {"lake", "tags", "bottom", "length_m", "level", "confirmed", "turned_out", "by_whom", "story"})
        sql += std::string("ALTER TABLE marks DROP COLUMN ") + c + ";";
    sql += "DROP TABLE heron_sightings; "
           "UPDATE heron_schema SET version=1; COMMIT; PRAGMA wal_checkpoint(TRUNCATE);";
    ASSERT_EQ(test::run("sqlite3 " + file + " \"" + sql + "\"").code, 0);
    auto store = MarkStore::open(file);
    ASSERT_TRUE(store) << store.error().line();
    const auto marks = store->load();
    ASSERT_TRUE(marks);
    ASSERT_EQ(marks->size(), 1u);
    EXPECT_EQ((*marks)[0].name, "Rock pile by the old gate");
    EXPECT_EQ((*marks)[0].level, Level::crew) << "what was not said is kept close";
    ASSERT_TRUE(store->write({{whole()}, {}}));
    EXPECT_EQ(store->load()->size(), 2u);
    const auto before = folder.file("old.gpkg.schema-1");
    EXPECT_EQ(test::run("sqlite3 " + before + " 'select version from heron_schema'").out, "1\n");
    EXPECT_EQ(test::run("sqlite3 " + before + " 'select count(*) from marks'").out, "1\n");
}

TEST(MarkStory, AsJsonItComesBackWhole) {
    const auto m = whole();
    const auto back = mark_of_json(json_of(m, true));
    ASSERT_TRUE(back) << back.error().line();
    expect_same_story(*back, m);
    // Without pictures nothing else is lost.
    const auto bare = mark_of_json(json_of(m, false));
    ASSERT_TRUE(bare);
    EXPECT_TRUE(bare->chip.empty());
    EXPECT_EQ(bare->outcomes, m.outcomes);
}

TEST(MarkStory, WhatIsNotLawfulIsRefusedWithItsName) {
    auto j = json_of(whole(), true);
    const auto why = [](nlohmann::json bad) {
        const auto m = mark_of_json(bad);
        return m ? std::string("taken") : m.error().line();
    };
    auto bad = j;
    bad["latitude_deg"] = 91;
    EXPECT_THAT(why(bad), HasSubstr("latitude_deg"));
    bad = j;
    bad["depth_m"] = "deep";
    EXPECT_THAT(why(bad), HasSubstr("depth_m"));
    bad = j;
    bad["name"] = std::string(5000, 'x');
    EXPECT_THAT(why(bad), HasSubstr("name"));
    bad = j;
    bad["tags"] = nlohmann::json::array();
    for (int i = 0; i < 100; ++i)
        bad["tags"].push_back("t");
    EXPECT_THAT(why(bad), HasSubstr("tags"));
    bad = j;
    bad["chip"] = "AAAA";
    EXPECT_THAT(why(bad), HasSubstr("chip"));
    bad = j;
    bad["outcomes"][0]["what"] = "swallowed";
    EXPECT_THAT(why(bad), HasSubstr("swallowed"));
    bad = j;
    bad.erase("id");
    EXPECT_THAT(why(bad), HasSubstr("id"));
    EXPECT_THAT(why(nlohmann::json::array()), HasSubstr("no object"));
    // What it does not know is passed over: a newer program may say more.
    j["colour_of_the_moon"] = {1, 2, 3};
    EXPECT_EQ(why(j), "taken");
}

RC_GTEST_PROP(MarkStory, Base64ComesBack, (const std::vector<std::uint8_t> &bytes)) {
    const auto back = bytes_of_base64(base64_of(bytes));
    RC_ASSERT(back.has_value());
    RC_ASSERT(*back == bytes);
}

RC_GTEST_PROP(MarkStory, NoTextBreaksTheReading, (const std::string &text)) {
    (void)bytes_of_base64(text);
    try {
        (void)mark_of_json(parse_json(text));
    } catch (const nlohmann::json::exception &) {
    }
}

RC_GTEST_PROP(MarkStory, HeldToItsBoundsItIsLawful, (const std::string &name, double depth, double slant)) {
    Mark m;
    m.id = "x";
    m.name = name;
    m.depth_m = Estimate{depth, depth};
    m.slant_m = slant;
    hold_to_bounds(m);
    RC_ASSERT(m.name.size() <= MarkBounds::name);
    RC_ASSERT(mark_of_json(json_of(m, true)).has_value() || !m.name.empty());
}
