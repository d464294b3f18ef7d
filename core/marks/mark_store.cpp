#include "marks/mark_store.hpp"

#include "files/geopackage.hpp"
#include "files/identifier.hpp"
#include "files/json.hpp"
#include "files/json_in.hpp"
#include "marks/mark_json.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <unordered_map>
#include <utility>

namespace heron {
namespace {

constexpr const char *columns =
    ", id TEXT NOT NULL UNIQUE, name TEXT, family TEXT, kind TEXT, note TEXT, time TEXT, place_remark TEXT, "
    "east_east_m2 DOUBLE, east_north_m2 DOUBLE, north_north_m2 DOUBLE, side TEXT, slant_m DOUBLE, ground_m "
    "DOUBLE, "
    "depth_m DOUBLE, depth_sd_m DOUBLE, height_m DOUBLE, height_sd_m DOUBLE, height_at_least INTEGER, "
    "range_setting_m DOUBLE, frequency_hz DOUBLE, gain INTEGER, source TEXT, chip_width INTEGER, chip_height "
    "INTEGER, "
    "chip BLOB, foreign_gpx TEXT";

// What schema 2 added; `story` is JSON of what no GIS has a column for (docs/decisions/028).
constexpr std::array<std::pair<const char *, const char *>, 9> added_columns{{{"lake", "TEXT"},
                                                                              {"tags", "TEXT"},
                                                                              {"bottom", "TEXT"},
                                                                              {"length_m", "DOUBLE"},
                                                                              {"level", "TEXT"},
                                                                              {"confirmed", "TEXT"},
                                                                              {"turned_out", "TEXT"},
                                                                              {"by_whom", "TEXT"},
                                                                              {"story", "TEXT"}}};

constexpr const char *upsert = R"sql(
INSERT INTO marks (geom, id, name, family, kind, note, time, place_remark, east_east_m2, east_north_m2, north_north_m2, side,
  slant_m, ground_m, depth_m, depth_sd_m, height_m, height_sd_m, height_at_least, range_setting_m, frequency_hz, gain,
  source, chip_width, chip_height, chip, foreign_gpx, lake, tags, bottom, length_m, level, confirmed, turned_out, by_whom,
  story)
VALUES (?1,?2,?3,?4,?5,?6,?7,?8,?9,?10,?11,?12,?13,?14,?15,?16,?17,?18,?19,?20,?21,?22,?23,?24,?25,?26,?27,?28,?29,?30,?31,
  ?32,?33,?34,?35,?36)
ON CONFLICT (id) DO UPDATE SET geom=?1, name=?3, family=?4, kind=?5, note=?6, time=?7, place_remark=?8, east_east_m2=?9,
  east_north_m2=?10, north_north_m2=?11, side=?12, slant_m=?13, ground_m=?14, depth_m=?15, depth_sd_m=?16, height_m=?17,
  height_sd_m=?18, height_at_least=?19, range_setting_m=?20, frequency_hz=?21, gain=?22, source=?23,
  chip_width=iif(?37, chip_width, ?24), chip_height=iif(?37, chip_height, ?25), chip=iif(?37, chip, ?26), foreign_gpx=?27, lake=?28, tags=?29, bottom=?30, length_m=?31, level=?32, confirmed=?33,
  turned_out=?34, by_whom=?35, story=?36)sql";

constexpr const char *known_columns = R"sql(
SELECT geom, id, name, family, kind, note, time, place_remark, east_east_m2, east_north_m2, north_north_m2, side, slant_m,
  ground_m, depth_m, depth_sd_m, height_m, height_sd_m, height_at_least, range_setting_m, frequency_hz, gain, source,
  chip_width, chip_height, {}, foreign_gpx)sql";

// A kind that is not said is an empty text in files.
std::string_view text_of(Kind kind) {
    return kind == Kind::none ? std::string_view() : name_of(kind);
}

void bind_estimate(Statement &s, int place, const std::optional<Estimate> &e) {
    s.bind(place, e ? std::optional(e->value) : std::nullopt);
    s.bind(place + 1, e ? std::optional(e->sd) : std::nullopt);
}
// Any GIS may write into a layer: what is no figure of a mark counts as nought.
double held(double v) {
    return std::fabs(v) <= 1e9 ? v : 0;
}
std::optional<Estimate> estimate_in(const Statement &s, int column) {
    if (s.is_null(column))
        return std::nullopt;
    return Estimate{held(s.real(column)), std::max(0.0, held(s.real(column + 1)))};
}

bool has_story(const Database &db) {
    return db.number("SELECT count(*) FROM pragma_table_info('marks') WHERE name = 'story'").value_or(0) > 0;
}

