// Trips that somebody forged: values that the tables can hold and no trip has. Each is opened and walked
// through in a process of its own with bounded time and memory; it is refused in words, or what is left of it
// is read.
#include "files/geopackage.hpp"
#include "in_child.hpp"
#include "marks/mark_store.hpp"
#include "trip/nav_codec.hpp"
#include "trip/thin_trip.hpp"
#include "trips.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <limits>
#include <sqlite3.h>
#include <zstd.h>

using namespace heron;
using testing::HasSubstr;

namespace {

constexpr double inf = std::numeric_limits<double>::infinity(),
                 not_a_number = std::numeric_limits<double>::quiet_NaN();

using Values = std::vector<std::vector<std::uint8_t>>;

// Straight through SQLite, past all that the program guards.
void forge(const std::string &path, const std::string &sql, const Values &blobs = {}) {
    sqlite3 *db = nullptr;
    ASSERT_EQ(sqlite3_open(path.c_str(), &db), SQLITE_OK);
    sqlite3_db_config(db, SQLITE_DBCONFIG_DQS_DDL, 1, nullptr);
    if (blobs.empty()) {
        char *why = nullptr;
        EXPECT_EQ(sqlite3_exec(db, sql.c_str(), nullptr, nullptr, &why), SQLITE_OK)
            << (why != nullptr ? why : "");
        sqlite3_free(why);
    } else {
        sqlite3_stmt *s = nullptr;
        ASSERT_EQ(sqlite3_prepare_v2(db, sql.c_str(), -1, &s, nullptr), SQLITE_OK) << sqlite3_errmsg(db);
        for (std::size_t i = 0; i < blobs.size(); ++i)
            sqlite3_bind_blob64(s, static_cast<int>(i) + 1, blobs[i].data(), blobs[i].size(),
                                SQLITE_TRANSIENT);
        EXPECT_EQ(sqlite3_step(s), SQLITE_DONE) << sqlite3_errmsg(db);
        sqlite3_finalize(s);
    }
    sqlite3_close(db);
}

// So many bytes of nothing, in a few thousand.
std::vector<std::uint8_t> bomb(std::size_t bytes) {
    return squeeze(std::vector<std::uint8_t>(bytes, 0));
}

// The facts of a trip with one of them changed.
template <class Change>
std::vector<std::uint8_t> facts_with(Change change) {
    std::vector<RowFacts> rows(400);
    for (std::size_t n = 0; n < rows.size(); ++n) {
        rows[n].time = test::minute().rows[n].ping.time;
        rows[n].along_m = 0.1 * static_cast<double>(n);
        rows[n].range_m = 30;
        rows[n].bottom.found = true;
        rows[n].bottom.altitude_m = 4;
    }
    change(rows);
    return squeeze(pack_facts(rows));
}

// All that a window would do with it: open, know, look at every row, small and as a mosaic, and the marks.
void walk(const std::string &path) {
    (void)TripFile::glance(path);
    auto trip = TripFile::open_or_read_only(path);
    if (!trip) {
        if (trip.error().happened.empty())
            throw std::runtime_error("refused without a word");
        return;
    }
    for (const auto stream : all_streams) {
        Scan scan;
        Overview overview;
        if (!open_into(*trip, scan, overview, stream))
            continue;
        double before = 0;
        for (std::size_t n = 0; n < scan.end(); ++n) {
            const auto &f = scan.facts(n);
            if (!(f.along_m >= before) || scan.settings(n).range_m < 0)
                throw std::runtime_error("the run goes back");
            before = f.along_m;
            if (scan.ping(n).beams.size() > 16)
                throw std::runtime_error("too many beams");
            (void)scan.nav.fix_at(f.time);
            (void)scan.nav.depth_at(f.time);
            (void)scan.nav.speed_at(f.time);
            if (n % 64 == 0)
                scan.trim();
        }
        if (overview.lines(0).size() > scan.end() + 1)
            throw std::runtime_error("more lines than rows");
        (void)scan.row_at(0);
    }
    (void)trip->changes();
    (void)trip->conditions();
    (void)trip->sentences(std::numeric_limits<UnixNs>::min(), std::numeric_limits<UnixNs>::max());
    (void)load_marks(trip->database());
    (void)plan_thinning(*trip, {});
    (void)trip->note(0, 0, "a word");
}

class ForgedTrip : public testing::Test {
  protected:
    test::Folder folder;
    std::string path = folder.file("a.trip.gpkg");
    void SetUp() override { anew(); }
    /// The trip as the program left it.
    void anew() {
        std::filesystem::remove(path);
        test::keep(path);
    }

