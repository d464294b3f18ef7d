// Marks as KML 2.2 (OGC 07-147r2) and back.
#include "exchange/mark_files.hpp"
#include "files/identifier.hpp"
#include "files/json.hpp"
#include "files/json_in.hpp"
#include "files/xml_words.hpp"
#include "marks/mark_json.hpp"
#include "units/number_text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <pugixml.hpp>
#include <sstream>

namespace heron {
namespace {

void data(pugi::xml_node extended, const char *name, const std::string &value) {
    if (value.empty())
        return;
    auto d = extended.append_child("Data");
    d.append_attribute("name").set_value(name);
    d.append_child("value").text().set(xml_printable(value).c_str());
}

std::optional<GeoPoint> place_in(std::string_view text) {
    text = text.substr(0, 200);
    const auto longitude = take_number(text);
    text.remove_prefix(std::min(text.find_first_not_of(" \n\t"), text.size()));
    if (!longitude || !text.starts_with(','))
        return std::nullopt;
    text.remove_prefix(1);
    const auto latitude = take_number(text);
    if (!latitude || std::fabs(*longitude) > 180 || std::fabs(*latitude) > 90)
        return std::nullopt;
    return GeoPoint{*latitude, *longitude};
}

struct Walk : pugi::xml_tree_walker {
    std::vector<pugi::xml_node> placemarks;
    bool for_each(pugi::xml_node &node) override {
        if (xml_local(node.name()) == "Placemark")
            placemarks.push_back(node);
        return placemarks.size() < 1'000'000;
    }
};

pugi::xml_node child(pugi::xml_node of, std::string_view name) {
    for (auto n : of.children())
        if (xml_local(n.name()) == name)
            return n;
    return {};
}

} // namespace

std::string kml_from_marks(const std::vector<Mark> &marks, bool with_pictures, std::size_t *left_out) {
    pugi::xml_document doc;
    auto declaration = doc.append_child(pugi::node_declaration);
    declaration.append_attribute("version").set_value("1.0");
    declaration.append_attribute("encoding").set_value("UTF-8");
    auto kml = doc.append_child("kml");
    kml.append_attribute("xmlns").set_value("http://www.opengis.net/kml/2.2");
    auto document = kml.append_child("Document");
    document.append_child("name").text().set("Marks");
    std::size_t without = 0;
    for (const auto &m : marks) {
        if (!m.place) {
            ++without;
            continue;
        }
        auto p = document.append_child("Placemark");
        p.append_child("name").text().set(xml_printable(plain_name(m)).c_str());
        // The picture first, then the note: what a globe shows in its bubble. No mark-up of the note's own.
        std::string text;
        for (const char c : xml_printable(m.note))
            text += c == '<' ? "&lt;" : c == '>' ? "&gt;" : c == '&' ? "&amp;" : std::string(1, c);
        if (with_pictures && !m.chip.empty())
            text.insert(0, "<img src=\"chips/" + m.id + ".png\"/><br/>");
        if (!text.empty())
            p.append_child("description").text().set(text.c_str());
        if (m.time != 0)
            p.append_child("TimeStamp").append_child("when").text().set(print_rfc3339(m.time, 3).c_str());
        auto extended = p.append_child("ExtendedData");
        data(extended, "family", std::string(name_of(m.family)));
        if (m.kind != Kind::none)
            data(extended, "kind", std::string(name_of(m.kind)));
        if (m.depth_m)
            data(extended, "depth_m", fmt::format("{:.2f}", m.depth_m->value));
        if (m.height_m)
            data(extended, "height_m", fmt::format("{:.2f}", m.height_m->value));
        // All of it, for this program.
        data(extended, "heron",
             json_of(m, false).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace));
        auto point = p.append_child("Point");
        point.append_child("coordinates")
            .text()
            .set(fmt::format("{:.8f},{:.8f}", m.place->longitude_deg, m.place->latitude_deg).c_str());
    }
    if (left_out != nullptr)
        *left_out = without;
    std::ostringstream out;
    doc.save(out, " ");
    return out.str();
}

Result<MarksRead> marks_from_kml(std::string_view text, std::string_view file_name) {
    pugi::xml_document doc;
    const auto parsed = doc.load_buffer(text.data(), text.size());
    if (!parsed) {
        const auto at =
            std::min(static_cast<std::size_t>(std::max<std::ptrdiff_t>(0, parsed.offset)), text.size());
        const auto line = 1 + std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(at), '\n');
        return fail(told("{}: the XML breaks at line {}: {}", file_name, line, parsed.description()),
                    told("no mark was taken from it, and none was changed"),
                    told("export it again from where it came"));
    }
    if (xml_local(doc.document_element().name()) != "kml")
        return fail(told("{}: this is XML, but no KML", file_name), told("nothing was taken from it"),
                    told("choose another file"));
    Walk walk;
    doc.traverse(walk);
    MarksRead out;
    std::size_t bad = 0;
    for (const auto p : walk.placemarks) {
        const std::string name = child(p, "name").text().get();
        const auto where = child(child(p, "Point"), "coordinates");
        const auto place = place_in(where.text().get());
        if (!place) {
            if (++bad <= 5)
                out.warnings.push_back(
                    told("placemark '{}' is no point with a place and was left out", name));
            continue;
        }
        Mark m;
        bool ours = false;
        for (const auto d : child(p, "ExtendedData").children()) {
            const std::string_view key = d.attribute("name").value();
            const std::string value = child(d, "value").text().get();
            if (key == "heron") {
                try {
                    if (auto whole = mark_of_json(parse_json(value, 4u << 20))) {
                        m = std::move(*whole);
                        ours = true;
                    }
                } catch (const nlohmann::json::exception &) {
                    ours = false;
                }
            }
        }
        // Where another hand has moved or named it since, that holds.
        if (!ours || !m.place || leg_between(*m.place, *place).distance_m > 0.01)
            m.place = place;
        if (!ours) {
            m.name = name;
            m.note = child(p, "description").text().get();
            m.time = parse_rfc3339(child(child(p, "TimeStamp"), "when").text().get()).value_or(0);
        } else if (name != plain_name(m)) {
            m.name = name;
        }
        out.marks.push_back(std::move(m));
    }
    if (bad > 5)
        out.warnings.push_back(told("{} more placemarks were left out", bad - 5));
    return out;
}

} // namespace heron
