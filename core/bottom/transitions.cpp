#include "bottom/transitions.hpp"

#include "bottom/contours.hpp"
#include "sonar/median.hpp"

#include <algorithm>
#include <cmath>
#include <iterator>
#include <limits>

namespace heron {
namespace {

constexpr double shortest_m = 12, shortest_weeds_m = 6, weakest_db = 4.5, weakest_part_db = 3, aside_m = 1.5,
                 part_m = 4;

double length_of(const std::vector<EastNorth> &line) {
    double sum = 0;
    for (std::size_t i = 1; i < line.size(); ++i)
        sum += std::hypot(line[i].east_m - line[i - 1].east_m, line[i].north_m - line[i - 1].north_m);
    return sum;
}

// Around what grows; nothing across what was not seen.
std::vector<Transition> edges_of_weeds(const Hardness &h) {
    std::vector<Transition> all;
    if (std::find(h.ground.begin(), h.ground.end(), GroundClass::weeds) == h.ground.end())
        return all;
    std::vector<float> grows(h.ground.size(), std::numeric_limits<float>::quiet_NaN());
    for (std::size_t i = 0; i < grows.size(); ++i)
        if (h.ground[i] != GroundClass::unknown)
            grows[i] = h.ground[i] == GroundClass::weeds ? 1 : 0;
    for (auto &c : contours_of(h.raster, grows, {0.5})) {
        Transition t;
        t.of = Transition::Of::weeds;
        t.length_m = length_of(c.line);
        if (t.length_m < shortest_weeds_m)
            continue;
        int left = 0, right = 0;
        for (std::size_t i = 1; i < c.line.size(); ++i) {
            const auto &a = c.line[i - 1], &b = c.line[i];
            const double de = b.east_m - a.east_m, dn = b.north_m - a.north_m, length = std::hypot(de, dn);
            if (length < 1e-6)
                continue;
            const double e = (a.east_m + b.east_m) / 2, n = (a.north_m + b.north_m) / 2,
                         le = -dn / length * h.raster.cell_m, ln = de / length * h.raster.cell_m;
            const auto on_left = h.raster.cell_at(e + le, n + ln),
                       on_right = h.raster.cell_at(e - le, n - ln);
            left += on_left && h.ground[*on_left] == GroundClass::weeds;
            right += on_right && h.ground[*on_right] == GroundClass::weeds;
        }
        t.hard_on_left = left > right;
        t.line = std::move(c.line);
        all.push_back(std::move(t));
    }
    return all;
}

// By how much the left is louder than the right, piece by piece along a line; not-a-number where either was
// not seen.
std::vector<double> steps_along(const Hardness &h, const std::vector<EastNorth> &line) {
    std::vector<double> steps(line.size() > 1 ? line.size() - 1 : 0, std::nan(""));
    for (std::size_t i = 1; i < line.size(); ++i) {
        const auto &a = line[i - 1], &b = line[i];
        const double de = b.east_m - a.east_m, dn = b.north_m - a.north_m, length = std::hypot(de, dn);
        if (length < 1e-6)
            continue;
        const double e = (a.east_m + b.east_m) / 2, n = (a.north_m + b.north_m) / 2,
                     le = -dn / length * aside_m, ln = de / length * aside_m;
        const auto left = h.raster.cell_at(e + le, n + ln), right = h.raster.cell_at(e - le, n - ln);
        if (left && right)
            steps[i - 1] = static_cast<double>(h.level_db[*left]) - static_cast<double>(h.level_db[*right]);
    }
    return steps;
}

// The median step of what lies within `part_m` along the line, piece by piece.
std::vector<double> smoothed(const std::vector<EastNorth> &line, const std::vector<double> &steps) {
    std::vector<double> along(line.size(), 0), out(steps.size(), 0), some;
    for (std::size_t i = 1; i < line.size(); ++i)
        along[i] = along[i - 1] +
                   std::hypot(line[i].east_m - line[i - 1].east_m, line[i].north_m - line[i - 1].north_m);
    std::size_t from = 0, to = 0;
    for (std::size_t i = 0; i < steps.size(); ++i) {
        while (along[i] - along[from] > part_m)
            ++from;
        while (to < steps.size() && along[to] - along[i] <= part_m)
            ++to;
        some.clear();
        for (auto k = from; k < to; ++k)
            if (steps[k] == steps[k])
                some.push_back(steps[k]);
        out[i] = median(some, 0.0);
    }
    return out;
}

} // namespace

std::vector<Transition> transitions_of(const Hardness &h) {
    std::vector<Transition> all = edges_of_weeds(h);
    for (const auto &c : contours_of(h.raster, h.hardness, {0.5})) {
        if (length_of(c.line) < shortest_m)
            continue;
        const auto steps = steps_along(h, c.line), parts = smoothed(c.line, steps);
        std::vector<double> seen;
        std::copy_if(steps.begin(), steps.end(), std::back_inserter(seen), [](double s) { return s == s; });
        const double whole = median(seen, 0.0);
        // What is weak of it, or turns the other way, is no part of it.
        for (std::size_t i = 0; i < parts.size();) {
            const auto strong = [&](std::size_t k) {
                return (whole > 0 ? parts[k] : -parts[k]) > weakest_part_db;
            };
            if (!strong(i)) {
                ++i;
                continue;
            }
            auto end = i;
            while (end < parts.size() && strong(end))
                ++end;
            Transition t;
            t.line.assign(c.line.begin() + static_cast<std::ptrdiff_t>(i),
                          c.line.begin() + static_cast<std::ptrdiff_t>(end) + 1);
            t.length_m = length_of(t.line);
            std::vector<double> own;
            for (auto k = i; k < end; ++k)
                if (steps[k] == steps[k])
                    own.push_back(steps[k]);
            t.strength_db = std::fabs(median(own, 0.0));
            t.hard_on_left = whole > 0;
            i = end;
            if (t.length_m >= shortest_m && t.strength_db >= weakest_db)
                all.push_back(std::move(t));
        }
    }
    return all;
}

} // namespace heron
