#include "water.hpp"

#include "files/json.hpp"

#include <cmath>
#include <fmt/format.h>
#include <random>

namespace heron::study {
namespace {

BottomType bottom_named(const std::string &name) {
    return name == "silt"     ? BottomType::silt
           : name == "sand"   ? BottomType::sand
           : name == "gravel" ? BottomType::gravel
                              : BottomType::rock;
}

const auto bush = SmallestThing::bush(1);
const auto usual_fish = SmallestThing::fish(0.3);

} // namespace

WaterState Water::state() const {
    WaterState w;
    w.shallowest_m = w.deepest_m = depth_m;
    w.suspended_db = suspended_db;
    w.temperature_c = temperature_c;
    w.bottom = bottom_named(ground);
    return w;
}

std::string Water::told() const {
    return fmt::format("{:.1f} m, {}, {}, {:.0f} °C, {}", depth_m, ground,
                       suspended_db > -60   ? "muddy"
                       : suspended_db > -72 ? "stained"
                                            : "clear",
                       temperature_c,
                       thing.kind == SmallestThing::Kind::fish
                           ? fmt::format("fish {:.0f} cm", thing.length_m * 100)
                           : fmt::format("bush {:.1f} m", thing.length_m));
}

std::vector<Water> developing_waters() {
    return {{"a", 5.0, "sand", -78, 14, bush},        {"b", 3.0, "silt", -66, 18, usual_fish},
            {"c", 9.0, "gravel", -70, 10, bush},      {"d", 2.0, "sand", -60, 22, bush},
            {"e", 6.5, "gravel", -78, 8, usual_fish}, {"f", 12.0, "silt", -78, 6, bush}};
}

std::vector<Water> held_out_waters() {
    return {{"1", 2.4, "silt", -72, 19, bush},
            {"2", 2.8, "gravel", -58, 23, usual_fish},
            {"3", 3.6, "sand", -66, 16, SmallestThing::bush(0.7)},
            {"4", 4.2, "rock", -78, 11, bush},
            {"5", 4.5, "silt", -78, 13, SmallestThing::fish(0.4)},
            {"6", 5.5, "gravel", -62, 20, bush},
            {"7", 6.0, "sand", -74, 15, usual_fish},
            {"8", 7.2, "silt", -68, 12, SmallestThing::bush(1.5)},
            {"9", 7.5, "gravel", -78, 9, SmallestThing::fish(0.25)},
            {"10", 8.5, "sand", -58, 21, bush},
            {"11", 10.0, "rock", -72, 7, SmallestThing::fish(0.5)},
            {"12", 11.0, "sand", -78, 5, SmallestThing::bush(1.2)},
            {"13", 13.5, "gravel", -76, 6, bush},
            {"14", 1.6, "sand", -70, 17, SmallestThing::bush(0.6)}};
}

PlantedWater plant(const Water &w, double longest, std::uint32_t seed) {
    using nlohmann::json;
    PlantedWater p;
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> share(0, 1);
    const double altitude = w.depth_m - 0.3;
    const double height = w.thing.height_m + (w.thing.kind == SmallestThing::Kind::fish ? 0.1 : 0);
    // A shadow ends at g·A/(A − H); the next thing stands beyond.
    const double ratio = std::min(4.0, 1.15 * altitude / (altitude - std::min(height, 0.8 * altitude)));
    constexpr int blocks = 34;
    constexpr double block_m = 4;
    p.track_east_m = longest + 10;
    p.from_north_m = 8;
    p.to_north_m = p.from_north_m + blocks * block_m;
    json things = json::array();
    for (int i = 0; i < blocks; ++i)
        for (const int side : {-1, 1}) {
            double g = 1 + 0.6 * share(random);
            // Where in the spacing a row begins changes from block to block.
            g *= std::pow(ratio, share(random));
            for (; g < longest; g = std::max(g + 2.2, g * ratio) + 0.5 * share(random)) {
                const double along = p.from_north_m + (i + 0.5) * block_m;
                p.things.push_back({along, side * g});
                json t{{"at", {p.track_east_m + side * g, along}}};
                if (w.thing.kind == SmallestThing::Kind::fish) {
                    t["kind"] = "fish";
                    t["above_bottom_m"] = w.thing.height_m;
                    t["length_m"] = w.thing.length_m;
                } else {
                    t["kind"] = "brush";
                    t["height_m"] = w.thing.height_m;
                    t["spread_m"] = w.thing.length_m;
                }
                things.push_back(t);
            }
        }
    const json scene{{"name", w.name},
                     {"seed", seed},
                     {"origin", {{"latitude", 46.5}, {"longitude", -21.25}}},
                     {"water", {{"temperature_c", w.temperature_c}, {"suspended_db", w.suspended_db}}},
                     {"terrain",
                      {{"size_m", {2 * p.track_east_m, p.to_north_m + 8}},
                       {"depth_m", w.depth_m},
                       {"ground", w.ground},
                       {"undulation_m", 0.02}}},
                     {"things", things},
                     {"boat", {{"route", {{p.track_east_m, 1}, {p.track_east_m, p.to_north_m + 6}}}}}};
    auto read = sim::read_scene(scene.dump(), "study");
    if (!read)
        throw std::runtime_error(read.error().line());
    p.scene = std::move(*read);
    // The transducer hangs on the track itself.
    p.scene.boat.installation.transducer = {0, 0, 0.35};
    return p;
}

} // namespace heron::study
