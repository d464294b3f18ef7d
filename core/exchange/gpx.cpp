#include "exchange/gpx.hpp"
#include "files/identifier.hpp"

#include "files/atomic_file.hpp"
#include "files/json.hpp"
#include "files/json_in.hpp"
#include "files/xml_words.hpp"
#include "marks/mark_json.hpp"
#include "units/number_text.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <pugixml.hpp>
#include <set>
#include <sstream>

namespace heron {
namespace {

constexpr const char *gpx_namespace = "http://www.topografix.com/GPX/1/1";
constexpr const char *our_namespace = "urn:young-heron:mark:1";

void text_child(pugi::xml_node parent, const char *name, const std::string &text) {
    if (!text.empty())
        parent.append_child(name).text().set(text.c_str());
}

std::string shortest(double v) {
    return fmt::format("{}", v);
}

void number_attribute(pugi::xml_node node, const char *name, double v) {
    node.append_attribute(name).set_value(shortest(v).c_str());
}

struct XmlText : pugi::xml_writer {
    std::string text;
    void write(const void *data, std::size_t size) override {
        text.append(static_cast<const char *>(data), size);
    }
};

std::string xml_of(const pugi::xml_node &node) {
    XmlText out;
    node.print(out, "", pugi::format_raw);
    return out.text;
}

// The namespace that a node's prefix is bound to, here or in an ancestor.
std::string_view namespace_of(pugi::xml_node node) {
    const char *colon = std::strchr(node.name(), ':');
    const auto attribute =
        colon == nullptr ? std::string("xmlns") : "xmlns:" + std::string(node.name(), colon);
    for (auto n = node; n; n = n.parent())
        if (const auto a = n.attribute(attribute.c_str()))
            return a.value();
    return {};
}

// Writes into the node the namespace declarations it inherits, so that it can stand alone.
void carry_namespaces(pugi::xml_node node) {
    for (auto n = node.parent(); n; n = n.parent())
        for (const auto a : n.attributes())
            if (std::string_view(a.name()).starts_with("xmlns:") && !node.attribute(a.name()) &&
                std::string_view(a.value()) != our_namespace)
                node.append_attribute(a.name()).set_value(a.value());
}

std::optional<Estimate> estimate_of(pugi::xml_node node, const char *value, const char *sd) {
    const auto v = number_in_text(node.attribute(value).value());
    if (!v)
        return std::nullopt;
    return Estimate{*v, number_in_text(node.attribute(sd).value()).value_or(0)};
}

std::string first_letters(const std::string &text, std::size_t letters) {
    std::size_t at = 0;
    for (; at < text.size() && letters > 0; --letters) {
        ++at;
        while (at < text.size() && (static_cast<unsigned char>(text[at]) & 0xC0) == 0x80)
            ++at;
    }
    auto out = text.substr(0, at);
    while (!out.empty() && out.back() == ' ')
        out.pop_back();
    return out;
}

// Capitals of ASCII: letters with marks lose them, what else is no letter or figure becomes a space.
std::string plain_letters(const std::string &text) {
    // Of U+00C0 to U+00FF, in order; × and ÷ are no letters.
    static constexpr std::array<const char *, 64> latin1{
        "A", "A", "A", "A", "A", "A", "AE", "C", "E", "E", "E", "E", "I", "I", "I",  "I",
        "D", "N", "O", "O", "O", "O", "O",  " ", "O", "U", "U", "U", "U", "Y", "TH", "SS",
        "A", "A", "A", "A", "A", "A", "AE", "C", "E", "E", "E", "E", "I", "I", "I",  "I",
        "D", "N", "O", "O", "O", "O", "O",  " ", "O", "U", "U", "U", "U", "Y", "TH", "Y"};
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const auto c = static_cast<unsigned char>(text[i]);
        if (c < 0x80) {
            out += std::isalnum(c) || c == '-' ? static_cast<char>(std::toupper(c)) : ' ';
        } else if (c == 0xC3 && i + 1 < text.size()) {
            out += latin1[static_cast<unsigned char>(text[++i]) & 0x3FU];
        } else if ((c & 0xC0) != 0x80) {
            out += ' ';
        }
    }
    // One space between words, none at the ends.
    std::string tidy;
    for (const char c : out)
        if (c != ' ' || (!tidy.empty() && tidy.back() != ' '))
            tidy += c;
    while (!tidy.empty() && tidy.back() == ' ')
        tidy.pop_back();
    return tidy.empty() ? "MARK" : tidy;
}

// What we put into `sym` where no other program had put its own.
std::string symbol_of(const Mark &m) {
    return std::string(m.kind == Kind::none ? name_of(m.family) : name_of(m.kind));
}

std::string describe(const Mark &m) {
    std::string text;
    const auto add = [&](const std::string &part) { text += (text.empty() ? "" : "; ") + part; };
    if (m.height_m)
        add(fmt::format("{}{} m tall ± {}", m.height_at_least ? "at least " : "",
                        print_number(m.height_m->value, 2), print_number(m.height_m->sd, 2)));
    if (m.depth_m)
        add(fmt::format("in {} m of water ± {}", print_number(m.depth_m->value, 1),
                        print_number(m.depth_m->sd, 1)));
    if (m.place)
        add(fmt::format("place ± {} m", print_number(m.place_covariance.radial_sd_m(), 1)));
    if (!m.place_remark.empty())
        add(m.place_remark);
    return text;
}

// What neither the waypoint nor our attributes hold.
std::string story_of(const Mark &m) {
    auto j = json_of(m, false);
    for (const char *held : {"id",
                             "name",
                             "note",
                             "time",
                             "latitude_deg",
                             "longitude_deg",
                             "east_east_m2",
                             "east_north_m2",
                             "north_north_m2",
                             "family",
                             "kind",
                             "side",
                             "slant_m",
                             "ground_m",
                             "depth_m",
                             "depth_sd_m",
                             "height_m",
                             "height_sd_m",
                             "height_at_least",
                             "range_setting_m",
                             "frequency_hz",
                             "gain",
                             "source",
                             "place_remark",
                             "foreign_gpx"})
        j.erase(held);
    return j.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

// A story that another hand has spoiled counts as none.
void read_story(Mark &m, const char *text) {
    constexpr std::size_t most_bytes = 1u << 20;
    try {
        auto j = parse_json(text, most_bytes);
        j["id"] = "story";
        auto told = mark_of_json(j);
        if (!told)
            return;
        m.by = std::move(told->by);
        m.lake = std::move(told->lake);
        m.bottom = std::move(told->bottom);
        m.length_m = told->length_m;
        m.lake_level_m = told->lake_level_m;
        m.seen_from_deg = told->seen_from_deg;
        m.tags = std::move(told->tags);
        m.shape = std::move(told->shape);
        m.closed = told->closed;
        m.confirmed = told->confirmed;
        m.turned_out = told->turned_out;
        m.level = told->level;
        m.field_levels = std::move(told->field_levels);
        m.sightings = std::move(told->sightings);
        m.outcomes = std::move(told->outcomes);
    } catch (const nlohmann::json::exception &) {
        return;
    }
}

void write_waypoint(pugi::xml_node gpx, const Mark &m, const std::string &shown_name) {
    auto w = gpx.append_child("wpt");
    w.append_attribute("lat").set_value(fmt::format("{:.8f}", m.place->latitude_deg).c_str());
    w.append_attribute("lon").set_value(fmt::format("{:.8f}", m.place->longitude_deg).c_str());
    // The schema asks for this order: ele time … name cmt desc src link sym type fix … extensions.
    pugi::xml_document foreign;
    if (!m.foreign_gpx.empty())
        foreign.load_string(m.foreign_gpx.c_str());
    const auto kept = foreign.child("kept");
    const auto keep = [&](const char *name) {
        for (const auto &n : kept.children(name))
            w.append_copy(n);
    };
    keep("ele");
    if (m.time != 0)
        text_child(w, "time", print_rfc3339(m.time));
    keep("magvar");
    keep("geoidheight");
    text_child(w, "name", xml_printable(shown_name));
    text_child(w, "cmt", xml_printable(m.note));
    text_child(w, "desc", describe(m));
    text_child(w, "src", xml_printable(m.source));
    keep("link");
    if (kept.child("sym"))
        keep("sym");
    else
        text_child(w, "sym", symbol_of(m));
    text_child(w, "type", std::string(name_of(m.family)));
    for (const char *name : {"fix", "sat", "hdop", "vdop", "pdop", "ageofdgpsdata", "dgpsid"})
        keep(name);
    auto extensions = w.append_child("extensions");
    auto ours = extensions.append_child("heron:mark");
    ours.append_attribute("id").set_value(m.id.c_str());
    ours.append_attribute("named").set_value(m.name.empty() ? "no" : "yes");
    if (shown_name != plain_name(m)) {
        ours.append_attribute("shown").set_value(xml_printable(shown_name).c_str());
        ours.append_attribute("name").set_value(xml_printable(m.name).c_str());
    }
    ours.append_attribute("family").set_value(std::string(name_of(m.family)).c_str());
    ours.append_attribute("kind").set_value(m.kind == Kind::none ? "" : std::string(name_of(m.kind)).c_str());
    ours.append_attribute("side").set_value(m.side.c_str());
    number_attribute(ours, "slant_m", m.slant_m);
    number_attribute(ours, "ground_m", m.ground_m);
    if (m.depth_m) {
        number_attribute(ours, "depth_m", m.depth_m->value);
        number_attribute(ours, "depth_sd_m", m.depth_m->sd);
    }
    if (m.height_m) {
        number_attribute(ours, "height_m", m.height_m->value);
        number_attribute(ours, "height_sd_m", m.height_m->sd);
        ours.append_attribute("at_least").set_value(m.height_at_least ? "yes" : "no");
    }
    number_attribute(ours, "east_east_m2", m.place_covariance.east_east);
    number_attribute(ours, "east_north_m2", m.place_covariance.east_north);
    number_attribute(ours, "north_north_m2", m.place_covariance.north_north);
    number_attribute(ours, "range_setting_m", m.range_setting_m);
    number_attribute(ours, "frequency_hz", m.frequency_hz);
    ours.append_attribute("gain").set_value(m.gain);
    if (!m.place_remark.empty())
        ours.append_attribute("place_remark").set_value(m.place_remark.c_str());
    ours.append_child("heron:story").text().set(story_of(m).c_str());
    for (const auto &n : kept.child("extensions").children())
        extensions.append_copy(n);
}

// So that other devices show the line too; ours is known by what it is of.
void write_line(pugi::xml_node gpx, const Mark &m, const std::string &shown_name) {
    auto route = gpx.append_child("rte");
    text_child(route, "name", xml_printable(shown_name));
    route.append_child("extensions")
        .append_child("heron:line")
        .append_attribute("of")
        .set_value(m.id.c_str());
    const LocalPlane plane(*m.place);
    for (const auto &corner : m.shape) {
        const auto at = plane.to_globe(corner);
        auto point = route.append_child("rtept");
        point.append_attribute("lat").set_value(fmt::format("{:.8f}", at.latitude_deg).c_str());
        point.append_attribute("lon").set_value(fmt::format("{:.8f}", at.longitude_deg).c_str());
    }
}

// A route or a stretch of a track of another program as a line; nothing where it has no two usable places.
std::optional<Mark> read_line(pugi::xml_node points, const char *point, const std::string &name,
                              const char *tag) {
    std::vector<GeoPoint> places;
    for (const auto &p : points.children()) {
        if (xml_local(p.name()) != point)
            continue;
        const auto lat = number_in_text(p.attribute("lat").value()),
                   lon = number_in_text(p.attribute("lon").value());
        if (lat && lon && std::fabs(*lat) <= 90 && std::fabs(*lon) <= 180)
            places.push_back({*lat, *lon});
    }
    if (places.size() < 2)
        return std::nullopt;
    Mark m;
    m.id = new_identifier();
    m.name = name;
    m.tags = {tag};
    m.place = places[places.size() / 2];
    const LocalPlane plane(*m.place);
    const auto kept = std::min(places.size(), MarkBounds::shape);
    double length = 0;
    for (std::size_t i = 0; i < kept; ++i) {
        // Evenly thinned where there are more than a line may have; both ends stay.
        const auto &p = places[kept == 1 ? 0 : i * (places.size() - 1) / (kept - 1)];
        m.shape.push_back(plane.to_plane(p));
        if (i > 0)
            length += std::hypot(m.shape[i].east_m - m.shape[i - 1].east_m,
                                 m.shape[i].north_m - m.shape[i - 1].north_m);
    }
    m.length_m = length;
    return m;
}

Result<Mark> read_waypoint(pugi::xml_node w) {
    const auto lat = number_in_text(w.attribute("lat").value()),
               lon = number_in_text(w.attribute("lon").value());
    if (!lat || !lon || std::fabs(*lat) > 90 || std::fabs(*lon) > 180)
        return fail(told("waypoint '{}' has no usable place", w.child("name").text().get()));
    Mark m;
    m.place = GeoPoint{*lat, *lon};
    m.time = parse_rfc3339(w.child("time").text().get()).value_or(0);
    m.name = w.child("name").text().get();
    m.note = w.child("cmt").text().get();
    m.source = w.child("src").text().get();
    pugi::xml_document foreign;
    auto kept = foreign.append_child("kept");
    pugi::xml_node ours;
    for (auto e : w.child("extensions").children()) {
        if (xml_local(e.name()) == "mark" && namespace_of(e) == our_namespace) {
            ours = e;
            continue;
        }
        auto into = kept.child("extensions");
        if (!into)
            into = kept.append_child("extensions");
        carry_namespaces(e);
        into.append_copy(e);
    }
    for (const char *name : {"ele", "magvar", "geoidheight", "link", "fix", "sat", "hdop", "vdop", "pdop",
                             "ageofdgpsdata", "dgpsid"})
        for (const auto &n : w.children(name))
            kept.append_copy(n);
    if (ours) {
        m.id = ours.attribute("id").value();
        if (const auto shown = ours.attribute("shown"); shown && m.name == shown.value())
            m.name = ours.attribute("name").value();
        for (const auto &child : ours.children())
            if (xml_local(child.name()) == "story")
                read_story(m, child.text().get());
        if (std::string_view(ours.attribute("named").value()) == "no")
            m.name.clear();
        m.family = family_named(ours.attribute("family").value()).value_or(Family::unsure);
        m.kind = kind_named(ours.attribute("kind").value()).value_or(Kind::none);
        m.side = ours.attribute("side").value();
        m.slant_m = number_in_text(ours.attribute("slant_m").value()).value_or(0);
        m.ground_m = number_in_text(ours.attribute("ground_m").value()).value_or(0);
        m.depth_m = estimate_of(ours, "depth_m", "depth_sd_m");
        m.height_m = estimate_of(ours, "height_m", "height_sd_m");
        m.height_at_least = std::string_view(ours.attribute("at_least").value()) == "yes";
        m.place_covariance = {number_in_text(ours.attribute("east_east_m2").value()).value_or(0),
                              number_in_text(ours.attribute("east_north_m2").value()).value_or(0),
                              number_in_text(ours.attribute("north_north_m2").value()).value_or(0)};
        m.range_setting_m = number_in_text(ours.attribute("range_setting_m").value()).value_or(0);
        m.frequency_hz = number_in_text(ours.attribute("frequency_hz").value()).value_or(0);
        m.gain = ours.attribute("gain").as_int();
        m.place_remark = ours.attribute("place_remark").value();
        if (const std::string sym = w.child("sym").text().get();
            !sym.empty() && !kind_named(sym) && !family_named(sym))
            kept.append_copy(w.child("sym"));
    } else {
        // Another program's waypoint: its words are kept as they are, its symbol too.
        const std::string type = w.child("type").text().get(), sym = w.child("sym").text().get();
        m.family = family_named(type).value_or(Family::unsure);
        m.kind = kind_named(sym).value_or(Kind::none);
        if (w.child("sym") && m.kind == Kind::none)
            kept.append_copy(w.child("sym"));
        if (m.note.empty())
            m.note = w.child("desc").text().get();
    }
    if (m.id.empty())
        m.id = new_identifier();
    if (kept.first_child())
        m.foreign_gpx = xml_of(kept);
    return m;
}

pugi::xml_node begin_gpx(pugi::xml_document &doc) {
    auto declaration = doc.append_child(pugi::node_declaration);
    declaration.append_attribute("version").set_value("1.0");
    declaration.append_attribute("encoding").set_value("UTF-8");
    auto gpx = doc.append_child("gpx");
    gpx.append_attribute("version").set_value("1.1");
    gpx.append_attribute("creator").set_value("Young Heron");
    gpx.append_attribute("xmlns").set_value(gpx_namespace);
    return gpx;
}

} // namespace

std::vector<std::string> fitted_names(const std::vector<Mark> &marks, const NameProfile &profile) {
    std::vector<std::string> names;
    std::set<std::string> taken;
    const bool fits = profile.most_letters > 0 || profile.plain;
    for (const auto &m : marks) {
        auto name = plain_name(m);
        if (!fits) {
            names.push_back(std::move(name));
            continue;
        }
        if (profile.plain)
            name = plain_letters(name);
        const auto most =
            profile.most_letters > 0 ? std::max<std::size_t>(profile.most_letters, 3) : name.size();
        auto shown = first_letters(name, most);
        // The end is numbered until nobody else is called so.
        for (int n = 2; taken.contains(shown); ++n) {
            const auto number = std::to_string(n);
            shown = first_letters(name, profile.most_letters > 0 ? most - std::min(most - 1, number.size())
                                                                 : most) +
                    number;
        }
        taken.insert(shown);
        names.push_back(std::move(shown));
    }
    return names;
}

std::string gpx_from_marks(const std::vector<Mark> &marks, std::size_t *left_out,
                           std::string_view foreign_metadata, const NameProfile &profile) {
    pugi::xml_document doc;
    auto gpx = begin_gpx(doc);
    gpx.append_attribute("xmlns:heron").set_value(our_namespace);
    std::size_t without_place = 0;
    const auto names = fitted_names(marks, profile);
    for (std::size_t i = 0; i < marks.size(); ++i) {
        if (marks[i].place)
            write_waypoint(gpx, marks[i], names[i]);
        else
            ++without_place;
    }
    for (std::size_t i = 0; i < marks.size(); ++i)
        if (marks[i].place && !marks[i].closed && marks[i].shape.size() > 1)
            write_line(gpx, marks[i], names[i]);
    if (!foreign_metadata.empty()) {
        pugi::xml_document foreign;
        if (foreign.load_buffer(foreign_metadata.data(), foreign_metadata.size()))
            for (const auto &n : foreign.children())
                gpx.append_copy(n);
    }
    if (left_out != nullptr)
        *left_out = without_place;
    XmlText out;
    doc.save(out, " ");
    return out.text;
}

std::string gpx_from_route(const std::string &name, const std::vector<GeoPoint> &places) {
    pugi::xml_document doc;
    auto gpx = begin_gpx(doc);
    auto route = gpx.append_child("rte");
    route.append_child("name").text().set(name.c_str());
    std::size_t n = 0;
    for (const auto &p : places) {
        auto point = route.append_child("rtept");
        point.append_attribute("lat").set_value(fmt::format("{:.7f}", p.latitude_deg).c_str());
        point.append_attribute("lon").set_value(fmt::format("{:.7f}", p.longitude_deg).c_str());
        point.append_child("name").text().set(fmt::format("{}", ++n).c_str());
    }
    XmlText out;
    doc.save(out, " ");
    return out.text;
}

Result<GpxContents> marks_from_gpx(std::string_view text, std::string_view file_name) {
    pugi::xml_document doc;
    const auto parsed =
        doc.load_buffer(text.data(), text.size(), pugi::parse_default | pugi::parse_ws_pcdata_single);
    if (!parsed) {
        const auto at =
            std::min(static_cast<std::size_t>(std::max<std::ptrdiff_t>(0, parsed.offset)), text.size());
        const auto line = 1 + std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(at), '\n');
        return fail(told("{}: the XML breaks at line {}: {}", file_name, line, parsed.description()),
                    "no mark was taken from it, and none was changed", "export it again from where it came");
    }
    const auto gpx = doc.document_element();
    if (xml_local(gpx.name()) != "gpx")
        return fail(told("{}: this is XML, but no GPX", file_name), "nothing was taken from it",
                    "choose a .gpx file");
    GpxContents contents;
    std::size_t bad = 0;
    for (const auto &w : gpx.children()) {
        if (xml_local(w.name()) == "extensions") {
            auto copy = w;
            carry_namespaces(copy);
            contents.foreign_metadata += xml_of(copy);
        }
        const auto named = [](pugi::xml_node n) {
            for (const auto &c : n.children())
                if (xml_local(c.name()) == "name")
                    return std::string(c.text().get());
            return std::string();
        };
        if (xml_local(w.name()) == "rte") {
            bool ours = false;
            for (const auto &e : w.child("extensions").children())
                ours = ours || (xml_local(e.name()) == "line" && namespace_of(e) == our_namespace);
            if (auto line = ours ? std::nullopt : read_line(w, "rtept", named(w), "route"))
                contents.marks.push_back(std::move(*line));
        }
        if (xml_local(w.name()) == "trk")
            for (const auto &segment : w.children())
                if (xml_local(segment.name()) == "trkseg")
                    if (auto line = read_line(segment, "trkpt", named(w), "track"))
                        contents.marks.push_back(std::move(*line));
        if (xml_local(w.name()) != "wpt")
            continue;
        if (auto m = read_waypoint(w))
            contents.marks.push_back(std::move(*m));
        else if (++bad <= 5)
            contents.warnings.push_back(m.error().happened + " and was left out");
    }
    if (bad > 5)
        contents.warnings.push_back(
            told("{} more waypoints have no usable place and were left out", bad - 5));
    return contents;
}

Result<std::size_t> write_gpx(const std::filesystem::path &path, const std::vector<Mark> &marks) {
    std::size_t left_out = 0;
    if (auto written = write_file_atomically(path, gpx_from_marks(marks, &left_out)); !written)
        return tl::unexpected(written.error());
    return left_out;
}

Result<GpxContents> read_gpx(const std::filesystem::path &path) {
    auto text = read_whole_file(path, 512u << 20);
    if (!text)
        return tl::unexpected(text.error());
    return marks_from_gpx(*text, path.filename().string());
}

} // namespace heron
