#include "sim/scatterers.hpp"

#include "sim/acoustics.hpp"
#include "sonar/decibels.hpp"
#include "water/water.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace heron::sim {
namespace {

constexpr double a_square_metre = 700; // scatterers
constexpr std::size_t most_tiles = 4000;

// How a ground is made: how unevenly it scatters, and its stones, one to a square of `cell_m` at most.
struct Make {
    double patch_db, smooth_m, cell_m, stone_share, least_m, most_m;
};
constexpr std::array<Make, 4> makes{{{0.7, 0.006, 0.5, 0, 0, 0},
                                     {0.9, 0.012, 0.5, 0, 0, 0},
                                     {1.6, 0.015, 0.22, 0.7, 0.04, 0.10},
                                     {2.4, 0.04, 0.6, 0.75, 0.10, 0.34}}};

std::int64_t key_of(int east, int north) {
    return static_cast<std::int64_t>(east) * 100'003 + north;
}

std::uint64_t mixed(std::uint64_t x) { // splitmix64's finaliser: Steele, Lea and Flood 2014
    x += 0x9E3779B97F4A7C15ULL;
    x = (x ^ (x >> 30)) * 0xBF58476D1CE4E5B9ULL;
    x = (x ^ (x >> 27)) * 0x94D049BB133111EBULL;
    return x ^ (x >> 31);
}

// A circle in 4,096 steps: phases are asked for some hundred thousand times a transmission.
struct Circle {
    static constexpr std::size_t steps = 4096;
    std::array<float, steps> cosine, sine;
    Circle() {
        for (std::size_t i = 0; i < steps; ++i) {
            const double a = 2 * std::numbers::pi * static_cast<double>(i) / steps;
            cosine[i] = static_cast<float>(std::cos(a));
            sine[i] = static_cast<float>(std::sin(a));
        }
    }
    static std::size_t at(double turns) {
        return static_cast<std::size_t>(static_cast<std::int64_t>(turns * steps)) & (steps - 1);
    }
};
const Circle circle;

// Two-way amplitude of an even line of the length that has this one-way half-power width, towards a sine off
// its middle: the square of sin(x)/x (Urick 1983, chapter 3).
double line_response(double sine, double width_deg) {
    const double x = std::numbers::pi * 0.886 * sine / (width_deg / degrees_per_radian);
    const double one_way = std::fabs(x) < 1e-6 ? 1 : std::sin(x) / x;
    return one_way * one_way;
}

} // namespace

Scatterers::Scatterers(const Scene &scene) : scene_(scene), c_(sound_speed_fresh_m_s(scene.temperature_c)) {
    for (std::uint32_t i = 0; i < scene.solids.size(); ++i) {
        const auto &s = scene.solids[i];
        const auto m = s.middle();
        const double reach = s.reach_m() + 0.1;
        for (int e = static_cast<int>(std::floor(m.x - reach)); e <= m.x + reach; ++e)
            for (int n = static_cast<int>(std::floor(m.y - reach)); n <= m.y + reach; ++n)
                solids_near_[key_of(e, n)].push_back(i);
    }
}

double Scatterers::random_of(std::int64_t a, std::int64_t b, std::uint32_t what) const {
    const auto h = mixed(static_cast<std::uint64_t>(a) * 0x1F123BB5U ^ mixed(static_cast<std::uint64_t>(b)) ^
                         (static_cast<std::uint64_t>(what) << 40U) ^ scene_.seed);
    return static_cast<double>(h >> 11U) * 0x1p-53;
}

// Values of −1 to 1 on a lattice, joined smoothly.
double Scatterers::noise(Point p, double wave_m, std::uint32_t what) const {
    const double fx = p.x / wave_m, fy = p.y / wave_m;
    const auto ix = static_cast<std::int64_t>(std::floor(fx)), iy = static_cast<std::int64_t>(std::floor(fy));
    const auto eased = [](double t) { return t * t * (3 - 2 * t); };
    const double tx = eased(fx - static_cast<double>(ix)), ty = eased(fy - static_cast<double>(iy));
    const auto at = [&](std::int64_t x, std::int64_t y) { return 2 * random_of(x, y, what) - 1; };
    return (at(ix, iy) * (1 - tx) + at(ix + 1, iy) * tx) * (1 - ty) +
           (at(ix, iy + 1) * (1 - tx) + at(ix + 1, iy + 1) * tx) * ty;
}

