#include "practice/lesson.hpp"

#include "around/cast.hpp"
#include "fault/told.hpp"
#include "files/json.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <random>
#include <sstream>

namespace heron {
namespace {

using nlohmann::json;

constexpr double antenna_off_m =
    0; // the boat's parts stand over each other here: the track is the transducer's

std::string length(double m, UnitSystem units) {
    return print_length(m, units).text();
}

std::string word(Kind kind) {
    std::string s(name_of(kind));
    std::replace(s.begin(), s.end(), '_', ' ');
    return s;
}

// What an eye takes each for.
std::vector<Kind> alike(Kind kind) {
    switch (kind) {
    case Kind::boulder:
        return {Kind::stump, Kind::rock_pile, Kind::fish};
    case Kind::stump:
        return {Kind::boulder, Kind::fish, Kind::brush};
    case Kind::log:
        return {Kind::ledge, Kind::built, Kind::fish};
    case Kind::rock_pile:
        return {Kind::boulder, Kind::brush, Kind::weeds};
    case Kind::tree:
        return {Kind::brush, Kind::weeds, Kind::rock_pile};
    case Kind::brush:
        return {Kind::tree, Kind::weeds, Kind::rock_pile};
    default:
        break;
    }
    return {Kind::boulder, Kind::stump, Kind::bait_ball};
}

// By what an eye knows it.
std::string signs_of(Kind kind) {
    static const std::map<Kind, std::string> signs{
        {Kind::boulder, told("one bright rim, a plain shadow as wide as itself")},
        {Kind::stump, told("a small bright foot and a shadow like a post, longer than wide")},
        {Kind::log, told("a straight bright line with an even thin shadow")},
        {Kind::rock_pile, told("many grains with one rim and many small shadows")},
        {Kind::tree, told("a stem and rays of branches, a long torn shadow")},
        {Kind::brush, told("a tangle of grains, a low torn shadow")},
        {Kind::built, told("straight edges and corners, an even shadow")},
        {Kind::weeds, told("a soft cloud of fine grains, a ragged edge and hardly a shadow")},
        {Kind::fish, told("a small bright mark with its shadow away from it")},
        {Kind::fish_group, told("several small bright marks, their shadows away from them")},
        {Kind::bait_ball, told("a bright cloud off the bottom with a soft shadow away from it")}};
    const auto sign = signs.find(kind);
    return sign == signs.end() ? word(kind) : told("{}: {}", word(kind), sign->second);
}

// As the stand-in reads it: a boat that wanders little, over a bottom of one ground.
std::string scene_of(const PracticeLake &lake, std::uint32_t seed, double suspended_db, double undulation_m,
                     const json &features, const json &things, const json &route) {
    const json scene{
        {"name", "Practice"},
        {"seed", seed},
        {"origin", {{"latitude", lake.origin.latitude_deg}, {"longitude", lake.origin.longitude_deg}}},
        {"water", {{"temperature_c", 14}, {"suspended_db", suspended_db}}},
        {"terrain",
         {{"size_m", {100, 110}},
          {"depth_m", lake.depth_m},
          {"ground", lake.ground},
          {"undulation_m", undulation_m},
          {"features", features}}},
        {"things", things},
        {"boat",
         {{"route", route},
          {"speed_m_s", lake.speed_m_s},
          {"gnss_wander_m", 0.05},
          {"gnss_noise_m", 0.02},
          {"heading_noise_deg", 0.2},
          {"transducer", {antenna_off_m, 0, lake.transducer_m}},
          {"antenna", {antenna_off_m, 0, -1}},
          {"water_level_m", 0}}}};
    return scene.dump();
}

} // namespace

std::string_view name_of(Skill skill) {
    static constexpr std::array<std::string_view, skill_count> names{
        "height", "stands", "distance", "kind", "ground", "cast", "levels", "uphill"};
    return names[static_cast<std::size_t>(skill)];
}

double PracticeLake::altitude_on(bool second_pass) const {
    return altitude_m() + (second_pass ? -1 : 1) * passes_off_m * std::tan(rises_deg / degrees_per_radian);
}

PracticeLake sloping_lake(std::uint32_t seed, int difficulty) {
    std::mt19937 random(seed * 40503U + 7);
    const auto share = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(random);
    };
    constexpr double least_altitude_m = 2, middle_m = 50, north_m = 40, lane_m = 50;
    const std::array<double, 3> steep{10, 7.5, 5};
    PracticeLake lake;
    lake.origin = {46.5, -21.25};
    lake.ground = random() % 2 == 0 ? "silt" : "sand";
    lake.depth_m = share(4.5, 6);
    lake.passes_off_m = share(7, 9);
    lake.track_east_m = middle_m - lake.passes_off_m;
    const double most = std::atan((lake.altitude_m() - least_altitude_m) / lake.passes_off_m) *
                        degrees_per_radian,
                 rise = std::min(most, steep[static_cast<std::size_t>(std::clamp(difficulty, 0, 2))] *
                                           share(0.9, 1.1));
    const auto way = random() % 3;
    lake.rises_deg = way == 0 ? rise : way == 1 ? -rise : 0;
    PracticeThing t;
    t.kind = Kind::boulder;
    t.at = {middle_m, north_m};
    t.length_m = share(0.9, 1.3);
    t.height_m = share(0.6, 0.9);
    lake.things = {t};
    // The longest shadow still lies within the picture.
    const double lowest = std::min(lake.altitude_on(false), lake.altitude_on(true));
    lake.range_m = std::clamp(
        2 + std::hypot(lake.passes_off_m, lake.altitude_m()) * lowest / (lowest - t.height_m), 16.0, 28.0);
    lake.length_m = 2 * lane_m + 2 * lake.passes_off_m;
    json features = json::array();
    if (lake.rises_deg != 0)
        features.push_back({{"type", "slope"},
                            {"at", {middle_m, north_m}},
                            {"bearing_deg", lake.rises_deg > 0 ? 270 : 90},
                            {"slope_deg", std::fabs(lake.rises_deg)}});
    const double west = lake.track_east_m, east = middle_m + lake.passes_off_m, south = north_m - lane_m / 2,
                 north = north_m + lane_m / 2;
    lake.scene = scene_of(lake, seed, -78, 0.02, features,
                          json::array({{{"kind", "boulder"},
                                        {"at", {middle_m, north_m}},
                                        {"length_m", t.length_m},
                                        {"height_m", t.height_m}}}),
                          json{{west, south}, {west, north}, {east, north}, {east, south}});
    return lake;
}

