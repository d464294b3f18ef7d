#include "tuning/gear.hpp"
#include "files/json.hpp"
#include "files/json_in.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace heron {

using nlohmann::json;

double Gear::ping_period_s(double range_m, double c) const {
    return std::max(1 / most_pings_a_second, 2 * range_m / c + rest_s);
}

double Gear::resolution_m(std::size_t band, double range, double c) const {
    const double pulse = c / (2 * bands.at(band).bandwidth_hz);
    return samples_a_side > 0 ? std::max(pulse, range / samples_a_side) : pulse;
}

double Gear::noise_rise_db(double speed) const {
    return speed <= noise_from_m_s ? 0 : noise_db_a_doubling * std::log2(speed / noise_from_m_s);
}

Gear usual_gear() {
    Gear g;
    g.name = "a usual three-band unit";
    g.bands = {{455e3, 1.2, 56, 25e3, 134}, {800e3, 0.8, 52, 45e3, 140}, {1200e3, 0.55, 46, 60e3, 144}};
    g.most_pings_a_second = 15;
    g.assumed_sound_speed_m_s = 1500;
    return g;
}

std::string gear_to_json(const Gear &g) {
    json bands = json::array();
    for (const auto &b : g.bands)
        bands.push_back({{"frequency_hz", b.frequency_hz},
                         {"along_deg", b.along_deg},
                         {"across_deg", b.across_deg},
                         {"bandwidth_hz", b.bandwidth_hz},
                         {"source_db", b.source_db}});
    json j{{"name", g.name},
           {"bands", bands},
           {"tilt_deg", g.tilt_deg},
           {"most_pings_a_second", g.most_pings_a_second},
           {"rest_s", g.rest_s},
           {"assumed_sound_speed_m_s", g.assumed_sound_speed_m_s},
           {"draught_m", g.draught_m},
           {"range_m", {g.shortest_range_m, g.longest_range_m}},
           {"samples_a_side", g.samples_a_side},
           {"screen_pixels", g.screen_pixels},
           {"screen_shows_both", g.screen_shows_both},
           {"gain_steps", g.gain_steps},
           {"db_a_gain_step", g.db_a_gain_step},
           {"contrast_steps", g.contrast_steps},
           {"db_a_contrast_step", g.db_a_contrast_step},
           {"level_span_db", g.level_span_db},
           {"tvg_log", g.tvg_log},
           {"noise_from_m_s", g.noise_from_m_s},
           {"noise_db_a_doubling", g.noise_db_a_doubling}};
    if (std::isfinite(g.level_at_zero_db))
        j["level_at_zero_db"] = g.level_at_zero_db;
    return j.dump();
}

Result<Gear> gear_from_json(std::string_view text) {
    std::string entry = "the description";
    const auto number = [&](const json &j, const char *key, double otherwise, double low, double high) {
        entry = key;
        const double v = j.contains(key) ? j.at(key).get<double>() : otherwise;
        if (!(v >= low && v <= high))
            throw std::out_of_range(fmt::format("{} is not between {} and {}", v, low, high));
        return v;
    };
    try {
        const auto j = parse_json(text);
        Gear g;
        g.name = j.value("name", "");
        entry = "bands";
        for (const auto &b : j.at("bands"))
            g.bands.push_back({number(b, "frequency_hz", 0, 20e3, 5e6), number(b, "along_deg", 1, 0.05, 20),
                               number(b, "across_deg", 50, 1, 180), number(b, "bandwidth_hz", 40e3, 100, 1e6),
                               number(b, "source_db", 140, 40, 260)});
        if (g.bands.empty())
            throw std::out_of_range("there is none");
        g.tilt_deg = number(j, "tilt_deg", 30, 0, 90);
        g.most_pings_a_second = number(j, "most_pings_a_second", 20, 0.5, 200);
        g.rest_s = number(j, "rest_s", 0.004, 0, 1);
        g.assumed_sound_speed_m_s = number(j, "assumed_sound_speed_m_s", 0, 0, 1700);
        g.draught_m = number(j, "draught_m", 0.3, 0, 5);
        entry = "range_m";
        if (j.contains("range_m")) {
            g.shortest_range_m = j["range_m"].at(0).get<double>();
            g.longest_range_m = j["range_m"].at(1).get<double>();
        }
        if (!(g.shortest_range_m > 0 && g.longest_range_m > g.shortest_range_m && g.longest_range_m <= 500))
            throw std::out_of_range("it is no [shortest, longest] in metres");
        g.samples_a_side = static_cast<int>(number(j, "samples_a_side", 0, 0, 100000));
        g.screen_pixels = static_cast<int>(number(j, "screen_pixels", 1000, 100, 20000));
        entry = "screen_shows_both";
        g.screen_shows_both = j.value("screen_shows_both", true);
        g.gain_steps = static_cast<int>(number(j, "gain_steps", 100, 1, 10000));
        g.db_a_gain_step = number(j, "db_a_gain_step", 0.8, 0.01, 20);
        g.contrast_steps = static_cast<int>(number(j, "contrast_steps", 20, 1, 10000));
        g.db_a_contrast_step = number(j, "db_a_contrast_step", 2, 0.01, 40);
        g.level_span_db = number(j, "level_span_db", 64, 10, 200);
        g.tvg_log = number(j, "tvg_log", 30, 0, 60);
        g.noise_from_m_s = number(j, "noise_from_m_s", 1.8, 0.1, 20);
        g.noise_db_a_doubling = number(j, "noise_db_a_doubling", 18, 0, 40);
        if (j.contains("level_at_zero_db"))
            g.level_at_zero_db = number(j, "level_at_zero_db", 0, -300, 300);
        return g;
    } catch (const json::exception &bad) {
        return fail(told("the description of the sounder cannot be read at '{}'", entry),
                    "what was set before stays", "");
    } catch (const std::out_of_range &bad) {
        return fail(told("the description of the sounder is wrong at '{}': {}", entry, bad.what()),
                    "what was set before stays", "");
    }
}

} // namespace heron