// Adds what schema 2 has; inside a transaction of the caller's.
bool bring_up_to_date(Database &db) {
    if (!has_story(db))
        for (const auto &[name, type] : added_columns)
            if (!db.run(fmt::format("ALTER TABLE marks ADD COLUMN {} {}", name, type)))
                return false;
    if (!db.has_table("heron_sightings") &&
        !db.run("CREATE TABLE heron_sightings (mark TEXT NOT NULL, n INTEGER NOT NULL, look TEXT NOT NULL, "
                "chip BLOB, "
                "PRIMARY KEY (mark, n))"))
        return false;
    return !db.has_table("heron_schema") || db.run("UPDATE heron_schema SET version = 2 WHERE version < 2");
}

bool add_layer(Database &db) {
    return add_feature_layer(db, "marks", "POINT", columns) &&
           db.run(
               "CREATE TABLE heron_schema (version INTEGER NOT NULL); INSERT INTO heron_schema VALUES (1)") &&
           bring_up_to_date(db);
}

std::string joined(const std::vector<std::string> &tags) {
    std::string text;
    for (const auto &t : tags)
        text += (text.empty() ? "" : "; ") + t;
    return text;
}

std::vector<std::string> parted(const std::string &text) {
    std::vector<std::string> tags;
    std::string tag;
    for (const char c : text + ";") {
        if (c != ';') {
            tag += c;
            continue;
        }
        const auto from = tag.find_first_not_of(' ');
        if (from != std::string::npos && tags.size() < MarkBounds::tags)
            tags.push_back(tag.substr(from, tag.find_last_not_of(' ') - from + 1));
        tag.clear();
    }
    return tags;
}

// What no GIS has a column for.
std::string story_of(const Mark &m) {
    nlohmann::json j = nlohmann::json::object();
    for (const auto &[field, level] : m.field_levels)
        j["field_levels"][std::string(name_of(field))] = name_of(level);
    for (const auto &o : m.outcomes)
        j["outcomes"].push_back(json_of(o));
    for (const auto &p : m.shape)
        j["shape_m"].push_back({p.east_m, p.north_m});
    if (m.closed)
        j["closed"] = true;
    if (m.lake_level_m)
        j["lake_level_m"] = *m.lake_level_m;
    if (m.seen_from_deg)
        j["seen_from_deg"] = *m.seen_from_deg;
    return j.empty() ? std::string() : j.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

// A story that another hand has spoiled counts as none.
void read_story(Mark &m, const std::string &text) {
    if (text.empty())
        return;
    try {
        auto j = parse_json(text, 4u << 20);
        j["id"] = m.id;
        if (auto read = mark_of_json(j)) {
            m.field_levels = read->field_levels;
            m.outcomes = std::move(read->outcomes);
            m.shape = std::move(read->shape);
            m.closed = read->closed;
            m.lake_level_m = read->lake_level_m;
            m.seen_from_deg = read->seen_from_deg;
        }
    } catch (const nlohmann::json::exception &) {
        return;
    }
}

bool write_sightings(const Mark &m, Statement &gone, Statement &put) {
    gone.reset();
    if (!gone.bind(1, m.id).run())
        return false;
    int n = 0;
    for (const auto &s : m.sightings) {
        put.reset();
        put.bind(1, m.id).bind(2, n++);
        put.bind(3, json_of(s, false).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace));
        // The look that the mark tells itself has its chip there.
        const bool own = s.chip == m.chip;
        put.bind_blob(4, s.chip.empty() || own ? std::vector<std::uint8_t>() : pack_chip(*s.chip.look()));
        if (!put.run())
            return false;
    }
    return true;
}

Result<void> read_sightings(const Database &db, std::vector<Mark> &marks, ChipShelf *shelf) {
    if (!db.has_table("heron_sightings"))
        return {};
    std::unordered_map<std::string_view, Mark *> by_id;
    for (auto &m : marks)
        by_id[m.id] = &m;
    auto q = db.prepare("SELECT mark, look, chip, n FROM heron_sightings ORDER BY mark, n");
    if (!q.ready())
        return db.fault("read");
    while (q.next()) {
        const auto id = q.text(0);
        const auto at = by_id.find(id);
        if (at == by_id.end() || at->second->sightings.size() >= MarkBounds::sightings)
            continue;
        try {
            auto look = sighting_of_json(parse_json(q.text(1), 1u << 20));
            if (!look)
                continue;
            const auto blob = q.blob(2);
            if (blob.empty())
                look->chip = at->second->chip;
            else if (auto chip = unpack_chip(blob))
                look->chip = shelf != nullptr ? shelf->lend(id, static_cast<int>(q.whole(3)))
                                              : KeptChip(std::move(*chip));
            at->second->sightings.push_back(std::move(*look));
        } catch (const nlohmann::json::exception &) {
            continue;
        }
    }
    return q.done() ? Result<void>() : Result<void>(db.fault("read to its end"));
}

} // namespace