PracticeLake practice_lake(std::uint32_t seed, int difficulty) {
    std::mt19937 random(seed * 2654435761U + static_cast<std::uint32_t>(difficulty));
    const auto share = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(random);
    };
    PracticeLake lake;
    lake.origin = {46.5, -21.25};
    const std::array<const char *, 3> grounds{"silt", "sand", "gravel"};
    lake.ground = grounds[random() % (difficulty == 0 ? 2 : 3)];
    lake.depth_m = share(3, 6.5);
    lake.range_m = std::clamp(4.5 * lake.depth_m, 14.0, 28.0);
    json things = json::array();
    constexpr std::array<Kind, 7> kinds{Kind::boulder, Kind::stump, Kind::log, Kind::rock_pile,
                                        Kind::tree,    Kind::brush, Kind::fish};
    for (int i = 0; i < 5; ++i) {
        PracticeThing t;
        t.kind = kinds[random() % kinds.size()];
        const double side = random() % 2 == 0 ? -1 : 1,
                     aside = share(std::max(2.5, 0.6 * lake.depth_m), 0.75 * lake.range_m);
        t.at = {lake.track_east_m + side * aside, 18 + 14.0 * i + share(-2, 2)};
        const json at{t.at.east_m, t.at.north_m};
        const double most = 0.55 * lake.depth_m;
        switch (t.kind) {
        case Kind::boulder:
            t.length_m = share(0.7, 1.6);
            t.height_m = std::min(most, t.length_m * share(0.5, 0.8));
            things.push_back(
                {{"kind", "boulder"}, {"at", at}, {"length_m", t.length_m}, {"height_m", t.height_m}});
            break;
        case Kind::stump:
            t.length_m = share(0.4, 0.8);
            t.height_m = std::min(most, share(0.5, 1.3));
            things.push_back(
                {{"kind", "stump"}, {"at", at}, {"width_m", t.length_m}, {"height_m", t.height_m}});
            break;
        case Kind::log:
            t.length_m = share(2.5, 5);
            t.height_m = share(0.3, 0.6);
            things.push_back({{"kind", "log"},
                              {"path",
                               {{t.at.east_m, t.at.north_m - t.length_m / 2},
                                {t.at.east_m + 0.5, t.at.north_m + t.length_m / 2}}},
                              {"width_m", t.height_m}});
            break;
        case Kind::rock_pile:
            t.length_m = share(2, 3.5);
            t.height_m = 0.6;
            things.push_back({{"kind", "rock_pile"},
                              {"at", at},
                              {"radius_m", t.length_m / 2},
                              {"count", 30},
                              {"largest_m", 0.9}});
            break;
        case Kind::tree:
        case Kind::brush:
            t.length_m = share(1.8, 3);
            t.height_m = std::min(most, t.kind == Kind::tree ? share(1.6, 2.8) : share(0.7, 1.3));
            things.push_back({{"kind", t.kind == Kind::tree ? "tree" : "brush"},
                              {"at", at},
                              {"height_m", t.height_m},
                              {"spread_m", t.length_m}});
            break;
        default:
            t.floats = true;
            t.length_m = share(0.4, 0.8);
            t.height_m = std::min(most, share(0.6, 2));
            things.push_back(
                {{"kind", "fish"}, {"at", at}, {"above_bottom_m", t.height_m}, {"length_m", t.length_m}});
        }
        lake.things.push_back(t);
    }
    const double north = 5 + lake.length_m;
    lake.scene =
        scene_of(lake, seed, difficulty == 2 ? -70 : -78, 0.02 + 0.03 * difficulty, json::array(), things,
                 json{{lake.track_east_m, 5}, {lake.track_east_m, north}, {lake.track_east_m + 1, north}});
    return lake;
}

