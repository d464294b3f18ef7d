#include "marks/mark_store.hpp"

#include <cstring>
#include <fmt/format.h>
#include <sqlite3.h>

namespace heron {
namespace {

constexpr int geopackage_application_id = 0x47504B47; // "GPKG"
constexpr int geopackage_version = 10300;

constexpr const char *schema = R"sql(
CREATE TABLE gpkg_spatial_ref_sys (srs_name TEXT NOT NULL, srs_id INTEGER NOT NULL PRIMARY KEY, organization TEXT NOT NULL,
  organization_coordsys_id INTEGER NOT NULL, definition TEXT NOT NULL, description TEXT);
INSERT INTO gpkg_spatial_ref_sys VALUES
 ('Undefined Cartesian', -1, 'NONE', -1, 'undefined', NULL), ('Undefined geographic', 0, 'NONE', 0, 'undefined', NULL),
 ('WGS 84', 4326, 'EPSG', 4326, 'GEOGCS["WGS 84",DATUM["WGS_1984",SPHEROID["WGS 84",6378137,298.257223563,AUTHORITY["EPSG","7030"]],AUTHORITY["EPSG","6326"]],PRIMEM["Greenwich",0,AUTHORITY["EPSG","8901"]],UNIT["degree",0.0174532925199433,AUTHORITY["EPSG","9122"]],AUTHORITY["EPSG","4326"]]', NULL);
CREATE TABLE gpkg_contents (table_name TEXT NOT NULL PRIMARY KEY, data_type TEXT NOT NULL, identifier TEXT UNIQUE,
  description TEXT DEFAULT '', last_change DATETIME NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ','now')),
  min_x DOUBLE, min_y DOUBLE, max_x DOUBLE, max_y DOUBLE, srs_id INTEGER REFERENCES gpkg_spatial_ref_sys(srs_id));
CREATE TABLE gpkg_geometry_columns (table_name TEXT NOT NULL REFERENCES gpkg_contents(table_name), column_name TEXT NOT NULL,
  geometry_type_name TEXT NOT NULL, srs_id INTEGER NOT NULL REFERENCES gpkg_spatial_ref_sys(srs_id), z TINYINT NOT NULL,
  m TINYINT NOT NULL, PRIMARY KEY (table_name, column_name));
CREATE TABLE marks (fid INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, geom POINT, id TEXT NOT NULL UNIQUE, name TEXT, family TEXT,
  kind TEXT, note TEXT, time TEXT, place_remark TEXT, east_east_m2 DOUBLE, east_north_m2 DOUBLE, north_north_m2 DOUBLE,
  side TEXT, slant_m DOUBLE, ground_m DOUBLE, depth_m DOUBLE, depth_sd_m DOUBLE, height_m DOUBLE, height_sd_m DOUBLE,
  height_at_least INTEGER, range_setting_m DOUBLE, frequency_hz DOUBLE, gain INTEGER, source TEXT, chip_width INTEGER,
  chip_height INTEGER, chip BLOB, foreign_gpx TEXT);
INSERT INTO gpkg_contents (table_name, data_type, identifier, srs_id) VALUES ('marks', 'features', 'marks', 4326);
INSERT INTO gpkg_geometry_columns VALUES ('marks', 'geom', 'POINT', 4326, 0, 0);
CREATE TABLE heron_schema (version INTEGER NOT NULL);
INSERT INTO heron_schema VALUES (1);
)sql";

constexpr const char *upsert = R"sql(
INSERT INTO marks (geom, id, name, family, kind, note, time, place_remark, east_east_m2, east_north_m2, north_north_m2, side,
  slant_m, ground_m, depth_m, depth_sd_m, height_m, height_sd_m, height_at_least, range_setting_m, frequency_hz, gain,
  source, chip_width, chip_height, chip, foreign_gpx)
VALUES (?1,?2,?3,?4,?5,?6,?7,?8,?9,?10,?11,?12,?13,?14,?15,?16,?17,?18,?19,?20,?21,?22,?23,?24,?25,?26,?27)
ON CONFLICT (id) DO UPDATE SET geom=?1, name=?3, family=?4, kind=?5, note=?6, time=?7, place_remark=?8, east_east_m2=?9,
  east_north_m2=?10, north_north_m2=?11, side=?12, slant_m=?13, ground_m=?14, depth_m=?15, depth_sd_m=?16, height_m=?17,
  height_sd_m=?18, height_at_least=?19, range_setting_m=?20, frequency_hz=?21, gain=?22, source=?23, chip_width=?24,
  chip_height=?25, chip=?26, foreign_gpx=?27)sql";

constexpr const char *select_all = R"sql(
SELECT geom, id, name, family, kind, note, time, place_remark, east_east_m2, east_north_m2, north_north_m2, side, slant_m,
  ground_m, depth_m, depth_sd_m, height_m, height_sd_m, height_at_least, range_setting_m, frequency_hz, gain, source,
  chip_width, chip_height, chip, foreign_gpx FROM marks ORDER BY fid)sql";

