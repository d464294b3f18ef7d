#include "screen/calibration.hpp"

#include "files/json.hpp"
#include "files/json_in.hpp"

#include <cmath>
#include <fmt/format.h>

namespace heron {
namespace {

using nlohmann::json;
constexpr std::array<std::string_view, 4> newest_names{"top", "bottom", "left", "right"};

struct Bad {
    std::string why;
};

double number(const json &j, const char *key, double otherwise, double low, double high) {
    if (!j.contains(key) || j.at(key).is_null())
        return otherwise;
    if (!j.at(key).is_number())
        throw Bad{told("'{}' is no number", key)};
    const double v = j.at(key).get<double>();
    if (!(v >= low && v <= high))
        throw Bad{told("'{}' is not between {} and {}", key, low, high)};
    return v;
}

std::string hex_of(Rgb c) {
    return fmt::format("#{:02X}{:02X}{:02X}", c.red, c.green, c.blue);
}

void read_figures(const json &j, ScreenCalibration &c) {
    if (!j.contains("figures"))
        return;
    constexpr std::size_t most = 12;
    if (!j["figures"].is_array() || j["figures"].size() > most)
        throw Bad{told("'figures' is no list of {} at most", most)};
    for (const auto &one : j["figures"]) {
        FigureBox f;
        const auto of = figure_named(one.value("of", ""));
        if (!of)
            throw Bad{told("'figures' holds what is none of depth, speed, heading, position, range")};
        f.of = *of;
        if (!one.contains("box") || one["box"].size() != 4)
            throw Bad{told("a figure's 'box' is no [left, top, right, bottom]")};
        f.from = {one["box"][0].get<double>(), one["box"][1].get<double>()};
        f.to = {one["box"][2].get<double>(), one["box"][3].get<double>()};
        if (!(f.from.x >= 0 && f.from.y >= 0 && f.to.x > f.from.x && f.to.y > f.from.y && f.to.x <= c.width &&
              f.to.y <= c.height))
            throw Bad{told("a figure's 'box' lies off the picture")};
        f.unit = one.value("unit", "");
        if (!f.unit.empty() && !figure_unit(f.of, f.unit))
            throw Bad{told("'{}' is no unit of {}", f.unit.substr(0, 20), name_of(f.of))};
        c.figures.push_back(f);
    }
}

} // namespace

std::string_view name_of(NewestAt at) {
    return newest_names[static_cast<std::size_t>(at)];
}

std::string calibration_to_json(const ScreenCalibration &c) {
    json corners = json::array(), ramp = json::array();
    for (const auto &p : c.corners)
        corners.push_back({p.x, p.y});
    for (const auto &colour : c.ramp)
        ramp.push_back(hex_of(colour));
    json j{{"source", c.source},
           {"size", {c.width, c.height}},
           {"corners", corners},
           {"bow", c.bow},
           {"newest", name_of(c.newest)},
           {"swap_sides", c.swap_sides},
           {"middle", c.middle},
           {"range_m", c.range_m},
           {"along_m", c.along_m},
           {"rows_a_second", c.rows_a_second},
           {"frequency_khz", c.frequency_khz},
           {"span_db", c.span_db},
           {"pixel_sd", c.pixel_sd}};
    if (!ramp.empty())
        j["ramp"] = ramp;
    for (const auto &f : c.figures) {
        json one{{"of", name_of(f.of)}, {"box", {f.from.x, f.from.y, f.to.x, f.to.y}}};
        if (!f.unit.empty())
            one["unit"] = f.unit;
        j["figures"].push_back(one);
    }
    if (c.circle_bow_deg)
        j["circle"] = {{"bow_deg", *c.circle_bow_deg}};
    if (c.depth_m)
        j["depth_m"] = *c.depth_m;
    if (c.start)
        j["start"] = {{"latitude", c.start->place.latitude_deg},
                      {"longitude", c.start->place.longitude_deg},
                      {"heading_deg", c.start->heading_deg}};
    return j.dump(2) + "\n";
}

Result<ScreenCalibration> calibration_from_json(std::string_view text) {
    constexpr std::size_t most_bytes = 200'000;
    try {
        if (text.size() > most_bytes)
            throw Bad{told("it is longer than {} bytes", most_bytes)};
        const auto j = parse_json(text);
        ScreenCalibration c;
        c.source = j.value("source", "");
        if (c.source.size() > 200)
            throw Bad{told("'source' is longer than 200 bytes")};
        if (!j.contains("size") || j["size"].size() != 2)
            throw Bad{told("'size' is no [width, height]")};
        c.width = static_cast<int>(whole_in(j["size"][0], 0, 1 << 30));
        c.height = static_cast<int>(whole_in(j["size"][1], 0, 1 << 30));
        if (c.width < 64 || c.height < 64 || c.width > 20000 || c.height > 20000)
            throw Bad{told("'size' is not between 64 and 20000 pixels")};
        if (!j.contains("corners") || j["corners"].size() != 4)
            throw Bad{told("'corners' are not four places")};
        for (std::size_t i = 0; i < 4; ++i) {
            c.corners[i] = {j["corners"][i].at(0).get<double>(), j["corners"][i].at(1).get<double>()};
            if (!(std::fabs(c.corners[i].x) < 4e4 && std::fabs(c.corners[i].y) < 4e4))
                throw Bad{told("corner {} lies far off the picture", i + 1)};
        }
        // Clockwise, none of them within the others.
        for (std::size_t i = 0; i < 4; ++i) {
            const auto &a = c.corners[i], &b = c.corners[(i + 1) % 4], &d = c.corners[(i + 2) % 4];
            if ((b.x - a.x) * (d.y - b.y) - (b.y - a.y) * (d.x - b.x) < 100)
                throw Bad{
                    told("the corners make no panel: upper left, upper right, lower right, lower left")};
        }
        c.bow = number(j, "bow", 0, -0.3, 0.3);
        if (j.contains("circle") && !j["circle"].is_null()) {
            if (!j["circle"].is_object())
                throw Bad{told("'circle' is no object with bow_deg")};
            c.circle_bow_deg = number(j["circle"], "bow_deg", 0, 0, 360);
        }
        const auto newest = j.value("newest", "top");
        const auto at = std::find(newest_names.begin(), newest_names.end(), newest);
        if (at == newest_names.end())
            throw Bad{told("'newest' is none of top, bottom, left, right")};
        c.newest = static_cast<NewestAt>(at - newest_names.begin());
        c.swap_sides = j.value("swap_sides", false);
        c.middle = number(j, "middle", 0.5, 0, 1);
        c.range_m = number(j, "range_m", 25, 1, 500);
        c.along_m = number(j, "along_m", 0, 0, 5);
        c.rows_a_second = number(j, "rows_a_second", 0, 0, 1000);
        c.frequency_khz = number(j, "frequency_khz", 800, 20, 5000);
        c.span_db = number(j, "span_db", 50, 5, 150);
        c.pixel_sd = number(j, "pixel_sd", saved_pixels, 0, 50);
        if (j.contains("depth_m") && !j["depth_m"].is_null())
            c.depth_m = number(j, "depth_m", 1, 0.2, 300);
        if (j.contains("ramp")) {
            if (!j["ramp"].is_array() || j["ramp"].size() < 2 || j["ramp"].size() > 1024)
                throw Bad{told("'ramp' is no list of 2 to 1024 colours")};
            for (const auto &colour : j["ramp"]) {
                const auto rgb = rgb_from_hex(colour.get<std::string>());
                if (!rgb)
                    throw Bad{told("'ramp' holds what is no #RRGGBB")};
                c.ramp.push_back(*rgb);
            }
        }
        read_figures(j, c);
        if (j.contains("start") && !j["start"].is_null()) {
            KnownStart s;
            s.place.latitude_deg = number(j["start"], "latitude", 999, -85, 85);
            s.place.longitude_deg = number(j["start"], "longitude", 999, -180, 180);
            s.heading_deg = number(j["start"], "heading_deg", 999, 0, 360);
            if (s.place.latitude_deg > 90 || s.place.longitude_deg > 180 || s.heading_deg > 360)
                throw Bad{told("'start' needs latitude, longitude and heading_deg")};
            c.start = s;
        }
        return c;
    } catch (const Bad &bad) {
        return fail(told("the calibration cannot be used: {}", bad.why), told("nothing was read"),
                    told("docs/screens.md tells what it holds"));
    } catch (const json::exception &) {
        return fail(told("the calibration is no JSON of the right shape"), told("nothing was read"),
                    told("docs/screens.md tells what it holds"));
    }
}

std::vector<std::string> assumed_in(const ScreenCalibration &c) {
    std::vector<std::string> all;
    all.push_back(told("{:.0f} dB from the darkest to the brightest colour", c.span_db));
    if (c.circle_bow_deg)
        all.push_back(
            told("sound at 1480 m/s, {:.0f} kHz, rays of 1.5° that look 25° down", c.frequency_khz));
    else
        all.push_back(told("sound at 1480 m/s, {:.0f} kHz, a beam of 1° along the track", c.frequency_khz));
    if (c.circle_bow_deg)
        all.push_back(told("the boat stood still while the head turned"));
    else if (c.along_m <= 0)
        all.push_back(told("the scale along the track is not known: lengths along it mean nothing"));
    if (!c.start)
        all.push_back(told("where the boat was is not known: what is found has no place"));
    else if (!c.circle_bow_deg)
        all.push_back(told("the boat ran straight on from its place at the newest row"));
    return all;
}

} // namespace heron