ShadowFigures shadow_figures(const PracticeLake &lake, const PracticeThing &t) {
    const double a = lake.altitude_m(), g = std::fabs(lake.aside_m(t));
    if (t.height_m >= a)
        return {};
    // Similar triangles: the ray over the top meets the bottom where the shadow ends.
    const double end = g * a / (a - t.height_m);
    return {std::hypot(g, a - t.height_m), std::hypot(end, a)};
}

namespace {

std::string cast_told(const Cast &cast, UnitSystem units) {
    return told("{} o'clock, {}", cast.off_bow.clock(), print_length(cast.distance_m, units, 0).text());
}

// The circle is drawn about the bow; who sits elsewhere casts another way.
PracticeQuestion cast_question(std::mt19937 &random, UnitSystem units) {
    const auto share = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(random);
    };
    PracticeQuestion q;
    q.skill = Skill::cast;
    CastRiddle r;
    r.boat = usual_boat();
    r.seat = r.boat.seats.size() - 1;
    const auto &seat = r.boat.seats[r.seat];
    const double side = random() % 2 == 0 ? -1 : 1;
    r.at = of_polar({side * share(35, 150), share(7, 14)});
    const auto from_seat = cast_from(r.boat, seat, r.at);
    const auto seen = polar_of(r.at);
    Cast as_shown, mirrored = from_seat, wrong_way = from_seat;
    as_shown.off_bow.degrees = seen.off_bow_deg;
    as_shown.distance_m = seen.distance_m;
    mirrored.off_bow.degrees = -mirrored.off_bow.degrees;
    // As if the seat sat ahead of the bow by as much as it sits behind it.
    const auto own = from_head(r.boat, seat.at);
    const auto back = polar_of({r.at.ahead_m + own.ahead_m, r.at.right_m + own.right_m});
    wrong_way.off_bow.degrees = back.off_bow_deg;
    wrong_way.distance_m = back.distance_m;
    q.asks = told("The circle shows it at {}. Where does who sits at the {} cast?",
                  cast_told(as_shown, units), seat.name);
    for (const auto &c : {from_seat, as_shown, wrong_way, mirrored})
        if (const auto words = cast_told(c, units);
            std::find(q.choices.begin(), q.choices.end(), words) == q.choices.end())
            q.choices.push_back(words);
    for (double more = 1.25; q.choices.size() < 4; more += 0.25) {
        auto c = from_seat;
        c.distance_m *= more;
        if (const auto words = cast_told(c, units);
            std::find(q.choices.begin(), q.choices.end(), words) == q.choices.end())
            q.choices.push_back(words);
    }
    q.explains = told(
        "the circle's middle is the head at the bow; that seat is {} farther aft, so what lies there is {} "
        "ahead and {} to the side of it: {}",
        length(seat.at.behind_bow_m - r.boat.head.behind_bow_m, units),
        length(r.at.ahead_m - from_head(r.boat, seat.at).ahead_m, units),
        length(std::fabs(r.at.right_m - from_head(r.boat, seat.at).right_m), units),
        cast_told(from_seat, units));
    q.riddle = std::move(r);
    return q;
}

