#include "parallel.hpp"
#include "reading_scenes.hpp"
#include "reading_study.hpp"
#include "weigh.hpp"

#include "reading/behind.hpp"
#include "reading/grains.hpp"
#include "reading/reader.hpp"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <fmt/format.h>
#include <mutex>
#include <set>

namespace heron::study {
namespace {

struct Counted {
    int woods = 0, bare = 0, bare_told = 0; // trees and brush that were told; without fish; with a grain told
    int fish = 0, found = 0, grains = 0, right = 0;
    double chances = 0;

    void add(const Counted &o) {
        woods += o.woods;
        bare += o.bare;
        bare_told += o.bare_told;
        fish += o.fish;
        found += o.found;
        grains += o.grains;
        right += o.right;
        chances += o.chances;
    }
};

// Where a fish shows: the run over ground at the row that passed it, and the slant range.
struct Shown {
    double run_m, slant_m;
};

Counted count(const ReadingScene &r) {
    Counted n;
    const auto s = sound(r);
    std::vector<double> run(s.scan.end(), 0);
    for (std::size_t row = s.scan.first() + 1; row < s.scan.end(); ++row)
        run[row] = run[row - 1] + step_over_ground(s.scan.facts(row - 1), s.scan.facts(row));
    Reader reader;
    const auto contacts = reader.advance(s.scan, true);
    for (const auto side : {Side::port, Side::starboard}) {
        const auto swath = prepare_swath(s.scan, side, s.scan.first(), s.scan.end());
        if (swath.lines() == 0)
            continue;
        for (const auto &e : find_echoes(swath)) {
            const auto row = swath.rows[e.strongest_line];
            const double near = swath.slant_m(e.strongest_line, e.near_edge[e.strongest_line - e.first_line]);
            if (std::none_of(contacts.begin(), contacts.end(), [&](const Contact &c) {
                    return c.side == side && c.zone == Zone::ground && c.confidence > 0.5 && c.crowned() &&
                           std::fabs(run[c.row] - run[row]) < 0.3 && std::fabs(c.slant_m - near) < 0.3;
                }))
                continue;
            // Fish whose echo must lie in the region.
            std::vector<Shown> fish;
            for (const auto &t : s.things) {
                if (t.kind != Kind::fish || !t.seen || t.depth_m <= 0)
                    continue;
                const double up = t.depth_m - s.scan.installation.draught_m() - t.height_m;
                const Shown f{run[t.row], std::hypot(t.ground_m, up)};
                const bool starboard = t.at.x > keel_east;
                if (starboard == (side == Side::starboard) && f.run_m > run[swath.rows[e.first_line]] - 0.5 &&
                    f.run_m < run[swath.rows[e.last_line]] + 0.5 &&
                    f.slant_m > swath.slant_m(e.strongest_line, static_cast<double>(e.first_column)) - 0.3 &&
                    f.slant_m < swath.slant_m(e.strongest_line, static_cast<double>(e.last_column)) + 0.3)
                    fish.push_back(f);
            }
            ++n.woods;
            n.fish += static_cast<int>(fish.size());
            std::set<std::size_t> found;
            bool told = false;
            for (const auto &g : grains_in(swath, e)) {
                const auto at = std::find_if(fish.begin(), fish.end(), [&](const Shown &f) {
                    const double beam = g.slant_m * swath.beam_rad;
                    return std::fabs(run[g.row] - f.run_m) < std::max(0.4, beam) &&
                           std::fabs(g.slant_m - f.slant_m) < 0.25;
                });
                if (std::getenv("HERON_TELL") != nullptr)
                    fmt::print("GRAIN {} {} {:.1f} {:.1f} {:.1f} {:.1f} {:.3f}\n", r.name, at != fish.end(),
                               g.level_db, g.falls_db, g.over_pings_db, g.over_ring_db, g.chance);
                if (g.chance < grain_worth_telling)
                    continue;
                told = true;
                ++n.grains;
                n.chances += g.chance;
                if (at != fish.end()) {
                    ++n.right;
                    found.insert(static_cast<std::size_t>(at - fish.begin()));
                }
            }
            n.found += static_cast<int>(found.size());
            if (fish.empty()) {
                ++n.bare;
                n.bare_told += told;
            }
        }
    }
    return n;
}

} // namespace

std::string wood_study(unsigned threads, bool fitting) {
    auto scenes = reading_scenes();
    std::erase_if(scenes, [&](const ReadingScene &r) { return r.fitting != fitting; });
    std::mutex mutex;
    Counted all;
    in_parallel(scenes.size(), threads, [&](std::size_t i) {
        auto r = scenes[i];
        r.wood = true;
        r.lanes = r.curved = false;
        r.drop = Kind::none;
        const auto n = count(r);
        const std::lock_guard hold(mutex);
        all.add(n);
        fmt::print(stderr, ".");
    });
    return fmt::format(
        "{} lakes of wood: {} trees and brush told; of {} fish within them {} seen as a grain ({:.2f}); of "
        "{} "
        "grains told {} are fish ({:.2f}; they say {:.2f}); of {} without fish {} show one ({:.2f})\n",
        scenes.size(), all.woods, all.fish, all.found, all.found / std::max(1.0, 1.0 * all.fish), all.grains,
        all.right, all.right / std::max(1.0, 1.0 * all.grains), all.chances / std::max(1.0, 1.0 * all.grains),
        all.bare, all.bare_told, all.bare_told / std::max(1.0, 1.0 * all.bare));
}

} // namespace heron::study
