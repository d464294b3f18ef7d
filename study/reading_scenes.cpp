#include "reading_scenes.hpp"
#include "weigh.hpp"

#include "files/json.hpp"
#include "look/fish_or_leave.hpp"
#include "recording/nmea_feed.hpp"
#include "sim/sounder.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <functional>
#include <random>

namespace heron::study {
namespace {

using nlohmann::json;

class Planter {
  public:
    Planter(const ReadingScene &r) : r_(r), random_(r.seed) {}
    sim::Scene make(std::vector<TrueThing> &truth);

  private:
    double share(double a, double b) { return std::uniform_real_distribution<double>(a, b)(random_); }
    int whole(int a, int b) { return std::uniform_int_distribution<int>(a, b)(random_); }
    int many(int a, int b) { return static_cast<int>(std::lround(whole(a, b) * r_.crowding)); }
    std::optional<sim::Point> room(double size);
    void fish_in(json &things, TrueThing &t);
    void plant_wood(json &things, std::vector<TrueThing> &truth);
    void add_after(sim::Scene &s, TrueThing &t);

    const ReadingScene &r_;
    std::mt19937 random_;
    std::vector<std::pair<sim::Point, double>> taken_;
};

std::optional<sim::Point> Planter::room(double size) {
    const double nearest = std::max(1.5, 0.35 * r_.depth_m),
                 farthest =
                     0.86 * std::sqrt(std::max(1.0, r_.range_m * r_.range_m - r_.depth_m * r_.depth_m));
    for (int tries = 0; tries < 60; ++tries) {
        const double side = whole(0, 1) == 0 ? -1 : 1, g = share(nearest, farthest);
        const sim::Point p{keel_east + side * g, share(from_north + 4, from_north + r_.length_m - 4)};
        bool free = true;
        for (const auto &[at, other] : taken_)
            free = free && std::hypot(p.x - at.x, p.y - at.y) > 2.5 + (size + other) / 2;
        if (free) {
            taken_.emplace_back(p, size);
            return p;
        }
    }
    return std::nullopt;
}

// Things that the scene's file has no word for are put in as solids and bodies.
void Planter::add_after(sim::Scene &s, TrueThing &t) {
    if (t.kind == Kind::weeds) {
        const int n = static_cast<int>(t.length_m * t.width_m * share(9, 18));
        for (int i = 0; i < n; ++i) {
            const double turn = share(0, 6.283), out = std::sqrt(share(0, 1));
            const sim::Point p{t.at.x + out * t.width_m / 2 * std::sin(turn),
                               t.at.y + out * t.length_m / 2 * std::cos(turn)};
            for (double z = 0.06; z < t.height_m * share(0.6, 1); z += 0.14)
                s.bodies.push_back({p, z, 0.05, -42 + share(-3, 3), 0.3});
        }
    } else if (t.kind == Kind::built) {
        // A crate or a block: its long faces run from a to b.
        const double turn = share(0, 3.14159);
        const double dx = t.length_m / 2 * std::sin(turn), dy = t.length_m / 2 * std::cos(turn);
        s.solids.push_back({sim::Solid::Shape::wall,
                            {t.at.x - dx, t.at.y - dy},
                            {t.at.x + dx, t.at.y + dy},
                            t.width_m / 2,
                            0,
                            0,
                            t.height_m,
                            -9});
    } else if (t.kind == Kind::bed || t.kind == Kind::hole) {
        const int pits = t.kind == Kind::bed ? whole(3, 7) : 1;
        for (int i = 0; i < pits; ++i) {
            const double turn = 6.283 * i / pits + share(0, 0.5),
                         out = t.kind == Kind::bed ? share(0.6, 0.9) * t.length_m / 2 : 0;
            const double radius = t.kind == Kind::bed ? share(0.4, 0.65) : t.length_m / 2, deep = -t.height_m;
            const double cx = t.at.x + out * std::sin(turn), cy = t.at.y + out * std::cos(turn);
            for (std::size_t y = 0; y < s.rows; ++y)
                for (std::size_t x = 0; x < s.columns; ++x) {
                    const double d = std::hypot(static_cast<double>(x) * sim::Scene::cell_m - cx,
                                                static_cast<double>(y) * sim::Scene::cell_m - cy);
                    if (d < 1.3 * radius)
                        s.depth[y * s.columns + x] +=
                            static_cast<float>(d < radius ? deep * (1 - std::pow(d / radius, 2))
                                                          : -0.15 * deep * (1.3 - d / radius));
                }
        }
    }
}

void Planter::fish_in(json &things, TrueThing &t) {
    t.suspended = true;
    const double most = std::min(0.6 * r_.depth_m, 3.0);
    t.height_m = share(0.25, std::max(0.5, most));
    if (t.kind == Kind::fish) {
        t.length_m = share(0.25, 0.85);
        t.width_m = t.length_m / 5;
        things.push_back({{"kind", "fish"},
                          {"at", {t.at.x, t.at.y}},
                          {"above_bottom_m", t.height_m},
                          {"length_m", t.length_m}});
        return;
    }
    const bool bait = t.kind == Kind::bait_ball;
    t.length_m = bait ? share(1.5, 3.5) : share(1.5, 4);
    t.width_m = t.length_m;
    t.height_m = std::max(t.height_m, bait ? 0.9 : 0.5);
    things.push_back({{"kind", bait ? "bait_ball" : "fish_group"},
                      {"at", {t.at.x, t.at.y}},
                      {"above_bottom_m", t.height_m},
                      {"count", bait ? whole(200, 500) : whole(4, 14)},
                      {"radius_m", t.length_m / 2.4},
                      {"length_m", bait ? share(0.05, 0.09) : share(0.2, 0.5)}});
}

void Planter::plant_wood(json &things, std::vector<TrueThing> &truth) {
    for (int i = 0; i < 12; ++i) {
        const auto at = room(4);
        if (!at)
            return;
        const bool tree = i % 2 == 0;
        TrueThing t;
        t.kind = tree ? Kind::tree : Kind::brush;
        t.at = *at;
        t.height_m = std::min(tree ? share(1.6, 3.5) : share(0.6, 1.5), 0.65 * r_.depth_m);
        t.length_m = t.width_m = tree ? share(1.8, 3.5) : share(1.2, 2.6);
        things.push_back({{"kind", tree ? "tree" : "brush"},
                          {"at", {at->x, at->y}},
                          {"height_m", t.height_m},
                          {"spread_m", t.length_m}});
        const auto wood = t;
        truth.push_back(t);
        for (int n = i % 4 < 2 ? whole(1, 3) : 0; n > 0; --n) {
            // Anywhere in the crown but on the stem.
            const double turn = share(0, 6.283), out = wood.length_m / 2 * share(0.35, 1);
            TrueThing fish;
            fish.kind = Kind::fish;
            fish.suspended = true;
            fish.at = {at->x + out * std::sin(turn), at->y + out * std::cos(turn)};
            fish.height_m = wood.height_m * share(0.25, 1);
            fish.length_m = share(0.25, 0.85);
            fish.width_m = fish.length_m / 5;
            things.push_back({{"kind", "fish"},
                              {"at", {fish.at.x, fish.at.y}},
                              {"above_bottom_m", fish.height_m},
                              {"length_m", fish.length_m}});
            truth.push_back(fish);
        }
    }
}

sim::Scene Planter::make(std::vector<TrueThing> &truth) {
    json things = json::array(), features = json::array();
    if (r_.slope_deg > 0)
        features.push_back({{"type", "slope"},
                            {"at", {keel_east, from_north + r_.length_m / 2}},
                            {"bearing_deg", r_.rises_to_deg},
                            {"slope_deg", r_.slope_deg}});
    if (!r_.patch.empty())
        for (int i = 0; i < 5; ++i) {
            const double x = keel_east + share(-30, 30), y = from_north + share(0, r_.length_m),
                         size = share(4, 14);
            json outline = json::array();
            for (int k = 0; k < 9; ++k)
                outline.push_back({std::clamp(x + size * share(0.6, 1.2) * std::sin(0.698 * k), 0.5, 119.5),
                                   std::max(0.5, y + size * share(0.6, 1.2) * std::cos(0.698 * k))});
            features.push_back({{"type", "ground"}, {"outline", outline}, {"ground", r_.patch}});
        }
    for (int i = 0; i < r_.spots; ++i) {
        const double x = keel_east + share(-30, 30), y = from_north + share(-5, r_.length_m + 5),
                     size = share(0.3, 1.2);
        json outline = json::array();
        for (int k = 0; k < 7; ++k)
            outline.push_back({std::clamp(x + size * share(0.5, 1.2) * std::sin(0.8976 * k), 0.5, 119.5),
                               std::max(0.5, y + size * share(0.5, 1.2) * std::cos(0.8976 * k))});
        const char *other = r_.ground == "silt" ? "sand" : r_.ground == "sand" ? "gravel" : "sand";
        features.push_back({{"type", "ground"}, {"outline", outline}, {"ground", other}});
    }
    const auto put = [&](Kind kind, const std::function<void(TrueThing &)> &describe, double size) {
        const auto at = room(size);
        if (!at)
            return;
        TrueThing t;
        t.kind = kind;
        t.at = *at;
        describe(t);
        truth.push_back(t);
    };
    if (r_.drop != Kind::none && !r_.empty) {
        TrueThing t;
        t.kind = r_.drop;
        t.at = {keel_east, from_north + r_.length_m * share(0.3, 0.7)};
        const double turn = share(-0.8, 0.8), dx = 70 * std::cos(turn), dy = 70 * std::sin(turn);
        const json path{{t.at.x - dx, t.at.y - dy}, {t.at.x + dx, t.at.y + dy}};
        const double high = std::min(share(0.4, 2.0), 0.4 * r_.depth_m);
        t.length_m = 4; // the place where the track crosses it
        if (t.kind == Kind::channel) {
            t.width_m = share(4, 12);
            t.height_m = -high;
            features.push_back(
                {{"type", "channel"}, {"path", path}, {"width_m", t.width_m}, {"depth_m", high}});
        } else {
            t.width_m = share(0.6, 3);
            t.height_m = high;
            features.push_back({{"type", "ledge"}, {"path", path}, {"drop_m", high}, {"run_m", t.width_m}});
        }
        truth.push_back(t);
        taken_.emplace_back(t.at, 10);
    }
    if (r_.wood)
        plant_wood(things, truth);
    else if (!r_.empty) {
        const auto at = [](const TrueThing &t) { return json{t.at.x, t.at.y}; };
        for (int i = 0; i < many(2, 4); ++i)
            put(
                Kind::boulder,
                [&](TrueThing &t) {
                    t.length_m = share(0.5, 1.6);
                    t.width_m = t.length_m * share(0.6, 1);
                    t.height_m = std::min(t.length_m * share(0.45, 0.8), 0.6 * r_.depth_m);
                    things.push_back({{"kind", "boulder"},
                                      {"at", at(t)},
                                      {"length_m", t.length_m},
                                      {"width_m", t.width_m},
                                      {"height_m", t.height_m},
                                      {"turn_deg", share(0, 180)}});
                },
                1.5);
        for (int i = 0; i < many(1, 3); ++i)
            put(
                Kind::stump,
                [&](TrueThing &t) {
                    t.length_m = t.width_m = share(0.35, 0.95);
                    t.height_m = std::min(share(0.35, 1.2), 0.6 * r_.depth_m);
                    things.push_back({{"kind", "stump"},
                                      {"at", at(t)},
                                      {"width_m", t.length_m},
                                      {"height_m", t.height_m}});
                },
                1);
        for (int i = 0; i < many(1, 2); ++i)
            put(
                Kind::log,
                [&](TrueThing &t) {
                    t.length_m = share(2, 7);
                    t.width_m = t.height_m = share(0.25, 0.6);
                    const double turn = share(0, 3.14), dx = t.length_m / 2 * std::sin(turn),
                                 dy = t.length_m / 2 * std::cos(turn);
                    things.push_back({{"kind", "log"},
                                      {"path", {{t.at.x - dx, t.at.y - dy}, {t.at.x + dx, t.at.y + dy}}},
                                      {"width_m", t.width_m}});
                },
                6);
        if (whole(0, 2) > 0)
            put(
                Kind::rock_pile,
                [&](TrueThing &t) {
                    t.length_m = t.width_m = share(1.6, 3.5);
                    t.height_m = share(0.4, 0.8);
                    things.push_back({{"kind", "rock_pile"},
                                      {"at", at(t)},
                                      {"radius_m", t.length_m / 2},
                                      {"count", static_cast<int>(t.length_m * t.length_m * 5)},
                                      {"largest_m", t.height_m * 1.4}});
                },
                3.5);
        for (const auto kind : {Kind::tree, Kind::brush})
            if (whole(0, 3) > 0)
                put(
                    kind,
                    [&](TrueThing &t) {
                        const bool tree = kind == Kind::tree;
                        t.height_m = std::min(tree ? share(1.6, 3.5) : share(0.6, 1.5), 0.65 * r_.depth_m);
                        t.length_m = t.width_m = tree ? share(1.8, 3.5) : share(1.2, 2.6);
                        things.push_back({{"kind", tree ? "tree" : "brush"},
                                          {"at", at(t)},
                                          {"height_m", t.height_m},
                                          {"spread_m", t.length_m}});
                    },
                    3.5);
        if (whole(0, 2) > 0)
            put(
                Kind::weeds,
                [&](TrueThing &t) {
                    t.length_m = share(1.8, 4);
                    t.width_m = t.length_m * share(0.6, 1);
                    t.height_m = share(0.25, 0.8);
                },
                4);
        if (whole(0, 1) > 0)
            put(
                Kind::built,
                [&](TrueThing &t) {
                    t.length_m = share(1.2, 3);
                    t.width_m = t.length_m * share(0.4, 0.9);
                    t.height_m = std::min(share(0.5, 1.4), 0.6 * r_.depth_m);
                },
                3);
        for (int i = 0; i < many(3, 5); ++i)
            put(
                Kind::fish, [&](TrueThing &t) { fish_in(things, t); }, 0.8);
        for (int i = 0; i < many(1, 2); ++i)
            put(
                Kind::fish_group, [&](TrueThing &t) { fish_in(things, t); }, 4);
        if (whole(0, 1) > 0)
            put(
                Kind::bait_ball, [&](TrueThing &t) { fish_in(things, t); }, 4);
        if (whole(0, 2) > 0 && r_.ground != "rock")
            put(
                Kind::bed,
                [&](TrueThing &t) {
                    t.length_m = t.width_m = share(2.4, 4.5);
                    t.height_m = -share(0.1, 0.22);
                },
                4.5);
        if (whole(0, 3) == 0)
            put(
                Kind::hole,
                [&](TrueThing &t) {
                    t.length_m = t.width_m = share(1.8, 4);
                    t.height_m = -share(0.3, 0.7);
                },
                4);
        if (whole(0, 3) == 0)
            put(
                Kind::hump,
                [&](TrueThing &t) {
                    t.length_m = t.width_m = share(3, 6);
                    t.height_m = share(0.3, 0.7);
                    features.push_back({{"type", "hump"},
                                        {"at", at(t)},
                                        {"radius_m", t.length_m / 2},
                                        {"height_m", t.height_m}});
                },
                6);
    }
    json route = json::array();
    const double end = from_north + r_.length_m;
    if (r_.curved)
        for (int k = 0; k <= 8; ++k)
            route.push_back({keel_east + 5 * std::sin(0.55 * k), from_north + r_.length_m * k / 8});
    else if (r_.lanes)
        route = {
            {keel_east, from_north}, {keel_east, end}, {keel_east + 9, end}, {keel_east + 9, from_north}};
    else
        route = {{keel_east, from_north - 10}, {keel_east, end + 10}};
    const json j{
        {"name", r_.name},
        {"seed", r_.seed},
        {"origin", {{"latitude", 46.5}, {"longitude", -21.25}}},
        {"water", {{"temperature_c", share(6, 22)}, {"suspended_db", share(-78, -66)}}},
        {"terrain",
         {{"size_m", {120, r_.length_m + 40}},
          {"depth_m", r_.depth_m},
          {"ground", r_.ground},
          {"undulation_m", share(0.03, 0.15)},
          {"features", features}}},
        {"things", things},
        {"boat", {{"route", route}, {"speed_m_s", r_.speed_m_s}}},
        {"sounder",
         {{"streak_every", whole(0, 3) == 0 ? 40 : 0}, {"roll_deg", share(-2, 2)}, {"looks", r_.looks}}}};
    auto scene = sim::read_scene(j.dump(), r_.name);
    if (!scene) {
        fmt::print(stderr, "{}\n", scene.error().line());
        std::abort();
    }
    scene->making = r_.making;
    for (auto &t : truth)
        add_after(*scene, t);
    // Stones too small to be anything, and a texture that is not even.
    const double stones = r_.ground == "rock" ? 0.2 : r_.ground == "gravel" ? 0.06 : 0.002;
    const auto n = static_cast<int>(stones * 60 * r_.length_m);
    for (int i = 0; i < n; ++i) {
        sim::Solid s;
        s.a = s.b = {keel_east + share(-30, 30), from_north + share(-5, r_.length_m + 5)};
        s.half_length_m = share(0.04, 0.11);
        s.half_width_m = s.half_length_m * share(0.5, 1);
        s.height_m = s.half_length_m * share(0.4, 0.9);
        s.turn_deg = share(0, 180);
        s.strength_db = sim::lambert_db(scene->ground(s.a)) + share(2, 8);
        scene->solids.push_back(s);
    }
    return std::move(*scene);
}

std::vector<ReadingScene> grid(int many, unsigned seed) {
    std::vector<ReadingScene> all;
    const char *grounds[] = {"sand", "silt", "gravel", "rock", "sand", "gravel"};
    const double bands[] = {770e3, 1150e3, 420e3};
    std::mt19937 random(seed);
    const auto share = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(random);
    };
    for (int i = 0; i < many; ++i) {
        ReadingScene r;
        r.seed = 700 + static_cast<std::uint32_t>(i) * 13;
        r.fitting = i % 3 != 2;
        const auto one_in = [&](int n) { return share(0, 1) * n < 1; };
        r.depth_m = std::exp(share(std::log(2.2), std::log(13)));
        r.slope_deg = one_in(3) ? 0 : share(0.5, one_in(6) ? 12 : 6);
        r.ground = grounds[static_cast<std::size_t>(share(0, 5.999))];
        if (one_in(3))
            r.patch = r.ground == std::string("rock")     ? "sand"
                      : one_in(2)                         ? "rock"
                      : r.ground == std::string("gravel") ? "sand"
                                                          : "gravel";
        r.frequency_hz = bands[static_cast<std::size_t>(share(0, 2.999))];
        r.range_m = std::clamp(r.depth_m * share(2.2, 4.5), 12.0, 36.0);
        r.gain = one_in(8) ? 66 : one_in(8) ? 34 : 50;
        r.curved = one_in(6);
        r.lanes = !r.curved && one_in(8);
        if (r.lanes)
            r.length_m = 60;
        if (one_in(6))
            r.spots = static_cast<int>(share(30, 140));
        r.speed_m_s = share(1.1, 2.2);
        r.every = static_cast<int>(share(1, 3.999));
        // No shore within the fan and no deep beyond the grid: else the slope runs rather across the track,
        // and as steep as the depth allows.
        const double half_run = r.length_m / 2 + 10;
        const auto rise = [&] {
            const double rad = r.rises_to_deg / 57.29577951308232;
            return std::tan(r.slope_deg / 57.29577951308232) *
                   std::max(half_run * std::fabs(std::cos(rad)), 0.8 * r.range_m * std::fabs(std::sin(rad)));
        };
        std::mt19937 turned(r.seed);
        r.looks = i % 5 < 2 ? 1 : i % 5 < 4 ? 3 : 8;
        if (!r.lanes && !r.curved && i % 7 < 2)
            r.drop = i % 7 == 0 ? Kind::ledge : Kind::channel;
        r.rises_to_deg = std::uniform_real_distribution<double>(0, 360)(turned);
        const double room = std::min(0.6 * r.depth_m, std::max(1.5, 15 - r.depth_m));
        if (rise() > room)
            r.rises_to_deg =
                (i % 2 == 0 ? 90.0 : 270.0) + std::uniform_real_distribution<double>(-4, 4)(turned);
        while (rise() > room)
            r.slope_deg *= 0.95;
        r.name = fmt::format("{:03d}", i);
        all.push_back(r);
    }
    return all;
}

void draw(ReadingScene &r) {
    r.making = drawn_making(r.seed);
    std::mt19937 random(r.seed ^ 0xC0DE);
    const auto share = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(random);
    };
    r.crowding = share(0, 1.8);
    r.looks = std::floor(share(1, 9));
    r.gain = static_cast<int>(share(38, 62));
}

} // namespace

