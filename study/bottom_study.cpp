#include "bottom_study.hpp"

#include "bottom_scenes.hpp"
#include "parallel.hpp"

#include "bottom/depth_grid.hpp"
#include "bottom/hardness.hpp"
#include "bottom/transitions.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <mutex>
#include <numeric>
#include <random>

namespace heron::study {
namespace {

double true_hardness(sim::Ground g) {
    switch (g) {
    case sim::Ground::silt:
        return 0;
    case sim::Ground::sand:
        return 1;
    case sim::Ground::gravel:
        return 2;
    case sim::Ground::rock:
        break;
    }
    return 3;
}

std::vector<double> ranks(const std::vector<double> &v) {
    std::vector<std::size_t> order(v.size());
    std::iota(order.begin(), order.end(), 0);
    std::sort(order.begin(), order.end(), [&](auto a, auto b) { return v[a] < v[b]; });
    std::vector<double> rank(v.size());
    for (std::size_t i = 0; i < order.size();) {
        auto j = i;
        while (j < order.size() && v[order[j]] == v[order[i]])
            ++j;
        for (auto k = i; k < j; ++k)
            rank[order[k]] = static_cast<double>(i + j - 1) / 2;
        i = j;
    }
    return rank;
}

double correlation(const std::vector<double> &a, const std::vector<double> &b) {
    const double n = static_cast<double>(a.size()), ma = std::accumulate(a.begin(), a.end(), 0.0) / n,
                 mb = std::accumulate(b.begin(), b.end(), 0.0) / n;
    double ab = 0, aa = 0, bb = 0;
    for (std::size_t i = 0; i < a.size(); ++i) {
        ab += (a[i] - ma) * (b[i] - mb);
        aa += (a[i] - ma) * (a[i] - ma);
        bb += (b[i] - mb) * (b[i] - mb);
    }
    return aa > 0 && bb > 0 ? ab / std::sqrt(aa * bb) : std::nan("");
}

struct Charted {
    double spearman = std::nan(""), balanced = std::nan(""), classes = 0;
    std::size_t cells = 0;
    double border = 0, border_found = 0, line = 0, line_right = 0; ///< of transitions, metres
    double weeds_false = 0; ///< share of cells that are told as weeds where none grow
    double soundings = 0, square_m2 = 0, within = 0, gridded = 0; ///< of the depth
    std::vector<double> change;                                   ///< of hardness from pass to pass
};

bool is_hard(const sim::Scene &lake, const EastNorth &p) {
    return true_hardness(lake.ground({p.east_m, p.north_m})) > 1.5;
}

// True borders of hard and soft within what was seen, and told lines, each against the other.
void count_transitions(const sim::Scene &lake, const LocalPlane &plane, const Hardness &h, Charted &c) {
    constexpr double near_m = 1.5;
    constexpr std::ptrdiff_t off = 2, clear = 8; // cells: half a metre, two metres
    std::vector<EastNorth> borders, all_borders, told;
    const auto &r = h.raster;
    const auto known = [&](std::ptrdiff_t x, std::ptrdiff_t y) {
        if (x < 0 || y < 0 || static_cast<std::size_t>(x) >= r.columns ||
            static_cast<std::size_t>(y) >= r.rows)
            return false;
        const float v = h.hardness[static_cast<std::size_t>(y) * r.columns + static_cast<std::size_t>(x)];
        return v == v;
    };
    const auto at = [&](std::ptrdiff_t x, std::ptrdiff_t y) {
        return plane.to_plane(from_utm(r.zone, r.east_of(static_cast<std::size_t>(x)),
                                       r.north_of(static_cast<std::size_t>(y))));
    };
    for (std::ptrdiff_t y = 0; y < static_cast<std::ptrdiff_t>(r.rows); y += off)
        for (std::ptrdiff_t x = 0; x < static_cast<std::ptrdiff_t>(r.columns); x += off) {
            const bool here = is_hard(lake, at(x, y));
            if (here == is_hard(lake, at(x + off, y)) && here == is_hard(lake, at(x, y + off)))
                continue;
            // A told line may be right at the edge of what was seen; that one finds it there is not asked.
            all_borders.push_back(at(x, y));
            if (known(x, y) && known(x + clear, y) && known(x - clear, y) && known(x, y + clear) &&
                known(x, y - clear))
                borders.push_back(at(x, y));
        }
    for (const auto &t : transitions_of(h))
        for (const auto &p : t.of == Transition::Of::hardness ? t.line : std::vector<EastNorth>())
            told.push_back(plane.to_plane(from_utm(r.zone, p.east_m, p.north_m)));
    const auto near = [&](const EastNorth &p, const std::vector<EastNorth> &all) {
        return std::any_of(all.begin(), all.end(), [&](const EastNorth &q) {
            return std::hypot(p.east_m - q.east_m, p.north_m - q.north_m) < near_m;
        });
    };
    for (const auto &p : borders) {
        c.border += 1;
        c.border_found += near(p, told);
    }
    for (const auto &p : told) {
        c.line += 1;
        c.line_right += near(p, all_borders);
    }
}

void count_depths(const sim::Scene &lake, const LocalPlane &plane, const GroundMap &map, Charted &c) {
    const auto grid = depth_grid(map.soundings(), map.zone());
    for (std::size_t i = 0; i < grid.raster.cells(); ++i) {
        if (!(grid.depth_m[i] == grid.depth_m[i]))
            continue;
        const double east = grid.raster.east_of(i % grid.raster.columns),
                     north = grid.raster.north_of(i / grid.raster.columns);
        const auto p = plane.to_plane(from_utm(grid.raster.zone, east, north));
        const double error = static_cast<double>(grid.depth_m[i]) - lake.depth_m({p.east_m, p.north_m});
        c.within += std::fabs(error) < 2 * static_cast<double>(grid.sd_m[i]);
        c.gridded += 1;
        if (std::any_of(map.soundings().begin(), map.soundings().end(),
                        [&](const auto &s) { return std::hypot(s.east_m - east, s.north_m - north) < 1; })) {
            c.soundings += 1;
            c.square_m2 += error * error;
        }
    }
}

Charted chart(const GroundScene &scene) {
    std::vector<TrueThing> things;
    auto lake = plant(scene.base, things);
    lay_fields(lake, scene);
    const auto scan = sail(lake, scene.base, scene.base.length_m / scene.base.speed_m_s);
    const LocalPlane plane(lake.origin);
    const auto zone = *utm_zone_of(lake.origin);
    const auto map = map_of({&scan}, zone);
    const auto h = hardness_of(map);
    Charted c;
    std::vector<double> told, truth;
    double right = 0, hard_right = 0, hard_n = 0, soft_right = 0, soft_n = 0;
    std::array<double, 4> sum{}, count{}, rough{};
    for (std::size_t y = 0; y < h.raster.rows; y += 2)
        for (std::size_t x = 0; x < h.raster.columns; x += 2) {
            const auto i = y * h.raster.columns + x;
            if (!(h.hardness[i] == h.hardness[i]))
                continue;
            const auto p = plane.to_plane(from_utm(h.raster.zone, h.raster.east_of(x), h.raster.north_of(y)));
            const sim::Point at{p.east_m, p.north_m};
            // On things there is another ground.
            if (std::any_of(things.begin(), things.end(), [&](const TrueThing &t) {
                    return std::hypot(t.at.x - at.x, t.at.y - at.y) < 0.5 + t.length_m / 2;
                }))
                continue;
            const auto g = lake.ground(at);
            c.weeds_false += h.ground[i] == GroundClass::weeds;
            told.push_back(static_cast<double>(h.hardness[i]));
            truth.push_back(true_hardness(g));
            sum[static_cast<std::size_t>(g)] += static_cast<double>(h.level_db[i]);
            count[static_cast<std::size_t>(g)] += 1;
            rough[static_cast<std::size_t>(g)] +=
                -3 * std::log(1 - std::min(0.999, static_cast<double>(h.roughness[i])));
            right += static_cast<int>(h.ground[i]) == static_cast<int>(g) + 1;
            const bool hard = true_hardness(g) > 1.5, says = h.hardness[i] > 0.5F;
            (hard ? hard_n : soft_n) += 1;
            (hard ? hard_right : soft_right) += hard == says;
        }
    c.cells = told.size();
    if (told.empty())
        return c;
    c.spearman = correlation(ranks(told), ranks(truth));
    c.classes = right / static_cast<double>(told.size());
    c.weeds_false /= static_cast<double>(told.size());
    count_transitions(lake, plane, h, c);
    count_depths(lake, plane, map, c);
    // The same lane once more, set otherwise.
    auto other = scene.base;
    other.gain += scene.seed % 2 == 0 ? 8 : -8;
    other.range_m = std::min(36.0, 1.3 * other.range_m);
    other.frequency_hz = scene.seed % 3 == 0 ? 770e3 : 420e3;
    const auto again = sail(lake, other, scene.base.length_m / scene.base.speed_m_s);
    const auto second = hardness_of(map_of({&again}, zone));
    for (std::size_t y = 0; y < h.raster.rows; y += 4)
        for (std::size_t x = 0; x < h.raster.columns; x += 4)
            if (const auto i = second.raster.cell_at(h.raster.east_of(x), h.raster.north_of(y))) {
                const double change = std::fabs(
                    static_cast<double>(second.hardness[*i] - h.hardness[y * h.raster.columns + x]));
                if (change == change)
                    c.change.push_back(change);
            }
    const double n = static_cast<double>(told.size());
    if (hard_n > 0.02 * n && soft_n > 0.02 * n)
        c.balanced = (hard_right / hard_n + soft_right / soft_n) / 2;
    else
        c.balanced = (hard_right + soft_right) / n;
    if (std::getenv("HERON_TELL") != nullptr) {
        fmt::print("weeds {:.3f} ", c.weeds_false);
        fmt::print("{} depth {:.1f} slope {:.0f} range {:.0f} {:.0f} kHz gain {} looks {}: rank {:.2f} "
                   "balanced {:.2f} classes {:.2f} soft/hard at {:.1f}:",
                   scene.base.name, scene.base.depth_m, scene.base.slope_deg, scene.base.range_m,
                   scene.base.frequency_hz / 1000, scene.base.gain, scene.base.looks, c.spearman, c.balanced,
                   c.classes, h.soft_hard_db);
        for (std::size_t g = 0; g < 4; ++g)
            if (count[g] > 0)
                fmt::print(" {} {:.2f} {:.1f} {:.2f}", name_of(static_cast<GroundClass>(g + 1)), count[g] / n,
                           sum[g] / count[g], rough[g] / count[g]);
        fmt::print("\n");
    }
    return c;
}

// One bed of weeds that the lane crosses, thin or dense, low or tall.
struct Weeds {
    sim::Point at;
    double half_east = 4, half_north = 6;
    bool holds(const sim::Point &p, double margin = 0) const {
        const double e = (p.x - at.x) / (half_east + margin), n = (p.y - at.y) / (half_north + margin);
        return e * e + n * n < 1;
    }
};

Weeds plant_weeds(sim::Scene &lake, const GroundScene &scene) {
    std::mt19937 random(scene.seed * 101 + 3);
    const auto share = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(random);
    };
    Weeds w;
    w.half_east = share(3, 6);
    w.half_north = share(5, 12);
    // The boat runs north in the middle of the lake's first hundred and twenty metres.
    w.at = {60 + (scene.seed % 2 == 0 ? 1 : -1) * w.half_east * share(0, 0.9), share(35, 75)};
    const double high = std::min(share(0.4, 1.6), 0.6 * scene.base.depth_m), stalks = share(1.5, 8),
                 strength = share(-44, -38);
    const int n = static_cast<int>(3.1416 * w.half_east * w.half_north * stalks);
    for (int i = 0; i < n; ++i) {
        const double turn = share(0, 6.2832), out = std::sqrt(share(0, 1));
        const sim::Point p{w.at.x + out * w.half_east * std::sin(turn),
                           w.at.y + out * w.half_north * std::cos(turn)};
        for (double z = 0.06; z < high * share(0.6, 1); z += 0.15)
            lake.bodies.push_back({p, z, 0.05, strength, 0.3});
    }
    return w;
}

struct WeedsCount {
    double grown = 0, found = 0, told = 0, right = 0;
};

WeedsCount count_weeds(const GroundScene &scene) {
    std::vector<TrueThing> things;
    auto lake = plant(scene.base, things);
    lay_fields(lake, scene);
    const auto weeds = plant_weeds(lake, scene);
    const auto scan = sail(lake, scene.base, scene.base.length_m / scene.base.speed_m_s, true);
    const LocalPlane plane(lake.origin);
    const auto h = hardness_of(map_of({&scan}, *utm_zone_of(lake.origin)));
    WeedsCount c;
    constexpr double border_m = 1;
    for (std::size_t i = 0; i < h.raster.cells(); ++i) {
        if (h.ground[i] == GroundClass::unknown)
            continue;
        const auto p = plane.to_plane(from_utm(h.raster.zone, h.raster.east_of(i % h.raster.columns),
                                               h.raster.north_of(i / h.raster.columns)));
        const sim::Point at{p.east_m, p.north_m};
        const bool says = h.ground[i] == GroundClass::weeds;
        if (weeds.holds(at, -border_m)) {
            c.grown += 1;
            c.found += says;
        }
        c.told += says;
        c.right += says && weeds.holds(at, border_m);
    }
    return c;
}

std::string weeds_study(const std::vector<GroundScene> &scenes, unsigned threads) {
    std::vector<WeedsCount> counts(scenes.size());
    in_parallel(scenes.size(), threads, [&](std::size_t i) {
        counts[i] = count_weeds(scenes[i]);
        fmt::print(stderr, ".");
    });
    WeedsCount all;
    for (const auto &c : counts) {
        all.grown += c.grown;
        all.found += c.found;
        all.told += c.told;
        all.right += c.right;
    }
    return fmt::format(
        "\nOne bed of weeds in each of {} lakes: {:.2f} of their ground told as weeds, {:.2f} of "
        "what is told is weeds\n",
        scenes.size(), all.found / std::max(1.0, all.grown), all.right / std::max(1.0, all.told));
}

} // namespace

