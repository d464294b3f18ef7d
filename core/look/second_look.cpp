#include "look/second_look.hpp"

#include "fault/told.hpp"
#include "reading/join.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace heron {
namespace {

constexpr double run_in_m = 35; // of the line, before and behind the thing
constexpr double least_chance = 0.03, least_gain = 0.02, settled = 0.9;
constexpr double clear_db = -74; // see WaterState::suspended_db
constexpr double stays = 0.7;    // chance that a fish is still there; common practice, no published source
constexpr double down_cone_share = 0.34; // of the depth: what a cone of 19° sees across

// What a kind is like where the contact itself does not tell.
struct Likeness {
    double length_m, height_m;
    bool floats, hollow;
    double long_share;   // chance that it looks long where cells are enough
    double grains_share; // that it looks like many grains
};

Likeness likeness(Kind k) {
    switch (k) {
    case Kind::fish:
        return {0.5, 0.8, true, false, 0.05, 0.05};
    case Kind::fish_group:
        return {2.5, 1.0, true, false, 0.05, 0.85};
    case Kind::bait_ball:
        return {2.5, 1.5, true, false, 0.05, 0.6};
    case Kind::boulder:
        return {1.0, 0.6, false, false, 0.05, 0.1};
    case Kind::rock_pile:
        return {2.5, 0.6, false, false, 0.1, 0.85};
    case Kind::stump:
        return {0.7, 0.7, false, false, 0.05, 0.15};
    case Kind::log:
        return {4.0, 0.4, false, false, 0.85, 0.1};
    case Kind::tree:
        return {2.5, 2.2, false, false, 0.2, 0.7};
    case Kind::brush:
        return {2.0, 0.9, false, false, 0.1, 0.75};
    case Kind::weeds:
        return {2.5, 0.4, false, false, 0.1, 0.6};
    case Kind::built:
        return {2.0, 0.9, false, false, 0.35, 0.1};
    case Kind::hole:
    case Kind::bed:
        return {2.5, 0.3, false, true, 0.05, k == Kind::bed ? 0.6 : 0.1};
    case Kind::channel:
    case Kind::ledge:
        return {6, 0.5, false, k == Kind::channel, 0.9, 0.05};
    case Kind::hump:
        return {4, 0.4, false, false, 0.1, 0.05};
    case Kind::none:
        break;
    }
    return {0.6, 0.1, false, false, 0.1, 0.2};
}

struct Hypothesis {
    Kind kind;
    double chance;
    Likeness like;
};

std::vector<Hypothesis> hypotheses(const Contact &c) {
    std::vector<Hypothesis> all;
    double sum = 0;
    for (std::size_t k = 0; k < kind_count; ++k) {
        if (c.chances[k] < least_chance)
            continue;
        Hypothesis h{static_cast<Kind>(k), c.chances[k], likeness(static_cast<Kind>(k))};
        const bool fishlike = family_of(h.kind) == Family::fish;
        if (h.kind != Kind::none && c.length_m && !fishlike)
            h.like.length_m = std::clamp(*c.length_m, 0.5 * h.like.length_m, 2 * h.like.length_m);
        if (h.kind != Kind::none && c.height_m && fishlike == (c.placement == Placement::suspended))
            h.like.height_m =
                std::clamp(std::fabs(c.height_m->value), 0.4 * h.like.height_m, 2.5 * h.like.height_m);
        all.push_back(h);
        sum += h.chance;
    }
    for (auto &h : all)
        h.chance /= sum;
    std::sort(all.begin(), all.end(),
              [](const Hypothesis &a, const Hypothesis &b) { return a.chance > b.chance; });
    if (all.size() > 5)
        all.resize(5);
    return all;
}

constexpr std::size_t outcomes = 2UL * 4 * 3 * 3; // echo × shadow × shape × stature
using Outcomes = std::array<double, outcomes>;

double share(double v) {
    return std::clamp(v, 0.02, 0.98);
}

// How tall for its length it is measured, in three parts: squat, middling, upright; log₂ of height over
// length with a doubt of `sd`. What throws no legible shadow of its own height tells nothing.
std::array<double, 3> stature(const Hypothesis &h, double sd) {
    if (h.kind == Kind::none || h.like.floats || h.like.hollow)
        return {1.0 / 3, 1.0 / 3, 1.0 / 3};
    const auto usual = likeness(h.kind);
    const double mean = std::log2(usual.height_m / usual.length_m);
    const auto under = [&](double limit) { return 0.5 * std::erfc((mean - limit) / sd / std::sqrt(2.0)); };
    const double squat = share(under(-1.2)), upright = share(1 - under(-0.35));
    return {squat, std::max(0.02, 1 - squat - upright), upright};
}

SmallestThing as_thing(const Hypothesis &h) {
    SmallestThing t;
    t.kind = h.like.floats ? SmallestThing::Kind::fish : SmallestThing::Kind::bush;
    t.length_m = h.like.length_m;
    t.height_m = h.like.height_m;
    return t;
}

// What a pass beside it shows of each kind.
Outcomes beside(const SecondLookRequest &q, const Hypothesis &h, const Setting &s, double depth,
                double ground, double *shows) {
    Outcomes o{};
    const auto thing = as_thing(h);
    const auto w = showing_of(q.gear, q.water, thing, s, depth, ground);
    const auto b = budget_at(q.gear, q.water, thing, s, depth, ground);
    const double there = h.like.floats ? stays : 1;
    double echo = w.echo, shadow = w.shadow;
    if (h.kind == Kind::none) {
        // Ground that shone once may shine again; it throws no shadow but by chance.
        echo = q.water.bottom == BottomType::rock ? 0.5 : q.water.bottom == BottomType::gravel ? 0.35 : 0.15;
        shadow = 0.03;
    } else if (h.like.hollow) {
        echo *= 0.5;
    }
    echo = share(echo * there);
    shadow = h.kind == Kind::none ? shadow : std::clamp(shadow * there, 0.1, 0.95);
    if (shows != nullptr)
        *shows = there * w.either;
    // How the dark lies: a gap of less than pulse and beam is not seen.
    std::array<double, 4> dark{}; // none, touching, standing off, ahead
    const double altitude = std::max(0.3, depth - q.gear.draught_m);
    if (h.like.hollow) {
        dark = {1 - shadow, 0.15 * shadow, 0.05 * shadow, 0.8 * shadow};
    } else if (h.like.floats) {
        const double up = std::min(h.like.height_m, 0.8 * altitude), top = std::hypot(ground, altitude - up);
        const double gap = top * up / (altitude - up);
        const double clear = w.in_strip ? 0.95 : std::clamp((gap - b.across_m - 0.3) / 0.8, 0.1, 0.95);
        // In the strip the echo itself tells that it floats.
        const double tells = w.in_strip ? std::max(shadow, echo) : shadow;
        dark = {1 - tells, (1 - clear) * tells, clear * tells, 0.01};
    } else {
        dark = {1 - shadow, 0.9 * shadow, 0.08 * shadow, 0.02 * shadow};
    }
    // What shape can be told by the cells on it.
    const double told = std::clamp((b.cells_on_thing - 1) / 8, 0.05, 0.95);
    const double is_long = h.like.long_share * told, grains = h.like.grains_share * told;
    const std::array<double, 3> shape{std::max(0.05, 1 - is_long - grains), share(is_long), share(grains)};
    // Beam and cell blur length and shadow; where the top is on a face does so too.
    const auto tall = stature(h, std::hypot(0.45, std::hypot(b.along_m / std::max(0.3, h.like.length_m),
                                                             2 * b.across_m / std::max(0.2, b.shadow_m))));
    double sum = 0;
    for (std::size_t e = 0; e < 2; ++e)
        for (std::size_t d = 0; d < 4; ++d)
            for (std::size_t f = 0; f < 3; ++f)
                for (std::size_t t = 0; t < 3; ++t) {
                    // Without an echo there is no shape to tell, without a touching shadow no stature.
                    const double form = e == 1 ? shape[f] : 1.0 / 3, high = d == 1 ? tall[t] : 1.0 / 3;
                    sum += o[((e * 4 + d) * 3 + f) * 3 + t] =
                        (e == 1 ? echo : 1 - echo) * std::max(0.005, dark[d]) * form * high;
                }
    for (auto &v : o)
        v /= sum;
    return o;
}

// Straight over it: the look down sees what stands on the bottom and what hangs in the water, if it is met.
Outcomes over(const SecondLookRequest &q, const Hypothesis &h, double depth, double *shows) {
    Outcomes o{};
    const double half = std::max(0.3, depth * down_cone_share / 2);
    const double met = std::erf(half / std::sqrt(2.0) / std::max(0.5, q.contact->position_sd_m()));
    const double there = h.like.floats ? stays : 1;
    const double seen = h.kind == Kind::none ? 0.05
                        : h.like.hollow      ? 0.5
                                             : std::clamp(0.5 + h.like.height_m, 0.3, 0.95);
    const double p = share(met * there * seen);
    if (shows != nullptr)
        *shows = p;
    const std::array<double, 4> where = h.kind == Kind::none ? std::array{0.9, 0.05, 0.04, 0.01}
                                        : h.like.hollow      ? std::array{1 - p, 0.1 * p, 0.05 * p, 0.85 * p}
                                        : h.like.floats      ? std::array{1 - p, 0.08 * p, 0.91 * p, 0.01 * p}
                                                        : std::array{1 - p, 0.93 * p, 0.05 * p, 0.02 * p};
    const std::array<double, 3> shape{std::max(0.05, 1 - 0.3 * h.like.long_share - 0.9 * h.like.grains_share),
                                      share(0.3 * h.like.long_share), share(0.9 * h.like.grains_share)};
    const auto tall = stature(h, 0.6);
    double sum = 0;
    for (std::size_t d = 0; d < 4; ++d)
        for (std::size_t f = 0; f < 3; ++f)
            for (std::size_t t = 0; t < 3; ++t)
                sum += o[((4 + d) * 3 + f) * 3 + t] =
                    where[d] * (d > 0 ? shape[f] : 1.0 / 3) * (d == 1 ? tall[t] : 1.0 / 3);
    for (auto &v : o)
        v /= sum;
    return o;
}

// The posterior of what is true, averaged over what may be seen; and how often one kind has nine in ten then.
struct Outlook {
    double truth = 0, settles = 0;
};
Outlook outlook(const std::vector<Hypothesis> &all, const std::vector<Outcomes> &likely, double power) {
    // Likelihoods to a power are no probabilities any more: they are made to sum to one again.
    std::vector<Outcomes> flat = likely;
    for (auto &o : flat) {
        double sum = 0;
        for (auto &v : o)
            sum += v = std::pow(v, power);
        for (auto &v : o)
            v /= sum;
    }
    Outlook r;
    for (std::size_t o = 0; o < outcomes; ++o) {
        double sum = 0, squares = 0, most = 0;
        for (std::size_t i = 0; i < all.size(); ++i) {
            const double joint = all[i].chance * flat[i][o];
            sum += joint;
            squares += joint * joint;
            most = std::max(most, joint);
        }
        if (sum <= 0)
            continue;
        r.truth += squares / sum;
        r.settles += most >= settled * sum ? sum : 0;
    }
    return r;
}

struct Line {
    GeoPoint start, end;
    bool free = true;
};

// The line that has the thing `ground` aside on a side when running `heading`.
Line line_of(const SecondLookRequest &q, double heading, Side side, double ground) {
    const LocalPlane plane(q.contact->place->place);
    const double h = heading / degrees_per_radian, out = side == Side::port ? 1 : -1;
    const double e = out * ground * std::cos(h), n = -out * ground * std::sin(h);
    const double de = std::sin(h), dn = std::cos(h);
    Line l;
    l.start = plane.to_globe({e - run_in_m * de, n - run_in_m * dn});
    l.end = plane.to_globe({e + run_in_m * de, n + run_in_m * dn});
    for (const auto &k : q.keep_off) {
        const auto p = plane.to_plane(k.place);
        const double along = std::clamp((p.east_m - e) * de + (p.north_m - n) * dn, -run_in_m, run_in_m);
        l.free = l.free && std::hypot(p.east_m - e - along * de, p.north_m - n - along * dn) > k.radius_m;
    }
    return l;
}

double depth_of(const SecondLookRequest &q) {
    return std::max(0.8, q.contact->depth_m);
}

bool may_be_fish(const std::vector<Hypothesis> &all) {
    return std::any_of(all.begin(), all.end(),
                       [](const Hypothesis &h) { return h.like.floats && h.chance > 0.2; });
}

std::string looks_like(const SecondLookRequest &q, const Hypothesis &h, const SecondLook &look,
                       UnitSystem units) {
    const auto m = [units](double v) { return print_length(v, units, v < 10 ? 1 : 0).text(); };
    if (h.kind == Kind::none)
        return told("nothing there, or a bright patch with no shadow");
    if (look.over)
        return h.like.hollow   ? told("the bottom line dips")
               : h.like.floats ? told("a mark in the water, some {} off the bottom", m(h.like.height_m))
                               : told("it rises some {} from the bottom line", m(h.like.height_m));
    const double altitude = std::max(0.3, depth_of(q) - q.gear.draught_m),
                 up = std::min(h.like.height_m, 0.9 * altitude);
    const double top = std::hypot(look.ground_m, altitude - up), behind = top * up / (altitude - up);
    if (h.like.hollow)
        return told("dark first, then a bright far edge");
    if (h.like.floats && top < altitude)
        return told("a grain in the dark strip of water");
    if (h.like.floats)
        return told("its dark some {} behind the bright", m(behind));
    if (h.like.height_m > 0.95 * altitude)
        return told("a shadow to the edge of the range");
    switch (h.kind) {
    case Kind::boulder:
        return told("one bright face, a round shadow of {}", m(behind));
    case Kind::stump:
        return told("a small bright, a narrow even shadow of {}", m(behind));
    case Kind::log:
        return told("a bright bar, a strip of shadow {} wide", m(behind));
    case Kind::rock_pile:
        return told("many grains, ragged shadows of {}", m(behind));
    case Kind::tree:
    case Kind::brush:
        return told("many grains, a shadow of {} full of holes", m(behind));
    case Kind::weeds:
        return told("a soft patch, hardly any shadow");
    case Kind::built:
        return told("straight edges, a shadow of {} with corners", m(behind));
    default:
        return told("a shadow of {} that touches it", m(behind));
    }
}

} // namespace