double Scatterers::stones_over(Point p, Ground ground) const {
    const auto &make = makes[static_cast<std::size_t>(ground)];
    if (make.stone_share <= 0)
        return 0;
    double top = 0;
    const auto cx = static_cast<std::int64_t>(std::floor(p.x / make.cell_m)),
               cy = static_cast<std::int64_t>(std::floor(p.y / make.cell_m));
    for (auto x = cx - 1; x <= cx + 1; ++x)
        for (auto y = cy - 1; y <= cy + 1; ++y) {
            if (random_of(x, y, 1) > make.stone_share)
                continue;
            const double radius = make.least_m + (make.most_m - make.least_m) * random_of(x, y, 2);
            const double dx = p.x - (static_cast<double>(x) + random_of(x, y, 3)) * make.cell_m,
                         dy = p.y - (static_cast<double>(y) + random_of(x, y, 4)) * make.cell_m;
            if (const double off = (dx * dx + dy * dy) / (radius * radius); off < 1)
                top = std::max(top, radius * (0.4 + 0.4 * random_of(x, y, 5)) * std::sqrt(1 - off));
        }
    return top * scene_.making.rough;
}

// Domes have faces: six planes lean on them, and the top is flat.
double Scatterers::solid_over(Point p, double &strength_db) const {
    const auto near =
        solids_near_.find(key_of(static_cast<int>(std::floor(p.x)), static_cast<int>(std::floor(p.y))));
    if (near == solids_near_.end())
        return 0;
    double top = 0;
    for (const auto i : near->second) {
        const auto &s = scene_.solids[i];
        double h = 0;
        if (s.shape == Solid::Shape::dome && s.height_m > 0.15) {
            const double t = s.turn_deg / degrees_per_radian, dx = p.x - s.a.x, dy = p.y - s.a.y;
            const double u = (dx * std::sin(t) + dy * std::cos(t)) / s.half_length_m,
                         v = (dx * std::cos(t) - dy * std::sin(t)) / s.half_width_m;
            double out = 0;
            for (int k = 0; k < 6; ++k) {
                const double a = std::numbers::pi / 3 * (k + 0.6 * random_of(i, k, 6));
                out = std::max(out, (u * std::cos(a) + v * std::sin(a)) / (0.85 + 0.15 * random_of(i, k, 7)));
            }
            h = s.height_m * std::clamp(1.7 * (1 - out), 0.0, 1.0);
        } else {
            h = s.height_at(p);
        }
        if (h > top)
            top = h, strength_db = s.strength_db;
    }
    return top;
}

void Scatterers::grow(Tile &tile, int east, int north) {
    constexpr int n = raster + 1;
    tile.under.resize(static_cast<std::size_t>(n) * n);
    for (int y = 0; y < n; ++y)
        for (int x = 0; x < n; ++x) {
            const Point p{east + static_cast<double>(x) / raster, north + static_cast<double>(y) / raster};
            const auto ground = scene_.ground(p);
            double ignored = 0;
            tile.under[static_cast<std::size_t>(y * n + x)] = static_cast<float>(
                scene_.depth_m(p) - scene_.ripple_m(p) + scene_.sunk_m(p) -
                makes[static_cast<std::size_t>(ground)].smooth_m * scene_.making.rough * noise(p, 0.45, 8) -
                std::max(stones_over(p, ground), solid_over(p, ignored)));
        }
    std::minstd_rand random(static_cast<std::uint32_t>(
        mixed(static_cast<std::uint64_t>(key_of(east, north)) ^ (std::uint64_t{scene_.seed} << 32U)) | 1U));
    std::uniform_real_distribution<double> share(0, 1);
    tile.all.reserve(static_cast<std::size_t>(a_square_metre));
    for (int i = 0; i < a_square_metre; ++i) {
        const double x = share(random), y = share(random);
        const Point p{east + x, north + y};
        const double fx = x * raster, fy = y * raster;
        const auto ix = std::min(raster - 1, static_cast<int>(fx)),
                   iy = std::min(raster - 1, static_cast<int>(fy));
        const auto at = [&](int px, int py) {
            return static_cast<double>(tile.under[static_cast<std::size_t>(py * n + px)]);
        };
        const double tx = fx - ix, ty = fy - iy, a = at(ix, iy), b = at(ix + 1, iy), c = at(ix, iy + 1),
                     d = at(ix + 1, iy + 1);
        const double slope_x = -((b - a) * (1 - ty) + (d - c) * ty) * raster,
                     slope_y = -((c - a) * (1 - tx) + (d - b) * tx) * raster;
        const auto ground = scene_.ground(p);
        double strength = lambert_db(ground) + makes[static_cast<std::size_t>(ground)].patch_db *
                                                   scene_.making.patchy *
                                                   (1.2 * noise(p, 0.7, 9) + 1.4 * noise(p, 3.1, 10));
        double of_solid = strength;
        if (solid_over(p, of_solid) > stones_over(p, ground))
            strength = of_solid + scene_.making.things_db;
        const double area = std::sqrt(1 + slope_x * slope_x + slope_y * slope_y) / a_square_metre;
        tile.all.push_back(
            {static_cast<float>(x), static_cast<float>(y),
             static_cast<float>((a * (1 - tx) + b * tx) * (1 - ty) + (c * (1 - tx) + d * tx) * ty),
             static_cast<float>(slope_x), static_cast<float>(slope_y),
             static_cast<float>(std::sqrt(power_of(strength) * area)), static_cast<float>(share(random))});
    }
}