PracticeQuestion levels_question(std::mt19937 &random) {
    PracticeQuestion q;
    q.skill = Skill::levels;
    q.asks = told("Is the picture too hot, too dark, or right?");
    q.choices = {told("too hot"), told("too dark"), told("right")};
    q.right = random() % 3;
    // A window that lies lower shows everything brighter.
    constexpr double off_db = 17;
    q.window_off_db = q.right == 0 ? -off_db : q.right == 1 ? off_db : 0;
    q.explains = q.right == 0 ? told("the bottom itself stands at the top of the scale: what is brighter "
                                     "than it has no room left")
                 : q.right == 1
                     ? told("the bottom is as black as shadows are: what is darker than it has no room left")
                     : told("the bottom lies in the middle of the scale, with room for echoes over it and "
                            "for shadows under it");
    return q;
}

// From one place of the boat a plane's tilt changes nothing: grazing angles are alike on both sides at a
// distance, and shadows end where they would. But who passes a thing on both sides hears it from two
// altitudes: up the slope from deeper water at a steeper angle, down the slope from shallower water at a
// flatter one.
PracticeQuestion uphill_question(const PracticeLake &lake, UnitSystem units) {
    const auto &t = lake.things.front();
    PracticeQuestion q;
    q.skill = Skill::uphill;
    q.asks = told("One stone, passed on either side. In which picture does the sonar look uphill?");
    q.choices = {told("in the left one"), told("in the right one"), told("in none: it is level")};
    q.right = lake.rises_deg > 0 ? 0 : lake.rises_deg < 0 ? 1 : 2;
    const double slope = std::fabs(lake.rises_deg),
                 flat = std::atan2(lake.altitude_m(), lake.passes_off_m) * degrees_per_radian,
                 top_m = std::hypot(lake.passes_off_m, lake.altitude_m() - t.height_m);
    const auto shadow = [&](double altitude) {
        return length(top_m * t.height_m / (altitude - t.height_m), units);
    };
    if (q.right == 2) {
        q.explains = told("both passes ride {} over the bottom and meet it at {:.0f}°: its shadow is {} long "
                          "along the sound on both",
                          length(lake.altitude_m(), units), flat, shadow(lake.altitude_m()));
        return q;
    }
    const double up = lake.altitude_on(q.right == 1), down = lake.altitude_on(q.right == 0);
    q.explains =
        told("uphill is looked at from deeper water, {} over the bottom, and meets it at {:.0f}°: bright, "
             "the shadow {} long; "
             "downhill from {} at {:.0f}°: weaker, the shadow {} long, along the sound",
             length(up, units), flat + slope, shadow(up), length(down, units), flat - slope, shadow(down));
    return q;
}

} // namespace

