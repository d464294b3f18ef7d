#include "trip/trip_schema.hpp"

#include "files/geopackage.hpp"
#include "picture/chip.hpp"
#include "recording/recording.hpp"
#include "trip/trip_recording.hpp"
#include "trips.hpp"

#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <mutex>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

using namespace heron;
using test::head;
using test::keep;
using test::minute;
using test::start;
using testing::HasSubstr;

namespace {

void expect_same(const SoundedRow &a, const SoundedRow &b) {
    ASSERT_EQ(a.ping.beams.size(), b.ping.beams.size());
    EXPECT_EQ(a.ping.time, b.ping.time);
    EXPECT_EQ(a.settings, b.settings);
    for (std::size_t i = 0; i < a.ping.beams.size(); ++i) {
        EXPECT_EQ(a.ping.beams[i].code, b.ping.beams[i].code);
        EXPECT_EQ(a.ping.beams[i].side, b.ping.beams[i].side);
    }
}

} // namespace

TEST(Trip, WhatWasSoundedIsReadBackFromAnywhere) {
    const test::Folder folder;
    keep(folder.file("a.trip.gpkg"));
    EXPECT_FALSE(std::filesystem::exists(folder.file("a.trip.gpkg-wal"))) << "closing folds the log";
    auto trip = TripFile::open_read_only(folder.file("a.trip.gpkg"));
    ASSERT_TRUE(trip);
    EXPECT_EQ(trip->rows(), 400u);
    EXPECT_EQ(trip->head().water, "Ellemoor Water");
    EXPECT_NEAR(trip->head().installation.draught_m(), minute().installation.draught_m(), 1e-9);
    for (const auto &[first, count] : {std::pair{0, 5}, {63, 2}, {130, 64}, {399, 10}}) {
        const auto rows = trip->fetch(static_cast<std::size_t>(first), static_cast<std::size_t>(count));
        ASSERT_EQ(rows.size(), std::min<std::size_t>(static_cast<std::size_t>(count),
                                                     400u - static_cast<std::size_t>(first)));
        for (std::size_t i = 0; i < rows.size(); ++i)
            expect_same(rows[i], minute().rows[static_cast<std::size_t>(first) + i]);
    }
    EXPECT_TRUE(trip->fetch(400, 3).empty());
    const auto all = trip->sentences(0, std::numeric_limits<UnixNs>::max());
    EXPECT_GT(all.size(), 100u);
    EXPECT_EQ(all.front().line, minute().sentences.front().line);
}

TEST(Trip, OpensWithWhatIsKnownAndTracksTheRestAgain) {
    const test::Folder folder;
    keep(folder.file("a.trip.gpkg")); // the last hundred rows have no facts, as after a kill
    auto trip = TripFile::open(folder.file("a.trip.gpkg"));
    ASSERT_TRUE(trip);
    Scan scan;
    Overview overview;
    ASSERT_TRUE(open_into(*trip, scan, overview));
    ASSERT_EQ(scan.end(), 400u);
    EXPECT_EQ(overview.lines(0).size(), 400u / rows_an_overview_line);
    // The same as one that lived through it.
    Scan lived;
    lived.installation = minute().installation;
    NmeaFeed feed;
    auto sentence = minute().sentences.begin();
    for (const auto &row : minute().rows) {
        for (; sentence != minute().sentences.end() && sentence->time <= row.ping.time; ++sentence)
            feed.take(sentence->line, sentence->time, lived.nav);
        lived.push(row);
    }
    for (std::size_t n = 0; n < 370; ++n) {
        EXPECT_EQ(scan.facts(n).time, lived.facts(n).time);
        EXPECT_NEAR(scan.bottom(n).altitude_m, lived.bottom(n).altitude_m, n < 290 || n > 330 ? 0.06 : 0.3)
            << n;
        EXPECT_NEAR(scan.facts(n).along_m, lived.facts(n).along_m, 0.15) << n;
        expect_same(scan.row(n), lived.row(n));
    }
    EXPECT_TRUE(scan.nav.fix_at(scan.facts(380).time));
}

