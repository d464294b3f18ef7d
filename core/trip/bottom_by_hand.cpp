#include "trip/bottom_by_hand.hpp"

#include "files/json.hpp"
#include "files/json_in.hpp"

#include <cmath>

namespace heron {
namespace {

using nlohmann::json;
constexpr double hand_sd_m = 0.1;
constexpr std::size_t most_rows = 1u << 20;

} // namespace

std::string text_of(const std::vector<BottomStroke> &strokes) {
    json all = json::array();
    for (const auto &s : strokes) {
        json depths = json::array();
        for (const double a : s.altitude_m)
            depths.push_back(std::round(a * 100) / 100);
        all.push_back({s.first_row, depths});
    }
    return all.dump();
}

std::vector<BottomStroke> strokes_from(std::string_view text) {
    std::vector<BottomStroke> strokes;
    json all;
    try {
        all = parse_json(text);
    } catch (const json::exception &) {
        return strokes;
    }
    if (!all.is_array())
        return strokes;
    for (const auto &s : all) {
        if (!s.is_array() || s.size() != 2 || !s[0].is_number_unsigned() || !s[1].is_array() ||
            s[1].size() > most_rows)
            continue;
        BottomStroke stroke{s[0].get<std::size_t>(), {}};
        bool sound = true;
        for (const auto &a : s[1]) {
            sound = sound && a.is_number() && a.get<double>() >= 0.1 && a.get<double>() <= 200;
            if (sound)
                stroke.altitude_m.push_back(a.get<double>());
        }
        if (sound && !stroke.altitude_m.empty())
            strokes.push_back(std::move(stroke));
    }
    return strokes;
}

void draw_bottom(Scan &scan, const std::vector<BottomStroke> &strokes) {
    for (const auto &s : strokes) {
        if (s.first_row >= scan.end())
            continue;
        std::vector<BottomPick> picks;
        for (const double a : s.altitude_m) {
            BottomPick p;
            p.found = true;
            p.altitude_m = p.port_m = p.starboard_m = a;
            p.altitude_sd_m = hand_sd_m;
            p.source = BottomSource::hand;
            picks.push_back(p);
        }
        scan.correct_bottom(s.first_row, picks);
    }
}

} // namespace heron