const Scatterers::Tile &Scatterers::tile(int east, int north) {
    auto &t = tiles_[key_of(east, north)];
    if (t.all.empty())
        grow(t, east, north);
    t.used = clock_;
    return t;
}

double Scatterers::depth_under(Point p) {
    const int east = static_cast<int>(std::floor(p.x)), north = static_cast<int>(std::floor(p.y));
    const auto &t = tile(east, north);
    const int x = static_cast<int>((p.x - east) * raster + 0.5),
              y = static_cast<int>((p.y - north) * raster + 0.5);
    return static_cast<double>(t.under[static_cast<std::size_t>(y * (raster + 1) + x)]);
}

// Of each of a few rays within the beam: how steeply one must look, at least, to see what lies at a distance.
void Scatterers::horizon(const Beam &beam, double side, double reach_m) {
    const auto steps = static_cast<std::size_t>(reach_m / step_m) + 2;
    for (int s = 0; s < subrays; ++s) {
        const double off = half_sine_ * (2.0 * s / (subrays - 1) - 1);
        const double bearing = beam.bearing_rad + side * std::numbers::pi / 2 - side * off;
        auto &lowest = lowest_[s];
        lowest.assign(steps, 1e9F);
        float least = 1e9F;
        for (std::size_t k = 1; k < steps; ++k) {
            lowest[k] = least;
            const double g = static_cast<double>(k) * step_m;
            const Point p{beam.at.x + g * std::sin(bearing), beam.at.y + g * std::cos(bearing)};
            least = std::min(least, static_cast<float>((depth_under(p) - beam.draught_m) / g));
        }
    }
}

void Scatterers::shade(const Beam &beam, double side, double reach_m, const std::vector<Body> &moving) {
    for (auto &s : shades_)
        s.clear();
    const double ahead_x = std::sin(beam.bearing_rad), ahead_y = std::cos(beam.bearing_rad);
    const auto add = [&](const Body &b) {
        if (b.opacity <= 0)
            return;
        const double dx = b.at.x - beam.at.x, dy = b.at.y - beam.at.y;
        const double ahead = dx * ahead_x + dy * ahead_y, aside = side * (dx * ahead_y - dy * ahead_x);
        const double z = scene_.depth_m(b.at) - b.height_m - beam.draught_m;
        if (aside < 0.2 || aside > reach_m || z < 0.05)
            return;
        const double away = std::hypot(aside, z), wide = b.radius_m / away;
        if (std::fabs(ahead / away) > half_sine_ + wide)
            return;
        const double opaque = std::clamp(b.opacity * scene_.making.opacity, 0.0, 1.0);
        for (int s = 0; s < subrays; ++s)
            if (std::fabs(ahead / away - half_sine_ * (2.0 * s / (subrays - 1) - 1)) <
                wide + half_sine_ / subrays)
                shades_[s].push_back(
                    {aside, (z - b.radius_m) / aside, (z + b.radius_m) / aside, (1 - opaque) * (1 - opaque)});
    };
    for (const auto &b : scene_.bodies)
        add(b);
    for (const auto &b : moving)
        add(b);
}