TEST(Trip, OldSamplesAreLetGoAndFetchedAgain) {
    const test::Folder folder;
    keep(folder.file("a.trip.gpkg"));
    auto trip = TripFile::open_read_only(folder.file("a.trip.gpkg"));
    Scan scan(2 << 20);
    Overview overview;
    ASSERT_TRUE(open_into(*trip, scan, overview));
    for (const std::size_t n : {5u, 300u, 150u, 5u, 250u, 80u, 399u}) {
        EXPECT_EQ(scan.ping(n).time, minute().rows[n].ping.time);
        scan.trim();
        EXPECT_LT(scan.bytes_held(), 3u << 20);
    }
}

// GDAL and the SQLite shell are general readers of a GeoPackage; they see its layers and find nothing wrong.
TEST(Trip, AnyGisOpensIt) {
    const test::Folder folder;
    const auto file = folder.file("a.trip.gpkg");
    keep(file);
    {
        auto trip = TripFile::open(file);
        ASSERT_TRUE(trip);
        Stretch t;
        t.from = start;
        t.to = start + ns_per_s;
        t.speed_m_s = 1.4;
        t.line = {{46.5, -21.25}, {46.5001, -21.25}};
        ASSERT_TRUE(trip->append(std::vector<Stretch>{t}));
    }
    const auto info = test::run("ogrinfo -ro -al -geom=SUMMARY " + file + " track");
    EXPECT_THAT(info.out, HasSubstr("Geometry: Line String"));
    EXPECT_THAT(info.out, HasSubstr("WGS 84"));
    EXPECT_THAT(info.out, HasSubstr("speed_m_s (Real) = 1.4"));
    EXPECT_THAT(info.out, testing::Not(HasSubstr("Warning")));
    EXPECT_THAT(test::run("ogrinfo -ro " + file).out, HasSubstr("lanes"));
    EXPECT_EQ(test::run("sqlite3 " + file +
                        " 'pragma integrity_check; select count(*) from heron_pings; select sum(rows) "
                        "from heron_block; select value from heron_trip where key=\"schema\"'")
                  .out.substr(0, 3),
              "ok\n");
    EXPECT_THAT(test::run("sqlite3 " + file +
                          " 'select extension_name from gpkg_extensions where "
                          "table_name=\"heron_pings\"'")
                    .out,
                HasSubstr("heron_trip"));
}

TEST(Trip, IsOpenToOneWriterAtATime) {
    const test::Folder folder;
    keep(folder.file("a.trip.gpkg"));
    auto first = TripFile::open(folder.file("a.trip.gpkg"));
    ASSERT_TRUE(first);
    const auto second = TripFile::open(folder.file("a.trip.gpkg"));
    ASSERT_FALSE(second);
    EXPECT_THAT(second.error().line(), HasSubstr("open in another window"));
    EXPECT_TRUE(TripFile::open_read_only(folder.file("a.trip.gpkg"))) << "looking does no harm";
    // Another process is refused as well.
    const auto other =
        test::run(test::program("heron") + " trip note " + folder.file("a.trip.gpkg") + " hello");
    EXPECT_EQ(other.code, 2) << other.out;
    EXPECT_THAT(other.out, HasSubstr("another window"));
    { const auto gone = std::move(*first); }
    EXPECT_TRUE(TripFile::open(folder.file("a.trip.gpkg")));
}