Result<MarkStore> MarkStore::open(const std::filesystem::path &path) {
    auto db = Database::open(path, Database::Mode::create);
    if (!db)
        return tl::unexpected(db.error());
    const auto tables = db->number("SELECT count(*) FROM sqlite_master");
    if (!tables)
        return fail(told("{} is no file of marks, or it is damaged", path.string()), "it was left as it is",
                    "move it away, or name another file");
    // A trip has all tables of a GeoPackage and, before its first mark, no layer of marks.
    const bool trip = db->has_table("heron_trip");
    if (*tables > 0 && (!is_geopackage(*db) || !db->has_only_plain({"heron_*", "marks"})))
        return fail(told("{} is a database of another program", path.string()), "it was left as it is",
                    "name another file for the marks");
    if (*tables > 0 && !(trip && !db->has_table("marks"))) {
        const auto version = db->number("SELECT version FROM heron_schema");
        if (!version)
            return fail(told("{} is a database of another program", path.string()), "it was left as it is",
                        "name another file for the marks");
        if (*version > schema_version)
            return fail(told("{} was written by a newer Young Heron (schema {}, this one knows {})",
                             path.string(), *version, schema_version),
                        "it was left as it is", "open it with the newer program");
    }
    db->run("PRAGMA journal_mode = WAL");
    db->run("PRAGMA synchronous = FULL");
    if (!trip && db->has_table("marks") && !has_story(*db)) {
        // As it was stands beside it, whole, before anything is changed.
        auto before = path;
        before += ".schema-1";
        std::error_code ignored;
        if (!std::filesystem::exists(before, ignored))
            if (auto kept = db->back_up(before); !kept)
                return tl::unexpected(kept.error());
        Transaction change(*db);
        if (!change.begun() || !bring_up_to_date(*db) || !change.commit())
            return db->fault("brought up to date");
    }
    if (!db->has_table("marks")) {
        Transaction change(*db);
        if (!change.begun() || (*tables == 0 && !make_geopackage(*db)) || !add_layer(*db) || !change.commit())
            return db->fault("set up");
    }
    MarkStore store(std::move(*db));
    if (!trip)
        store.id_ = id_of(store.db_);
    return store;
}

// A file's own id, made on its first opening.
std::string MarkStore::id_of(Database &db) {
    if (!db.has_table("heron_library"))
        db.run("CREATE TABLE heron_library (id TEXT NOT NULL)");
    const auto read = [&db] {
        auto s = db.prepare("SELECT id FROM heron_library LIMIT 1");
        return s.ready() && s.next() ? s.text(0) : std::string();
    };
    if (auto id = read(); !id.empty())
        return id;
    auto s = db.prepare("INSERT INTO heron_library VALUES (?1)");
    if (s.ready())
        s.bind(1, new_identifier()).run();
    return read();
}

Result<void> write_marks(Database &db, const MarkWrites &writes, const std::function<bool(Database &)> &also,
                         ChipShelf *shelf) {
    const auto stays = [shelf](const Mark &m) {
        return shelf != nullptr && shelf->lies_there(m.chip, m.id, ChipShelf::own);
    };
    // Whoever still holds what was lent of these rows, as undo does, keeps it.
    if (shelf != nullptr) {
        for (const auto &m : writes.saved)
            shelf->settle(m.id, !stays(m));
        for (const auto &id : writes.removed)
            shelf->settle(id, true);
    }
    Transaction change(db);
    if (!change.begun() || (!db.has_table("marks") && !add_layer(db)) || !bring_up_to_date(db))
        return db.fault("written");
    auto q = db.prepare(upsert), looks_gone = db.prepare("DELETE FROM heron_sightings WHERE mark = ?1"),
         look = db.prepare("INSERT INTO heron_sightings VALUES (?1, ?2, ?3, ?4)");
    if (!q.ready() || !looks_gone.ready() || !look.ready())
        return db.fault("written");
    for (const auto &m : writes.saved) {
        q.reset();
        q.bind_blob(1, m.place ? point_blob({m.place->longitude_deg, m.place->latitude_deg})
                               : std::vector<std::uint8_t>());
        q.bind(2, m.id).bind(3, m.name).bind(4, name_of(m.family)).bind(5, text_of(m.kind)).bind(6, m.note);
        q.bind(7, print_rfc3339(m.time, 9)).bind(8, m.place_remark);
        q.bind(9, m.place_covariance.east_east).bind(10, m.place_covariance.east_north);
        q.bind(11, m.place_covariance.north_north);
        q.bind(12, m.side).bind(13, m.slant_m).bind(14, m.ground_m);
        bind_estimate(q, 15, m.depth_m);
        bind_estimate(q, 17, m.height_m);
        q.bind(19, m.height_at_least ? 1 : 0).bind(20, m.range_setting_m).bind(21, m.frequency_hz);
        const bool as_it_lies = stays(m);
        const auto chip = as_it_lies ? std::make_shared<const Chip>() : m.chip.look();
        q.bind(22, m.gain).bind(23, m.source).bind(24, chip->width).bind(25, chip->height);
        q.bind_blob(26, chip->level).bind(37, as_it_lies ? 1 : 0);
        q.bind(27, m.foreign_gpx).bind(28, m.lake).bind(29, joined(m.tags)).bind(30, m.bottom);
        q.bind(31, m.length_m).bind(32, name_of(m.level)).bind(33, name_of(m.confirmed));
        q.bind(34, text_of(m.turned_out)).bind(35, m.by).bind(36, story_of(m));
        if (!q.run() || !write_sightings(m, looks_gone, look))
            return db.fault("written");
    }
    auto gone = db.prepare("DELETE FROM marks WHERE id = ?1");
    for (const auto &id : writes.removed) {
        gone.reset();
        looks_gone.reset();
        if (!gone.ready() || !gone.bind(1, id).run() || !looks_gone.bind(1, id).run())
            return db.fault("written");
    }
    if (!touch_layer(db, "marks") || (also && !also(db)) || !change.commit())
        return db.fault("written");
    return {};
}

