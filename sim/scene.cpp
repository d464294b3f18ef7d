#include "sim/scene.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace heron::sim {
namespace {

struct Along {
    double share;    // 0…1 from a to b
    double distance; // from the segment
};
Along nearest_on(Point a, Point b, Point p) {
    const double dx = b.x - a.x, dy = b.y - a.y, square = dx * dx + dy * dy;
    const double s = square > 0 ? std::clamp(((p.x - a.x) * dx + (p.y - a.y) * dy) / square, 0.0, 1.0) : 0;
    const double ex = p.x - a.x - s * dx, ey = p.y - a.y - s * dy;
    return {s, std::sqrt(ex * ex + ey * ey)};
}

} // namespace

double lambert_db(Ground ground) {
    switch (ground) {
    case Ground::silt:
        return -35;
    case Ground::sand:
        return -28;
    case Ground::gravel:
        return -20;
    case Ground::rock:
        return -12;
    }
    return -28;
}

namespace {

// Of the rasters; the edge's where a place lies beyond.
std::size_t cell_of(const Scene &s, Point p) {
    const auto of = [](double metres, std::size_t n) {
        return static_cast<std::size_t>(std::clamp(metres / Scene::cell_m, 0.0, static_cast<double>(n - 1)));
    };
    return of(p.y, s.rows) * s.columns + of(p.x, s.columns);
}

} // namespace

double Solid::height_at(Point p) const {
    switch (shape) {
    case Shape::dome: {
        const double t = turn_deg / degrees_per_radian;
        const double dx = p.x - a.x, dy = p.y - a.y;
        const double u = (dx * std::sin(t) + dy * std::cos(t)) / half_length_m;
        const double v = (dx * std::cos(t) - dy * std::sin(t)) / half_width_m;
        const double inside = 1 - u * u - v * v;
        return inside > 0 ? height_m * std::sqrt(inside) : 0;
    }
    case Shape::post:
        return (p.x - a.x) * (p.x - a.x) + (p.y - a.y) * (p.y - a.y) < half_width_m * half_width_m ? height_m
                                                                                                   : 0;
    case Shape::wall:
        return nearest_on(a, b, p).distance < half_width_m ? height_m : 0;
    case Shape::log: {
        const double d = nearest_on(a, b, p).distance / half_width_m;
        return d < 1 ? height_m / 2 + height_m / 2 * std::sqrt(1 - d * d) : 0;
    }
    }
    return 0;
}

double Solid::reach_m() const {
    const double run = std::hypot(b.x - a.x, b.y - a.y) / 2;
    return shape == Shape::dome ? std::max(half_length_m, half_width_m) : run + half_width_m;
}

double Scene::depth_m(Point p) const {
    const double fx = std::clamp(p.x / cell_m, 0.0, static_cast<double>(columns - 1) - 1e-6);
    const double fy = std::clamp(p.y / cell_m, 0.0, static_cast<double>(rows - 1) - 1e-6);
    const auto ix = static_cast<std::size_t>(fx), iy = static_cast<std::size_t>(fy);
    const auto tx = static_cast<float>(fx - static_cast<double>(ix)),
               ty = static_cast<float>(fy - static_cast<double>(iy));
    const float *row = &depth[iy * columns + ix];
    const float *next = row + columns;
    return static_cast<double>((row[0] * (1 - tx) + row[1] * tx) * (1 - ty) +
                               (next[0] * (1 - tx) + next[1] * tx) * ty);
}

double Scene::ripple_m(Point p) const {
    if (rippled.empty())
        return 0;
    const auto which = rippled[cell_of(*this, p)];
    if (which == 0)
        return 0;
    const auto &r = ripples[which - 1U];
    const double turn = r.across_deg / degrees_per_radian,
                 along = p.x * std::sin(turn) + p.y * std::cos(turn),
                 // Crests wander a little, as they do.
        wander = 0.25 * r.wave_m * std::sin((p.x * std::cos(turn) - p.y * std::sin(turn)) / (3 * r.wave_m));
    return r.height_m / 2 * std::sin(2 * std::numbers::pi * (along + wander) / r.wave_m);
}

double Bowl::sunk_m(double radii) const {
    return radii < 1 ? deep_m * (1 - radii * radii) : radii < rim ? -0.5 * deep_m * (rim - radii) : 0;
}

void Scene::dig(const Bowl &bowl) {
    bowls.push_back(bowl);
    bowled.resize(columns * rows, 0);
    const auto which = static_cast<std::uint16_t>(bowls.size());
    const auto away = [](const Bowl &b, Point p) {
        return std::hypot(p.x - b.at.x, p.y - b.at.y) / b.radius_m;
    };
    const double reach = Bowl::rim * bowl.radius_m + cell_m;
    const auto cells = [](double from, double to, std::size_t n) {
        const double most = static_cast<double>(n);
        return std::pair(static_cast<std::size_t>(std::clamp(from / cell_m, 0.0, most)),
                         static_cast<std::size_t>(std::clamp(to / cell_m + 1, 0.0, most)));
    };
    const auto [west, east] = cells(bowl.at.x - reach, bowl.at.x + reach, columns);
    const auto [south, north] = cells(bowl.at.y - reach, bowl.at.y + reach, rows);
    for (auto y = south; y < north; ++y)
        for (auto x = west; x < east; ++x) {
            const Point middle{(static_cast<double>(x) + 0.5) * cell_m,
                               (static_cast<double>(y) + 0.5) * cell_m};
            const double radii = away(bowl, middle);
            const auto i = y * columns + x;
            if (radii * bowl.radius_m > reach ||
                (bowled[i] != 0 && away(bowls[bowled[i] - 1U], middle) < radii))
                continue;
            bowled[i] = which;
            if (radii < 1)
                grounds[i] = std::max(grounds[i], static_cast<std::uint8_t>(Ground::gravel));
        }
}

double Scene::sunk_m(Point p) const {
    if (bowled.empty())
        return 0;
    const auto which = bowled[cell_of(*this, p)];
    if (which == 0)
        return 0;
    const auto &b = bowls[which - 1U];
    return b.sunk_m(std::hypot(p.x - b.at.x, p.y - b.at.y) / b.radius_m);
}

Ground Scene::ground(Point p) const {
    return static_cast<Ground>(grounds[cell_of(*this, p)]);
}

Point Swimmers::at(double seconds) const {
    double all = 0;
    for (std::size_t i = 1; i < path.size(); ++i)
        all += std::hypot(path[i].x - path[i - 1].x, path[i].y - path[i - 1].y);
    if (!(all > 0))
        return path.front();
    double run = std::fmod(std::max(0.0, seconds) * speed_m_s, 2 * all);
    run = run > all ? 2 * all - run : run;
    for (std::size_t i = 1; i < path.size(); ++i) {
        const double leg = std::hypot(path[i].x - path[i - 1].x, path[i].y - path[i - 1].y);
        if (run <= leg && leg > 0) {
            const double t = run / leg;
            return {path[i - 1].x + t * (path[i].x - path[i - 1].x),
                    path[i - 1].y + t * (path[i].y - path[i - 1].y)};
        }
        run -= leg;
    }
    return path.back();
}

} // namespace heron::sim
