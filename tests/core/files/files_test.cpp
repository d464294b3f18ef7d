// Files that are whole or not there, the face of SQLite, and the geometries of a GeoPackage.
#include "files/atomic_file.hpp"
#include "files/database.hpp"
#include "files/geopackage.hpp"
#include "files/json_in.hpp"

#include "files/json.hpp"
#include "programs.hpp"

#include <cstring>
#include <fmt/format.h>
#include <gmock/gmock.h>
#include <rapidcheck/gtest.h>
#include <thread>

using namespace heron;
using testing::HasSubstr;

namespace {

std::size_t files_in(const std::string &folder) {
    return static_cast<std::size_t>(std::distance(std::filesystem::directory_iterator(folder), {}));
}

} // namespace

TEST(AtomicFile, IsReplacedWholeAndNothingIsLeftBesideIt) {
    const test::Folder folder;
    const auto file = folder.file("a.json");
    ASSERT_TRUE(write_file_atomically(file, "first"));
    const std::string large(3'000'000, 'x');
    ASSERT_TRUE(write_file_atomically(file, large));
    EXPECT_EQ(test::contents(file), large);
    ASSERT_TRUE(write_file_atomically(file, ""));
    EXPECT_EQ(test::contents(file), "");
    EXPECT_EQ(files_in(folder.file(".")), 1u);
}

TEST(AtomicFile, WhereItCannotBeWrittenWhatWasThereStays) {
    const test::Folder folder;
    const auto absent = write_file_atomically(folder.file("no/such/folder.json"), "new");
    ASSERT_FALSE(absent);
    EXPECT_THAT(absent.error().happened, HasSubstr("could not be written"));
    EXPECT_THAT(absent.error().kept, HasSubstr("untouched"));
    EXPECT_FALSE(absent.error().to_do.empty());
    // A folder stands where the file should go.
    std::filesystem::create_directories(folder.file("taken/inside"));
    ASSERT_FALSE(write_file_atomically(folder.file("taken"), "new"));
    EXPECT_TRUE(std::filesystem::is_directory(folder.file("taken/inside")));
    EXPECT_EQ(files_in(folder.file(".")), 1u) << "no half is left beside it";
}

