#include "bottom_study.hpp"

#include "bottom_scenes.hpp"
#include "parallel.hpp"

#include "bottom/ground_forms.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <random>

namespace heron::study {
namespace {

// One of each form beside the lane, on soft ground, and what is told of it.
struct FormsCount {
    std::array<double, 2> planted{}, found{}, told{}, right{};
    std::array<double, 2> told_where_none{}; ///< on the same lake without any
    double wave_off = 0, waves = 0, crests_off_deg = 0, seen_m2 = 0;
};

struct PlantedForm {
    GroundForm::Kind kind;
    sim::Point at;
    double half_m, wave_m = 0, across_deg = 0;
};

std::vector<PlantedForm> plant_forms(sim::Scene &lake, const GroundScene &scene) {
    std::mt19937 random(scene.seed * 211 + 17);
    const auto share = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(random);
    };
    const double reach = std::min(14.0, scene.base.range_m - 6);
    std::vector<PlantedForm> forms;
    const auto each_cell = [&](const auto &take) {
        for (std::size_t y = 0; y < lake.rows; ++y)
            for (std::size_t x = 0; x < lake.columns; ++x)
                take(sim::Point{static_cast<double>(x) * sim::Scene::cell_m,
                                static_cast<double>(y) * sim::Scene::cell_m},
                     y * lake.columns + x);
    };
    const double side = scene.seed % 2 == 0 ? 1 : -1;
    // Ripples of sand.
    PlantedForm ripples{GroundForm::Kind::ripples,
                        {60 + side * share(7, reach - 2), share(25, 40)},
                        share(5, 8),
                        share(0.8, 2.0),
                        share(0, 180)};
    lake.ripples.push_back({ripples.wave_m, ripples.wave_m * share(0.06, 0.12), ripples.across_deg});
    lake.rippled.resize(lake.columns * lake.rows, 0);
    const auto which = static_cast<std::uint8_t>(lake.ripples.size());
    each_cell([&](sim::Point p, std::size_t i) {
        if (std::hypot(p.x - ripples.at.x, p.y - ripples.at.y) < ripples.half_m) {
            lake.rippled[i] = which;
            lake.grounds[i] = static_cast<std::uint8_t>(sim::Ground::sand);
        }
    });
    forms.push_back(ripples);
    // A cart lane across the water, oblique to the boat's.
    PlantedForm lane{GroundForm::Kind::lane, {60, share(75, 85)}, share(1.3, 2.4), 0, share(50, 130)};
    const double e = std::sin(lane.across_deg / degrees_per_radian),
                 n = std::cos(lane.across_deg / degrees_per_radian);
    each_cell([&](sim::Point p, std::size_t i) {
        const double off = std::fabs((p.x - lane.at.x) * n - (p.y - lane.at.y) * e) - lane.half_m;
        if (off > 7)
            return;
        lake.grounds[i] = static_cast<std::uint8_t>(off <= 0 ? sim::Ground::gravel : sim::Ground::silt);
        const double t = 1 - std::fabs(off - 0.5) / 0.7;
        if (t > 0)
            lake.depth[i] += static_cast<float>(0.25 * t);
    });
    forms.push_back(lane);
    return forms;
}

FormsCount count_forms(const GroundScene &scene) {
    FormsCount c;
    for (const bool planted : {false, true}) {
        std::vector<TrueThing> things;
        auto lake = plant(scene.base, things);
        lay_fields(lake, scene);
        const auto truth = planted ? plant_forms(lake, scene) : std::vector<PlantedForm>();
        const auto scan = sail(lake, scene.base, scene.base.length_m / scene.base.speed_m_s);
        const LocalPlane plane(lake.origin);
        const auto map = map_of({&scan}, *utm_zone_of(lake.origin));
        const auto h = hardness_of(map);
        std::vector<bool> found(truth.size(), false);
        for (const auto &t : truth)
            c.planted[static_cast<std::size_t>(t.kind)] += 1;
        for (const auto &f : forms_of(map, h)) {
            const auto kind = static_cast<std::size_t>(f.kind);
            if (std::getenv("HERON_TELL") != nullptr)
                fmt::print("{} {} {} strength {:.2f} {:.0f} x {:.0f} wave {:.2f}\n", scene.base.name,
                           planted ? "planted" : "bare", name_of(f.kind), f.strength, f.length_m, f.width_m,
                           f.wave_m);
            if (!planted) {
                c.told_where_none[kind] += 1;
                continue;
            }
            c.told[kind] += 1;
            const auto at = plane.to_plane(from_utm(h.raster.zone, f.middle.east_m, f.middle.north_m));
            for (std::size_t i = 0; i < truth.size(); ++i) {
                const auto &t = truth[i];
                const double turn = t.across_deg / degrees_per_radian,
                             off = t.kind == GroundForm::Kind::lane
                                       ? std::fabs((at.east_m - t.at.x) * std::cos(turn) -
                                                   (at.north_m - t.at.y) * std::sin(turn))
                                       : std::hypot(at.east_m - t.at.x, at.north_m - t.at.y);
                if (t.kind != f.kind || off > t.half_m)
                    continue;
                c.right[kind] += 1;
                if (found[i])
                    continue;
                found[i] = true;
                c.found[kind] += 1;
                if (t.kind == GroundForm::Kind::ripples) {
                    c.wave_off += std::fabs(f.wave_m / t.wave_m - 1);
                    const double d = std::fmod(f.bearing_deg - t.across_deg - 90 + 720, 180);
                    c.crests_off_deg += std::min(d, 180 - d);
                    c.waves += 1;
                }
            }
        }
        if (!planted)
            for (const float v : h.hardness)
                c.seen_m2 += v == v ? h.raster.cell_m * h.raster.cell_m : 0;
    }
    return c;
}

} // namespace

std::string forms_study(unsigned threads, bool drawn) {
    const auto scenes = ground_scenes(drawn);
    std::vector<FormsCount> counts(scenes.size());
    in_parallel(scenes.size(), threads, [&](std::size_t i) {
        counts[i] = count_forms(scenes[i]);
        fmt::print(stderr, ".");
    });
    FormsCount all;
    for (const auto &c : counts) {
        for (std::size_t k = 0; k < 2; ++k) {
            all.planted[k] += c.planted[k];
            all.found[k] += c.found[k];
            all.told[k] += c.told[k];
            all.right[k] += c.right[k];
            all.told_where_none[k] += c.told_where_none[k];
        }
        all.wave_off += c.wave_off;
        all.crests_off_deg += c.crests_off_deg;
        all.waves += c.waves;
        all.seen_m2 += c.seen_m2;
    }
    std::string text = "| form | planted | found | of what is told right | told where none are, a hectare "
                       "|\n|---|---|---|---|---|\n";
    for (std::size_t k = 0; k < 2; ++k)
        text += fmt::format(
            "| {} | {:.0f} | {:.2f} | {:.2f} | {:.2f} |\n", name_of(static_cast<GroundForm::Kind>(k)),
            all.planted[k], all.found[k] / std::max(1.0, all.planted[k]),
            all.right[k] / std::max(1.0, all.told[k]), all.told_where_none[k] / (all.seen_m2 / 1e4));
    return text + fmt::format("\nWaves off by {:.2f} of themselves, crests by {:.0f}°\n",
                              all.wave_off / std::max(1.0, all.waves),
                              all.crests_off_deg / std::max(1.0, all.waves));
}

} // namespace heron::study
