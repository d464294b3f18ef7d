#include "exchange/results_geojson.hpp"

#include "files/json.hpp"
#include "units/units.hpp"

#include <charconv>
#include <cmath>
#include <fmt/format.h>

namespace heron {
namespace {

using json = nlohmann::ordered_json;

// Rounded to so many decimals, whatever the locale's decimal sign.
double rounded(double v, int decimals) {
    const auto text = fmt::format("{:.{}f}", v, decimals);
    double out = v;
    std::from_chars(text.data(), text.data() + text.size(), out);
    return out;
}
json metres(double v) {
    return std::isfinite(v) ? json(rounded(v, 2)) : json(nullptr);
}
json point(const GeoPoint &p) {
    return json::array({rounded(p.longitude_deg, 7), rounded(p.latitude_deg, 7)});
}
std::string collected(json features) {
    return json{{"type", "FeatureCollection"}, {"features", std::move(features)}}.dump(
               1, ' ', false, json::error_handler_t::replace) +
           "\n";
}

} // namespace

namespace {

json properties_of(const Contact &c, std::size_t n) {
    return {
        {"id", fmt::format("c{:04d}", n)},
        {"family", name_of(c.family)},
        {"kind", c.family == Family::unsure || !c.kind_sure ? std::string_view("unsure") : name_of(c.kind)},
        {"confidence", rounded(c.confidence, 3)},
        {"placement", name_of(c.placement)},
        {"time", print_rfc3339(c.time, 3)},
        {"side", name_of(c.zone == Zone::track ? Side::down : c.side)},
        {"slant_m", metres(c.slant_m)},
        {"ground_m", metres(c.ground_m.value)},
        {"depth_m", metres(c.depth_m)},
        {"height_m", c.height_m ? metres(c.height_m->value) : json(nullptr)},
        {"height_sd_m", c.height_m ? metres(c.height_m->sd) : json(nullptr)},
        {"length_m", c.length_m ? metres(*c.length_m) : json(nullptr)},
        {"width_m", c.width_m ? metres(*c.width_m) : json(nullptr)},
        {"position_sd_m", metres(c.position_sd_m())},
        {"reasons", c.reasons}};
}

json point_or_null(const Contact &c) {
    if (!c.place)
        return nullptr;
    return {{"type", "Point"}, {"coordinates", point(c.place->place)}};
}

} // namespace

std::string geojson_from_contacts(const std::vector<Contact> &contacts, std::size_t *left_out) {
    auto features = json::array();
    std::size_t without = 0, n = 0;
    for (const auto &c : contacts) {
        ++n;
        if (!c.place) {
            ++without;
            continue;
        }
        features.push_back(
            {{"type", "Feature"}, {"geometry", point_or_null(c)}, {"properties", properties_of(c, n)}});
    }
    if (left_out != nullptr)
        *left_out = without;
    return collected(std::move(features));
}

std::string geojson_from_picture(const std::vector<PictureContact> &contacts) {
    auto features = json::array();
    std::size_t n = 0;
    for (const auto &[c, at] : contacts) {
        auto p = properties_of(c, ++n);
        p["pixel"] = {rounded(at.x, 1), rounded(at.y, 1)};
        features.push_back(
            {{"type", "Feature"}, {"geometry", point_or_null(c)}, {"properties", std::move(p)}});
    }
    return collected(std::move(features));
}

std::string geojson_from_stretches(const std::vector<Stretch> &all) {
    auto features = json::array();
    for (const auto &s : all) {
        if (s.line.size() < 2)
            continue;
        auto line = json::array();
        for (const auto &p : s.line)
            line.push_back(point(p));
        features.push_back({{"type", "Feature"},
                            {"geometry", {{"type", "LineString"}, {"coordinates", std::move(line)}}},
                            {"properties",
                             {{"from", print_rfc3339(s.from, 3)},
                              {"to", print_rfc3339(s.to, 3)},
                              {"straight", s.straight},
                              {"speed_m_s", metres(s.speed_m_s)},
                              {"depth_m", metres(s.depth_m)}}}});
    }
    return collected(std::move(features));
}

} // namespace heron
