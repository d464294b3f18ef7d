#include "exchange/mark_files.hpp"

#include "files/atomic_file.hpp"
#include "files/identifier.hpp"
#include "files/json.hpp"
#include "files/json_in.hpp"
#include "files/xml_in.hpp"
#include "files/zip.hpp"
#include "marks/mark_json.hpp"
#include "marks/mark_store.hpp"
#include "picture/chip_png.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <unordered_map>

namespace heron {
namespace {

using json = nlohmann::ordered_json;

constexpr std::uintmax_t most_bytes = 512u << 20;

std::string suffix_of(const std::filesystem::path &path) {
    auto s = path.extension().string();
    std::transform(s.begin(), s.end(), s.begin(), [](unsigned char c) { return std::tolower(c); });
    return s;
}

Result<std::string> text_of(const std::filesystem::path &path, bool xml) {
    auto text = read_whole_file(path, most_bytes);
    if (text && xml && defines_entities(*text))
        return fail(told("{}: it defines entities of its own, which no such file needs", path.string()),
                    told("no mark was taken from it"), told("do not trust who made it"));
    return text;
}

Result<MarksRead> from_kmz(const std::filesystem::path &path) {
    auto members = read_zip(path, ".kml");
    if (!members)
        return tl::unexpected(members.error());
    if (members->empty())
        return fail(told("{}: there is no KML in it", path.string()), told("no mark was taken from it"),
                    told("choose another file"));
    const auto &kml = members->front().bytes;
    if (defines_entities(kml))
        return fail(told("{}: it defines entities of its own, which no such file needs", path.string()),
                    told("no mark was taken from it"), told("do not trust who made it"));
    auto read = marks_from_kml(kml, path.filename().string());
    if (!read)
        return read;
    // Pictures by the mark's id.
    if (auto chips = read_zip(path, ".png")) {
        std::unordered_map<std::string, const std::string *> by_name;
        for (const auto &c : *chips)
            by_name[c.name] = &c.bytes;
        for (auto &m : read->marks)
            if (const auto at = by_name.find("chips/" + m.id + ".png"); at != by_name.end())
                if (auto chip = chip_from_png(*at->second))
                    m.chip = std::move(*chip);
    }
    return read;
}

Result<void> to_kmz(const std::filesystem::path &path, const std::vector<Mark> &marks,
                    std::size_t *left_out) {
    std::vector<ZipMember> members{{"doc.kml", kml_from_marks(marks, true, left_out)}};
    for (const auto &m : marks)
        if (m.place && !m.chip.empty())
            members.push_back({"chips/" + m.id + ".png", png_of_chip(*m.chip.look())});
    return write_zip(path, members);
}

} // namespace

bool is_mark_file(const std::filesystem::path &path) {
    const auto s = suffix_of(path);
    return s == ".gpx" || s == ".kml" || s == ".kmz" || s == ".geojson" || s == ".json" || s == ".csv" ||
           s == ".gpkg";
}

Result<MarksRead> read_mark_file(const std::filesystem::path &path) {
    const auto suffix = suffix_of(path), name = path.filename().string();
    std::error_code error;
    if (!std::filesystem::is_regular_file(path, error))
        return fail(told("{}: there is no such file", path.string()), "", "");
    MarksRead out;
    if (suffix == ".gpx") {
        auto text = text_of(path, true);
        if (!text)
            return tl::unexpected(text.error());
        auto read = marks_from_gpx(*text, name);
        if (!read)
            return tl::unexpected(read.error());
        out = {std::move(read->marks), std::move(read->warnings)};
    } else if (suffix == ".kmz") {
        auto read = from_kmz(path);
        if (!read)
            return read;
        out = std::move(*read);
    } else if (suffix == ".kml" || suffix == ".geojson" || suffix == ".json" || suffix == ".csv") {
        auto text = text_of(path, suffix == ".kml");
        if (!text)
            return tl::unexpected(text.error());
        auto read = suffix == ".kml"   ? marks_from_kml(*text, name)
                    : suffix == ".csv" ? marks_from_csv(*text, name)
                                       : marks_from_geojson(*text, name);
        if (!read)
            return read;
        out = std::move(*read);
    } else {
        // A library, or a trip's layer of marks: read, and left as it is.
        auto db = Database::open(path, Database::Mode::read);
        if (!db)
            return tl::unexpected(db.error());
        if (!db->has_table("marks") || !db->has_only_plain({"heron_*", "marks"}))
            return fail(told("{} holds no layer of marks", path.string()), told("nothing was taken from it"),
                        told("GPX, KML, KMZ, GeoJSON and CSV of other programs are read too"));
        auto loaded = load_marks(*db);
        if (!loaded)
            return tl::unexpected(loaded.error());
        out.marks = std::move(*loaded);
    }
    for (auto &m : out.marks) {
        hold_to_bounds(m);
        if (m.id.empty())
            m.id = new_identifier();
    }
    return out;
}

Result<MarksWritten> write_mark_file(const std::filesystem::path &path, const std::vector<Mark> &marks,
                                     const NameProfile &names) {
    const auto suffix = suffix_of(path);
    std::size_t left_out = 0;
    Result<void> done;
    if (suffix == ".gpx")
        done = write_file_atomically(path, gpx_from_marks(marks, &left_out, {}, names));
    else if (suffix == ".kml")
        done = write_file_atomically(path, kml_from_marks(marks, false, &left_out));
    else if (suffix == ".kmz")
        done = to_kmz(path, marks, &left_out);
    else if (suffix == ".geojson" || suffix == ".json")
        done = write_file_atomically(path, geojson_from_marks(marks, &left_out));
    else if (suffix == ".csv")
        done = write_file_atomically(path, csv_from_marks(marks));
    else if (suffix == ".gpkg") {
        const auto part = unfinished_name(path);
        std::error_code ignored;
        std::filesystem::remove(part, ignored);
        {
            auto store = MarkStore::open(part);
            if (!store)
                return tl::unexpected(store.error());
            done = store->write({marks, {}});
        }
        for (const char *log : {"-wal", "-shm"})
            std::filesystem::remove(part.string() + log, ignored);
        if (done)
            done = move_into_place(part, path);
        else
            std::filesystem::remove(part, ignored);
    } else {
        return fail(told("{} is of no kind that marks are written to", path.string()),
                    told("nothing was written"), told("name it .gpx, .kml, .kmz, .geojson, .csv or .gpkg"));
    }
    if (!done)
        return tl::unexpected(done.error());
    return MarksWritten{marks.size() - left_out, left_out};
}

std::vector<std::string> lost_in(const std::filesystem::path &path, const std::vector<Mark> &marks) {
    const auto suffix = suffix_of(path);
    std::vector<std::string> lines;
    const auto count = [&](const auto &has) {
        return static_cast<std::size_t>(std::count_if(marks.begin(), marks.end(), has));
    };
    if (suffix == ".gpkg")
        return lines;
    if (suffix != ".csv" && suffix != ".json" && suffix != ".geojson")
        if (const auto n = count([](const Mark &m) { return !m.place; }); n > 0)
            lines.push_back(told("{} marks have no place and cannot stand in it", n));
    const bool pictures = suffix == ".kmz";
    if (const auto n = count([](const Mark &m) { return !m.chip.empty(); }); n > 0 && !pictures)
        lines.push_back(told("the pictures of {} marks stay here", n));
    if (const auto n = count([](const Mark &m) {
            return std::any_of(m.sightings.begin(), m.sightings.end(),
                               [](const Sighting &s) { return !s.chip.empty(); }) &&
                   m.sightings.size() > 1;
        });
        n > 0 && pictures)
        lines.push_back(told("of {} marks only the best picture goes along", n));
    if (suffix == ".csv") {
        if (const auto n = count([](const Mark &m) { return m.sightings.size() > 1 || !m.outcomes.empty(); });
            n > 0)
            lines.push_back(told("the sightings and outcomes of {} marks stay here", n));
        if (const auto n = count([](const Mark &m) { return !m.shape.empty(); }); n > 0)
            lines.push_back(told("the outlines of {} marks stay here", n));
    }
    return lines;
}

ImportPlan plan_import(const std::vector<Mark> &known, const std::vector<Mark> &brought) {
    ImportPlan plan;
    std::unordered_map<std::string, const Mark *> by_id;
    std::unordered_map<std::string, std::vector<const Mark *>> by_name;
    for (const auto &m : known) {
        by_id[m.id] = &m;
        by_name[plain_name(m)].push_back(&m);
    }
    const auto same = [](const Mark &a, const Mark &b) {
        auto x = json_of(a, true), y = json_of(b, true);
        // Formats round a place to a millimetre or so.
        for (auto *j : {&x, &y})
            for (const char *figure : {"latitude_deg", "longitude_deg"})
                if (j->contains(figure))
                    (*j)[figure] = std::round((*j)[figure].template get<double>() * 1e7) / 1e7;
        return x == y;
    };
    for (auto m : brought) {
        const Mark *old = nullptr;
        if (const auto at = by_id.find(m.id); at != by_id.end())
            old = at->second;
        else if (const auto named = by_name.find(plain_name(m)); named != by_name.end() && m.place)
            for (const auto *o : named->second)
                if (o->place && leg_between(*o->place, *m.place).distance_m < 1)
                    old = o;
        if (old == nullptr) {
            plan.fresh.push_back(std::move(m));
            continue;
        }
        m.id = old->id;
        // What a format could not hold is not taken away by it.
        if (m.chip.empty())
            m.chip = old->chip;
        if (m.sightings.empty())
            m.sightings = old->sightings;
        if (m.outcomes.empty())
            m.outcomes = old->outcomes;
        if (m.shape.empty()) {
            m.shape = old->shape;
            m.closed = old->closed;
        }
        for (std::size_t i = 0; i < std::min(m.sightings.size(), old->sightings.size()); ++i)
            if (m.sightings[i].chip.empty())
                m.sightings[i].chip = old->sightings[i].chip;
        m.level = std::min(m.level, old->level);
        if (m.field_levels.empty())
            m.field_levels = old->field_levels;
        if (same(m, *old))
            ++plan.same;
        else
            plan.different.push_back(std::move(m));
    }
    return plan;
}

std::string geojson_from_marks(const std::vector<Mark> &marks, std::size_t *left_out) {
    auto features = json::array();
    for (const auto &m : marks) {
        auto p = json_of(m, false);
        p["name"] = plain_name(m);
        if (m.name.empty())
            p["named"] = false;
        p.erase("latitude_deg");
        p.erase("longitude_deg");
        json geometry = nullptr;
        if (m.place) {
            const auto seven = [](double v) { return std::round(v * 1e8) / 1e8; };
            geometry = {
                {"type", "Point"},
                {"coordinates", json::array({seven(m.place->longitude_deg), seven(m.place->latitude_deg)})}};
        }
        features.push_back(
            {{"type", "Feature"}, {"id", m.id}, {"geometry", geometry}, {"properties", json(p)}});
    }
    if (left_out != nullptr)
        *left_out = 0; // RFC 7946: a feature without a place has the geometry null
    return json{{"type", "FeatureCollection"}, {"features", std::move(features)}}.dump(
               1, ' ', false, json::error_handler_t::replace) +
           "\n";
}

Result<MarksRead> marks_from_geojson(std::string_view text, std::string_view file_name) {
    MarksRead out;
    try {
        const auto j = parse_json(text, most_bytes);
        const auto type = j.value("type", std::string());
        nlohmann::json features = nlohmann::json::array();
        if (type == "FeatureCollection")
            features = j.at("features");
        else if (type == "Feature")
            features.push_back(j);
        else
            return fail(told("{}: this is JSON, but no GeoJSON of features", file_name),
                        told("nothing was taken from it"), told("choose another file"));
        std::size_t bad = 0, n = 0;
        for (const auto &f : features) {
            ++n;
            const auto leave = [&](const std::string &why) {
                if (++bad <= 5)
                    out.warnings.push_back(told("feature {} was left out: {}", n, why));
            };
            if (!f.is_object() || !f.contains("geometry")) {
                leave(told("it is no feature"));
                continue;
            }
            auto p = f.contains("properties") && f["properties"].is_object() ? f["properties"]
                                                                             : nlohmann::json::object();
            const auto &g = f["geometry"];
            if (g.is_object()) {
                const auto kind = g.value("type", std::string());
                // Of a line or an area the first corner stands for it, its shape is kept about that.
                const nlohmann::json *line = nullptr;
                const auto coordinates = g.find("coordinates");
                if (coordinates == g.end() || !coordinates->is_array() || coordinates->empty()) {
                    leave(told("it has no place"));
                    continue;
                }
                if (kind == "LineString")
                    line = &*coordinates;
                else if (kind == "Polygon")
                    line = &(*coordinates)[0];
                const auto &at = line != nullptr ? (*line)[0] : *coordinates;
                if ((kind != "Point" && line == nullptr) || !at.is_array() || at.size() < 2 ||
                    !at[0].is_number() || !at[1].is_number()) {
                    leave(told("'{}' is no point, line or area", kind));
                    continue;
                }
                p["longitude_deg"] = at[0];
                p["latitude_deg"] = at[1];
                if (line != nullptr && line->size() > 1) {
                    const double lat = at[1].get<double>(), lon = at[0].get<double>();
                    if (!(std::fabs(lat) <= 90) || !(std::fabs(lon) <= 180)) {
                        leave(told("it lies out of the globe"));
                        continue;
                    }
                    const LocalPlane plane({lat, lon});
                    p["shape_m"] = nlohmann::json::array();
                    for (const auto &corner : *line)
                        if (corner.is_array() && corner.size() >= 2 && corner[0].is_number() &&
                            corner[1].is_number()) {
                            const auto q = plane.to_plane({corner[1].get<double>(), corner[0].get<double>()});
                            p["shape_m"].push_back({q.east_m, q.north_m});
                        }
                    p["closed"] = kind == "Polygon";
                }
            }
            if (!p.contains("id") || !p["id"].is_string() || p["id"].get_ref<const std::string &>().empty()) {
                const auto own = f.find("id");
                p["id"] = own != f.end() && own->is_string() && !own->get_ref<const std::string &>().empty()
                              ? own->get<std::string>()
                              : new_identifier();
            }
            if (p.contains("named") && p["named"] == false)
                p.erase("name");
            // Other programs' words for the same.
            for (const auto &[theirs, ours] : {std::pair{"title", "name"},
                                               {"Name", "name"},
                                               {"description", "note"},
                                               {"cmt", "note"},
                                               {"desc", "note"},
                                               {"sym", "kind"}})
                if (!p.contains(ours) && p.contains(theirs) && p[theirs].is_string())
                    p[ours] = p[theirs];
            // What they call by our names but mean otherwise is passed over.
            for (const char *key : {"name", "note", "kind", "family", "side", "source", "by"})
                if (p.contains(key) && !p[key].is_string() && !p[key].is_null())
                    p.erase(key);
            if (p.contains("family") && p["family"].is_string() &&
                !family_named(p["family"].get<std::string>()))
                p.erase("family");
            if (p.contains("reasons"))
                p.erase("reasons");
            auto m = mark_of_json(p);
            if (!m) {
                leave(m.error().happened);
                continue;
            }
            if (m->kind != Kind::none && m->family == Family::unsure)
                m->family = family_of(m->kind);
            out.marks.push_back(std::move(*m));
        }
        if (bad > 5)
            out.warnings.push_back(told("{} more features were left out", bad - 5));
    } catch (const nlohmann::json::parse_error &broken) {
        return fail(told("{}: this is no JSON; it breaks at byte {}", file_name, broken.byte),
                    told("no mark was taken from it, and none was changed"),
                    told("export it again from where it came"));
    } catch (const nlohmann::json::exception &broken) {
        return fail(told("{}: {}", file_name, broken.what()),
                    told("no mark was taken from it, and none was changed"),
                    told("export it again from where it came"));
    }
    return out;
}

std::string geo_uri(const Mark &m) {
    if (!m.place)
        return {};
    std::string uri = fmt::format("geo:{:.7f},{:.7f}", m.place->latitude_deg, m.place->longitude_deg);
    if (const double sd = m.place_covariance.radial_sd_m(); sd > 0)
        uri += fmt::format(";u={:.0f}", std::max(1.0, std::ceil(2 * sd)));
    std::string name;
    for (const char c : plain_name(m).substr(0, 60)) {
        const auto u = static_cast<unsigned char>(c);
        name += std::isalnum(u) != 0 ? std::string(1, c) : fmt::format("%{:02X}", u);
    }
    return uri + fmt::format("?q={:.7f},{:.7f}({})", m.place->latitude_deg, m.place->longitude_deg, name);
}

} // namespace heron
