#include "trip/trip_schema.hpp"

#include "files/atomic_file.hpp"
#include "files/geopackage.hpp"
#include "files/identifier.hpp"
#include "trip/trip_file.hpp"

#include <algorithm>
#include <array>
#include <fmt/format.h>
#include <vector>

namespace heron {
namespace {

constexpr const char *extension = "heron_trip";
constexpr const char *definition = "docs/trip-file.md of Young Heron";

// What schema 1 had.
constexpr const char *tables_of_1 = R"sql(
CREATE TABLE heron_trip (key TEXT PRIMARY KEY NOT NULL, value TEXT);
CREATE TABLE heron_block (id INTEGER PRIMARY KEY, first_row INTEGER NOT NULL UNIQUE, rows INTEGER NOT NULL,
  time_first INTEGER NOT NULL, time_last INTEGER NOT NULL, bytes INTEGER NOT NULL);
CREATE TABLE heron_pings (block INTEGER PRIMARY KEY, payload BLOB NOT NULL);
CREATE TABLE heron_facts (first_row INTEGER PRIMARY KEY, rows INTEGER NOT NULL, payload BLOB NOT NULL);
CREATE TABLE heron_sounding (id INTEGER PRIMARY KEY, settings BLOB NOT NULL);
CREATE TABLE heron_nav (id INTEGER PRIMARY KEY, payload BLOB NOT NULL);
CREATE TABLE heron_sentences (id INTEGER PRIMARY KEY, time_first INTEGER NOT NULL, time_last INTEGER NOT NULL, payload BLOB NOT NULL);
CREATE TABLE heron_changes (id INTEGER PRIMARY KEY, time INTEGER NOT NULL, row INTEGER NOT NULL, by TEXT, what TEXT, reason TEXT,
  before TEXT, after TEXT, picture_before BLOB, picture_after BLOB);
CREATE TABLE heron_notes (id INTEGER PRIMARY KEY, time INTEGER NOT NULL, row INTEGER NOT NULL, text TEXT);
)sql";

// What schema 2 added.
constexpr const char *from_1_to_2 = R"sql(
CREATE TABLE heron_overview (id INTEGER PRIMARY KEY, payload BLOB NOT NULL);
CREATE TABLE heron_conditions (id INTEGER PRIMARY KEY, time INTEGER NOT NULL, what TEXT NOT NULL);
ALTER TABLE heron_changes ADD COLUMN verdict TEXT DEFAULT '';
)sql";

// What schema 3 changed: rows, facts, settings and overview belong to a stream (sonar/stream.hpp); all that
// older trips hold is of the side-looking one.
constexpr const char *from_2_to_3 = R"sql(
CREATE TABLE new_block (id INTEGER PRIMARY KEY, stream INTEGER NOT NULL, first_row INTEGER NOT NULL, rows INTEGER NOT NULL,
  time_first INTEGER NOT NULL, time_last INTEGER NOT NULL, bytes INTEGER NOT NULL, UNIQUE (stream, first_row));
INSERT INTO new_block SELECT id, 0, first_row, rows, time_first, time_last, bytes FROM heron_block;
DROP TABLE heron_block;
ALTER TABLE new_block RENAME TO heron_block;
CREATE TABLE new_facts (stream INTEGER NOT NULL, first_row INTEGER NOT NULL, rows INTEGER NOT NULL, payload BLOB NOT NULL,
  PRIMARY KEY (stream, first_row));
INSERT INTO new_facts SELECT 0, first_row, rows, payload FROM heron_facts;
DROP TABLE heron_facts;
ALTER TABLE new_facts RENAME TO heron_facts;
CREATE TABLE new_sounding (stream INTEGER NOT NULL, id INTEGER NOT NULL, settings BLOB NOT NULL, PRIMARY KEY (stream, id));
INSERT INTO new_sounding SELECT 0, id, settings FROM heron_sounding;
DROP TABLE heron_sounding;
ALTER TABLE new_sounding RENAME TO heron_sounding;
ALTER TABLE heron_overview ADD COLUMN stream INTEGER NOT NULL DEFAULT 0;
ALTER TABLE heron_changes ADD COLUMN stream INTEGER NOT NULL DEFAULT 0;
)sql";

bool make_layers(Database &db) {
    return add_feature_layer(
               db, "track", "LINESTRING",
               ", started TEXT, ended TEXT, straight INTEGER, speed_m_s DOUBLE, depth_m DOUBLE, "
               "first_row INTEGER, last_row INTEGER") &&
           add_feature_layer(db, "lanes", "LINESTRING",
                             ", name TEXT, spacing_m DOUBLE, range_m DOUBLE, frequency_hz DOUBLE");
}