double sure_after(const SecondLookRequest &q, const SecondLook &pass) {
    const auto all = hypotheses(*q.contact);
    std::vector<Outcomes> likely;
    for (const auto &h : all)
        likely.push_back(pass.over ? over(q, h, depth_of(q), nullptr)
                                   : beside(q, h, pass.setting, depth_of(q), pass.ground_m, nullptr));
    return outlook(all, likely,
                   pass.over ? power_of_look(90) : power_of_look(pass.heading_deg - q.first_heading_deg))
        .truth;
}

std::optional<SecondLook> plan_second_look(const SecondLookRequest &q, UnitSystem units) {
    if (q.contact == nullptr || !q.contact->place || q.gear.bands.empty())
        return std::nullopt;
    const auto &c = *q.contact;
    const auto all = hypotheses(c);
    if (all.size() < 2)
        return std::nullopt;
    const double depth = depth_of(q);
    const bool clear = q.water.suspended_db <= clear_db && may_be_fish(all);
    // Of the thing itself: what it may reach up to.
    double tallest = c.height_m ? c.height_m->value + 2 * c.height_m->sd : 1.0;
    if (c.height_at_least)
        tallest = depth;
    for (const auto &h : all)
        if (h.chance > 0.15)
            tallest = std::max(tallest, h.like.height_m);
    const double water_over_it = depth - tallest;

    struct Tried {
        double sure;
        SecondLook look;
    };
    std::optional<Tried> best;
    const auto consider = [&](SecondLook look, const std::vector<Outcomes> &likely, double heading, Side side,
                              double power) {
        const auto [sure, settles] = outlook(all, likely, power);
        // Of passes worth about the same the nearer, the finer and the quicker is run: what is not computed
        // (a heading that jitters, noise, the wander of the positions) grows with distance.
        const double cost =
            look.over ? 0
                      : 0.004 * (2.2 - look.setting.speed_m_s) + 0.001 * look.ground_m +
                            0.004 * static_cast<double>(q.gear.bands.size() - 1 - look.setting.band);
        if (best && sure - cost <= best->sure)
            return;
        const auto line = line_of(q, heading, side, look.over ? 0 : look.ground_m);
        if (!line.free)
            return;
        look.heading_deg = heading;
        look.side = side;
        look.start = line.start;
        look.end = line.end;
        look.sure_then = sure;
        look.settles = settles;
        best = Tried{sure - cost, look};
    };
    std::vector<double> headings;
    for (int i = 0; i < 12; ++i)
        headings.push_back(std::fmod(q.first_heading_deg + 90 + 30.0 * i + 360, 360));

    // Beside it. What heading changes is how far looks depend on each other, and what stands in the way.
    std::vector<double> ranges;
    for (double r = q.gear.shortest_range_m; r <= q.gear.longest_range_m; r *= 1.3)
        if (r > 1.15 * depth && r < 6 * depth + 12)
            ranges.push_back(std::round(r));
    const double reach_up = c.position_sd_m();
    const double near = std::max({clear ? q.clear_water_stand_off_m : std::max(2.5, 0.6 * depth),
                                  2 * reach_up, water_over_it < 1.5 ? 8.0 : 0.0});
    for (std::size_t band = 0; band < q.gear.bands.size(); ++band)
        for (const double range : ranges)
            for (const double speed : {0.9, 1.3, 1.8})
                for (const double part : {0.2, 0.35, 0.5, 0.65, 0.8}) {
                    if (speed > q.fastest_m_s)
                        continue;
                    const double edge = std::sqrt(std::max(0.0, range * range - depth * depth));
                    SecondLook look;
                    look.ground_m = part * edge;
                    // It must stay in the picture although neither it nor the boat is quite where it is told.
                    if (look.ground_m < near || look.ground_m + 2 * reach_up > edge)
                        continue;
                    look.setting = {range, band, speed};
                    std::vector<Outcomes> likely;
                    for (const auto &h : all)
                        likely.push_back(beside(q, h, look.setting, depth, look.ground_m,
                                                likely.empty() ? &look.shows : nullptr));
                    for (const double heading : headings)
                        consider(look, likely, heading, Side::starboard,
                                 power_of_look(heading - q.first_heading_deg));
                }
    // Straight over it: never over what reaches near the surface, nor over fish in clear water.
    if (water_over_it > 1.5 && !clear) {
        SecondLook look;
        look.over = true;
        look.setting = {std::round(1.5 * depth + 3), q.gear.bands.size() - 1, 0.9};
        std::vector<Outcomes> likely;
        for (const auto &h : all)
            likely.push_back(over(q, h, depth, likely.empty() ? &look.shows : nullptr));
        for (const double heading : headings)
            consider(look, likely, heading, Side::starboard, power_of_look(90));
    }
    if (!best)
        return std::nullopt;
    auto look = best->look;
    for (const auto &h : all)
        look.sure_now += h.chance * h.chance;
    if (look.sure_then - look.sure_now < least_gain)
        return std::nullopt;
    look.thing = c.place->place;
    // Either way along the line shows the same: the end nearer to the boat is its start.
    if (q.boat && leg_between(*q.boat, look.end).distance_m < leg_between(*q.boat, look.start).distance_m) {
        std::swap(look.start, look.end);
        look.heading_deg = std::fmod(look.heading_deg + 180, 360);
        look.side = look.side == Side::port ? Side::starboard : Side::port;
    }
    for (std::size_t i = 0; i < 2; ++i)
        look.expected.push_back({all[i].kind, looks_like(q, all[i], look, units)});
    const auto m = [units](double v) { return print_length(v, units, 0).text(); };
    if (look.over)
        look.why = told("looking down sees whether it stands on the bottom, and how high");
    else if (all[0].like.floats || all[1].like.floats)
        look.why = told("at {} the dark of what floats stands clear of its echo", m(look.ground_m));
    else
        look.why = told("from another bearing at {}: a shadow that can be measured, and cells enough to tell "
                        "its shape",
                        m(look.ground_m));
    if (clear)
        look.why += told("; no nearer: in clear water fish leave as the boat comes");
    return look;
}

