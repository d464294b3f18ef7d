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

// One of each form beside the track, and what is told of it.
struct FormsCount {
    std::array<double, 3> planted{}, found{}, told{}, right{};
    std::array<double, 3> told_where_none{}, seen_m2{}; ///< on the same lakes without any
    double wave_off = 0, waves = 0, crests_off_deg = 0;
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

// Bowls that fish swept side by side, on the ground that lies there or, on rock, on sand.
PlantedForm plant_beds(sim::Scene &lake, const GroundScene &scene) {
    std::mt19937 random(scene.seed * 977 + 5);
    const auto share = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(random);
    };
    const double radius = share(0.3, 0.6), deep = share(0.25, 0.4) * radius, apart = share(2.2, 3.4) * radius;
    const int count = 7 + static_cast<int>(share(0, 14));
    const double half_m = 0.62 * apart * std::sqrt(count), reach = scene.base.range_m - 3 - half_m;
    const PlantedForm beds{
        GroundForm::Kind::beds,
        {60 + (scene.seed % 2 == 0 ? 1 : -1) * share(half_m + 2, std::max(half_m + 2.1, reach)),
         share(30, 60)},
        half_m + 1};
    for (std::size_t y = 0; y < lake.rows; ++y)
        for (std::size_t x = 0; x < lake.columns; ++x)
            if (auto &ground = lake.grounds[y * lake.columns + x];
                ground == static_cast<std::uint8_t>(sim::Ground::rock) &&
                std::hypot(static_cast<double>(x) * sim::Scene::cell_m - beds.at.x,
                           static_cast<double>(y) * sim::Scene::cell_m - beds.at.y) < half_m + 3)
                ground = static_cast<std::uint8_t>(sim::Ground::sand);
    std::vector<sim::Point> dug;
    for (int tries = 0; tries < 4000 && std::ssize(dug) < count; ++tries) {
        const double out = half_m * std::sqrt(share(0, 1)), turn = share(0, 6.2832);
        const sim::Point p{beds.at.x + out * std::sin(turn), beds.at.y + out * std::cos(turn)};
        if (std::any_of(dug.begin(), dug.end(),
                        [&](const sim::Point &o) { return std::hypot(o.x - p.x, o.y - p.y) < 0.9 * apart; }))
            continue;
        dug.push_back(p);
        lake.dig({p, radius * share(0.8, 1.2), deep * share(0.8, 1.2)});
    }
    return beds;
}

// As many stones on the other side, as far apart.
void scatter_stones(sim::Scene &lake, const GroundScene &scene) {
    std::mt19937 random(scene.seed * 463 + 11);
    const auto share = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(random);
    };
    const sim::Point middle{60 + (scene.seed % 2 == 0 ? -1 : 1) * share(5, scene.base.range_m - 5),
                            share(30, 60)};
    for (int i = 0; i < 14; ++i) {
        const sim::Point p{middle.x + share(-3, 3), middle.y + share(-3, 3)};
        const double half = share(0.12, 0.4);
        lake.solids.push_back({sim::Solid::Shape::dome, p, p, half, half, 0, share(0.12, 0.4), -14});
    }
}

