#include "bottom_scenes.hpp"

#include "recording/nmea_feed.hpp"
#include "sim/sounder.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <random>

namespace heron::study {

std::vector<GroundScene> ground_scenes(bool drawn, std::uint32_t first_seed) {
    std::vector<GroundScene> all;
    for (std::uint32_t seed = first_seed; seed < first_seed + 24; ++seed) {
        std::mt19937 random(seed * 7919 + (drawn ? 13 : 0));
        const auto share = [&](double a, double b) {
            return std::uniform_real_distribution<double>(a, b)(random);
        };
        GroundScene g;
        auto &r = g.base;
        r.name = fmt::format("{}", seed);
        r.seed = 900 + seed + (drawn ? 100 : 0);
        r.depth_m = share(2.5, 8);
        r.slope_deg = seed % 3 == 0 ? share(1, 6) : 0;
        r.rises_to_deg = share(0, 360);
        r.range_m = std::clamp(5 * r.depth_m, 15.0, 32.0);
        r.frequency_hz = std::array{420e3, 770e3, 1150e3}[seed % 3];
        r.gain = 44 + static_cast<int>(seed % 4) * 4;
        r.ground = "sand";
        r.crowding = 0.5;
        r.looks = seed % 2 == 0 ? 3 : 1;
        r.length_m = 90;
        if (drawn)
            r.making = drawn_making(r.seed);
        g.seed = seed;
        g.fields = 5 + static_cast<int>(seed % 3) * 4;
        all.push_back(g);
    }
    return all;
}

// Fields around seeds; each of one ground.
void lay_fields(sim::Scene &lake, const GroundScene &g) {
    std::mt19937 random(g.seed * 31 + 5);
    const auto share = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(random);
    };
    struct Field {
        double x, y;
        std::uint8_t ground;
    };
    std::vector<Field> fields;
    for (int i = 0; i < g.fields; ++i) {
        const double kind = share(0, 1);
        const int ground = kind < 0.3 ? 0 : kind < 0.62 ? 1 : kind < 0.84 ? 2 : 3;
        fields.push_back({share(25, 95), share(10, 120), static_cast<std::uint8_t>(ground)});
    }
    for (std::size_t y = 0; y < lake.rows; ++y)
        for (std::size_t x = 0; x < lake.columns; ++x) {
            const double px = static_cast<double>(x) * sim::Scene::cell_m,
                         py = static_cast<double>(y) * sim::Scene::cell_m;
            // Borders bend.
            const double bx = px + 1.5 * std::sin(py / 4.1), by = py + 1.5 * std::sin(px / 5.3);
            double least = 1e9;
            for (const auto &f : fields)
                if (const double d = std::hypot(bx - f.x, by - f.y); d < least) {
                    least = d;
                    lake.grounds[y * lake.columns + x] = f.ground;
                }
        }
}

// Sailed north in the middle, and back beside it when `lanes`.
Scan sail(const sim::Scene &lake, const ReadingScene &r, double seconds, bool down) {
    sim::Sounder sounder(lake, 1'800'000'000LL * ns_per_s);
    auto settings = sounder.settings();
    settings.range_m = r.range_m;
    settings.frequency_hz = r.frequency_hz;
    settings.gain = r.gain;
    sounder.ask(settings);
    Scan scan;
    scan.installation = lake.boat.installation;
    NmeaFeed feed;
    const auto start = 1'800'000'000LL * ns_per_s;
    while (true) {
        auto e = sounder.next();
        if (seconds_between(start, e.time) > seconds)
            break;
        for (auto &line : e.sentences)
            feed.take(line, e.time, scan.nav);
        if (!e.ping)
            continue;
        if (!down)
            std::erase_if(e.ping->ping.beams, [](const Beam &b) { return b.side == Side::down; });
        scan.push({std::move(e.ping->ping), std::nullopt, e.ping->settings});
    }
    return scan;
}

GroundMap map_of(const std::vector<const Scan *> &scans, const UtmZone &zone) {
    GroundMap map(zone, 0.25);
    for (const auto *scan : scans) {
        GroundCurve curve;
        for (auto row = scan->first(); row < scan->end(); ++row)
            curve.add(*scan, row);
        curve.settle();
        for (auto row = scan->first(); row < scan->end(); ++row)
            map.add(*scan, row, curve);
    }
    return map;
}

} // namespace heron::study
