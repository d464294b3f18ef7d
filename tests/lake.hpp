// Small lakes for tests, and what the stand-in hears over them.
#pragma once

#include "files/json.hpp"
#include "picture/angle_levels.hpp"
#include "picture/scan.hpp"
#include "recording/nmea_feed.hpp"
#include "sim/sounder.hpp"
#include "tuning/gear.hpp"

#include <fmt/format.h>
#include <functional>
#include <gtest/gtest.h>

namespace heron::test {

/// A basin 120 by 120 m, the boat going due north through its middle. Entries are changed by the test.
inline nlohmann::json basin(double depth_m = 5, const std::string &ground = "sand") {
    return {{"name", "basin"},
            {"seed", 5},
            {"origin", {{"latitude", 46.5}, {"longitude", -21.25}}},
            {"water", {{"temperature_c", 14}}},
            {"terrain",
             {{"size_m", {120, 120}}, {"depth_m", depth_m}, {"ground", ground}, {"undulation_m", 0.0}}},
            {"things", nlohmann::json::array()},
            {"boat",
             {{"route", {{60, 10}, {60, 110}}},
              {"speed_m_s", 1.4},
              {"gnss_wander_m", 0.0},
              {"gnss_noise_m", 0.0},
              {"heading_noise_deg", 0.2}}}};
}

inline sim::Scene scene_of(const nlohmann::json &j) {
    auto s = sim::read_scene(j.dump(), "test");
    if (!s)
        throw std::runtime_error(s.error().line());
    return std::move(*s);
}

/// Sounds so many rows into a scan, with the position sentences that come meanwhile. `each` sees every row
/// and may ask the sounder for other settings.
inline void sound(Scan &scan, const nlohmann::json &scene, std::size_t rows,
                  const SoundingSettings &settings = {},
                  const std::function<void(sim::Sounder &)> &each = {}) {
    sim::Sounder sounder(scene_of(scene), 1'800'000'000LL * ns_per_s);
    sounder.ask(settings);
    scan.installation = sounder.scene().boat.installation;
    NmeaFeed feed;
    for (std::size_t n = 0; n < rows;) {
        auto e = sounder.next();
        for (const auto &line : e.sentences)
            feed.take(line.substr(0, line.size() - 2), e.time, scan.nav);
        if (!e.ping)
            continue;
        scan.push({std::move(e.ping->ping), std::nullopt, e.ping->settings});
        ++n;
        if (each)
            each(sounder);
    }
}

inline Gear gear_of_the_stand_in() {
    return *gear_from_json(sim::Sounder(scene_of(basin()), 0).hello().gear);
}

/// The levels by angle of all that was sounded.
inline AngleLevels angle_levels_of(const Scan &scan) {
    AngleLevels angles;
    for (std::size_t n = 0; n < scan.end(); ++n)
        angles.add(scan.ping(n), scan.bottom(n));
    return angles;
}

} // namespace heron::test