TEST(Trip, RefusesOthersAndNewerOnesAndLeavesThemAlone) {
    const test::Folder folder;
    std::ofstream(folder.file("text.trip.gpkg")) << std::string(4000, 'x');
    EXPECT_FALSE(TripFile::open(folder.file("text.trip.gpkg")));
    EXPECT_EQ(test::contents(folder.file("text.trip.gpkg")), std::string(4000, 'x'));
    EXPECT_FALSE(TripFile::open(folder.file("absent.trip.gpkg")));
    EXPECT_FALSE(std::filesystem::exists(folder.file("absent.trip.gpkg")));
    keep(folder.file("a.trip.gpkg"));
    EXPECT_FALSE(TripFile::create(folder.file("a.trip.gpkg"), head()));
    ASSERT_EQ(test::run("sqlite3 " + folder.file("a.trip.gpkg") +
                        " 'update heron_trip set value=99 where key=\"schema\"'")
                  .code,
              0);
    const auto newer = TripFile::open(folder.file("a.trip.gpkg"));
    ASSERT_FALSE(newer);
    EXPECT_THAT(newer.error().line(), HasSubstr("newer"));
}

// What schema 3 changed is taken back: rows, facts and settings of one stream only, and no id.
std::string back_to_schema_2() {
    return "create table b (id INTEGER PRIMARY KEY, first_row INTEGER NOT NULL UNIQUE, rows INTEGER NOT "
           "NULL, "
           "time_first INTEGER NOT NULL, time_last INTEGER NOT NULL, bytes INTEGER NOT NULL); insert into b "
           "select id, first_row, rows, time_first, time_last, bytes from heron_block; drop table "
           "heron_block; "
           "alter table b rename to heron_block; create table f (first_row INTEGER PRIMARY KEY, rows INTEGER "
           "NOT NULL, payload BLOB NOT NULL); insert into f select first_row, rows, payload from "
           "heron_facts; "
           "drop table heron_facts; alter table f rename to heron_facts; create table s (id INTEGER PRIMARY "
           "KEY, settings BLOB NOT NULL); insert into s select id, settings from heron_sounding; drop table "
           "heron_sounding; alter table s rename to heron_sounding; alter table heron_overview drop column "
           "stream; alter table heron_changes drop column stream; delete from heron_trip where key = \"id\"; "
           "update heron_trip set value = 2 where key = \"schema\"; ";
}

// A trip of schema 1, made by taking away what schemas 2 and 3 added.
TEST(Trip, AnOlderSchemaIsBroughtUpToDateOnACopy) {
    const test::Folder folder;
    const auto file = folder.file("old.trip.gpkg");
    keep(file);
    ASSERT_EQ(
        test::run(
            "sqlite3 " + file + " '" + back_to_schema_2() +
            "drop table heron_overview; drop table heron_conditions; alter table heron_changes drop column "
            "verdict; delete from gpkg_extensions where table_name in "
            "(\"heron_overview\",\"heron_conditions\"); "
            "update heron_trip set value=1 where key=\"schema\"'")
            .out,
        "");
    auto trip = TripFile::open(file);
    ASSERT_TRUE(trip) << trip.error().line();
    EXPECT_EQ(trip->rows(), 400u);
    EXPECT_EQ(trip->overview().size(), 25u);
    EXPECT_TRUE(trip->set_conditions(start, {"calm", "bright", "stained", "low", 13.5}));
    EXPECT_EQ(trip->conditions()->clarity, "stained");
    SettingChange change;
    change.verdict = "better";
    EXPECT_TRUE(trip->log(change));
    expect_same(trip->fetch(77, 1).at(0), minute().rows[77]);
    std::size_t files = 0;
    for ([[maybe_unused]] const auto &e : std::filesystem::directory_iterator(folder.file(".")))
        ++files;
    EXPECT_LE(files, 3u) << "nothing is left beside it";
}