PracticeQuestion practice_question(const PracticeLake &lake, std::size_t thing, Skill skill,
                                   std::uint32_t seed, UnitSystem units) {
    std::mt19937 random(seed);
    const auto &t = lake.things.at(thing);
    const double a = lake.altitude_m(), g = std::fabs(lake.aside_m(t));
    const auto f = shadow_figures(lake, t);
    if (skill == Skill::uphill) {
        auto q = uphill_question(lake, units);
        q.thing = thing;
        return q;
    }
    if (skill == Skill::cast || skill == Skill::levels) {
        auto q = skill == Skill::cast ? cast_question(random, units) : levels_question(random);
        q.thing = thing;
        if (skill == Skill::levels)
            return q;
        const auto truth = q.choices[0];
        std::shuffle(q.choices.begin(), q.choices.end(), random);
        q.right = static_cast<std::size_t>(std::find(q.choices.begin(), q.choices.end(), truth) -
                                           q.choices.begin());
        return q;
    }
    // A fish has neither a base on the bottom nor a shadow at its foot.
    if (t.floats && skill == Skill::height)
        skill = Skill::stands;
    PracticeQuestion q;
    q.skill = skill;
    q.thing = thing;
    // Figures that an eye can tell apart, by the share that they differ.
    const auto figures = [&](double truth, double apart, const std::vector<double> &wrong) {
        // As they are printed: to a tenth.
        const auto shown = [&](double m) {
            return std::round(10 * (units == UnitSystem::feet ? feet_from_metres(m) : m)) / 10;
        };
        std::vector<double> all{truth};
        const auto take = [&](double w) {
            if (all.size() < 4 && shown(w) > 0 && std::all_of(all.begin(), all.end(), [&](double v) {
                    return std::fabs(shown(v) - shown(w)) > apart * std::max(shown(v), shown(w));
                }))
                all.push_back(w);
        };
        for (const double w : wrong)
            take(w);
        for (double times = 1.6; all.size() < 4 && times < 40; times += 0.4)
            take(truth * times);
        for (const double v : all)
            q.choices.push_back(length(v, units));
    };
    switch (skill) {
    case Skill::height:
        q.asks = told("How tall is it?");
        figures(t.height_m, 0.15, {t.height_m * 2, t.height_m / 2, f.shadow_end_m - f.top_m});
        q.explains = told("its top lies at {} along the sound and its shadow ends at {}; the transducer "
                          "rides {} over the bottom: {} × ({} − "
                          "{}) ÷ {} = {}",
                          length(f.top_m, units), length(f.shadow_end_m, units), length(a, units),
                          length(a, units), length(f.shadow_end_m, units), length(f.top_m, units),
                          length(f.shadow_end_m, units), length(t.height_m, units));
        break;
    case Skill::stands:
        q.asks = told("Does it stand on the bottom, or does it float?");
        q.choices = {told("it stands"), told("it floats")};
        q.right = t.floats ? 1 : 0;
        q.explains = t.floats
                         ? told("between the echo and its shadow there is lit bottom: it hangs {} over it",
                                length(t.height_m, units))
                         : told("the shadow begins at the echo itself: nothing lit lies between them");
        return q;
    case Skill::distance: {
        q.asks = told("How far aside of the boat does it truly lie, over ground?");
        const double slant = std::hypot(g, a - (t.floats ? t.height_m : 0));
        figures(g, 0.03, {slant, slant + 0.5 * a, std::max(0.5, g - 0.35 * a)});
        q.explains =
            told("along the sound it lies at {}, but that way slants down {}: over ground √({}² − {}²) = {}",
                 length(slant, units), length(a - (t.floats ? t.height_m : 0), units), length(slant, units),
                 length(a - (t.floats ? t.height_m : 0), units), length(g, units));
        break;
    }
    case Skill::kind: {
        q.asks = told("What is it?");
        q.choices = {word(t.kind)};
        for (const auto k : alike(t.kind))
            q.choices.push_back(word(k));
        q.explains = signs_of(t.kind);
        break;
    }
    case Skill::ground:
        q.asks = told("What is the bottom about it?");
        q.choices = {lake.ground};
        for (const char *other : {"silt", "sand", "gravel", "rock"})
            if (other != lake.ground)
                q.choices.emplace_back(other);
        q.explains = told("{}: {}", lake.ground,
                          lake.ground == "silt"   ? told("dark and smooth to the edge")
                          : lake.ground == "sand" ? told("even and of middling brightness")
                                                  : told("bright, with a grain of its own"));
        break;
    case Skill::cast:
    case Skill::levels:
    case Skill::uphill:
        break;
    }
    // In any order.
    const auto truth = q.choices[0];
    std::shuffle(q.choices.begin(), q.choices.end(), random);
    q.right =
        static_cast<std::size_t>(std::find(q.choices.begin(), q.choices.end(), truth) - q.choices.begin());
    return q;
}

