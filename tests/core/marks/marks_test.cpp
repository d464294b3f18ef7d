#include "files/identifier.hpp"
#include "marks/mark_book.hpp"

#include "lake.hpp"
#include "programs.hpp"

#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <set>

using namespace heron;
using testing::HasSubstr;

namespace {

Mark some_mark(const std::string &name) {
    Mark m;
    m.id = new_identifier();
    m.name = name;
    m.family = Family::structure;
    m.kind = Kind::stump;
    m.note = "roots to the north; \"good\" in autumn\nsecond line";
    m.time = *parse_rfc3339("2026-05-14T06:12:40.123456789Z");
    m.place = GeoPoint{46.50012345, -21.24987654};
    m.place_covariance.add_along(30, 1.5);
    m.place_covariance.add_along(120, 0.5);
    m.side = "starboard";
    m.slant_m = 14.2;
    m.ground_m = 12.9;
    m.depth_m = Estimate{5.6, 0.2};
    m.height_m = Estimate{1.1, 0.1};
    m.height_at_least = true;
    m.range_setting_m = 25;
    m.frequency_hz = 770e3;
    m.gain = 52;
    m.source = "Ellemoor Water";
    m.chip = {3, 2, {0, 50, 100, 150, 200, 250}};
    m.foreign_gpx = "<kept><sym>Flag</sym></kept>";
    return m;
}

void expect_same(const Mark &a, const Mark &b) {
    EXPECT_EQ(a.id, b.id);
    EXPECT_EQ(a.name, b.name);
    EXPECT_EQ(a.family, b.family);
    EXPECT_EQ(a.kind, b.kind);
    EXPECT_EQ(a.note, b.note);
    EXPECT_EQ(a.time, b.time);
    EXPECT_EQ(a.place.has_value(), b.place.has_value());
    if (a.place)
        EXPECT_DOUBLE_EQ(a.place->longitude_deg, b.place->longitude_deg);
    EXPECT_DOUBLE_EQ(a.place_covariance.east_north, b.place_covariance.east_north);
    EXPECT_EQ(a.height_m.has_value(), b.height_m.has_value());
    if (a.height_m)
        EXPECT_DOUBLE_EQ(a.height_m->sd, b.height_m->sd);
    EXPECT_EQ(a.height_at_least, b.height_at_least);
    EXPECT_EQ(a.chip, b.chip);
    EXPECT_EQ(a.foreign_gpx, b.foreign_gpx);
    EXPECT_EQ(a.gain, b.gain);
    EXPECT_EQ(a.source, b.source);
}

} // namespace

TEST(MarkStore, KeepsEveryWordOfAMark) {
    const test::Folder folder;
    const auto m = some_mark("Larch 4");
    auto nowhere = some_mark("no place");
    nowhere.place.reset();
    nowhere.height_m.reset();
    nowhere.place_remark = "place unknown: no position at that ping";
    {
        auto store = MarkStore::open(folder.file("m.gpkg"));
        ASSERT_TRUE(store) << store.error().line();
        ASSERT_TRUE(store->write({{m, nowhere}, {}}));
    }
    const auto store = MarkStore::open(folder.file("m.gpkg"));
    ASSERT_TRUE(store);
    const auto back = store->load();
    ASSERT_TRUE(back);
    ASSERT_EQ(back->size(), 2u);
    expect_same(m, (*back)[0]);
    expect_same(nowhere, (*back)[1]);
}

// GDAL's ogrinfo is a general GeoPackage reader; it sees a point layer in WGS 84.
TEST(MarkStore, OpensInAnyGis) {
    const test::Folder folder;
    {
        auto store = MarkStore::open(folder.file("m.gpkg"));
        ASSERT_TRUE(store);
        ASSERT_TRUE(store->write({{some_mark("Larch 4")}, {}}));
    }
    const auto info = test::run("ogrinfo -ro -al " + folder.file("m.gpkg"));
    EXPECT_EQ(info.code, 0);
    EXPECT_THAT(info.out, HasSubstr("Geometry: Point"));
    EXPECT_THAT(info.out, HasSubstr("WGS 84"));
    EXPECT_THAT(info.out, HasSubstr("name (String) = Larch 4"));
    EXPECT_THAT(info.out, HasSubstr("POINT (-21.24987654 46.50012345)"));
    EXPECT_THAT(info.out, testing::Not(HasSubstr("Warning")));
    EXPECT_THAT(test::run("sqlite3 " + folder.file("m.gpkg") + " 'pragma integrity_check'").out,
                HasSubstr("ok"));
}

TEST(MarkStore, RefusesWhatIsNotItsOwnAndLeavesItAlone) {
    const test::Folder folder;
    std::ofstream(folder.file("text.gpkg")) << "no database at all, but long enough to be looked at twice\n";
    const auto before = test::contents(folder.file("text.gpkg"));
    const auto text = MarkStore::open(folder.file("text.gpkg"));
    ASSERT_FALSE(text);
    EXPECT_FALSE(text.error().to_do.empty());
    EXPECT_EQ(test::contents(folder.file("text.gpkg")), before);

    ASSERT_EQ(test::run("sqlite3 " + folder.file("other.gpkg") + " 'create table x (y)'").code, 0);
    EXPECT_FALSE(MarkStore::open(folder.file("other.gpkg")));

    { ASSERT_TRUE(MarkStore::open(folder.file("newer.gpkg"))); }
    ASSERT_EQ(
        test::run("sqlite3 " + folder.file("newer.gpkg") + " 'update heron_schema set version = 99'").code,
        0);
    const auto newer = MarkStore::open(folder.file("newer.gpkg"));
    ASSERT_FALSE(newer);
    EXPECT_THAT(newer.error().happened, HasSubstr("newer"));
}