// Blocks of schema 2 bore the sounder's own times; marks bear the times of facts. What is near a mark is told
// by one clock after the upgrade.
TEST(Trip, SchemaTwoGetsStreamsAnIdAndTheOneTime) {
    const test::Folder folder;
    const auto file = folder.file("old.trip.gpkg");
    keep(file);
    const auto facts = TripFile::open_read_only(file)->facts();
    ASSERT_TRUE(facts);
    ASSERT_EQ(
        test::run("sqlite3 " + file + " '" + back_to_schema_2() +
                  "update heron_block set time_first = time_first + 60000000000, time_last = time_last + "
                  "60000000000'")
            .out,
        "");
    const auto glance = TripFile::glance(file);
    ASSERT_TRUE(glance);
    EXPECT_EQ(glance->schema, 2);
    EXPECT_EQ(glance->head.water, "Ellemoor Water");
    auto trip = TripFile::open(file);
    ASSERT_TRUE(trip) << trip.error().line();
    EXPECT_FALSE(trip->head().id.empty());
    EXPECT_EQ(trip->rows(), 400u);
    EXPECT_EQ(trip->rows(StreamId::around), 0u);
    expect_same(trip->fetch(77, 1).at(0), minute().rows[77]);
    EXPECT_EQ(trip->database().number("SELECT min(time_first) FROM heron_block"), facts->front().time);
    const auto last = trip->database().number(
        "SELECT first_row + rows - 1 FROM heron_block WHERE first_row + rows <= 200 ORDER BY first_row DESC");
    ASSERT_TRUE(last);
    EXPECT_EQ(
        trip->database().number("SELECT time_last FROM heron_block WHERE first_row + rows <= 200 ORDER BY "
                                "first_row DESC"),
        (*facts)[static_cast<std::size_t>(*last)].time);
    EXPECT_FALSE(trip->settings().empty());
}

// Two sonars at once: rows, facts and overview of each by numbers of its own, in one file.
TEST(Trip, StreamsAreKeptSideBySide) {
    const test::Folder folder;
    const auto file = folder.file("two.trip.gpkg");
    {
        auto trip = TripFile::create(file, head());
        ASSERT_TRUE(trip);
        ASSERT_TRUE(trip->set_installation(StreamId::around, {{4.1, 0, 0.4}, {0, 0, -1}, 0, 1.25}));
        Journal journal(std::move(*trip), [](const Fault &f) { FAIL() << f.line(); });
        for (std::size_t n = 0; n < 150; ++n) {
            EXPECT_EQ(journal.sounded(minute().rows[n]), n);
            if (n % 3 != 0)
                continue;
            auto turned = minute().rows[n];
            turned.down.reset();
            turned.ping.beams.resize(1);
            turned.ping.beams[0].side = Side::around;
            turned.ping.beams[0].azimuth_deg = static_cast<double>(n);
            EXPECT_EQ(journal.sounded(std::move(turned), StreamId::around), n / 3);
        }
        journal.flush();
        EXPECT_EQ(journal.rows_kept(), 150u);
        EXPECT_EQ(journal.rows_kept(StreamId::around), 50u);
    }
    auto trip = TripFile::open(file);
    ASSERT_TRUE(trip);
    EXPECT_EQ(trip->rows(), 150u);
    EXPECT_EQ(trip->rows(StreamId::around), 50u);
    expect_same(trip->fetch(140, 1).at(0), minute().rows[140]);
    const auto turned = trip->fetch(40, 3, StreamId::around);
    ASSERT_EQ(turned.size(), 3u);
    EXPECT_EQ(turned[1].ping.beams[0].side, Side::around);
    EXPECT_NEAR(turned[1].ping.beams[0].azimuth_deg, 123, 0.01);
    EXPECT_NEAR(trip->installation(StreamId::around).transducer.forward_m, 4.1, 1e-9);
    EXPECT_EQ(trip->installation(StreamId::around).positions_late_s, 1.25);
    // Each opens into a scan of its own; both go out into one recording, merged by time.
    Scan side, around;
    Overview small;
    ASSERT_TRUE(open_into(*trip, side, small));
    ASSERT_TRUE(open_into(*trip, around, small, StreamId::around));
    EXPECT_EQ(side.end(), 150u);
    EXPECT_EQ(around.end(), 50u);
    const auto out = folder.file("two.nc");
    ASSERT_EQ(recording_from_trip(file, out).value_or(0), 200u);
    const auto again = read_recording(out);
    ASSERT_TRUE(again) << again.error().line();
    std::size_t turning = 0;
    for (const auto &p : again->pings)
        turning += stream_of(p) == StreamId::around ? 1 : 0;
    EXPECT_EQ(turning, 50u);
    std::vector<std::string> warnings;
    ASSERT_EQ(trip_from_recording(out, folder.file("back.trip.gpkg"), warnings).value_or(0), 200u);
    EXPECT_EQ(TripFile::open(folder.file("back.trip.gpkg"))->rows(StreamId::around), 50u);
}

