#include "files/atomic_file.hpp"
#include "files/json.hpp"
#include "files/json_in.hpp"
#include "sim/scene.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <random>
#include <stdexcept>

namespace heron::sim {
namespace {

using nlohmann::json;

// Says what is wrong with which entry; caught at the edge of this file.
struct Bad : std::runtime_error {
    using std::runtime_error::runtime_error;
};

double number(const json &j, const char *key, double low, double high) {
    if (!j.contains(key))
        throw Bad(fmt::format("'{}' is missing", key));
    if (!j[key].is_number())
        throw Bad(fmt::format("'{}' is no number", key));
    const double v = j[key].get<double>();
    if (!(v >= low && v <= high))
        throw Bad(fmt::format("'{}' is {}, not between {} and {}", key, v, low, high));
    return v;
}
double number_or(const json &j, const char *key, double otherwise, double low, double high) {
    return j.contains(key) ? number(j, key, low, high) : otherwise;
}
Point point(const json &j) {
    if (!j.is_array() || j.size() != 2 || !j[0].is_number() || !j[1].is_number())
        throw Bad("a point is no [east, north]");
    const Point p{j[0].get<double>(), j[1].get<double>()};
    if (!(std::fabs(p.x) < 1e6 && std::fabs(p.y) < 1e6))
        throw Bad("a point lies out of the world");
    return p;
}
std::vector<Point> points(const json &j, const char *key, std::size_t least) {
    if (!j.contains(key) || !j[key].is_array() || j[key].size() < least)
        throw Bad(fmt::format("'{}' needs {} points or more", key, least));
    std::vector<Point> out;
    for (const auto &p : j[key])
        out.push_back(point(p));
    return out;
}
Point at(const json &j) {
    if (!j.contains("at"))
        throw Bad("'at' is missing");
    return point(j["at"]);
}
std::string word(const json &j, const char *key) {
    if (!j.contains(key) || !j[key].is_string())
        throw Bad(fmt::format("'{}' is missing", key));
    return j[key].get<std::string>();
}
Ground ground_named(const std::string &name) {
    if (name == "silt")
        return Ground::silt;
    if (name == "sand")
        return Ground::sand;
    if (name == "gravel")
        return Ground::gravel;
    if (name == "rock")
        return Ground::rock;
    throw Bad(fmt::format("'{}' is no ground; silt, sand, gravel and rock are", name));
}
BodyOffset offset(const json &j, const char *key, BodyOffset otherwise) {
    if (!j.contains(key))
        return otherwise;
    if (!j[key].is_array() || j[key].size() != 3)
        throw Bad(fmt::format("'{}' is no [forward, starboard, down]", key));
    return {j[key][0].get<double>(), j[key][1].get<double>(), j[key][2].get<double>()};
}

double distance_to(const std::vector<Point> &path, Point p, bool *left = nullptr) {
    double best = 1e9;
    for (std::size_t i = 1; i < path.size(); ++i) {
        const auto &a = path[i - 1], &b = path[i];
        const double dx = b.x - a.x, dy = b.y - a.y, square = dx * dx + dy * dy;
        const double s =
            square > 0 ? std::clamp(((p.x - a.x) * dx + (p.y - a.y) * dy) / square, 0.0, 1.0) : 0;
        const double ex = p.x - a.x - s * dx, ey = p.y - a.y - s * dy, d = std::sqrt(ex * ex + ey * ey);
        if (d < best) {
            best = d;
            if (left != nullptr)
                *left = dx * (p.y - a.y) - dy * (p.x - a.x) > 0;
        }
    }
    return best;
}

bool inside(const std::vector<Point> &outline, Point p) {
    bool in = false;
    for (std::size_t i = 0, j = outline.size() - 1; i < outline.size(); j = i++) {
        const auto &a = outline[i], &b = outline[j];
        if ((a.y > p.y) != (b.y > p.y) && p.x < (b.x - a.x) * (p.y - a.y) / (b.y - a.y) + a.x)
            in = !in;
    }
    return in;
}

double smooth(double t) {
    t = std::clamp(t, 0.0, 1.0);
    return t * t * (3 - 2 * t);
}

// Smooth noise of unit variance or so, one knot every `wave` metres.
std::vector<float> noise_raster(std::size_t columns, std::size_t rows, double cell, double wave,
                                std::mt19937 &random) {
    const auto nx = static_cast<std::size_t>(static_cast<double>(columns) * cell / wave) + 3;
    const auto ny = static_cast<std::size_t>(static_cast<double>(rows) * cell / wave) + 3;
    std::normal_distribution<float> normal(0, 1.4F);
    std::vector<float> knot(nx * ny);
    for (auto &k : knot)
        k = normal(random);
    std::vector<float> out(columns * rows);
    for (std::size_t y = 0; y < rows; ++y) {
        const double fy = static_cast<double>(y) * cell / wave;
        const auto iy = static_cast<std::size_t>(fy);
        const auto ty = static_cast<float>(smooth(fy - static_cast<double>(iy)));
        for (std::size_t x = 0; x < columns; ++x) {
            const double fx = static_cast<double>(x) * cell / wave;
            const auto ix = static_cast<std::size_t>(fx);
            const auto tx = static_cast<float>(smooth(fx - static_cast<double>(ix)));
            const float *k = &knot[iy * nx + ix];
            out[y * columns + x] =
                (k[0] * (1 - tx) + k[1] * tx) * (1 - ty) + (k[nx] * (1 - tx) + k[nx + 1] * tx) * ty;
        }
    }
    return out;
}

void read_terrain(const json &j, Scene &s, std::mt19937 &random) {
    const auto &size = j.at("size_m");
    s.width_m = size.at(0).get<double>();
    s.height_m = size.at(1).get<double>();
    if (!(s.width_m >= 20 && s.width_m <= 2000 && s.height_m >= 20 && s.height_m <= 2000))
        throw Bad("'size_m' is not between 20 and 2000 m");
    s.columns = static_cast<std::size_t>(s.width_m / Scene::cell_m) + 2;
    s.rows = static_cast<std::size_t>(s.height_m / Scene::cell_m) + 2;
    const double depth = number(j, "depth_m", 0.5, 100);
    s.depth.assign(s.columns * s.rows, static_cast<float>(depth));
    s.grounds.assign(s.columns * s.rows, static_cast<std::uint8_t>(ground_named(j.value("ground", "sand"))));
    // What lies within a distance of some points' rectangle; without points all.
    const auto each_cell_about = [&](const std::vector<Point> &about, double within_m, auto change) {
        Point least{0, 0}, most{s.width_m + 2 * Scene::cell_m, s.height_m + 2 * Scene::cell_m};
        if (!about.empty()) {
            least = most = about.front();
            for (const auto &p : about) {
                least = {std::min(least.x, p.x), std::min(least.y, p.y)};
                most = {std::max(most.x, p.x), std::max(most.y, p.y)};
            }
            within_m += Scene::cell_m;
            least = {least.x - within_m, least.y - within_m};
            most = {most.x + within_m, most.y + within_m};
        }
        const auto cell = [](double m, std::size_t end) {
            return static_cast<std::size_t>(
                std::clamp(std::floor(m / Scene::cell_m), 0.0, static_cast<double>(end)));
        };
        const auto east = std::min(s.columns, cell(most.x, s.columns) + 1),
                   north = std::min(s.rows, cell(most.y, s.rows) + 1);
        for (std::size_t y = cell(least.y, s.rows); y < north; ++y)
            for (std::size_t x = cell(least.x, s.columns); x < east; ++x)
                change(Point{static_cast<double>(x) * Scene::cell_m, static_cast<double>(y) * Scene::cell_m},
                       s.depth[y * s.columns + x], s.grounds[y * s.columns + x]);
    };
    const auto each_cell = [&](auto change) { each_cell_about({}, 0, change); };
    if (const double u = number_or(j, "undulation_m", 0.1, 0, 3); u > 0) {
        const auto noise = noise_raster(s.columns, s.rows, Scene::cell_m,
                                        number_or(j, "undulation_wave_m", 12, 2, 200), random);
        for (std::size_t i = 0; i < s.depth.size(); ++i)
            s.depth[i] += static_cast<float>(u) * noise[i];
    }
    for (const auto &f : j.value("features", json::array())) {
        const auto type = word(f, "type");
        if (type == "slope") {
            const double bearing = number(f, "bearing_deg", 0, 360) / degrees_per_radian;
            const double fall = std::tan(number(f, "slope_deg", 0, 30) / degrees_per_radian);
            const auto from = at(f);
            each_cell([&](Point p, float &d, std::uint8_t &) {
                d += static_cast<float>(
                    fall * ((p.x - from.x) * std::sin(bearing) + (p.y - from.y) * std::cos(bearing)));
            });
        } else if (type == "hump" || type == "hole") {
            const auto centre = at(f);
            const double r = number(f, "radius_m", 0.5, 200),
                         h = number(f, "height_m", 0.05, 30) * (type == "hole" ? -1 : 1);
            each_cell_about({centre}, r, [&](Point p, float &d, std::uint8_t &) {
                d -= static_cast<float>(h * smooth(1 - std::hypot(p.x - centre.x, p.y - centre.y) / r));
            });
        } else if (type == "channel") {
            const auto path = points(f, "path", 2);
            const double w = number(f, "width_m", 1, 100), deep = number(f, "depth_m", 0.1, 20);
            each_cell_about(path, w / 2, [&](Point p, float &d, std::uint8_t &) {
                d += static_cast<float>(deep * smooth((w / 2 - distance_to(path, p)) / (w / 4)));
            });
        } else if (type == "ledge") {
            const auto path = points(f, "path", 2);
            const double drop = number(f, "drop_m", 0.1, 20), run = number(f, "run_m", 0.2, 50);
            each_cell([&](Point p, float &d, std::uint8_t &) {
                bool left = false;
                const double away = distance_to(path, p, &left);
                d += static_cast<float>(drop * smooth(0.5 + (left ? -away : away) / run));
            });
        } else if (type == "ground") {
            const auto outline = points(f, "outline", 3);
            const auto g = static_cast<std::uint8_t>(ground_named(word(f, "ground")));
            each_cell_about(outline, 0, [&](Point p, float &, std::uint8_t &ground) {
                if (inside(outline, p))
                    ground = g;
            });
        } else if (type == "ripples") {
            const auto outline = points(f, "outline", 3);
            if (s.ripples.size() >= 200)
                throw Bad("more than 200 fields of ripples");
            s.ripples.push_back({number(f, "wave_m", 0.1, 20), number(f, "height_m", 0.005, 2),
                                 number(f, "across_deg", 0, 360)});
            s.rippled.resize(s.columns * s.rows, 0);
            const auto which = static_cast<std::uint8_t>(s.ripples.size());
            each_cell_about(outline, 0, [&](Point p, const float &cell, std::uint8_t &) {
                if (inside(outline, p))
                    s.rippled[static_cast<std::size_t>(&cell - s.depth.data())] = which;
            });
        } else if (type == "lane") {
            // A sunken cart lane: a firm bed between two shallow ditches.
            const auto path = points(f, "path", 2);
            const double w = number(f, "width_m", 1, 30), ditch = number_or(f, "ditch_m", 0.25, 0, 2);
            const auto bed = static_cast<std::uint8_t>(ground_named(f.value("ground", "gravel")));
            each_cell_about(path, w / 2 + 0.5 + 0.7, [&](Point p, float &d, std::uint8_t &ground) {
                const double off = distance_to(path, p) - w / 2;
                if (off <= 0)
                    ground = bed;
                d += static_cast<float>(ditch * smooth(1 - std::fabs(off - 0.5) / 0.7));
            });
        } else {
            throw Bad(fmt::format("'{}' is no feature of a terrain", type));
        }
    }
    for (auto &d : s.depth)
        d = std::max(d, 0.3F);
}

void add_tree(Scene &s, Point foot, double height, double spread, int branches, double twig,
              std::mt19937 &random) {
    std::uniform_real_distribution<double> share(0, 1);
    const auto body = [&](Point p, double z, double radius) {
        s.bodies.push_back({p, z, radius, 20 * std::log10(radius) - 10, 0.85});
    };
    for (double z = 0.1; z < height; z += 0.12)
        body(foot, z, 0.16 - 0.1 * z / height);
    for (int i = 0; i < branches; ++i) {
        const double base = height * (0.25 + 0.7 * share(random)), turn = 6.283 * share(random);
        const double length = spread / 2 * (1.15 - base / height) * (0.6 + 0.4 * share(random)),
                     rise = 0.15 + 0.3 * share(random);
        for (double t = 0.15; t < length; t += 0.13)
            body({foot.x + t * std::sin(turn), foot.y + t * std::cos(turn)},
                 std::min(height, base + rise * t), twig);
    }
}

// Stalks up from the bottom, a mat of low growth between them, none of either in the openings.
void plant_weeds(const json &j, Scene &s, Truth &truth, std::mt19937 &random) {
    const auto outline = points(j, "outline", 3);
    const double high = number(j, "height_m", 0.1, 8), stalks = number_or(j, "stalks_a_m2", 4, 0, 30),
                 mat = number_or(j, "mat_m", 0.2, 0, 2);
    struct Opening {
        Point at;
        double radius_m;
    };
    std::vector<Opening> openings;
    for (const auto &o : j.value("openings", json::array()))
        openings.push_back({at(o), number(o, "radius_m", 0.3, 50)});
    double west = 1e9, east = -1e9, south = 1e9, north = -1e9;
    for (const auto &p : outline) {
        west = std::min(west, p.x);
        east = std::max(east, p.x);
        south = std::min(south, p.y);
        north = std::max(north, p.y);
    }
    truth.at = {(west + east) / 2, (south + north) / 2};
    truth.height_m = high;
    constexpr double most_stalks = 60'000, between_m = 0.16;
    const double tries = (east - west) * (north - south) * (stalks + (mat > 0 ? 6 : 0));
    if (!(tries < most_stalks))
        throw Bad(fmt::format("{:.0f} stalks are more than {:.0f}", tries, most_stalks));
    std::uniform_real_distribution<double> share(0, 1);
    for (int i = 0; i < static_cast<int>(tries); ++i) {
        const Point p{west + (east - west) * share(random), south + (north - south) * share(random)};
        const double tall = high * (0.6 + 0.4 * share(random)), lean = 0.25 * (share(random) - 0.5);
        const bool stalk = share(random) * (stalks + (mat > 0 ? 6 : 0)) < stalks;
        if (!inside(outline, p) || std::any_of(openings.begin(), openings.end(), [&](const Opening &o) {
                return std::hypot(o.at.x - p.x, o.at.y - p.y) < o.radius_m;
            }))
            continue;
        if (!stalk) {
            s.bodies.push_back({p, mat * share(random), 0.07, -38, 0.35});
            continue;
        }
        for (double z = 0.05; z < tall; z += between_m)
            s.bodies.push_back({{p.x + lean * z, p.y}, z, 0.05, -41, 0.3});
    }
}

void read_thing(const json &j, Scene &s, std::mt19937 &random) {
    const auto kind = word(j, "kind");
    Truth truth{kind, j.value("name", kind), {}, 0, false};
    std::uniform_real_distribution<double> share(0, 1);
    std::normal_distribution<double> normal(0, 1);
    if (kind == "boulder") {
        Solid solid;
        solid.a = solid.b = truth.at = at(j);
        solid.half_length_m = number(j, "length_m", 0.1, 20) / 2;
        solid.half_width_m = number_or(j, "width_m", solid.half_length_m * 2, 0.1, 20) / 2;
        solid.height_m = truth.height_m = number(j, "height_m", 0.05, 10);
        solid.turn_deg = number_or(j, "turn_deg", 0, -360, 360);
        solid.strength_db = -10;
        s.solids.push_back(solid);
    } else if (kind == "stump") {
        Solid solid;
        solid.shape = Solid::Shape::post;
        solid.a = solid.b = truth.at = at(j);
        solid.half_width_m = number(j, "width_m", 0.1, 5) / 2;
        solid.height_m = truth.height_m = number(j, "height_m", 0.05, 20);
        solid.strength_db = -15;
        s.solids.push_back(solid);
        const double foot = solid.half_width_m * 2; // the flare of the roots
        s.solids.push_back({Solid::Shape::dome, solid.a, solid.a, foot, foot, 0, solid.height_m * 0.25, -16});
    } else if (kind == "wall" || kind == "log") {
        const auto path = points(j, "path", 2);
        const double width = number(j, "width_m", 0.05, 10);
        const double height = kind == "log" ? width : number(j, "height_m", 0.1, 10);
        for (std::size_t i = 1; i < path.size(); ++i) {
            if (kind == "log") {
                s.solids.push_back({Solid::Shape::log, path[i - 1], path[i], width / 2, 0, 0, height, -16});
                continue;
            }
            // A dry wall of stones: its height changes along it.
            const double run = std::hypot(path[i].x - path[i - 1].x, path[i].y - path[i - 1].y);
            const int pieces = std::max(1, static_cast<int>(run / 0.7));
            for (int k = 0; k < pieces; ++k) {
                const auto on = [&](int n) {
                    const double t = static_cast<double>(n) / pieces;
                    return Point{path[i - 1].x + t * (path[i].x - path[i - 1].x),
                                 path[i - 1].y + t * (path[i].y - path[i - 1].y)};
                };
                const double h = height * std::clamp(0.9 + 0.12 * normal(random), 0.4, 1.0);
                s.solids.push_back({Solid::Shape::wall, on(k), on(k + 1), width / 2, 0, 0, h, -11});
            }
        }
        truth.at = {(path.front().x + path.back().x) / 2, (path.front().y + path.back().y) / 2};
        truth.height_m = height;
        truth.kind = kind == "log" ? "log" : "built";
    } else if (kind == "rock_pile") {
        truth.at = at(j);
        const double r = number(j, "radius_m", 0.5, 60);
        const int n = static_cast<int>(number(j, "count", 1, 4000));
        const double big = number(j, "largest_m", 0.1, 5);
        for (int i = 0; i < n; ++i) {
            const double d = r * std::sqrt(share(random)), turn = 6.283 * share(random),
                         size = big * (0.25 + 0.75 * std::pow(share(random), 2));
            Solid solid;
            solid.a = solid.b = {truth.at.x + d * std::sin(turn), truth.at.y + d * std::cos(turn)};
            solid.half_length_m = size / 2;
            solid.half_width_m = size / 2 * (0.6 + 0.4 * share(random));
            solid.turn_deg = 360 * share(random);
            solid.height_m = size * (0.3 + 0.4 * share(random));
            solid.strength_db = -11;
            s.solids.push_back(solid);
            truth.height_m = std::max(truth.height_m, solid.height_m);
        }
    } else if (kind == "tree" || kind == "brush") {
        truth.at = at(j);
        truth.height_m = number(j, "height_m", 0.2, 20);
        const bool tree = kind == "tree";
        add_tree(s, truth.at, truth.height_m, number(j, "spread_m", 0.2, 20), tree ? 30 : 45,
                 tree ? 0.05 : 0.035, random);
    } else if (kind == "fish") {
        truth.at = at(j);
        truth.suspended = true;
        truth.height_m = number(j, "above_bottom_m", 0.05, 50);
        const double length = number(j, "length_m", 0.03, 2);
        // Love (1977), near dorsal, at 770 kHz; from memory. The flank that the fan sees returns a few dB
        // more.
        const double ts = 19.1 * std::log10(length * 100) - 0.9 * std::log10(770.0) - 62.0 + 4;
        s.bodies.push_back({truth.at, truth.height_m, length / 3, ts, 0.9});
    } else if (kind == "fish_group" || kind == "bait_ball") {
        truth.at = at(j);
        truth.suspended = true;
        truth.height_m = number(j, "above_bottom_m", 0.05, 50);
        const bool bait = kind == "bait_ball";
        const int n = static_cast<int>(number(j, "count", 2, 4000));
        const double r = number(j, "radius_m", 0.2, 20), length = number(j, "length_m", 0.02, 2);
        const double ts = 19.1 * std::log10(length * 100) - 0.9 * std::log10(770.0) - 62.0 + 4;
        for (int i = 0; i < n; ++i) {
            const Point p{truth.at.x + r / 2 * normal(random), truth.at.y + r / 2 * normal(random)};
            const double z = std::max(0.1, truth.height_m + (bait ? r / 2 : 0.25) * normal(random));
            s.bodies.push_back({p, z, length / 3, ts, bait ? 0.25 : 0.9});
        }
    } else if (kind == "weeds") {
        plant_weeds(j, s, truth, random);
    } else if (kind == "bed") {
        // A colony of spawning beds: bowls swept clean, each with a low rim, on a ring and within it.
        truth.at = at(j);
        const int pits = static_cast<int>(number(j, "pits", 1, 60));
        const double r = number(j, "radius_m", 0.5, 30), pit = number_or(j, "pit_m", 0.9, 0.3, 5) / 2,
                     deep = number_or(j, "deep_m", 0.15, 0.03, 1);
        truth.height_m = -deep;
        for (int i = 0; i < pits; ++i) {
            const double d = r * std::sqrt((i + 0.5) / pits), turn = 2.39996 * i + 0.4 * normal(random);
            s.dig({{truth.at.x + d * std::sin(turn), truth.at.y + d * std::cos(turn)}, pit, deep});
        }
    } else if (kind == "swimmers") {
        Swimmers w;
        w.name = truth.name;
        w.path = points(j, "path", 2);
        w.speed_m_s = number(j, "speed_m_s", 0, 3);
        w.above_bottom_m = number(j, "above_bottom_m", 0.05, 50);
        const int n = static_cast<int>(number_or(j, "count", 1, 1, 1000));
        const double r = number_or(j, "radius_m", 0, 0, 20), length = number(j, "length_m", 0.02, 2);
        const double ts = 19.1 * std::log10(length * 100) - 0.9 * std::log10(770.0) - 62.0 + 4;
        for (int i = 0; i < n; ++i)
            w.fish.push_back({{r / 2 * normal(random), r / 2 * normal(random)},
                              n > 1 ? 0.2 * normal(random) : 0.0,
                              length / 3,
                              ts});
        s.swimmers.push_back(std::move(w));
        return; // it is nowhere for long
    } else {
        throw Bad(fmt::format("'{}' is no kind of thing", kind));
    }
    s.truth.push_back(truth);
}

} // namespace

Result<Scene> read_scene(std::string_view text, std::string_view file_name) {
    const auto refuse = [&](const std::string &what) {
        return fail(told("{}: {}", file_name, what), "no lake was made of it",
                    "docs/scene.md says what a scene holds");
    };
    std::string entry = "the scene";
    try {
        const auto j = parse_json(text);
        Scene s;
        s.name = word(j, "name");
        s.seed = static_cast<std::uint32_t>(number(j, "seed", 0, 4e9));
        std::mt19937 random(s.seed);
        entry = "origin";
        s.origin = {number(j.at("origin"), "latitude", -89, 89),
                    number(j.at("origin"), "longitude", -180, 180)};
        entry = "water";
        const auto water = j.value("water", json::object());
        s.temperature_c = number_or(water, "temperature_c", 14, 0, 40);
        s.suspended_db = number_or(water, "suspended_db", -78, -120, -40);
        s.noise_db = number_or(water, "noise_db", 0, -20, 40);
        s.wind_m_s = number_or(water, "wind_m_s", 2, 0, 25);
        if (water.contains("cold")) {
            entry = "water: cold";
            const auto &cold = water.at("cold");
            s.cold =
                ColdLayer{number(cold, "below_m", 1, 60), number(cold, "temperature_c", 0, s.temperature_c)};
        }
        entry = "terrain";
        read_terrain(j.at("terrain"), s, random);
        std::size_t n = 0;
        for (const auto &thing : j.value("things", json::array())) {
            entry = fmt::format("things[{}]", n++);
            read_thing(thing, s, random);
        }
        entry = "boat";
        const auto &boat = j.at("boat");
        s.boat.route = points(boat, "route", 2);
        s.boat.speed_m_s = number_or(boat, "speed_m_s", 1.4, 0, 10);
        s.boat.gnss_wander_m = number_or(boat, "gnss_wander_m", 0.4, 0, 20);
        s.boat.gnss_noise_m = number_or(boat, "gnss_noise_m", 0.05, 0, 20);
        s.boat.heading_noise_deg = number_or(boat, "heading_noise_deg", 0.6, 0, 30);
        s.boat.installation.transducer = offset(boat, "transducer", {-2.4, 0.3, 0.35});
        s.boat.installation.antenna = offset(boat, "antenna", {-0.6, 0, -1.1});
        s.boat.installation.water_level_m = number_or(boat, "water_level_m", 0.05, -2, 2);
        s.boat.head = offset(boat, "head", s.boat.head);
        if (boat.contains("hold")) {
            entry = "boat: hold";
            const auto &j_hold = boat.at("hold");
            Hold hold;
            hold.at = at(j_hold);
            hold.heading_deg = number(j_hold, "heading_deg", -360, 360);
            hold.drift_m = number_or(j_hold, "drift_m", hold.drift_m, 0, 20);
            hold.swing_deg = number_or(j_hold, "swing_deg", hold.swing_deg, 0, 90);
            s.boat.hold = hold;
        }
        entry = "head";
        const auto head = j.value("head", json::object());
        s.head_fault.zero_deg = number_or(head, "zero_deg", 0, -180, 180);
        s.head_fault.backwards = head.value("backwards", false);
        s.head_fault.stuck_after_s = number_or(head, "stuck_after_s", -1, -1, 1e6);
        s.head_fault.skips = number_or(head, "skips", 0, 0, 1);
        s.head_fault.heading_late_s = number_or(head, "heading_late_s", 0, 0, 5);
        entry = "sounder";
        const auto sounder = j.value("sounder", json::object());
        s.sounder_fault.swapped = sounder.value("swapped", false);
        s.sounder_looks = number_or(sounder, "looks", 1, 1, 100);
        s.sounder_fault.roll_deg = number_or(sounder, "roll_deg", 0, -45, 45);
        s.sounder_fault.weak_left_db = number_or(sounder, "weak_left_db", 0, 0, 60);
        s.sounder_fault.streak_every = static_cast<int>(number_or(sounder, "streak_every", 0, 0, 1000));
        return s;
    } catch (const Bad &bad) {
        return refuse(told("{}: {}", entry, bad.what()));
    } catch (const json::parse_error &bad) {
        return refuse(told("this is no JSON; it breaks at byte {}", bad.byte));
    } catch (const json::exception &bad) {
        return refuse(told("{}: {}", entry, bad.what()));
    }
}

Result<Scene> read_scene_file(const std::filesystem::path &path) {
    auto text = read_whole_file(path, 64u << 20);
    if (!text)
        return tl::unexpected(text.error());
    return read_scene(*text, path.string());
}

} // namespace heron::sim