std::vector<ReadingScene> reading_scenes() {
    auto all = grid(264, 20261);
    for (std::size_t i = 0; i < all.size(); i += 3)
        draw(all[i]);
    return all;
}

std::vector<ReadingScene> drawn_scenes() {
    auto all = grid(60, 4711);
    for (auto &r : all) {
        r.fitting = false;
        r.seed += 50'000;
        draw(r);
    }
    return all;
}

std::vector<ReadingScene> more_scenes(std::size_t count) {
    auto all = grid(static_cast<int>(count), 90'001);
    for (auto &r : all) {
        r.fitting = true;
        r.seed += 900'000;
        draw(r);
    }
    return all;
}

BottomType bottom_of(const ReadingScene &r) {
    return r.ground == "silt"     ? BottomType::silt
           : r.ground == "sand"   ? BottomType::sand
           : r.ground == "gravel" ? BottomType::gravel
                                  : BottomType::rock;
}

sim::Scene plant(const ReadingScene &scene, std::vector<TrueThing> &truth) {
    return Planter(scene).make(truth);
}

FromBoat from_boat(const sim::BoatState &boat, const Installation &installation, const sim::Point &place) {
    const auto transducer = turned(installation.transducer, boat.heading_deg);
    const double heading = boat.heading_deg / degrees_per_radian,
                 dx = place.x - boat.at.x - transducer.east_m, dy = place.y - boat.at.y - transducer.north_m;
    return {dx * std::sin(heading) + dy * std::cos(heading), dx * std::cos(heading) - dy * std::sin(heading)};
}

Sounded sound(const ReadingScene &r) {
    Sounded s;
    Planter planter(r);
    auto scene = planter.make(s.things);
    scene.engine = r.engine;
    s.plane = LocalPlane(scene.origin);
    sim::Sounder sounder(scene, 1'800'000'000LL * ns_per_s);
    sounder.look_down(r.engine == sim::Engine::rays);
    SoundingSettings settings = sounder.settings();
    settings.range_m = r.sounded_to_m > 0 ? r.sounded_to_m : r.range_m;
    settings.frequency_hz = r.frequency_hz;
    settings.gain = r.gain;
    sounder.ask(settings);
    settings = sounder.settings();
    s.scan.installation = scene.boat.installation;
    NmeaFeed feed;
    const double run = r.lanes ? 2 * r.length_m + 9 : r.length_m;
    const auto start = 1'800'000'000LL * ns_per_s;
    int pings = 0;
    while (true) {
        auto e = sounder.next();
        if (seconds_between(start, e.time) * r.speed_m_s > run)
            break;
        for (auto &line : e.sentences)
            feed.take(line, e.time, s.scan.nav);
        if (!e.ping || pings++ % r.every != 0)
            continue;
        std::erase_if(e.ping->ping.beams, [](const Beam &b) { return b.side == Side::down; });
        if (s.scan.end() % 2 == 0 || r.every > 1)
            s.boats.emplace_back(s.scan.end(), sounder.boat());
        s.scan.push({std::move(e.ping->ping), std::nullopt, e.ping->settings});
    }
    s.km = run / 1000;
    if (std::getenv("HERON_TELL") != nullptr) {
        std::vector<double> off;
        for (const auto &[row, boat] : s.boats)
            if (s.scan.bottom(row).found)
                off.push_back(s.scan.bottom(row).altitude_m + s.scan.installation.draught_m() -
                              scene.depth_m(boat.at));
        std::sort(off.begin(), off.end());
        fmt::print("SCENE {} {} {} depth {:.1f} slope {:.1f} range {:.0f} {:.0f} kHz gain {} every {}: "
                   "bottom found {} of {}, off {:.2f} {:.2f} {:.2f}\n",
                   r.name, r.ground, r.patch, r.depth_m, r.slope_deg, r.range_m, r.frequency_hz / 1000,
                   r.gain, r.every, off.size(), s.boats.size(), off.empty() ? 0 : off[off.size() / 10],
                   off.empty() ? 0 : off[off.size() / 2], off.empty() ? 0 : off[off.size() * 9 / 10]);
    }
    weigh(r, scene, settings, s);
    // A drop stands out by its shape: half a metre and more, steeper than one in three.
    for (auto &t : s.things)
        if (t.kind == Kind::ledge || t.kind == Kind::channel) {
            t.seen = true;
            const double falls_over = t.kind == Kind::channel ? t.width_m / 4 : t.width_m;
            t.stands_out = std::fabs(t.height_m) >= 0.5 && std::fabs(t.height_m) / falls_over > 0.33;
        }
    auto gear = usual_gear();
    gear.most_pings_a_second = 20.0 / r.every;
    const Setting set{r.range_m, band_near(gear, r.frequency_hz), r.speed_m_s};
    WaterState water;
    water.bottom = bottom_of(r);
    for (auto &t : s.things)
        if (t.kind == Kind::fish && t.seen && t.depth_m > 0) {
            auto fish = SmallestThing::fish(t.length_m);
            fish.height_m = t.height_m;
            t.shows = showing_of(gear, water, fish, set, t.depth_m, t.ground_m).either;
        }
    return s;
}

} // namespace heron::study