// A job that fails for another reason than the disk is tried a few times, dropped and told; those behind it
// go on. One that throws costs nothing but itself.
TEST(Trip, AJobThatFailsBlocksNoneBehindIt) {
    const test::Folder folder;
    auto trip = TripFile::create(folder.file("a.trip.gpkg"), head());
    ASSERT_TRUE(trip);
    std::mutex lock;
    std::vector<std::string> told;
    std::atomic<int> tries = 0;
    {
        Journal journal(std::move(*trip), [&](const Fault &f) {
            const std::scoped_lock hold(lock);
            told.push_back(f.line());
        });
        journal.ask([&](TripFile &) -> Result<void> {
            ++tries;
            return fail("no such table: spoons");
        });
        journal.ask([](TripFile &) -> Result<void> { throw std::runtime_error("a broken promise"); });
        journal.ask([](TripFile &t) { return t.set_value("behind", "written"); });
        for (int i = 0; i < 6; ++i)
            journal.flush();
        EXPECT_EQ(journal.jobs_dropped(), 2u);
        EXPECT_FALSE(journal.failing());
        journal.sounded(minute().rows[0]);
        journal.flush();
        EXPECT_EQ(journal.rows_kept(), 1u);
    }
    EXPECT_EQ(tries, 3);
    EXPECT_EQ(TripFile::open_read_only(folder.file("a.trip.gpkg"))->value("behind"), "written");
    ASSERT_GE(told.size(), 1u);
    EXPECT_THAT(told.front() + told.back(), HasSubstr("spoons"));
}

// What cannot be read is told as that, not as open elsewhere.
TEST(Trip, AnUnreadableTripIsToldAsUnreadable) {
    const test::Folder folder;
    const auto file = folder.file("a.trip.gpkg");
    keep(file);
    std::filesystem::permissions(file, std::filesystem::perms::none);
    std::filesystem::permissions(folder.file("."), std::filesystem::perms::all);
    // Nothing is unreadable to root: somebody else tries.
    const auto child = ::fork();
    if (child == 0) {
        (void)::setgid(65534);
        (void)::setuid(65534);
        const auto trip = TripFile::open(file);
        ::_exit(!trip && trip.error().line().find("cannot be read") != std::string::npos ? 0 : 1);
    }
    int status = -1;
    ASSERT_EQ(::waitpid(child, &status, 0), child);
    EXPECT_EQ(status, 0);
    std::filesystem::permissions(file, std::filesystem::perms::owner_all);
}

TEST(Trip, WhatIsNoRegularFileIsRefusedAtOnce) {
    const test::Folder folder;
    const auto pipe = folder.file("pipe.trip.gpkg"), directory = folder.file("folder.trip.gpkg");
    ASSERT_EQ(::mkfifo(pipe.c_str(), 0600), 0);
    std::filesystem::create_directory(directory);
    for (const auto &path : {pipe, directory}) {
        const auto trip = TripFile::open(path);
        ASSERT_FALSE(trip);
        EXPECT_THAT(trip.error().line(), HasSubstr("no file"));
        EXPECT_FALSE(TripFile::open_read_only(path));
        EXPECT_FALSE(TripFile::glance(path));
    }
}

