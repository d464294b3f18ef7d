// What makes a SQLite database an OGC GeoPackage (OGC 12-128r18, version 1.3): its own tables, its layers,
// its geometries.
#pragma once

#include "files/database.hpp"

#include <span>
#include <utility>

namespace heron {

/// Longitude, latitude in degrees, WGS 84.
using LonLat = std::pair<double, double>;

/// Whether the file says of itself that it is one, and its own tables are tables.
bool is_geopackage(const Database &db);
/// Makes an empty database a GeoPackage. Inside a transaction of the caller's.
bool make_geopackage(Database &db);
/// Adds a layer of features: `columns` are further column definitions (", name TEXT, …"). `geometry`: POINT,
/// LINESTRING or POLYGON.
bool add_feature_layer(Database &db, const std::string &table, const std::string &geometry,
                       const std::string &columns);
/// Registers a table of our own, so that no reader takes it for damage; `extension` names it ("heron_trip"),
/// and `definition` says where it is described.
bool register_extension(Database &db, const std::string &table, const std::string &extension,
                        const std::string &definition);
/// Notes that a layer changed, and what it now covers.
bool touch_layer(Database &db, const std::string &table);

/// GeoPackage blobs, little-endian, WGS 84.
std::vector<std::uint8_t> point_blob(LonLat at);
std::vector<std::uint8_t> line_blob(std::span<const LonLat> points);
/// The point in a blob that `point_blob` could have made; nothing for other bytes.
std::optional<LonLat> point_in(std::span<const std::uint8_t> blob);

} // namespace heron
