#include "bottom/transitions.hpp"

#include "bottom/contours.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace heron {
namespace {

constexpr double shortest_m = 12, shortest_weeds_m = 6, weakest_db = 4.5, aside_m = 1.5;

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

} // namespace

std::vector<Transition> transitions_of(const Hardness &h) {
    std::vector<Transition> all = edges_of_weeds(h);
    for (auto &c : contours_of(h.raster, h.hardness, {0.5})) {
        Transition t;
        t.length_m = length_of(c.line);
        if (t.length_m < shortest_m)
            continue;
        // Left less right, all along it.
        std::vector<double> steps;
        for (std::size_t i = 1; i < c.line.size(); ++i) {
            const auto &a = c.line[i - 1], &b = c.line[i];
            const double de = b.east_m - a.east_m, dn = b.north_m - a.north_m, length = std::hypot(de, dn);
            if (length < 1e-6)
                continue;
            const double e = (a.east_m + b.east_m) / 2, n = (a.north_m + b.north_m) / 2,
                         le = -dn / length * aside_m, ln = de / length * aside_m;
            const auto left = h.raster.cell_at(e + le, n + ln), right = h.raster.cell_at(e - le, n - ln);
            if (!left || !right)
                continue;
            const double step =
                static_cast<double>(h.level_db[*left]) - static_cast<double>(h.level_db[*right]);
            if (step == step)
                steps.push_back(step);
        }
        if (steps.empty())
            continue;
        std::nth_element(steps.begin(), steps.begin() + std::ssize(steps) / 2, steps.end());
        const double step = steps[steps.size() / 2];
        if (std::fabs(step) < weakest_db)
            continue;
        t.strength_db = std::fabs(step);
        t.hard_on_left = step > 0;
        t.line = std::move(c.line);
        all.push_back(std::move(t));
    }
    return all;
}

} // namespace heron
