#include "trip/trip_schema.hpp"

#include "files/atomic_file.hpp"
#include "files/geopackage.hpp"
#include "trip/trip_file.hpp"

#include <fmt/format.h>

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

} // namespace

bool make_trip_schema(Database &db) {
    return make_geopackage(db) && make_layers(db) && db.run(tables_of_1) && db.run(from_1_to_2) &&
           register_all(db, {"heron_trip", "heron_block", "heron_pings", "heron_facts", "heron_sounding",
                             "heron_nav", "heron_sentences", "heron_changes", "heron_notes", "heron_overview",
                             "heron_conditions"}) &&
           db.run(fmt::format("INSERT INTO heron_trip VALUES ('schema', '{}')", TripFile::schema_version));
}

Result<void> upgrade_on_a_copy(Database &db) {
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
        if (!change.begun() || !upgraded->run(from_1_to_2) ||
            !register_all(*upgraded, {"heron_overview", "heron_conditions"}) ||
            !upgraded->run(fmt::format("UPDATE heron_trip SET value = '{}' WHERE key = 'schema'",
                                       TripFile::schema_version)) ||
            !change.commit())
            return give_up(upgraded->fault("upgraded").value());
    }
    {
        auto trip = TripFile::open(copy);
        if (!trip)
            return give_up(trip.error());
        if (!add_overview(*trip))
            return give_up({"the overview could not be written", "", "free some space on the disk"});
    }
    // The old file's log belongs to the old file.
    db.run("PRAGMA journal_mode = DELETE");
    return move_into_place(copy, path);
}

} // namespace heron