TEST(MarkStore, AFolderThatIsNotThereIsTold) {
    const auto store = MarkStore::open("/nowhere/at/all/m.gpkg");
    ASSERT_FALSE(store);
    EXPECT_FALSE(store.error().to_do.empty());
}

// Whatever is done and taken back, what is in memory and what is on the disk are the same.
RC_GTEST_PROP(MarkBook, UndoGoesBackStepByStep, ()) {
    const test::Folder folder;
    auto book = MarkBook::open(folder.file("m.gpkg"));
    RC_ASSERT(book.has_value());
    std::vector<std::vector<std::string>> states;
    const auto state = [&] {
        std::vector<std::string> s;
        for (const auto &m : book->marks())
            s.push_back(m.id + m.name);
        std::sort(s.begin(), s.end());
        return s;
    };
    for (const int what : *rc::gen::container<std::vector<int>>(8, rc::gen::inRange(0, 4))) {
        const auto before = state();
        if (what <= 1 || book->marks().empty()) {
            RC_ASSERT(book->add(some_mark("new")).has_value());
        } else if (what == 2) {
            auto m = book->marks().front();
            m.name += "x";
            RC_ASSERT(book->change(m).has_value());
        } else {
            RC_ASSERT(book->remove(book->marks().back().id).has_value());
        }
        states.push_back(before);
    }
    while (!states.empty()) {
        RC_ASSERT(book->undo().has_value());
        RC_ASSERT(state() == states.back());
        states.pop_back();
        const auto on_disk = MarkStore::open(folder.file("m.gpkg"))->load();
        RC_ASSERT(on_disk.has_value());
        RC_ASSERT(on_disk->size() == book->marks().size());
    }
    RC_ASSERT(!book->can_undo());
}

// One contact, one truth: the mark holds what the contact tells.
TEST(MarkOf, HoldsWhatTheContactTells) {
    Scan scan;
    test::sound(scan, test::basin(), 200);
    Contact c;
    c.row = 120;
    c.side = Side::port;
    c.family = Family::structure;
    c.kind = Kind::stump;
    c.slant_m = 11;
    c.ground_m = {10, 0.3};
    c.bottom = {4.6, 0.1, 2, 1};
    c.depth_m = c.bottom.depth_at(10) + scan.installation.draught_m();
    c.height_m = Estimate{0.8, 0.2};
    c.height_at_least = true;
    const auto placed = place_beside(scan, c.row, c.side, c.ground_m);
    c.place = placed.at;
    c.place_state = placed.state;
    const auto m = mark_of(scan, c, "a trip");
    EXPECT_EQ(m.family, Family::structure);
    EXPECT_EQ(m.kind, Kind::stump);
    EXPECT_EQ(m.side, "port");
    EXPECT_EQ(m.slant_m, 11);
    EXPECT_EQ(m.ground_m, 10);
    EXPECT_EQ(m.depth_m->value, c.depth_m);
    // By hand: a degree at 10 m is 0.175 m, and 0.1 m of the depth under the boat: 0.201 m.
    EXPECT_NEAR(m.depth_m->sd, 0.201, 0.001);
    EXPECT_EQ(m.height_m->value, 0.8);
    EXPECT_TRUE(m.height_at_least);
    ASSERT_TRUE(m.place);
    EXPECT_EQ(m.time, scan.facts(120).time);
    EXPECT_TRUE(m.place_remark.empty());
    EXPECT_EQ(m.source, "a trip");
    // What was run over is neither aside nor in the water, though its first return is as near as the bottom.
    c.zone = Zone::track;
    c.family = Family::bottom;
    c.kind = Kind::ledge;
    EXPECT_EQ(mark_of(scan, c, "").side, "down");
    EXPECT_TRUE(mark_of(scan, c, "").place_remark.empty());
    c.zone = Zone::water;
    c.family = Family::fish;
    c.kind = Kind::fish;
    c.kind_sure = false;
    EXPECT_EQ(mark_of(scan, c, "").kind, Kind::none) << "not said where it is not sure";
    EXPECT_THAT(mark_of(scan, c, "").place_remark, testing::HasSubstr("in the water"));
    c.place.reset();
    c.place_state = PlaceState::no_heading;
    EXPECT_FALSE(mark_of(scan, c, "").place);
    EXPECT_THAT(mark_of(scan, c, "").place_remark, testing::HasSubstr("no heading"));
}

TEST(MarkId, IsARandomUuid) {
    std::set<std::string> seen;
    for (int i = 0; i < 1000; ++i) {
        const auto id = new_identifier();
        EXPECT_THAT(
            id, testing::MatchesRegex("[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}"));
        EXPECT_TRUE(seen.insert(id).second);
    }
}