std::vector<KeepOff> near_surface(const std::vector<Contact> &contacts, double under_surface_m) {
    std::vector<KeepOff> all;
    for (const auto &c : contacts) {
        if (!c.place || c.family == Family::fish || c.confidence < 0.3)
            continue;
        const double height = c.height_m ? c.height_m->value + c.height_m->sd : 0;
        if (c.height_at_least || c.depth_m - height < under_surface_m)
            all.push_back({c.place->place, 4 + 2 * c.position_sd_m() + c.length_m.value_or(1) / 2,
                           std::string(name_of(c.kind))});
    }
    return all;
}

SteeringCue steer(const SecondLook &look, const GeoPoint &boat, double heading) {
    SteeringCue cue;
    const LocalPlane plane(look.thing);
    const auto at = plane.to_plane(boat), start = plane.to_plane(look.start);
    const double h = look.heading_deg / degrees_per_radian, de = std::sin(h), dn = std::cos(h);
    cue.to_go_m = -(at.east_m * de + at.north_m * dn);
    // Right of the line's heading is (cos h, −sin h).
    const double boat_right = (at.east_m - start.east_m) * dn - (at.north_m - start.north_m) * de;
    cue.off_line_m = -boat_right;
    cue.turn_deg = wrap_180(look.heading_deg - heading);
    cue.thing_m = std::hypot(at.east_m, at.north_m);
    const double bearing = std::atan2(-at.east_m, -at.north_m) * degrees_per_radian;
    cue.thing_deg = bearing < 0 ? bearing + 360 : bearing;
    const double off_bow = wrap_180(cue.thing_deg - heading);
    cue.side = off_bow < 0 ? Side::port : Side::starboard;
    cue.start_m = std::hypot(at.east_m - start.east_m, at.north_m - start.north_m);
    cue.start_deg =
        wrap_360(std::atan2(start.east_m - at.east_m, start.north_m - at.north_m) * degrees_per_radian);
    cue.away = std::fabs(cue.off_line_m) > 12 || cue.to_go_m > run_in_m + 15;
    cue.abeam = look.over ? cue.thing_m < 4
                          : std::fabs(std::fabs(off_bow) - 90) < 15 && cue.thing_m < look.setting.range_m;
    cue.on_line =
        std::fabs(cue.off_line_m) < std::max(2.0, 0.2 * look.ground_m) && std::fabs(cue.turn_deg) < 15;
    return cue;
}

} // namespace heron