// A GeoPackage point: header "GP", version 0, little-endian without envelope, srs 4326, then WKB.
std::vector<std::uint8_t> blob_of(const GeoPoint &p) {
    std::vector<std::uint8_t> b{'G', 'P', 0, 1};
    const auto put = [&](auto value) {
        const auto *bytes = reinterpret_cast<const std::uint8_t *>(&value);
        b.insert(b.end(), bytes, bytes + sizeof value);
    };
    put(std::int32_t{4326});
    b.push_back(1);
    put(std::uint32_t{1});
    put(p.longitude_deg);
    put(p.latitude_deg);
    return b;
}

std::optional<GeoPoint> point_of(const void *data, int size) {
    if (data == nullptr || size != 29)
        return std::nullopt;
    GeoPoint p;
    std::memcpy(&p.longitude_deg, static_cast<const std::uint8_t *>(data) + 13, 8);
    std::memcpy(&p.latitude_deg, static_cast<const std::uint8_t *>(data) + 21, 8);
    return p;
}

class Statement {
  public:
    Statement(sqlite3 *db, const char *sql) {
        status_ = sqlite3_prepare_v2(db, sql, -1, &statement_, nullptr);
    }
    ~Statement() { sqlite3_finalize(statement_); }
    Statement(const Statement &) = delete;
    Statement &operator=(const Statement &) = delete;
    bool ready() const { return status_ == SQLITE_OK; }
    int step() { return sqlite3_step(statement_); }
    void reset() { sqlite3_reset(statement_); }

    void bind(int i, const std::string &v) {
        sqlite3_bind_text(statement_, i, v.data(), static_cast<int>(v.size()), SQLITE_TRANSIENT);
    }
    void bind(int i, double v) { sqlite3_bind_double(statement_, i, v); }
    void bind(int i, int v) { sqlite3_bind_int(statement_, i, v); }
    void bind_blob(int i, const std::vector<std::uint8_t> &v) {
        if (v.empty())
            sqlite3_bind_null(statement_, i);
        else
            sqlite3_bind_blob(statement_, i, v.data(), static_cast<int>(v.size()), SQLITE_TRANSIENT);
    }
    void bind_estimate(int i, const std::optional<Estimate> &e) {
        if (!e) {
            sqlite3_bind_null(statement_, i);
            sqlite3_bind_null(statement_, i + 1);
            return;
        }
        bind(i, e->value);
        bind(i + 1, e->sd);
    }
    std::string text(int i) const {
        const auto *p = sqlite3_column_text(statement_, i);
        return p != nullptr ? std::string(reinterpret_cast<const char *>(p),
                                          static_cast<std::size_t>(sqlite3_column_bytes(statement_, i)))
                            : std::string();
    }
    double real(int i) const { return sqlite3_column_double(statement_, i); }
    int whole(int i) const { return sqlite3_column_int(statement_, i); }
    std::optional<Estimate> estimate(int i) const {
        if (sqlite3_column_type(statement_, i) == SQLITE_NULL)
            return std::nullopt;
        return Estimate{real(i), real(i + 1)};
    }
    const void *blob(int i) const { return sqlite3_column_blob(statement_, i); }
    int bytes(int i) const { return sqlite3_column_bytes(statement_, i); }

  private:
    sqlite3_stmt *statement_ = nullptr;
    int status_ = SQLITE_ERROR;
};

} // namespace

struct MarkStore::State {
    sqlite3 *db = nullptr;
    std::filesystem::path path;

    ~State() { sqlite3_close(db); }
    bool run(const char *sql) { return sqlite3_exec(db, sql, nullptr, nullptr, nullptr) == SQLITE_OK; }
    tl::unexpected<Fault> fault(const char *doing) const {
        const bool full = sqlite3_errcode(db) == SQLITE_FULL;
        return fail(fmt::format("{} could not be {}: {}", path.string(), doing, sqlite3_errmsg(db)),
                    "what was saved before is safe",
                    full ? "free some space on the disk, then mark again"
                         : "check the folder and its permissions");
    }
    int number(const char *sql) {
        Statement s(db, sql);
        return s.ready() && s.step() == SQLITE_ROW ? s.whole(0) : -1;
    }
};

MarkStore::MarkStore(std::unique_ptr<State> state) : state_(std::move(state)) {}
MarkStore::MarkStore(MarkStore &&) noexcept = default;
MarkStore &MarkStore::operator=(MarkStore &&) noexcept = default;
MarkStore::~MarkStore() = default;