bool teaches(const Mark &m) {
    return m.confirmed != Confirmed::no && m.turned_out != Kind::none && !m.chip.empty();
}

PracticeQuestion own_question(const Mark &m, std::uint32_t seed) {
    std::mt19937 random(seed);
    PracticeQuestion q;
    q.skill = Skill::kind;
    q.asks = told("What is it?");
    q.choices = {word(m.turned_out)};
    for (const auto k : alike(m.turned_out))
        if (const auto other = word(k);
            std::find(q.choices.begin(), q.choices.end(), other) == q.choices.end())
            q.choices.push_back(other);
    std::string how;
    switch (m.confirmed) {
    case Confirmed::eye:
        how = told("it was seen by eye");
        break;
    case Confirmed::camera:
        how = told("a camera showed it");
        break;
    case Confirmed::diver:
        how = told("a diver saw it");
        break;
    case Confirmed::rod:
    case Confirmed::no:
        how = told("a rod felt it");
        break;
    }
    q.explains = how + "; " + signs_of(m.turned_out);
    q.picture = *m.chip.look();
    const auto truth = q.choices[0];
    std::shuffle(q.choices.begin(), q.choices.end(), random);
    q.right =
        static_cast<std::size_t>(std::find(q.choices.begin(), q.choices.end(), truth) - q.choices.begin());
    return q;
}

void PracticeProgress::answer(Skill skill, bool right) {
    constexpr int boxes = 5;
    auto &s = skills[static_cast<std::size_t>(skill)];
    ++questions;
    ++s.asked;
    s.right += right;
    s.box = right ? std::min(boxes, s.box + 1) : 1;
    s.last = questions;
}

Skill PracticeProgress::next() const {
    std::size_t best = 0;
    double most = -1e9;
    for (std::size_t i = 0; i < skill_count; ++i) {
        const auto &s = skills[i];
        // By how much it is overdue, in units of its own pause.
        const double pause = std::pow(2.0, s.box - 1),
                     overdue = s.asked == 0 ? 1e6 - static_cast<double>(i)
                                            : static_cast<double>(questions - s.last) / pause;
        if (overdue > most) {
            most = overdue;
            best = i;
        }
    }
    return static_cast<Skill>(best);
}

std::string PracticeProgress::text() const {
    std::string out = fmt::format("{}", questions);
    for (const auto &s : skills)
        out += fmt::format(" {} {} {} {}", s.asked, s.right, s.box, s.last);
    return out;
}

PracticeProgress PracticeProgress::of(const std::string &text) {
    PracticeProgress p;
    std::istringstream in(text);
    in >> p.questions;
    bool lawful = !in.fail();
    // What was written before there were all of these skills tells of the first ones.
    constexpr std::size_t first_skills = 5;
    for (std::size_t i = 0; i < skill_count && lawful; ++i) {
        auto &s = p.skills[i];
        if (i >= first_skills && (in >> std::ws).eof())
            break;
        in >> s.asked >> s.right >> s.box >> s.last;
        lawful = !in.fail();
    }
    for (const auto &s : p.skills)
        lawful = lawful && s.right <= s.asked && s.box >= 1 && s.box <= 5 && s.last <= p.questions;
    return lawful ? p : PracticeProgress();
}

} // namespace heron