bool register_all(Database &db, std::initializer_list<const char *> tables) {
    for (const char *t : tables)
        if (!register_extension(db, t, extension, definition))
            return false;
    return true;
}

// The overview of a trip that had none, from its pings.
bool add_overview(TripFile &trip) {
    Overview overview;
    TripFile::Knowledge k;
    const auto rows = trip.rows();
    constexpr std::size_t at_once = 256;
    for (std::size_t n = 0; n < rows; n += at_once) {
        auto part = trip.fetch(n, std::min(at_once, rows - n));
        part.resize(std::min(at_once, rows - n));
        for (const auto &r : part)
            overview.add(r.ping);
    }
    k.overview = overview.lines(0);
    return k.overview.empty() || trip.append(k).has_value();
}

// Blocks of older trips bear the sounder's own times; their facts bear those that marks and positions have.
bool correct_block_times(TripFile &trip) {
    const auto facts = trip.facts();
    if (!facts)
        return false;
    auto &db = trip.database();
    Transaction change(db);
    auto list = db.prepare("SELECT id, first_row, rows FROM heron_block WHERE stream = 0");
    std::vector<std::array<std::int64_t, 3>> blocks;
    while (list.next())
        blocks.push_back({list.whole(0), list.whole(1), list.whole(2)});
    auto set = db.prepare("UPDATE heron_block SET time_first = ?2, time_last = ?3 WHERE id = ?1");
    for (const auto &[id, first, rows] : blocks) {
        const auto end = std::min(first + rows, static_cast<std::int64_t>(facts->size()));
        if (first < 0 || first >= end)
            continue;
        set.reset();
        if (!set.ready() || !set.bind(1, id)
                                 .bind(2, (*facts)[static_cast<std::size_t>(first)].time)
                                 .bind(3, (*facts)[static_cast<std::size_t>(end - 1)].time)
                                 .run())
            return false;
    }
    return change.begun() && change.commit();
}

} // namespace

bool make_trip_schema(Database &db) {
    return make_geopackage(db) && make_layers(db) && db.run(tables_of_1) && db.run(from_1_to_2) &&
           db.run(from_2_to_3) &&
           register_all(db, {"heron_trip", "heron_block", "heron_pings", "heron_facts", "heron_sounding",
                             "heron_nav", "heron_sentences", "heron_changes", "heron_notes", "heron_overview",
                             "heron_conditions"}) &&
           db.run(fmt::format("INSERT INTO heron_trip VALUES ('schema', '{}')", TripFile::schema_version));
}

Result<void> upgrade_on_a_copy(Database &db, std::int64_t schema) {
    const auto path = db.path();
    const auto copy = unfinished_name(path);
    std::error_code error;
    std::filesystem::remove(copy, error);
    const auto give_up = [&](const Fault &fault) -> Result<void> {
        std::filesystem::remove(copy, error);
        return fail("the trip is of an older kind and could not be brought up to date: " + fault.happened,
                    "it was left as it is", fault.to_do);
    };
    if (auto r = db.back_up(copy); !r)
        return give_up(r.error());
    {
        auto upgraded = Database::open(copy, Database::Mode::write);
        if (!upgraded)
            return give_up(upgraded.error());
        Transaction change(*upgraded);
        const bool from_1 = schema < 2;
        if (!change.begun() ||
            (from_1 && (!upgraded->run(from_1_to_2) ||
                        !register_all(*upgraded, {"heron_overview", "heron_conditions"}))) ||
            !upgraded->run(from_2_to_3) ||
            !upgraded->run(fmt::format("UPDATE heron_trip SET value = '{}' WHERE key = 'schema'",
                                       TripFile::schema_version)) ||
            !change.commit())
            return give_up(upgraded->fault("upgraded").value());
    }
    {
        auto trip = TripFile::open(copy);
        if (!trip)
            return give_up(trip.error());
        if (schema < 2 && !add_overview(*trip))
            return give_up({"the overview could not be written", "", "free some space on the disk"});
    }
    {
        auto trip = TripFile::open(copy);
        if (!trip)
            return give_up(trip.error());
        if (!trip->set_value("id", new_identifier()) || !correct_block_times(*trip))
            return give_up({"the times of its rows could not be written", "", "free some space on the disk"});
    }
    // The old file's log belongs to the old file.
    db.run("PRAGMA journal_mode = DELETE");
    return move_into_place(copy, path);
}

} // namespace heron