    void expect_bounded() {
        EXPECT_EQ(test::done_in_child([&] { walk(path); }, 20), AnsweringChild::End::answered);
    }
    void expect_refused(const std::string &word = "is no trip of Young Heron, or it is damaged") {
        expect_bounded();
        const auto trip = TripFile::open(path);
        ASSERT_FALSE(trip);
        EXPECT_THAT(trip.error().line(), HasSubstr(word));
        EXPECT_THAT(trip.error().line(), HasSubstr("it was left as it is"));
    }
    // Opened, with the rows that were really kept.
    void expect_rows(std::size_t rows) {
        expect_bounded();
        const auto trip = TripFile::open(path);
        ASSERT_TRUE(trip) << trip.error().line();
        EXPECT_EQ(trip->rows(), rows);
        EXPECT_EQ(trip->fetch(10, 1).at(0).ping.beams.size(), test::minute().rows[10].ping.beams.size());
    }
    void set_facts(const std::vector<std::uint8_t> &facts) {
        forge(path, "DELETE FROM heron_facts");
        forge(path, "INSERT INTO heron_facts VALUES (0, 0, 400, ?1)", {facts});
    }
};

} // namespace

TEST_F(ForgedTrip, BlocksThatClaimMoreThanTheFileHoldsArePassedOver) {
    for (const char *claim : {"first_row = -5", "first_row = 9000000000000000000", "rows = 1000000000",
                              "rows = -1", "rows = 9223372036854775807", "first_row = 3000000000"}) {
        SCOPED_TRACE(claim);
        anew();
        forge(path, std::string("UPDATE heron_block SET ") + claim +
                        " WHERE id = (SELECT max(id) FROM heron_block)");
        const auto last = [&] {
            const auto trip = TripFile::open(path);
            return trip->extent().blocks.back().second;
        }();
        expect_rows(last);
        EXPECT_EQ(TripFile::open(path)->extent().passed_over, 1u);
    }
}