Result<std::vector<Mark>> load_marks(const Database &db, ChipShelf *shelf) {
    if (!db.has_table("marks"))
        return std::vector<Mark>();
    const bool story = has_story(db);
    // The length of a picture is known without reading it.
    std::string select = fmt::format(known_columns, shelf != nullptr ? "length(chip)" : "chip");
    if (story)
        for (const auto &[name, type] : added_columns)
            select += fmt::format(", {}", name);
    select += " FROM marks ORDER BY fid";
    auto q = db.prepare(select.c_str());
    if (!q.ready())
        return db.fault("read");
    std::vector<Mark> marks;
    while (q.next()) {
        Mark m;
        if (const auto at = point_in(q.blob(0));
            at && std::fabs(at->second) <= 90 && std::fabs(at->first) <= 180)
            m.place = GeoPoint{at->second, at->first};
        m.id = q.text(1);
        m.name = q.text(2);
        m.family = family_named(q.text(3)).value_or(Family::unsure);
        m.kind = kind_named(q.text(4)).value_or(Kind::none);
        m.note = q.text(5);
        m.time = parse_rfc3339(q.text(6)).value_or(0);
        m.place_remark = q.text(7);
        m.place_covariance = {held(q.real(8)), held(q.real(9)), held(q.real(10))};
        m.side = q.text(11);
        m.slant_m = held(q.real(12));
        m.ground_m = held(q.real(13));
        m.depth_m = estimate_in(q, 14);
        m.height_m = estimate_in(q, 16);
        m.height_at_least = q.whole(18) != 0;
        m.range_setting_m = held(q.real(19));
        m.frequency_hz = held(q.real(20));
        m.gain = static_cast<int>(std::clamp<std::int64_t>(q.whole(21), -1000, 1000));
        m.source = q.text(22);
        const auto w = q.whole(23), h = q.whole(24);
        const bool sized = w > 0 && h > 0 && w < 4096 && h < 4096;
        if (shelf != nullptr) {
            if (sized && w * h == q.whole(25))
                m.chip = shelf->lend(m.id, ChipShelf::own);
        } else if (const auto levels = q.blob(25); sized && w * h == std::ssize(levels)) {
            m.chip = {static_cast<int>(w), static_cast<int>(h), {levels.begin(), levels.end()}};
        }
        m.foreign_gpx = q.text(26);
        m.level = m.family == Family::hazard ? Level::anyone : Level::crew;
        if (story) {
            m.lake = q.text(27);
            m.tags = parted(q.text(28));
            m.bottom = q.text(29);
            m.length_m = q.real_or_null(30);
            m.level = level_named(q.text(31)).value_or(m.level);
            m.confirmed = confirmed_named(q.text(32)).value_or(Confirmed::no);
            m.turned_out = kind_named(q.text(33)).value_or(Kind::none);
            m.by = q.text(34);
            read_story(m, q.text(35));
        }
        hold_to_bounds(m);
        marks.push_back(std::move(m));
    }
    if (!q.done())
        return db.fault("read to its end");
    if (auto looks = read_sightings(db, marks, shelf); !looks)
        return tl::unexpected(looks.error());
    return marks;
}

} // namespace heron
