#include "trip/thin_trip.hpp"

#include "files/atomic_file.hpp"
#include "files/geopackage.hpp"
#include "files/json.hpp"
#include "picture/mosaic.hpp"
#include "trip/open_trip.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <png.h>

namespace heron {
namespace {

// A grey PNG with transparency where nothing was seen.
std::vector<std::uint8_t> png_of(const Mosaic::Tile &levels, int low, int high) {
    std::vector<std::uint8_t> grey_alpha(levels.size() * 2);
    for (int y = 0; y < Mosaic::tile; ++y)
        for (int x = 0; x < Mosaic::tile; ++x) {
            // Rows of a picture go down, rows of the mosaic go north.
            const auto from = static_cast<std::size_t>((Mosaic::tile - 1 - y) * Mosaic::tile + x);
            const auto to = static_cast<std::size_t>(y * Mosaic::tile + x) * 2;
            const int v = levels[from];
            grey_alpha[to] =
                static_cast<std::uint8_t>(std::clamp((v - low) * 255 / std::max(1, high - low), 0, 255));
            grey_alpha[to + 1] = v > 0 ? 255 : 0;
        }
    png_image image{};
    image.version = PNG_IMAGE_VERSION;
    image.width = image.height = Mosaic::tile;
    image.format = PNG_FORMAT_GA;
    png_alloc_size_t size = 0;
    if (png_image_write_to_memory(&image, nullptr, &size, 0, grey_alpha.data(), 0, nullptr) == 0)
        return {};
    std::vector<std::uint8_t> out(size);
    if (png_image_write_to_memory(&image, out.data(), &size, 0, grey_alpha.data(), 0, nullptr) == 0)
        return {};
    out.resize(size);
    return out;
}

// The mosaic as tiles of a GeoPackage, in degrees; north-up, one zoom level.
bool write_mosaic(Database &db, const Mosaic &mosaic) {
    if (mosaic.tiles().empty())
        return true;
    int west = 1 << 30, east = -(1 << 30), south = 1 << 30, north = -(1 << 30);
    std::array<std::size_t, 256> counts{};
    for (const auto &[key, levels] : mosaic.tiles()) {
        west = std::min(west, key.first);
        east = std::max(east, key.first);
        south = std::min(south, key.second);
        north = std::max(north, key.second);
        for (const auto v : levels)
            ++counts[v];
    }
    // Levels from 2 % to 99.5 % fill the grey.
    std::size_t total = 0;
    for (std::size_t v = 1; v < 256; ++v)
        total += counts[v];
    int low = 1, high = 255;
    for (std::size_t v = 1, sum = 0; v < 256; ++v) {
        sum += counts[v];
        if (sum * 50 < total)
            low = static_cast<int>(v);
        if (sum * 1000 < total * 995)
            high = static_cast<int>(v) + 1;
    }
    const auto &o = mosaic.origin();
    const double metres = Mosaic::tile * mosaic.cell_m();
    const LocalPlane plane(o);
    const auto a = plane.to_globe({0, 0}), b = plane.to_globe({1000, 1000});
    const double degree_x = (b.longitude_deg - a.longitude_deg) / 1000,
                 degree_y = (b.latitude_deg - a.latitude_deg) / 1000;
    const double min_x = o.longitude_deg + west * metres * degree_x,
                 max_x = o.longitude_deg + (east + 1) * metres * degree_x,
                 min_y = o.latitude_deg + south * metres * degree_y,
                 max_y = o.latitude_deg + (north + 1) * metres * degree_y;
    if (!db.run(
            "CREATE TABLE IF NOT EXISTS gpkg_tile_matrix_set (table_name TEXT NOT NULL PRIMARY KEY, srs_id "
            "INTEGER NOT "
            "NULL, min_x DOUBLE NOT NULL, min_y DOUBLE NOT NULL, max_x DOUBLE NOT NULL, max_y DOUBLE NOT "
            "NULL);"
            "CREATE TABLE IF NOT EXISTS gpkg_tile_matrix (table_name TEXT NOT NULL, zoom_level INTEGER NOT "
            "NULL, "
            "matrix_width INTEGER NOT NULL, matrix_height INTEGER NOT NULL, tile_width INTEGER NOT NULL, "
            "tile_height "
            "INTEGER NOT NULL, pixel_x_size DOUBLE NOT NULL, pixel_y_size DOUBLE NOT NULL, PRIMARY KEY "
            "(table_name, "
            "zoom_level));"
            "DROP TABLE IF EXISTS mosaic; DELETE FROM gpkg_contents WHERE table_name = 'mosaic'; DELETE FROM "
            "gpkg_tile_matrix_set WHERE table_name = 'mosaic'; DELETE FROM gpkg_tile_matrix WHERE table_name "
            "= 'mosaic';"
            "CREATE TABLE mosaic (id INTEGER PRIMARY KEY AUTOINCREMENT, zoom_level INTEGER NOT NULL, "
            "tile_column INTEGER NOT "
            "NULL, tile_row INTEGER NOT NULL, tile_data BLOB NOT NULL, UNIQUE (zoom_level, tile_column, "
            "tile_row))"))
        return false;
    const int columns = east - west + 1, rows = north - south + 1;
    auto contents = db.prepare(
        "INSERT INTO gpkg_contents (table_name, data_type, identifier, min_x, min_y, max_x, max_y, "
        "srs_id) VALUES ('mosaic', 'tiles', 'mosaic', ?1, ?2, ?3, ?4, 4326)");
    auto set = db.prepare("INSERT INTO gpkg_tile_matrix_set VALUES ('mosaic', 4326, ?1, ?2, ?3, ?4)");
    auto matrix = db.prepare("INSERT INTO gpkg_tile_matrix VALUES ('mosaic', 0, ?1, ?2, ?3, ?3, ?4, ?5)");
    if (!contents.ready() || !contents.bind(1, min_x).bind(2, min_y).bind(3, max_x).bind(4, max_y).run() ||
        !set.ready() || !set.bind(1, min_x).bind(2, min_y).bind(3, max_x).bind(4, max_y).run() ||
        !matrix.ready() ||
        !matrix.bind(1, columns)
             .bind(2, rows)
             .bind(3, Mosaic::tile)
             .bind(4, mosaic.cell_m() * degree_x)
             .bind(5, mosaic.cell_m() * degree_y)
             .run())
        return false;
    auto tile = db.prepare(
        "INSERT INTO mosaic (zoom_level, tile_column, tile_row, tile_data) VALUES (0, ?1, ?2, ?3)");
    for (const auto &[key, levels] : mosaic.tiles()) {
        tile.reset();
        if (!tile.ready() || !tile.bind(1, key.first - west)
                                  .bind(2, north - key.second)
                                  .bind_blob(3, png_of(levels, low, high))
                                  .run())
            return false;
    }
    return true;
}

} // namespace

Result<ThinSaving> plan_thinning(const TripFile &trip, const ThinPlan &plan) {
    ThinSaving saving;
    std::error_code ignored;
    saving.bytes_before = std::filesystem::file_size(trip.path(), ignored);
    std::vector<std::pair<UnixNs, UnixNs>> around;
    if (trip.database().has_table("marks")) {
        auto s = trip.database().prepare("SELECT time FROM marks");
        const auto reach = static_cast<UnixNs>(plan.around_marks_s * 1e9);
        while (s.next())
            if (const auto t = parse_rfc3339(s.text(0)))
                around.emplace_back(*t - reach, *t + reach);
    }
    auto s = trip.database().prepare(
        "SELECT b.id, b.first_row, b.rows, b.time_first, b.time_last, b.bytes, b.stream "
        "FROM heron_block b JOIN heron_pings p ON "
        "p.block = b.id ORDER BY b.first_row");
    if (!s.ready())
        return trip.database().fault("read");
    while (s.next()) {
        const auto first = static_cast<std::size_t>(s.whole(1)), rows = static_cast<std::size_t>(s.whole(2));
        bool stays = false;
        for (const auto &[from, to] : around)
            stays = stays || (s.whole(3) <= to && s.whole(4) >= from);
        for (const auto &[from, end] : plan.stretches)
            stays = stays || (s.whole(6) == 0 && first < end && first + rows > from);
        saving.blocks.emplace_back(s.whole(0), stays);
        saving.rows_before += rows;
        if (stays)
            saving.rows_kept += rows;
        else
            saving.bytes_gone += static_cast<std::uintmax_t>(s.whole(5));
    }
    return saving;
}

Result<ThinSaving> thin_trip(const std::filesystem::path &path, const ThinPlan &plan,
                             const std::function<bool(double)> &progress) {
    const auto copy = unfinished_name(path);
    std::error_code ignored;
    std::filesystem::remove(copy, ignored);
    const auto give_up = [&](const Fault &why) {
        std::filesystem::remove(copy, ignored);
        return fail(why.happened, "the trip is as it was", why.to_do);
    };
    Result<ThinSaving> saving;
    {
        // Held to the end, so that nobody writes to it meanwhile.
        auto trip = TripFile::open(path);
        if (!trip)
            return tl::unexpected(trip.error());
        saving = plan_thinning(*trip, plan);
        if (!saving)
            return saving;
        Scan scan;
        Overview overview;
        if (auto r = open_into(*trip, scan, overview); !r)
            return tl::unexpected(r.error());
        // Two walks: angles first, so that the mosaic is even.
        AngleLevels angles(4000);
        for (std::size_t n = 0; n < scan.end(); n += 10) {
            angles.add(scan.ping(n), scan.bottom(n));
            scan.trim();
        }
        GeoPoint origin;
        if (!scan.nav.positions().empty())
            origin = scan.nav.positions().front().place;
        Mosaic mosaic(origin, plan.mosaic_cell_m);
        for (std::size_t n = 0; n < scan.end(); ++n) {
            mosaic.add(scan, n, angles);
            scan.trim();
            if (n % 500 == 0 && progress &&
                !progress(0.9 * static_cast<double>(n) / static_cast<double>(scan.end())))
                return give_up({"thinning was stopped", "", ""});
        }
        if (auto r = trip->database().back_up(copy); !r)
            return give_up(r.error());
        auto db = Database::open(copy, Database::Mode::write);
        if (!db)
            return give_up(db.error());
        {
            Transaction change(*db);
            bool good = change.begun();
            auto gone = db->prepare("DELETE FROM heron_pings WHERE block = ?1");
            for (const auto &[id, stays] : saving->blocks) {
                if (stays || !good)
                    continue;
                gone.reset();
                good = gone.ready() && gone.bind(1, id).run();
            }
            const nlohmann::json note{{"rows_before", saving->rows_before}, {"rows_kept", saving->rows_kept}};
            auto value = db->prepare("INSERT OR REPLACE INTO heron_trip VALUES ('thinned', ?1)");
            good = good && value.ready() && value.bind(1, note.dump()).run() && write_mosaic(*db, mosaic);
            if (!good || !change.commit())
                return give_up(db->fault("thinned").value());
        }
        if (!db->run("PRAGMA journal_mode = DELETE; VACUUM"))
            return give_up(db->fault("packed").value());
    }
    if (auto r = move_into_place(copy, path); !r)
        return give_up(r.error());
    if (progress)
        progress(1);
    return saving;
}

} // namespace heron