TEST_F(ForgedTrip, RowsWithoutAnythingKeptAreNotBelieved) {
    forge(path, "INSERT INTO heron_block (stream, first_row, rows, time_first, time_last, bytes) VALUES "
                "(0, 400, 2000000000, 0, 0, 0), (1, 0, 4000000000, 0, 0, 0)");
    expect_rows(400);
    forge(path, "INSERT INTO heron_facts VALUES (0, 500, 1000000000, x'00'), (1, 0, 1000000000, x'00')");
    expect_rows(400);
    // Gap upon gap.
    forge(path, "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 3000) INSERT INTO "
                "heron_block "
                "(stream, first_row, rows, time_first, time_last, bytes) SELECT 0, 2000 + i * 90000, 1, 0, "
                "0, 1 FROM n");
    forge(path, "INSERT INTO heron_pings SELECT id, x'00' FROM heron_block WHERE first_row > 2000");
    expect_bounded();
    EXPECT_LT(TripFile::open(path)->rows(), 200'000u);
}

TEST_F(ForgedTrip, FactsOfNoBoatAreHeld) {
    const std::pair<const char *, std::function<void(RowFacts &)>> changes[] = {
        {"settings out of range", [](RowFacts &r) { r.settings = 60'000; }},
        {"no number run", [](RowFacts &r) { r.along_m = not_a_number; }},
        {"endless run", [](RowFacts &r) { r.along_m = inf; }},
        {"far run", [](RowFacts &r) { r.along_m = 1e18; }},
        {"falling run", [](RowFacts &r) { r.along_m = -1e300; }},
        {"timed", [](RowFacts &r) { r.timed = 4'000'000'000u; }},
        {"early", [](RowFacts &r) { r.time = std::numeric_limits<UnixNs>::min(); }},
        {"late", [](RowFacts &r) { r.time = std::numeric_limits<UnixNs>::max(); }},
        {"range", [](RowFacts &r) { r.range_m = std::numeric_limits<float>::infinity(); }},
        {"speed", [](RowFacts &r) { r.speed_m_s = 1e30F; }},
        {"turn", [](RowFacts &r) { r.turn_deg_s = -1e30F; }},
        {"altitude", [](RowFacts &r) { r.bottom.altitude_m = not_a_number; }},
        {"deep", [](RowFacts &r) { r.bottom.altitude_m = 1e30; }},
        {"edges", [](RowFacts &r) { r.bottom.port_m = -inf, r.bottom.starboard_m = not_a_number; }},
    };
    for (const auto &[name, change] : changes) {
        SCOPED_TRACE(name);
        for (const bool all : {false, true}) {
            set_facts(facts_with([all, change = change](std::vector<RowFacts> &rows) {
                for (std::size_t n = 0; n < rows.size(); ++n)
                    if (all || n == 200)
                        change(rows[n]);
            }));
            expect_rows(400);
        }
    }
}

TEST_F(ForgedTrip, NoSettingsOrStrangeOnesAreNoneThatAreKnown) {
    forge(path, "DELETE FROM heron_sounding");
    expect_rows(400);
    forge(path, "INSERT INTO heron_sounding VALUES (0, 7, x'0000c07f0000c07f0000c07fff7f01'), (0, 9, x'01')");
    expect_rows(400);
    for (const auto &settings : TripFile::open(path)->settings())
        EXPECT_LE(settings.range_m, most_slant_m);
}

TEST_F(ForgedTrip, WhatUnpacksWithoutEndIsNotUnpacked) {
    const auto most = bomb(std::size_t{250} << 20);
    EXPECT_LT(most.size(), 40'000u);
    for (const char *into :
         {"INSERT OR REPLACE INTO heron_facts SELECT 0, 1000 + i, 1, ?1 FROM n",
          "INSERT INTO heron_nav (payload) SELECT ?1 FROM n",
          "INSERT INTO heron_sentences (time_first, time_last, payload) SELECT 0, 9e18, ?1 FROM n",
          "INSERT OR REPLACE INTO heron_pings SELECT i, ?1 FROM n"}) {
        SCOPED_TRACE(into);
        forge(path,
              std::string("WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 100) ") +
                  into,
              {most});
        expect_bounded();
    }
    // A frame that claims what it does not hold.
    auto claims = squeeze(std::vector<std::uint8_t>(1000, 7));
    EXPECT_FALSE(unsqueeze(claims, 999));
    EXPECT_TRUE(unsqueeze(claims, 1000));
}

TEST_F(ForgedTrip, ViewsInPlaceOfTablesAreRefused) {
    forge(path, "DROP TABLE heron_facts; CREATE VIEW heron_facts AS WITH RECURSIVE n(i) AS (SELECT 1 UNION "
                "ALL SELECT i + 1 "
                "FROM n) SELECT 0 AS stream, i AS first_row, 1 AS rows, x'00' AS payload FROM n");
    expect_refused();
    anew();
    forge(path,
          "DROP TABLE heron_nav; CREATE VIEW heron_nav AS SELECT 1 AS id, zeroblob(900000000) AS payload");
    expect_refused();
    anew();
    forge(path, "DROP TABLE gpkg_contents; CREATE VIEW gpkg_contents AS SELECT 1");
    expect_refused();
}

TEST_F(ForgedTrip, ColumnsAndIndicesThatAreComputedAreRefused) {
    forge(path, "DROP TABLE heron_nav; CREATE TABLE heron_nav (id INTEGER PRIMARY KEY, payload BLOB AS "
                "(zeroblob(200000000))); INSERT INTO heron_nav (id) VALUES (1)");
    expect_refused();
    anew();
    forge(path, "CREATE INDEX slow ON heron_notes (hex(zeroblob(1000000)))");
    expect_refused();
}

TEST_F(ForgedTrip, TriggersNeverRun) {
    forge(path, "CREATE TRIGGER bad AFTER INSERT ON heron_notes BEGIN DELETE FROM heron_pings; END");
    expect_rows(400);
    auto trip = TripFile::open(path);
    ASSERT_TRUE(trip);
    ASSERT_TRUE(trip->note(0, 3, "a stump"));
    EXPECT_EQ(trip->fetch(0, 64).size(), 64u);
}

TEST_F(ForgedTrip, AnotherApplicationsIdIsRefused) {
    forge(path, "PRAGMA application_id = 7");
    expect_refused();
}

TEST_F(ForgedTrip, FallingAndImpossibleNavIsSortedOutAtOnce) {
    ByteWriter w;
    w.put(std::uint8_t{1});
    constexpr std::uint32_t many = 300'000;
    w.put(many);
    for (std::uint32_t i = 0; i < many; ++i) {
        w.put(test::start - static_cast<UnixNs>(i) * 1000);
        w.put(i % 3 == 0 ? not_a_number : 46.5);
        w.put(i % 5 == 0 ? 1e9 : -21.25);
        w.put(0.5F);
        w.put(i % 7 == 0 ? -inf : 1.0);
        w.put(std::uint8_t{0});
    }
    forge(path, "INSERT INTO heron_nav (payload) VALUES (?1)", {squeeze(w.bytes)});
    expect_rows(400);
    const auto nav = TripFile::open(path)->nav();
    for (const auto &p : nav.positions())
        ASSERT_LE(std::fabs(p.place.longitude_deg), 180);
}

TEST_F(ForgedTrip, WordsWithinWordsAndOtherTextIsNotFollowed) {
    const std::string deep(200'000, '[');
    for (const char *key :
         {"installation", "installation_around", "bottom_by_hand", "thinned", "started", "schema2"})
        forge(path, std::string("INSERT OR REPLACE INTO heron_trip VALUES ('") + key + "', '" + deep + "')");
    forge(path, "INSERT INTO heron_conditions (time, what) VALUES (0, '" + deep + "')");
    forge(path, "INSERT INTO heron_overview (payload, stream) VALUES (zeroblob(640000), 0)");
    forge(path, "INSERT INTO heron_changes (time, row, by, what) VALUES (9e18, -7, zeroblob(100), 5)");
    expect_rows(400);
    forge(path, "INSERT OR REPLACE INTO heron_trip VALUES ('installation', "
                "'{\"transducer\":[1e308,-1e308,1e300],\"antenna\":[0,0,1e99],\"water_level\":-1e99}')");
    expect_rows(400);
}

TEST_F(ForgedTrip, PingsOfNoSounderAreLeftOut) {
    auto row = test::minute().rows[0];
    ByteWriter w;
    for (int i = 0; i < 64; ++i) {
        auto r = row;
        r.ping.sample_interval_s = i % 2 == 0 ? 1.0 : row.ping.sample_interval_s; // reaches round the globe
        r.ping.time = i % 3 == 0 ? std::numeric_limits<UnixNs>::max() : row.ping.time;
        w.put(std::uint8_t{0});
        append_settings(w, r.settings);
        append_ping(w, r.ping);
    }
    forge(path, "UPDATE heron_pings SET payload = ?1", {squeeze(w.bytes)});
    expect_bounded();
}

TEST_F(ForgedTrip, AMarksLayerOfAnotherMakingIsReadAsFarAsItGoes) {
    {
        const auto store = MarkStore::open(path);
        ASSERT_TRUE(store) << store.error().line();
    }
    forge(path, "INSERT INTO marks (geom, id, time, slant_m, depth_m, depth_sd_m, gain, chip_width, "
                "chip_height, chip) "
                "VALUES (zeroblob(21), 'a', 'never', 9e999, -9e999, 'much', 1e300, 4000, 4000, x'00'), "
                "(NULL, 'b', 7, 'x', NULL, NULL, NULL, -1, -1, NULL)");
    expect_rows(400);
    const auto trip = TripFile::open(path);
    const auto marks = load_marks(trip->database());
    ASSERT_TRUE(marks);
    ASSERT_EQ(marks->size(), 2u);
    EXPECT_EQ((*marks)[0].slant_m, 0);
}

TEST_F(ForgedTrip, ALinkToATripStaysALinkWhenItIsMadeSmall) {
    const auto link = folder.file("link.trip.gpkg");
    std::filesystem::create_symlink(path, link);
    const auto done = thin_trip(link, {});
    ASSERT_TRUE(done) << done.error().line();
    EXPECT_TRUE(std::filesystem::is_symlink(link));
    EXPECT_FALSE(std::filesystem::is_symlink(path));
    EXPECT_LT(TripFile::open(path)->fetch(0, 400).size(), 400u);
}
