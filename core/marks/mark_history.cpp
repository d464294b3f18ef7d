#include "marks/mark_history.hpp"

#include "files/json.hpp"
#include "files/json_in.hpp"
#include "marks/mark_json.hpp"
#include "marks/pack.hpp"

#include <algorithm>

namespace heron {
namespace {

std::string text_of(const std::optional<Mark> &mark, bool pictures) {
    return mark ? json_of(*mark, pictures).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace)
                : std::string();
}

// An empty text stands for a mark that was not there.
std::optional<std::optional<Mark>> mark_in(const std::string &text) {
    if (text.empty())
        return std::optional<Mark>();
    try {
        if (auto mark = mark_of_json(parse_json(text, MarkHistory::most_bytes)))
            return std::optional(std::move(*mark));
    } catch (const nlohmann::json::exception &) {
    }
    return std::nullopt;
}

bool same_pictures(const Mark &a, const Mark &b) {
    return a.chip == b.chip &&
           std::equal(a.sightings.begin(), a.sightings.end(), b.sightings.begin(), b.sightings.end(),
                      [](const Sighting &x, const Sighting &y) { return x.chip == y.chip; });
}

std::vector<Field> fields_between(const Mark &before, const Mark &after) {
    std::vector<Field> fields;
    for (std::size_t f = 0; f < field_count; ++f) {
        const auto field = static_cast<Field>(f);
        Mark a, b;
        copy_field(field, before, a);
        copy_field(field, after, b);
        if (json_of(a, true) != json_of(b, true))
            fields.push_back(field);
    }
    return fields;
}

constexpr const char *table =
    "CREATE TABLE IF NOT EXISTS heron_history (step INTEGER NOT NULL, mark TEXT NOT NULL, "
    "time TEXT NOT NULL, pictures INTEGER NOT NULL, before TEXT NOT NULL, after TEXT NOT NULL, "
    "PRIMARY KEY (mark, step))";

} // namespace

bool same_but_pictures(const Mark &a, const Mark &b) {
    return json_of(a, false) == json_of(b, false);
}

std::optional<std::int64_t> MarkHistory::remember(Database &db, const MarkChange &change, UnixNs time) {
    struct Row {
        bool pictures;
        std::string before, after;
    };
    std::vector<Row> rows;
    std::size_t bytes = 0;
    for (const auto &part : change) {
        const bool pictures = !part.before || !part.after || !same_pictures(*part.before, *part.after);
        // What was made is undone without its picture.
        rows.push_back({pictures, text_of(part.before, pictures),
                        text_of(part.after, pictures && part.before.has_value())});
        bytes += rows.back().before.size() + rows.back().after.size();
        if (bytes > most_bytes)
            return 0;
    }
    if (!db.run(table))
        return std::nullopt;
    const auto last = db.number("SELECT coalesce(max(step), 0) FROM heron_history");
    auto q = db.prepare("INSERT INTO heron_history VALUES (?1, ?2, ?3, ?4, ?5, ?6)");
    if (!last || !q.ready())
        return std::nullopt;
    const auto step = *last + 1;
    for (std::size_t i = 0; i < change.size(); ++i) {
        q.reset();
        q.bind(1, step).bind(2, change[i].id()).bind(3, print_rfc3339(time, 0));
        q.bind(4, rows[i].pictures ? 1 : 0).bind(5, rows[i].before).bind(6, rows[i].after);
        if (!q.run())
            return std::nullopt;
    }
    auto old = db.prepare("DELETE FROM heron_history WHERE step <= ?1");
    if (!old.ready() || !old.bind(1, step - most_steps).run())
        return std::nullopt;
    return step;
}

bool MarkHistory::forget(Database &db, std::int64_t step) {
    if (step == 0 || !db.has_table("heron_history"))
        return true;
    auto q = db.prepare("DELETE FROM heron_history WHERE step = ?1");
    return q.ready() && q.bind(1, step).run();
}

std::int64_t MarkHistory::count(const Database &db) {
    if (!db.has_table("heron_history"))
        return 0;
    return db.number("SELECT count(DISTINCT step) FROM heron_history").value_or(0);
}

std::optional<MarkHistory::Kept> MarkHistory::newest(const Database &db) {
    if (!db.has_table("heron_history"))
        return std::nullopt;
    const auto last = db.number("SELECT coalesce(max(step), 0) FROM heron_history");
    if (!last || *last == 0)
        return std::nullopt;
    Kept kept;
    kept.step = *last;
    auto q =
        db.prepare("SELECT mark, pictures, before, after FROM heron_history WHERE step = ?1 ORDER BY rowid");
    if (!q.ready())
        return std::nullopt;
    q.bind(1, *last);
    bool sound = true;
    while (q.next()) {
        auto before = mark_in(q.text(2)), after = mark_in(q.text(3));
        const auto id = q.text(0);
        sound = sound && before && after && (*before || *after) && (!*before || (*before)->id == id) &&
                (!*after || (*after)->id == id);
        if (!sound)
            break;
        kept.change.push_back({std::move(*before), std::move(*after)});
        kept.pictures.push_back(q.whole(1) != 0);
    }
    if (!sound)
        kept.change.clear();
    return kept;
}

std::vector<MarkHistoryLine> MarkHistory::of(const Database &db, const std::string &id, int most) {
    std::vector<MarkHistoryLine> lines;
    if (!db.has_table("heron_history"))
        return lines;
    auto q = db.prepare(
        "SELECT time, before, after FROM heron_history WHERE mark = ?1 ORDER BY step DESC LIMIT ?2");
    if (!q.ready())
        return lines;
    q.bind(1, id).bind(2, most);
    while (q.next()) {
        const auto before = mark_in(q.text(1)), after = mark_in(q.text(2));
        if (!before || !after)
            continue;
        MarkHistoryLine line;
        line.time = parse_rfc3339(q.text(0)).value_or(0);
        line.made = !*before && *after;
        line.removed = *before && !*after;
        if (*before && *after)
            line.fields = fields_between(**before, **after);
        lines.push_back(std::move(line));
    }
    return lines;
}

} // namespace heron