TEST(Trip, ChangesAndVerdictsAreKept) {
    const test::Folder folder;
    auto trip = TripFile::create(folder.file("a.trip.gpkg"), head());
    ASSERT_TRUE(trip);
    const auto picture = pack_chip({2, 1, {10, 200}});
    SettingChange change;
    change.time = start;
    change.row = 7;
    change.by = "advice";
    change.what = "gain";
    change.reason = "1 in 5 is full";
    change.picture_before = picture;
    const auto id = trip->log(change);
    ASSERT_TRUE(id);
    ASSERT_TRUE(trip->judge(*id, "better", picture));
    const auto all = trip->changes();
    ASSERT_EQ(all.size(), 1u);
    EXPECT_EQ(all[0].verdict, "better");
    EXPECT_EQ(all[0].reason, "1 in 5 is full");
    EXPECT_EQ(unpack_chip(all[0].picture_after)->level[1], 200);
}

// SQLite's page limit stands for the disk: it fails the same call with the same code.
TEST(Journal, AFullDiskIsToldOnceAndWhatWasWrittenStays) {
    const test::Folder folder;
    const auto file = folder.file("a.trip.gpkg");
    auto trip = TripFile::create(file, head());
    ASSERT_TRUE(trip);
    trip->database().run("PRAGMA max_page_count = 120");
    std::atomic<int> told = 0;
    std::string words;
    {
        Journal journal(std::move(*trip), [&](const Fault &f) {
            words = f.line();
            ++told;
        });
        for (const auto &row : minute().rows)
            journal.sounded(row);
        journal.flush();
        EXPECT_TRUE(journal.failing());
        EXPECT_EQ(journal.rows_taken(), 400u) << "the numbers go on";
        EXPECT_LT(journal.rows_kept(), 400u);
        EXPECT_GT(journal.rows_kept(), 10u);
        const auto kept = journal.rows_kept();
        auto look = TripFile::open_read_only(file);
        ASSERT_TRUE(look);
        EXPECT_EQ(look->rows(), kept);
        expect_same(look->fetch(kept - 1, 1).at(0), minute().rows[kept - 1]);
        // There is room again.
        journal.ask([](TripFile &) { return Result<void>(); });
    }
    EXPECT_EQ(told, 1);
    EXPECT_THAT(words, HasSubstr("free some space"));
}

TEST(FuzzTrip, SurvivesChangedBytes) {
    const test::Folder folder;
    keep(folder.file("a.trip.gpkg"));
    const auto good = test::contents(folder.file("a.trip.gpkg"));
    std::mt19937 random(3);
    int opened = 0;
    for (int i = 0; i < 60; ++i) {
        auto bad = good;
        for (int n = 1 + static_cast<int>(random() % 40); n > 0; --n)
            bad[random() % bad.size()] = static_cast<char>(random());
        if (i % 6 == 0)
            bad.resize(bad.size() * 2 / 3);
        std::ofstream(folder.file("b.trip.gpkg"), std::ios::binary) << bad;
        auto trip = TripFile::open(folder.file("b.trip.gpkg"));
        if (!trip)
            continue;
        Scan scan;
        Overview overview;
        opened += open_into(*trip, scan, overview).has_value();
        for (std::size_t n = 0; n < scan.end(); n += 37)
            EXPECT_LE(scan.ping(n).beams.size(), 16u);
    }
    EXPECT_GT(opened, 20);
}

TEST(FuzzTrip, PayloadsOfRandomBytesAreRefusedOrSane) {
    std::mt19937 random(5);
    const auto facts = pack_facts(std::vector<RowFacts>(20));
    for (int i = 0; i < 3000; ++i) {
        auto bad = facts;
        for (int n = 1 + static_cast<int>(random() % 6); n > 0; --n)
            bad[random() % bad.size()] = static_cast<std::uint8_t>(random());
        bad.resize(bad.size() - random() % 3 * 7);
        if (const auto back = unpack_facts(bad))
            EXPECT_LE(back->size(), 30u);
        unsqueeze(bad);
    }
}