std::string bottom_study(unsigned threads, bool drawn) {
    const auto scenes = ground_scenes(drawn);
    std::vector<Charted> charted(scenes.size());
    in_parallel(scenes.size(), threads, [&](std::size_t i) {
        charted[i] = chart(scenes[i]);
        fmt::print(stderr, ".");
    });
    double rank = 0, balanced = 0, classes = 0, n = 0;
    Charted all;
    double weeds_false = 0;
    for (const auto &c : charted) {
        all.border += c.border;
        all.border_found += c.border_found;
        all.line += c.line;
        all.line_right += c.line_right;
        all.soundings += c.soundings;
        all.square_m2 += c.square_m2;
        all.within += c.within;
        all.gridded += c.gridded;
        all.change.insert(all.change.end(), c.change.begin(), c.change.end());
        if (c.cells == 0)
            continue;
        rank += c.spearman == c.spearman ? c.spearman : 0;
        balanced += c.balanced;
        classes += c.classes;
        weeds_false += c.weeds_false;
        n += 1;
    }
    std::sort(all.change.begin(), all.change.end());
    return fmt::format("| lakes | rank correlation | hard and soft, balanced | classes | transitions found | "
                       "lines right | "
                       "change from "
                       "pass to pass, median | depth, RMS where sounded | within 2σ "
                       "|\n|---|---|---|---|---|---|---|---|---|\n| {:.0f} | "
                       "{:.2f} | {:.2f} | {:.2f} | {:.2f} | {:.2f} | {:.2f} | {:.2f} m | {:.2f} |\n",
                       n, rank / n, balanced / n, classes / n, all.border_found / std::max(1.0, all.border),
                       all.line_right / std::max(1.0, all.line),
                       all.change.empty() ? 0 : all.change[all.change.size() / 2],
                       std::sqrt(all.square_m2 / std::max(1.0, all.soundings)),
                       all.within / std::max(1.0, all.gridded)) +
           fmt::format("\nWhere no weeds grow {:.4f} of the cells are told as weeds\n", weeds_false / n) +
           weeds_study(scenes, threads);
}

} // namespace heron::study