TEST(AtomicFile, HalfAFileIsNeverSeenByWhoReadsMeanwhile) {
    const test::Folder folder;
    const auto file = folder.file("a.txt");
    ASSERT_TRUE(write_file_atomically(file, std::string(40'000, 'a')));
    std::jthread writer([&](const std::stop_token &stop) {
        for (char c = 'b'; !stop.stop_requested(); c = c == 'z' ? 'b' : static_cast<char>(c + 1))
            EXPECT_TRUE(write_file_atomically(file, std::string(40'000, c)));
    });
    for (int i = 0; i < 300; ++i) {
        const auto seen = read_whole_file(file, 1 << 20);
        ASSERT_TRUE(seen);
        ASSERT_EQ(seen->size(), 40'000u);
        EXPECT_EQ(seen->find_first_not_of(seen->front()), std::string::npos);
    }
}

TEST(ReadWholeFile, RefusesWhatIsAbsentAndWhatIsTooLarge) {
    const test::Folder folder;
    std::ofstream(folder.file("a")) << "0123456789";
    EXPECT_EQ(*read_whole_file(folder.file("a"), 10), "0123456789");
    const auto large = read_whole_file(folder.file("a"), 9);
    ASSERT_FALSE(large);
    EXPECT_FALSE(large.error().happened.empty());
    EXPECT_FALSE(read_whole_file(folder.file("absent"), 10));
}

TEST(Database, GivesBackWhatWasPutIn) {
    const test::Folder folder;
    auto db = Database::open(folder.file("a.db"), Database::Mode::create);
    ASSERT_TRUE(db) << db.error().line();
    ASSERT_TRUE(db->run("CREATE TABLE t (a TEXT, b DOUBLE, c INTEGER, d BLOB, e DOUBLE)"));
    EXPECT_TRUE(db->has_table("t"));
    EXPECT_FALSE(db->has_table("u"));
    const std::vector<std::uint8_t> bytes{0, 1, 255, 0};
    auto put = db->prepare("INSERT INTO t VALUES (?1, ?2, ?3, ?4, ?5)");
    ASSERT_TRUE(put.ready());
    ASSERT_TRUE(put.bind(1, "o'Hara; DROP TABLE t")
                    .bind(2, 0.1)
                    .bind(3, std::int64_t{1} << 62)
                    .bind_blob(4, bytes)
                    .bind(5, std::optional<double>{})
                    .run());
    EXPECT_EQ(db->last_row_id(), 1);
    auto get = db->prepare("SELECT * FROM t");
    ASSERT_TRUE(get.next());
    EXPECT_EQ(get.text(0), "o'Hara; DROP TABLE t");
    EXPECT_EQ(get.real(1), 0.1);
    EXPECT_EQ(get.whole(2), std::int64_t{1} << 62);
    EXPECT_TRUE(std::ranges::equal(get.blob(3), bytes));
    EXPECT_TRUE(get.is_null(4));
    EXPECT_FALSE(get.real_or_null(4));
    EXPECT_FALSE(get.next());
    EXPECT_TRUE(get.done());
    EXPECT_FALSE(db->prepare("SELECT nothing FROM nowhere").ready());
    EXPECT_EQ(db->number("SELECT count(*) FROM t"), 1);
    EXPECT_FALSE(db->number("SELECT a FROM t WHERE 0"));
}

TEST(Database, WhatIsNoDatabaseIsRefusedInWordsAndLeftAlone) {
    const test::Folder folder;
    std::ofstream(folder.file("notes.txt")) << "perch by the weir, two of them";
    for (const auto &name : {"notes.txt", "absent.db"}) {
        auto db = Database::open(folder.file(name), Database::Mode::read);
        const bool readable = db && db->number("SELECT count(*) FROM sqlite_master").has_value();
        EXPECT_FALSE(readable) << name;
    }
    EXPECT_EQ(test::contents(folder.file("notes.txt")), "perch by the weir, two of them");
    EXPECT_FALSE(std::filesystem::exists(folder.file("absent.db")));
}

TEST(Transaction, WhatWasNotCommittedIsTakenBack) {
    const test::Folder folder;
    auto db = Database::open(folder.file("a.db"), Database::Mode::create);
    ASSERT_TRUE(db && db->run("CREATE TABLE t (a INTEGER)"));
    {
        Transaction lost(*db);
        ASSERT_TRUE(lost.begun());
        EXPECT_TRUE(db->in_transaction());
        ASSERT_TRUE(db->run("INSERT INTO t VALUES (1)"));
    }
    EXPECT_FALSE(db->in_transaction());
    EXPECT_EQ(db->number("SELECT count(*) FROM t"), 0);
    {
        Transaction kept(*db);
        ASSERT_TRUE(db->run("INSERT INTO t VALUES (2)"));
        EXPECT_TRUE(kept.commit());
    }
    EXPECT_EQ(db->number("SELECT a FROM t"), 2);
    // A copy made while another connection holds a transaction has what was committed, and nothing else.
    auto other = Database::open(folder.file("a.db"), Database::Mode::write);
    ASSERT_TRUE(other);
    Transaction open(*other);
    ASSERT_TRUE(other->run("INSERT INTO t VALUES (3)"));
    ASSERT_TRUE(db->back_up(folder.file("copy.db")));
    auto copy = Database::open(folder.file("copy.db"), Database::Mode::read);
    ASSERT_TRUE(copy);
    EXPECT_EQ(copy->number("SELECT count(*) FROM t"), 1);
}

// OGC 12-128r18, 2.1.3: "GP", version, flags, spatial reference, then well-known binary.
TEST(GeoPackage, APointIsSpelledAsTheStandardSpellsIt) {
    const auto b = point_blob({-21.25, 46.5});
    ASSERT_EQ(b.size(), 8u + 1 + 4 + 16);
    EXPECT_EQ(b[0], 'G');
    EXPECT_EQ(b[1], 'P');
    EXPECT_EQ(b[2], 0) << "version 1";
    EXPECT_EQ(b[3] & 1, 1) << "little-endian";
    std::int32_t srs = 0;
    std::memcpy(&srs, &b[4], 4);
    EXPECT_EQ(srs, 4326);
    EXPECT_EQ(b[8], 1) << "little-endian";
    std::uint32_t type = 0;
    std::memcpy(&type, &b[9], 4);
    EXPECT_EQ(type, 1u) << "a point";
    double x = 0;
    std::memcpy(&x, &b[13], 8);
    EXPECT_EQ(x, -21.25) << "longitude first";
}

RC_GTEST_PROP(GeoPackage, PointsComeBackAndOtherBytesAreRefused, ()) {
    const LonLat at{*rc::gen::inRange(-1800000, 1800000) / 1e4, *rc::gen::inRange(-900000, 900000) / 1e4};
    auto blob = point_blob(at);
    const auto back = point_in(blob);
    RC_ASSERT(back && *back == at);
    RC_ASSERT(!point_in(std::span(blob).first(*rc::gen::inRange<std::size_t>(0, blob.size()))));
    const auto junk = *rc::gen::container<std::vector<std::uint8_t>>(rc::gen::arbitrary<std::uint8_t>());
    if (const auto p = point_in(junk))
        RC_ASSERT(junk == point_blob(*p));
}

// GDAL takes what is made here for a GeoPackage without a warning, and reads back lines and points.
TEST(GeoPackage, OgrReadsItsLayers) {
    const test::Folder folder;
    const auto file = folder.file("a.gpkg");
    {
        auto db = Database::open(file, Database::Mode::create);
        ASSERT_TRUE(db);
        Transaction whole(*db);
        ASSERT_TRUE(make_geopackage(*db));
        ASSERT_TRUE(add_feature_layer(*db, "stumps", "POINT", ", name TEXT"));
        ASSERT_TRUE(add_feature_layer(*db, "walls", "LINESTRING", ""));
        auto stump = db->prepare("INSERT INTO stumps (geom, name) VALUES (?1, 'larch')");
        ASSERT_TRUE(stump.bind_blob(1, point_blob({-21.25, 46.5})).run());
        const std::vector<LonLat> wall{{-21.25, 46.5}, {-21.249, 46.5}, {-21.249, 46.501}};
        auto put = db->prepare("INSERT INTO walls (geom) VALUES (?1)");
        ASSERT_TRUE(put.bind_blob(1, line_blob(wall)).run());
        ASSERT_TRUE(touch_layer(*db, "stumps") && touch_layer(*db, "walls"));
        ASSERT_TRUE(whole.commit());
    }
    const auto points = test::run("ogrinfo -ro -al " + file + " stumps");
    EXPECT_EQ(points.code, 0);
    EXPECT_THAT(points.out, HasSubstr("POINT (-21.25 46.5)"));
    EXPECT_THAT(points.out, HasSubstr("larch"));
    EXPECT_THAT(points.out, HasSubstr("WGS 84"));
    EXPECT_THAT(points.out, testing::Not(HasSubstr("Warning")));
    EXPECT_THAT(test::run("ogrinfo -ro -al " + file + " walls").out,
                HasSubstr("LINESTRING (-21.25 46.5,-21.249 46.5,-21.249 46.501)"));
}

TEST(WholeNumbers, AreTakenWithinTheirBoundsAndNeverMadeOfWhatIsNone) {
    const auto whole = [](const char *text) { return whole_in(parse_json(text), -5, 1000); };
    EXPECT_EQ(whole("7"), 7);
    EXPECT_EQ(whole("-5"), -5);
    EXPECT_EQ(whole("1e3"), 1000);
    EXPECT_EQ(whole("12.0"), 12);
    for (const char *bad : {"1e105", "-1e105", "12.5", "1001", "-6", "18446744073709551615",
                            "-9223372036854775808", "\"7\"", "null", "true", "[7]", "1e16"})
        EXPECT_THROW(whole(bad), nlohmann::json::exception) << bad;
    EXPECT_EQ(whole_in(parse_json("1800000000123456789"), INT64_MIN, INT64_MAX), 1800000000123456789);
}