Result<MarkStore> MarkStore::open(const std::filesystem::path &path) {
    auto state = std::make_unique<State>();
    state->path = path;
    if (sqlite3_open_v2(path.c_str(), &state->db,
                        SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE | SQLITE_OPEN_FULLMUTEX,
                        nullptr) != SQLITE_OK)
        return state->fault("opened");
    sqlite3_busy_timeout(state->db, 5000);
    const int tables = state->number("SELECT count(*) FROM sqlite_master");
    if (tables < 0)
        return fail(fmt::format("{} is no file of marks, or it is damaged", path.string()),
                    "it was left as it is", "move it away, or name another file");
    if (tables > 0) {
        const int version = state->number("SELECT version FROM heron_schema");
        if (version < 0)
            return fail(fmt::format("{} is a database of another program", path.string()),
                        "it was left as it is", "name another file for the marks");
        if (version > schema_version)
            return fail(fmt::format("{} was written by a newer Young Heron (schema {}, this one knows {})",
                                    path.string(), version, schema_version),
                        "it was left as it is", "open it with the newer program");
    }
    state->run("PRAGMA journal_mode = WAL");
    state->run("PRAGMA synchronous = FULL");
    if (tables == 0) {
        const auto begin =
            fmt::format("PRAGMA application_id = {}; PRAGMA user_version = {}; BEGIN IMMEDIATE;",
                        geopackage_application_id, geopackage_version);
        if (!state->run(begin.c_str()) || !state->run(schema) || !state->run("COMMIT"))
            return state->fault("set up");
    }
    return MarkStore(std::move(state));
}

Result<void> MarkStore::save(const Mark &mark) {
    return save(std::vector<Mark>{mark});
}

Result<void> MarkStore::save(const std::vector<Mark> &marks) {
    auto &s = *state_;
    if (!s.run("BEGIN IMMEDIATE"))
        return s.fault("written");
    bool good = false;
    {
        Statement q(s.db, upsert);
        good = q.ready();
        for (const auto &m : marks) {
            if (!good)
                break;
            q.reset();
            q.bind_blob(1, m.place ? blob_of(*m.place) : std::vector<std::uint8_t>());
            q.bind(2, m.id);
            q.bind(3, m.name);
            q.bind(4, std::string(name_of(m.family)));
            q.bind(5, m.kind);
            q.bind(6, m.note);
            q.bind(7, print_rfc3339(m.time, 9));
            q.bind(8, m.place_remark);
            q.bind(9, m.place_covariance.east_east);
            q.bind(10, m.place_covariance.east_north);
            q.bind(11, m.place_covariance.north_north);
            q.bind(12, m.side);
            q.bind(13, m.slant_m);
            q.bind(14, m.ground_m);
            q.bind_estimate(15, m.depth_m);
            q.bind_estimate(17, m.height_m);
            q.bind(19, m.height_at_least ? 1 : 0);
            q.bind(20, m.range_setting_m);
            q.bind(21, m.frequency_hz);
            q.bind(22, m.gain);
            q.bind(23, m.source);
            q.bind(24, m.chip.width);
            q.bind(25, m.chip.height);
            q.bind_blob(26, m.chip.level);
            q.bind(27, m.foreign_gpx);
            good = q.step() == SQLITE_DONE;
        }
    }
    good = good && s.run("UPDATE gpkg_contents SET last_change = strftime('%Y-%m-%dT%H:%M:%fZ','now') WHERE "
                         "table_name = 'marks'");
    if (good && s.run("COMMIT"))
        return {};
    auto fault = s.fault("written");
    s.run("ROLLBACK");
    return fault;
}

Result<void> MarkStore::remove(const std::string &id) {
    auto &s = *state_;
    Statement q(s.db, "DELETE FROM marks WHERE id = ?1");
    if (!q.ready())
        return s.fault("written");
    q.bind(1, id);
    if (q.step() != SQLITE_DONE)
        return s.fault("written");
    return {};
}

Result<std::vector<Mark>> MarkStore::load() const {
    auto &s = *state_;
    Statement q(s.db, select_all);
    if (!q.ready())
        return s.fault("read");
    std::vector<Mark> marks;
    int status = SQLITE_ROW;
    while ((status = q.step()) == SQLITE_ROW) {
        Mark m;
        m.place = point_of(q.blob(0), q.bytes(0));
        m.id = q.text(1);
        m.name = q.text(2);
        m.family = family_named(q.text(3)).value_or(Family::unsure);
        m.kind = q.text(4);
        m.note = q.text(5);
        m.time = parse_rfc3339(q.text(6)).value_or(0);
        m.place_remark = q.text(7);
        m.place_covariance = {q.real(8), q.real(9), q.real(10)};
        m.side = q.text(11);
        m.slant_m = q.real(12);
        m.ground_m = q.real(13);
        m.depth_m = q.estimate(14);
        m.height_m = q.estimate(16);
        m.height_at_least = q.whole(18) != 0;
        m.range_setting_m = q.real(19);
        m.frequency_hz = q.real(20);
        m.gain = q.whole(21);
        m.source = q.text(22);
        const int w = q.whole(23), h = q.whole(24), size = q.bytes(25);
        if (w > 0 && h > 0 && w < 4096 && h < 4096 && w * h == size) {
            const auto *p = static_cast<const std::uint8_t *>(q.blob(25));
            m.chip = {w, h, {p, p + size}};
        }
        m.foreign_gpx = q.text(26);
        marks.push_back(std::move(m));
    }
    if (status != SQLITE_DONE)
        return s.fault("read to its end");
    return marks;
}

} // namespace heron
