#include "files/geopackage.hpp"

#include <algorithm>
#include <cstring>
#include <fmt/format.h>

namespace heron {
namespace {

constexpr int application_id = 0x47504B47; // "GPKG"
constexpr int user_version = 10300;
constexpr int wgs84 = 4326;

constexpr const char *own_tables = R"sql(
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
CREATE TABLE gpkg_extensions (table_name TEXT, column_name TEXT, extension_name TEXT NOT NULL, definition TEXT NOT NULL,
  scope TEXT NOT NULL, CONSTRAINT ge_tce UNIQUE (table_name, column_name, extension_name));
)sql";

class Blob {
  public:
    template <class T>
    void put(T value) {
        const auto *p = reinterpret_cast<const std::uint8_t *>(&value);
        bytes.insert(bytes.end(), p, p + sizeof value);
    }
    std::vector<std::uint8_t> bytes;
};

// "GP", version 0, flags: little-endian, with an envelope of x and y or with none.
Blob header(bool envelope) {
    Blob b;
    b.bytes = {'G', 'P', 0, static_cast<std::uint8_t>(envelope ? 3 : 1)};
    b.put(std::int32_t{wgs84});
    return b;
}

} // namespace

bool is_geopackage(const Database &db) {
    return db.number("PRAGMA application_id") == application_id && db.has_only_plain({"gpkg_*"});
}

bool make_geopackage(Database &db) {
    return db.run(fmt::format("PRAGMA application_id = {}; PRAGMA user_version = {}", application_id,
                              user_version)) &&
           db.run(own_tables);
}

bool add_feature_layer(Database &db, const std::string &table, const std::string &geometry,
                       const std::string &columns) {
    return db.run(
        fmt::format("CREATE TABLE {0} (fid INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, geom {1}{2});"
                    "INSERT INTO gpkg_contents (table_name, data_type, identifier, srs_id) VALUES "
                    "('{0}', 'features', '{0}', {3});"
                    "INSERT INTO gpkg_geometry_columns VALUES ('{0}', 'geom', '{1}', {3}, 0, 0);",
                    table, geometry, columns, wgs84));
}

bool register_extension(Database &db, const std::string &table, const std::string &extension,
                        const std::string &definition) {
    auto s = db.prepare("INSERT INTO gpkg_extensions VALUES (?1, NULL, ?2, ?3, 'read-write')");
    return s.ready() && s.bind(1, table).bind(2, extension).bind(3, definition).run();
}

bool touch_layer(Database &db, const std::string &table) {
    auto s = db.prepare(
        "UPDATE gpkg_contents SET last_change = strftime('%Y-%m-%dT%H:%M:%fZ','now') WHERE table_name = ?1");
    return s.ready() && s.bind(1, table).run();
}

std::vector<std::uint8_t> point_blob(LonLat at) {
    auto b = header(false);
    b.put(std::uint8_t{1});
    b.put(std::uint32_t{1});
    b.put(at.first);
    b.put(at.second);
    return b.bytes;
}

std::vector<std::uint8_t> line_blob(std::span<const LonLat> points) {
    auto b = header(true);
    const auto [west, east] = std::minmax_element(points.begin(), points.end());
    const auto by_latitude = [](const LonLat &a, const LonLat &c) { return a.second < c.second; };
    const auto [south, north] = std::minmax_element(points.begin(), points.end(), by_latitude);
    for (const double v : {west->first, east->first, south->second, north->second})
        b.put(v);
    b.put(std::uint8_t{1});
    b.put(std::uint32_t{2});
    b.put(static_cast<std::uint32_t>(points.size()));
    for (const auto &[x, y] : points) {
        b.put(x);
        b.put(y);
    }
    return b.bytes;
}

std::optional<LonLat> point_in(std::span<const std::uint8_t> blob) {
    // All before the coordinates is the same for every point.
    constexpr std::size_t coordinates = 13;
    const auto other = point_blob({0, 0});
    if (blob.size() != other.size() || !std::equal(other.begin(), other.begin() + coordinates, blob.begin()))
        return std::nullopt;
    LonLat p;
    std::memcpy(&p.first, blob.data() + coordinates, 8);
    std::memcpy(&p.second, blob.data() + coordinates + 8, 8);
    return p;
}

} // namespace heron