// What is told on a lake with the forms planted, or without any. `things`: what else lies there, a few beds
// among it: what tells these is neither right nor wrong.
void count_told(const sim::Scene &lake, const GroundScene &scene, const std::vector<PlantedForm> &truth,
                const std::vector<TrueThing> &things, const std::vector<GroundForm::Kind> &kinds,
                FormsCount &c) {
    const auto scan = sail(lake, scene.base, scene.base.length_m / scene.base.speed_m_s);
    const LocalPlane plane(lake.origin);
    const auto map = map_of({&scan}, *utm_zone_of(lake.origin));
    const auto h = hardness_of(map);
    std::vector<bool> found(truth.size(), false);
    for (const auto &t : truth)
        c.planted[static_cast<std::size_t>(t.kind)] += 1;
    for (const auto &f : forms_of(map, h)) {
        const auto kind = static_cast<std::size_t>(f.kind);
        if (std::find(kinds.begin(), kinds.end(), f.kind) == kinds.end())
            continue;
        const auto at = plane.to_plane(from_utm(h.raster.zone, f.middle.east_m, f.middle.north_m));
        constexpr double on_it_m = 2.5;
        if (f.kind == GroundForm::Kind::beds && std::any_of(things.begin(), things.end(), [&](const auto &t) {
                return t.kind == Kind::bed && std::hypot(t.at.x - at.east_m, t.at.y - at.north_m) < on_it_m;
            }))
            continue;
        if (std::getenv("HERON_TELL") != nullptr)
            fmt::print("{} {} {} strength {:.2f} {:.0f} x {:.0f} wave {:.2f} at {:.1f} {:.1f}\n",
                       scene.base.name, truth.empty() ? "bare" : "planted", name_of(f.kind), f.strength,
                       f.length_m, f.width_m, f.wave_m, at.east_m, at.north_m);
        if (truth.empty()) {
            c.told_where_none[kind] += 1;
            continue;
        }
        c.told[kind] += 1;
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
    if (truth.empty())
        for (const float v : h.hardness)
            for (const auto kind : kinds)
                c.seen_m2[static_cast<std::size_t>(kind)] += v == v ? h.raster.cell_m * h.raster.cell_m : 0;
}

// Ripples and a lane on the lake as it is; beds on one as shallow as fish spawn in.
FormsCount count_forms(const GroundScene &scene) {
    FormsCount c;
    auto shallow = scene;
    std::mt19937 random(scene.seed);
    shallow.base.depth_m = std::uniform_real_distribution<double>(1.3, 3.5)(random);
    shallow.base.range_m = std::clamp(7 * shallow.base.depth_m, 12.0, 22.0);
    for (const bool planted : {false, true}) {
        std::vector<TrueThing> things;
        auto lake = plant(scene.base, things);
        lay_fields(lake, scene);
        count_told(lake, scene, planted ? plant_forms(lake, scene) : std::vector<PlantedForm>(), things,
                   {GroundForm::Kind::ripples, GroundForm::Kind::lane}, c);
        things.clear();
        auto bank = plant(shallow.base, things);
        lay_fields(bank, shallow);
        scatter_stones(bank, shallow);
        count_told(bank, shallow,
                   planted ? std::vector{plant_beds(bank, shallow)} : std::vector<PlantedForm>(), things,
                   {GroundForm::Kind::beds}, c);
    }
    return c;
}

} // namespace

std::string forms_study(unsigned threads, bool drawn, std::uint32_t first_seed) {
    const auto scenes = ground_scenes(drawn, first_seed);
    std::vector<FormsCount> counts(scenes.size());
    in_parallel(scenes.size(), threads, [&](std::size_t i) {
        counts[i] = count_forms(scenes[i]);
        fmt::print(stderr, ".");
    });
    FormsCount all;
    for (const auto &c : counts) {
        for (std::size_t k = 0; k < 3; ++k) {
            all.planted[k] += c.planted[k];
            all.found[k] += c.found[k];
            all.told[k] += c.told[k];
            all.right[k] += c.right[k];
            all.told_where_none[k] += c.told_where_none[k];
            all.seen_m2[k] += c.seen_m2[k];
        }
        all.wave_off += c.wave_off;
        all.crests_off_deg += c.crests_off_deg;
        all.waves += c.waves;
    }
    std::string text = "| form | planted | found | of what is told right | told where none are, a hectare "
                       "|\n|---|---|---|---|---|\n";
    for (std::size_t k = 0; k < 3; ++k)
        text += fmt::format(
            "| {} | {:.0f} | {:.2f} | {:.2f} | {:.2f} |\n", name_of(static_cast<GroundForm::Kind>(k)),
            all.planted[k], all.found[k] / std::max(1.0, all.planted[k]),
            all.right[k] / std::max(1.0, all.told[k]), all.told_where_none[k] / (all.seen_m2[k] / 1e4));
    return text + fmt::format("\nWaves off by {:.2f} of themselves, crests by {:.0f}°\n",
                              all.wave_off / std::max(1.0, all.waves),
                              all.crests_off_deg / std::max(1.0, all.waves));
}

} // namespace heron::study