// What share of the energy comes to a scatterer and back.
double Scatterers::passes(const Met &met) const {
    const int s = std::clamp(static_cast<int>((met.ahead_sine / half_sine_ + 1) / 2 * (subrays - 1) + 0.5), 0,
                             subrays - 1);
    const double tangent = met.below / std::max(0.01, met.aside);
    const auto k = static_cast<std::size_t>(std::max(0.0, (met.aside - 0.06) / step_m));
    const auto &lowest = lowest_[s];
    if (k < lowest.size() && tangent > static_cast<double>(lowest[k]))
        return 0;
    double share = 1;
    for (const auto &shade : shades_[s])
        if (met.aside > shade.aside + 0.05 && tangent > shade.low && tangent < shade.high)
            share *= shade.passes;
    return share;
}

Scatterers::Field Scatterers::hear(const Beam &towards, double frequency_hz, double bandwidth_hz,
                                   std::size_t cells, double cell_m, int looks,
                                   const std::vector<Body> &moving) {
    // From here on told by what lies abreast of the way it looks.
    auto beam = towards;
    beam.bearing_rad -= std::numbers::pi / 2;
    Field field;
    field.re.assign(static_cast<std::size_t>(looks), std::vector<float>(cells, 0));
    field.im = field.re;
    field.energy.assign(cells, 0);
    ++clock_;
    if (tiles_.size() > most_tiles)
        std::erase_if(tiles_, [&](const auto &t) { return t.second.used + 40 < clock_; });
    const double range = static_cast<double>(cells) * cell_m;
    half_sine_ = std::min(0.95, widths * beam.along_deg / degrees_per_radian);
    const double ahead_x = std::sin(beam.bearing_rad), ahead_y = std::cos(beam.bearing_rad);
    const double absorption = absorption_fresh_db_per_m(frequency_hz, scene_.temperature_c);
    const double waves = 2 * frequency_hz / c_; // turns of phase a metre, there and back
    const double pulse_m = std::max(cell_m, c_ / (2 * bandwidth_hz));
    const double deep = std::max(0.3, scene_.depth_m(beam.at) - beam.draught_m);
    // One that looks down hears no farther aside than twice the depth.
    const double reach = beam.both_ways ? std::min(range, 2 * deep) : range;
    std::vector<double> carried(cells + 1);
    for (std::size_t k = 0; k <= cells; ++k) {
        const double r = std::max(0.2, static_cast<double>(k) * cell_m);
        carried[k] = std::exp(-0.11512925465 * 2 * absorption * r) / (r * r);
    }
    const double tilt_sine = std::sin(beam.tilt_deg / degrees_per_radian),
                 tilt_cosine = std::cos(beam.tilt_deg / degrees_per_radian);
    constexpr int steps = 1024;
    std::array<float, steps + 1> along{}, across{};
    for (int i = 0; i <= steps; ++i) {
        const double share = 2.0 * i / steps - 1;
        along[static_cast<std::size_t>(i)] =
            static_cast<float>(line_response(share * half_sine_, beam.along_deg));
        across[static_cast<std::size_t>(i)] = static_cast<float>(line_response(share, beam.across_deg));
    }
    const auto told = [](const std::array<float, steps + 1> &table, double share) {
        return static_cast<double>(table[static_cast<std::size_t>((share + 1) * (steps / 2) + 0.5)]);
    };
    const auto put = [&](const Met &met, double turns) {
        const double off = (met.below * tilt_cosine - met.aside * tilt_sine) /
                           std::sqrt(met.below * met.below + met.aside * met.aside);
        const double amplitude = met.amplitude * met.cosine * told(along, met.ahead_sine / half_sine_) *
                                 told(across, std::clamp(off, -1.0, 1.0)) *
                                 carried[static_cast<std::size_t>(met.r / cell_m)];
        const double middle = met.r / cell_m - 0.5, half = pulse_m / cell_m;
        const auto first = static_cast<std::ptrdiff_t>(std::ceil(middle - half)),
                   last = static_cast<std::ptrdiff_t>(std::floor(middle + half));
        for (auto k = std::max<std::ptrdiff_t>(0, first);
             k <= std::min(last, static_cast<std::ptrdiff_t>(cells) - 1); ++k) {
            const double part = amplitude * (1 - std::fabs(static_cast<double>(k) - middle) / half);
            const auto cell = static_cast<std::size_t>(k);
            field.energy[cell] += static_cast<float>(part * part);
            for (int look = 0; look < looks; ++look) {
                const auto at = Circle::at(waves * (1 + 0.012 * look) * met.r + turns);
                field.re[static_cast<std::size_t>(look)][cell] +=
                    static_cast<float>(part) * circle.cosine[at];
                field.im[static_cast<std::size_t>(look)][cell] += static_cast<float>(part) * circle.sine[at];
            }
        }
    };
    for (const double side : {1.0, -1.0}) {
        if (side < 0 && !beam.both_ways)
            break;
        horizon(beam, side, reach);
        shade(beam, side, reach, moving);
        const double aside_x = side * ahead_y, aside_y = -side * ahead_x;
        const double end_x = beam.at.x + aside_x * reach, end_y = beam.at.y + aside_y * reach;
        const double margin = half_sine_ * (beam.both_ways ? 2 * deep : range) + 2;
        const auto low = [&](double a, double b) {
            return static_cast<int>(std::floor(std::min(a, b) - margin));
        };
        const auto high = [&](double a, double b) {
            return static_cast<int>(std::ceil(std::max(a, b) + margin));
        };
        for (int e = low(beam.at.x, end_x); e <= high(beam.at.x, end_x); ++e)
            for (int n = low(beam.at.y, end_y); n <= high(beam.at.y, end_y); ++n) {
                const double mx = e + 0.5 - beam.at.x, my = n + 0.5 - beam.at.y;
                const double aside = mx * aside_x + my * aside_y, ahead = mx * ahead_x + my * ahead_y;
                if (aside < -0.75 || aside > reach + 0.75 ||
                    std::fabs(ahead) > half_sine_ * std::hypot(aside + 0.75, 1.5 * deep) + 0.75)
                    continue;
                for (const auto &s : tile(e, n).all) {
                    const double dx = e + static_cast<double>(s.x) - beam.at.x,
                                 dy = n + static_cast<double>(s.y) - beam.at.y;
                    Met met{};
                    met.aside = dx * aside_x + dy * aside_y;
                    if (met.aside < 0 || met.aside > reach)
                        continue;
                    met.below = static_cast<double>(s.z) - beam.draught_m;
                    const double to = dx * ahead_x + dy * ahead_y;
                    met.r = std::sqrt(met.aside * met.aside + to * to + met.below * met.below);
                    met.ahead_sine = to / met.r;
                    if (met.r > range || std::fabs(met.ahead_sine) > half_sine_ || met.below < 0.02)
                        continue;
                    const double gx = static_cast<double>(s.slope_x), gy = static_cast<double>(s.slope_y);
                    // How squarely it is met, by its own slope.
                    met.cosine = (gx * dx + gy * dy + met.below) / (met.r * std::sqrt(1 + gx * gx + gy * gy));
                    if (met.cosine <= 0)
                        continue;
                    const double share = passes(met);
                    if (share <= 0)
                        continue;
                    met.amplitude = static_cast<double>(s.amplitude) * std::sqrt(share);
                    put(met, static_cast<double>(s.turns));
                }
            }
        // A body is a short row of four: its strength is of all together.
        const auto body = [&](const Body &b, std::int64_t number) {
            for (int i = 0; i < 4; ++i) {
                const double by = b.radius_m * (i - 1.5) / 1.5,
                             turn = 2 * std::numbers::pi * random_of(number, 0, 11);
                const double dx = b.at.x + by * std::cos(turn) - beam.at.x,
                             dy = b.at.y + by * std::sin(turn) - beam.at.y;
                Met met{};
                met.aside = dx * aside_x + dy * aside_y;
                met.below = scene_.depth_m(b.at) - b.height_m - beam.draught_m;
                const double to = dx * ahead_x + dy * ahead_y;
                met.r = std::sqrt(met.aside * met.aside + to * to + met.below * met.below);
                met.ahead_sine = to / std::max(0.05, met.r);
                if (met.aside < 0 || met.below < 0.05 || met.r > range ||
                    std::fabs(met.ahead_sine) > half_sine_)
                    continue;
                met.cosine = 1;
                met.amplitude =
                    std::sqrt(power_of(b.strength_db + scene_.making.things_db) / 4 * passes(met));
                put(met, random_of(number, i, 12));
            }
        };
        for (std::size_t i = 0; i < scene_.bodies.size(); ++i)
            if (std::hypot(scene_.bodies[i].at.x - beam.at.x, scene_.bodies[i].at.y - beam.at.y) < range)
                body(scene_.bodies[i], static_cast<std::int64_t>(i));
        for (std::size_t i = 0; i < moving.size(); ++i)
            body(moving[i], static_cast<std::int64_t>(scene_.bodies.size() + i));
    }
    return field;
}

} // namespace heron::sim
