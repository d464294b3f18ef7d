#include "bottom/hardness.hpp"

#include "bottom/unknown.hpp"
#include "bottom/weeds.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numeric>

namespace heron {
namespace {

// Orders of magnitude of the four grounds under Lambert's law, and by how much more than the smoothest ground
// their cells differ from their neighbours: coarse ground is rough, by how much hangs on the device.
struct Ground {
    double level_db, rough_db;
};
constexpr std::array<Ground, 4> grounds{{{-35, 0.5}, {-28, 0.7}, {-20, 1.9}, {-12, 5}}};
// Among stones the ground lies half in shadow and faces away: so much of its roughness is given back to its
// level.
constexpr double level_of_rough = 0.8, smooth_enough_db = 0.7;
constexpr double softest_db = -38, hardest_db = -10, soft_meets_hard_db = -24, rock_from_db = -16,
                 no_weeds_from_db = -19;

float nth(std::vector<float> &v, double share) {
    const auto i = static_cast<std::ptrdiff_t>(share * static_cast<double>(v.size() - 1));
    std::nth_element(v.begin(), v.begin() + i, v.end());
    return v[static_cast<std::size_t>(i)];
}

struct Extent {
    int west, south, east, north; ///< cells, the last two beyond the end
};

Extent extent_of(const GroundMap &map) {
    Extent e{std::numeric_limits<int>::max(), std::numeric_limits<int>::max(),
             std::numeric_limits<int>::min(), std::numeric_limits<int>::min()};
    for (const auto &[key, t] : map.tiles())
        for (int y = 0; y < GroundMap::tile; ++y)
            for (int x = 0; x < GroundMap::tile; ++x) {
                if (t.cells()[static_cast<std::size_t>(y * GroundMap::tile + x)].weight() <= 0)
                    continue;
                const int column = key.first * GroundMap::tile + x, line = key.second * GroundMap::tile + y;
                e = {std::min(e.west, column), std::min(e.south, line), std::max(e.east, column + 1),
                     std::max(e.north, line + 1)};
            }
    return e;
}

// One raster of something that the cells hold.
template <class Value>
std::vector<float> raster_of(const GroundMap &map, const Extent &e, const GroundRaster &r,
                             const Value &value) {
    std::vector<float> level(r.cells(), unknown);
    for (const auto &[key, t] : map.tiles())
        for (int y = 0; y < GroundMap::tile; ++y)
            for (int x = 0; x < GroundMap::tile; ++x) {
                const auto &c = t.cells()[static_cast<std::size_t>(y * GroundMap::tile + x)];
                if (c.weight() <= 0)
                    continue;
                const int column = key.first * GroundMap::tile + x - e.west,
                          line = e.north - 1 - (key.second * GroundMap::tile + y);
                level[static_cast<std::size_t>(line) * r.columns + static_cast<std::size_t>(column)] =
                    value(c);
            }
    return level;
}

// All that is known within a square of `half` cells about each cell, handed to a function where it is `least`
// cells and more.
template <class Look>
void in_windows(const GroundRaster &r, const std::vector<float> &from, int half, std::size_t least,
                const Look &look, int step = 1) {
    std::vector<float> some;
    const auto columns = static_cast<int>(r.columns), rows = static_cast<int>(r.rows);
    // Most of a lake's rectangle was never seen: of each column what is known in the rows of the square,
    // moved on row by row, tells where there is nothing to gather.
    std::vector<int> known(r.columns, 0);
    const auto count = [&](int row, int by) {
        if (row >= 0 && row < rows)
            for (std::size_t x = 0; x < r.columns; ++x) {
                const float v = from[static_cast<std::size_t>(row) * r.columns + x];
                known[x] += v == v ? by : 0;
            }
    };
    for (int row = 0; row < half; ++row)
        count(row, 1);
    for (int y = 0; y < rows; ++y) {
        count(y + half, 1);
        count(y - half - 1, -1);
        int within = std::accumulate(known.begin(), known.begin() + std::min(half, columns), 0);
        for (int x = 0; x < columns; ++x) {
            within += x + half < columns ? known[static_cast<std::size_t>(x + half)] : 0;
            within -= x > half ? known[static_cast<std::size_t>(x - half - 1)] : 0;
            if (within < static_cast<int>(least))
                continue;
            some.clear();
            for (int dy = -half; dy <= half; dy += step) {
                const int yy = y + dy;
                if (yy < 0 || yy >= rows)
                    continue;
                for (int dx = -half; dx <= half; dx += step) {
                    const int xx = x + dx;
                    if (xx < 0 || xx >= columns)
                        continue;
                    const float v =
                        from[static_cast<std::size_t>(yy) * r.columns + static_cast<std::size_t>(xx)];
                    if (v == v)
                        some.push_back(v);
                }
            }
            if (some.size() >= least)
                look(static_cast<std::size_t>(y) * r.columns + static_cast<std::size_t>(x), some);
        }
    }
}

// Takes out what is narrow and dark: shadows.
void take_out_shadows(const GroundRaster &r, std::vector<float> &level) {
    constexpr double darker_db = 6, about_m = 2.4, own_m = 0.3;
    std::vector<float> about(level.size(), unknown), own(level.size(), unknown);
    const int wide = static_cast<int>(std::lround(about_m / r.cell_m)),
              narrow = std::max(1, static_cast<int>(std::lround(own_m / r.cell_m)));
    in_windows(
        r, level, wide, 20, [&](std::size_t i, std::vector<float> &v) { about[i] = nth(v, 0.45); },
        std::max(1, wide / 5));
    in_windows(r, level, narrow, 4, [&](std::size_t i, std::vector<float> &v) {
        own[i] = std::accumulate(v.begin(), v.end(), 0.0F) / static_cast<float>(v.size());
    });
    for (std::size_t i = 0; i < level.size(); ++i)
        if (own[i] < about[i] - static_cast<float>(darker_db))
            level[i] = unknown;
}

// By how much each cell differs from those half a metre away on four sides: what is wider than that, as an
// edge of ground is, does not count.
std::vector<float> detail_of(const GroundRaster &r, const std::vector<float> &level) {
    std::vector<float> detail(level.size(), unknown);
    const auto off = std::max<std::size_t>(1, static_cast<std::size_t>(std::lround(0.5 / r.cell_m)));
    for (std::size_t y = off; y + off < r.rows; ++y)
        for (std::size_t x = off; x + off < r.columns; ++x) {
            const auto i = y * r.columns + x;
            const float about =
                (level[i - off] + level[i + off] + level[i - off * r.columns] + level[i + off * r.columns]) /
                4;
            detail[i] = std::fabs(level[i] - about); // not-a-number where any is
        }
    return detail;
}

// How well four grounds at a shift explain cells of certain levels and textures; mixture weights by
// expectation and maximisation.
struct Fit {
    double log_likelihood = 0, soft = 0, hard = 0;
    double usual = 0; ///< logarithm of how usual such shares of the grounds are
};
struct Bin {
    double level_db, rough_db, n;
};

// By how much each bin's texture speaks against each ground: minus the logarithm of its likelihood.
std::vector<std::array<double, 4>> against_by_texture(double times_rough, const std::vector<Bin> &bins) {
    constexpr double rough_sd = 0.7, least_rough_db = 0.3;
    std::vector<std::array<double, 4>> out(bins.size());
    for (std::size_t i = 0; i < bins.size(); ++i)
        for (std::size_t g = 0; g < 4; ++g) {
            const double t = std::log((bins[i].rough_db + least_rough_db) /
                                      (times_rough * grounds[g].rough_db + least_rough_db)) /
                             rough_sd;
            out[i][g] = 0.5 * std::min(9.0, t * t);
        }
    return out;
}

Fit fit_at(double shift_db, const std::vector<std::array<double, 4>> &by_texture,
           const std::vector<Bin> &bins) {
    constexpr double level_sd = 2.2, floor = 1e-6;
    constexpr int rounds = 12;
    std::array<double, 4> weight{0.25, 0.25, 0.25, 0.25};
    Fit fit;
    double total = 0;
    for (const auto &b : bins)
        total += b.n;
    std::vector<std::array<double, 4>> likelihood(bins.size());
    for (std::size_t i = 0; i < bins.size(); ++i)
        for (std::size_t g = 0; g < 4; ++g) {
            const double a = (bins[i].level_db + shift_db - grounds[g].level_db) / level_sd;
            likelihood[i][g] = std::exp(-0.5 * a * a - by_texture[i][g]);
        }
    for (int round = 0; round < rounds; ++round) {
        std::array<double, 4> sum{};
        for (std::size_t i = 0; i < bins.size(); ++i) {
            std::array<double, 4> p{};
            double all = floor;
            for (std::size_t g = 0; g < 4; ++g) {
                p[g] = weight[g] * likelihood[i][g];
                all += p[g];
            }
            for (std::size_t g = 0; g < 4; ++g)
                sum[g] += bins[i].n * p[g] / all;
            if (round == rounds - 1)
                fit.log_likelihood += bins[i].n * std::log(all);
        }
        for (std::size_t g = 0; g < 4; ++g)
            weight[g] = (sum[g] + 0.01 * total) / (1.04 * total);
    }
    // Silt and sand cover most of any lake, rock least of it (common practice, no published source).
    constexpr std::array<double, 4> shares{0.35, 0.35, 0.2, 0.1};
    for (std::size_t g = 0; g < 4; ++g)
        fit.usual += shares[g] * std::log(weight[g] / shares[g]);
    fit.soft = weight[0] + weight[1];
    fit.hard = weight[2] + weight[3];
    return fit;
}

// By how much levels over the mean ground are to be shifted to be Lambert's.
double shift_of(const GroundRaster &r, const std::vector<float> &level, const std::vector<float> &rough) {
    std::map<std::pair<int, int>, double> counts;
    for (std::size_t i = 0; i < level.size(); ++i)
        if (level[i] == level[i])
            ++counts[{static_cast<int>(std::lround(level[i] * 2)),
                      rough[i] == rough[i] ? static_cast<int>(std::lround(rough[i] * 2)) : 2}];
    std::vector<Bin> bins;
    double total = 0;
    for (const auto &[key, n] : counts) {
        bins.push_back({key.first / 2.0, key.second / 2.0, n});
        total += n;
    }
    constexpr double words_of_shares = 10;
    double best = 0, most = -1e300;
    for (const double log_times : {-0.9, -0.6, -0.3, 0.0, 0.3, 0.6, 0.9}) {
        const auto by_texture = against_by_texture(std::exp(log_times), bins);
        for (double shift = -50; shift <= 0; shift += 0.5) {
            const auto fit = fit_at(shift, by_texture, bins);
            // As many independent words as there are patches of some metres, not cells; and lakes that one
            // charts have soft and hard ground.
            const double patches = total * r.cell_m * r.cell_m / 25,
                         mixed = 4 * std::min(0.05, std::min(fit.soft, fit.hard)) / 0.05;
            const double unusual = 0.5 * log_times * log_times / (0.5 * 0.5);
            const double score = fit.log_likelihood / total * std::min(patches, 200.0) + mixed - unusual +
                                 words_of_shares * fit.usual;
            if (score > most) {
                most = score;
                best = shift;
            }
        }
    }
    return best;
}

GroundClass class_of(double lambert_db) {
    return lambert_db < -31.5          ? GroundClass::silt
           : lambert_db < -24.0        ? GroundClass::sand
           : lambert_db < rock_from_db ? GroundClass::gravel
                                       : GroundClass::rock;
}

} // namespace

std::string_view name_of(GroundClass ground) {
    static constexpr std::array<std::string_view, 6> names{"unknown", "silt", "sand",
                                                           "gravel",  "rock", "weeds"};
    return names[static_cast<std::size_t>(ground)];
}

std::optional<std::size_t> GroundRaster::cell_at(double east_m, double north) const {
    const double x = (east_m - west_m) / cell_m, y = (north_m - north) / cell_m;
    if (!(x >= 0) || !(y >= 0) || x >= static_cast<double>(columns) || y >= static_cast<double>(rows))
        return std::nullopt;
    return static_cast<std::size_t>(y) * columns + static_cast<std::size_t>(x);
}

Hardness hardness_of(const GroundMap &map, const std::vector<HardnessAnchor> &anchors) {
    Hardness h;
    if (map.empty())
        return h;
    const auto e = extent_of(map);
    if (e.west >= e.east)
        return h;
    auto &r = h.raster;
    r.zone = map.zone();
    r.cell_m = map.cell_m();
    r.west_m = e.west * r.cell_m;
    r.north_m = e.north * r.cell_m;
    r.columns = static_cast<std::size_t>(e.east - e.west);
    r.rows = static_cast<std::size_t>(e.north - e.south);
    auto cells = raster_of(map, e, r, [](const GroundMap::Cell &c) { return c.mean_db(); });
    take_out_shadows(r, cells);
    constexpr double about_m = 1.1;
    const int half = std::max(1, static_cast<int>(std::lround(about_m / r.cell_m)));
    h.level_db.assign(r.cells(), unknown);
    // A sheet of a hundred million cells has room for few rasters at once: each is let go when it has served.
    std::vector<float> rough(r.cells(), unknown);
    {
        const auto detail = detail_of(r, cells);
        in_windows(r, detail, half, 12,
                   [&](std::size_t i, std::vector<float> &v) { rough[i] = nth(v, 0.5); });
    }
    h.hardness_sd.assign(r.cells(), unknown);
    in_windows(r, cells, half, 6, [&](std::size_t i, std::vector<float> &v) {
        // What was not seen itself is told only in the midst of what was.
        if (!(cells[i] == cells[i]) && v.size() < static_cast<std::size_t>(half * half))
            return;
        const float low = nth(v, 0.16), high = nth(v, 0.84);
        h.level_db[i] = nth(v, 0.5);
        // Of the median, and what the curve and the shift may be off.
        const double spread = static_cast<double>(high - low) / 2;
        h.hardness_sd[i] =
            static_cast<float>(std::hypot(1.25 * spread / std::sqrt(static_cast<double>(v.size())), 1.2) /
                               (hardest_db - softest_db));
    });
    std::vector<float>().swap(cells);
    // Roughness: what cells differ by over what they differ by where the ground is smoothest here.
    const float smooth = [&] {
        std::vector<float> all;
        std::copy_if(rough.begin(), rough.end(), std::back_inserter(all), [](float s) { return s == s; });
        return all.empty() ? 1 : nth(all, 0.05);
    }();
    const auto plain = h.level_db; // what the texture adds is no level of what lies under weeds
    for (std::size_t i = 0; i < r.cells(); ++i)
        if (rough[i] == rough[i]) {
            rough[i] = std::sqrt(std::max(0.0F, rough[i] * rough[i] - smooth * smooth));
            h.level_db[i] += static_cast<float>(
                level_of_rough * std::max(0.0, static_cast<double>(rough[i]) - smooth_enough_db));
        }
    double shift = shift_of(r, h.level_db, rough);
    if (!anchors.empty()) {
        double sum = 0, n = 0;
        for (const auto &a : anchors)
            if (const auto i = r.cell_at(a.east_m, a.north_m); i && h.level_db[*i] == h.level_db[*i]) {
                sum += (a.hard ? grounds[3].level_db : grounds[0].level_db) -
                       static_cast<double>(h.level_db[*i]);
                n += 1;
            }
        if (n > 0)
            shift = sum / n;
    }
    h.soft_hard_db = soft_meets_hard_db - shift;
    std::vector<EastNorth> grown, bare;
    for (const auto &s : map.soundings())
        if (s.stands_m)
            (*s.stands_m > 0 ? grown : bare).push_back({s.east_m, s.north_m});
    // Grains of weeds are those of the sides: a head's rays are grainy by themselves.
    constexpr float by_a_side = 0.05F;
    const auto weeds = weeds_of(
        r,
        raster_of(map, e, r,
                  [](const GroundMap::Cell &c) { return c.best() >= by_a_side ? c.best_db() : unknown; }),
        plain, h.level_db, no_weeds_from_db - shift, grown, bare);
    h.hardness.assign(r.cells(), unknown);
    h.ground.assign(r.cells(), GroundClass::unknown);
    for (std::size_t i = 0; i < r.cells(); ++i) {
        if (!(h.level_db[i] == h.level_db[i]))
            continue;
        if (weeds[i] != 0)
            h.level_db[i] = plain[i];
        const double lambert = static_cast<double>(h.level_db[i]) + shift;
        h.hardness[i] =
            static_cast<float>(std::clamp((lambert - softest_db) / (hardest_db - softest_db), 0.0, 1.0));
        // What grows on it hides the ground.
        h.hardness_sd[i] *= weeds[i] != 0 ? 3.0F : 1.0F;
        rough[i] = static_cast<float>(1 - std::exp(-static_cast<double>(rough[i]) / 3));
        h.ground[i] = weeds[i] != 0 ? GroundClass::weeds : class_of(lambert);
    }
    h.roughness = std::move(rough);
    return h;
}

} // namespace heron
