#include "reading/join.hpp"

#include "reading/assign.hpp"
#include "reading/large.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr double leg_turn_deg = 60, leg_turn_s = 2;
constexpr double usual_nothing = 0.4;   // among contacts that are told at all
constexpr double shared_position = 0.6; // of the variance: passes share the wander of one receiver
constexpr double farthest_m = 4.5;

double apart(const Contact &a, const Contact &b) {
    if (a.place && b.place)
        return leg_between(a.place->place, b.place->place).distance_m;
    return a.side == b.side ? std::hypot(a.run_m - b.run_m, a.ground_m.value - b.ground_m.value) : 1e9;
}

double size_of(const Contact &a, const Contact &b) {
    return std::max(a.length_m.value_or(0.5), b.length_m.value_or(0.5));
}

bool families_differ(const Contact &a, const Contact &b) {
    return a.family != b.family && a.family != Family::unsure && b.family != Family::unsure;
}

// Whether one of two is the shadow of the other, found by itself.
bool shadow_of(const Contact &dark, const Contact &thing) {
    if (dark.zone != Zone::dark || thing.zone != Zone::ground || dark.side != thing.side ||
        !thing.behind.found)
        return false;
    const auto rows = static_cast<double>(std::min(dark.last_row, thing.last_row)) -
                      static_cast<double>(std::max(dark.first_row, thing.first_row));
    const double least = std::min(static_cast<double>(dark.last_row - dark.first_row),
                                  static_cast<double>(thing.last_row - thing.first_row));
    const double middle = (dark.behind.start_m + dark.behind.end_m) / 2;
    // Of what lies aslant the shadow ends at another range on every line.
    const double farther = 0.4 + 0.3 * std::max(0.0, thing.length_m.value_or(0) - 1);
    return rows >= 0.3 * least && middle > thing.slant_m && middle < thing.behind.end_m + farther;
}

// Pits of one colony, and parts of one group, lie close enough to be one.
bool parts_of_one(const Contact &a, const Contact &b) {
    constexpr double between_pits_m = 3, between_groups_m = 0.8;
    const double sizes = (a.length_m.value_or(0.5) + b.length_m.value_or(0.5)) / 2, d = apart(a, b);
    if (a.kind == Kind::bed && b.kind == Kind::bed)
        return d < between_pits_m + sizes;
    // A wall met end-on shows its far parts as echoes of their own.
    constexpr double long_wall_m = 6, beyond_its_end_m = 1.5;
    if (a.kind == Kind::built && b.kind == Kind::built && a.side == b.side &&
        std::max(a.length_m.value_or(0), b.length_m.value_or(0)) >= long_wall_m)
        return d < sizes + beyond_its_end_m;
    const auto swarm = [](const Contact &c) {
        return c.kind == Kind::fish_group || c.kind == Kind::bait_ball;
    };
    const bool fish = a.family == Family::fish && b.family == Family::fish;
    return fish && (swarm(a) || swarm(b)) && a.zone == b.zone && d < between_groups_m + sizes;
}

// A colony lies in the middle of its pits and is as long as they lie apart.
void grow_bed(Contact &bed, const Contact &pit) {
    const double d = apart(bed, pit), own = bed.length_m.value_or(0.5) / 2,
                 other = pit.length_m.value_or(0.5) / 2;
    // On the line from the bed's middle to the pit.
    const double from = std::min(-own, d - other), to = std::max(own, d + other), middle = (from + to) / 2;
    if (bed.place && pit.place && d > 0.1) {
        const LocalPlane plane(bed.place->place);
        const auto at = plane.to_plane(pit.place->place);
        bed.place->place = plane.to_globe({middle / d * at.east_m, middle / d * at.north_m});
        bed.ground_m.value += std::clamp(middle / d, 0.0, 1.0) * (pit.ground_m.value - bed.ground_m.value);
    }
    bed.length_m = to - from;
    bed.first_row = std::min(bed.first_row, pit.first_row);
    bed.last_row = std::max(bed.last_row, pit.last_row);
}

// What is told twice in one look.
std::vector<Contact> without_doubles(std::vector<Contact> contacts) {
    // The guide's word goes before any chance.
    std::sort(contacts.begin(), contacts.end(), [](const Contact &a, const Contact &b) {
        return std::pair(a.said.has_value(), a.confidence) > std::pair(b.said.has_value(), b.confidence);
    });
    std::vector<Contact> kept;
    for (auto &c : contacts) {
        const bool doubled = std::any_of(kept.begin(), kept.end(), [&](Contact &k) {
            // What hangs together over many metres was joined before.
            if (c.large || k.large)
                return false;
            // A ledge is more than what lies on it.
            if (c.leg != k.leg || (c.zone == Zone::track) != (k.zone == Zone::track))
                return false;
            if (shadow_of(c, k) || shadow_of(k, c))
                return true;
            if (c.zone != Zone::track && parts_of_one(c, k)) {
                if (k.kind == Kind::bed && c.confidence > 0.5)
                    grow_bed(k, c);
                // The longer one is the wall.
                if (k.kind == Kind::built && c.kind == Kind::built && !k.said &&
                    c.length_m.value_or(0) > k.length_m.value_or(0))
                    std::swap(k, c);
                return true;
            }
            double reach = 1.2 + size_of(c, k) / 2.5;
            // Under the boat both sides may hear it.
            if (c.side != k.side)
                reach += std::min(1.2, 0.6 * std::hypot(c.ground_m.sd, k.ground_m.sd) + 0.5);
            if (families_differ(c, k))
                reach *= 0.6;
            return apart(c, k) < reach;
        });
        if (!doubled)
            kept.push_back(std::move(c));
    }
    // A bed that has grown may reach another.
    for (std::size_t i = 0; i < kept.size(); ++i)
        for (std::size_t j = i + 1; kept[i].kind == Kind::bed && j < kept.size();)
            if (kept[j].leg == kept[i].leg && kept[j].kind == Kind::bed && parts_of_one(kept[i], kept[j])) {
                grow_bed(kept[i], kept[j]);
                kept.erase(kept.begin() + static_cast<std::ptrdiff_t>(j));
                j = i + 1;
            } else {
                ++j;
            }
    // Nothing but ground, it was said: neither it nor what doubled it is there.
    std::erase_if(kept, [](const Contact &k) { return k.said == Kind::none; });
    return kept;
}

// The same of two crossings of what may be one ledge or one channel. It runs on from leg to leg, and may do
// so aslant: as far on along the legs as aside and a little more, but it falls the same way.
double misfit_of_drops(const Contact &a, const Contact &b) {
    constexpr double farthest_aside_m = 30, unlike = 2, most_turned_deg = 50;
    if (a.kind != b.kind || !a.place || !b.place || !a.heading_deg || !b.heading_deg || !a.height_m ||
        !b.height_m)
        return 10;
    const auto towards = [](const Contact &c) {
        return *c.heading_deg + (c.kind == Kind::ledge && c.falls_m < 0 ? 180 : 0);
    };
    double turned = std::fabs(wrap_180(towards(a) - towards(b)));
    if (a.kind != Kind::ledge)
        turned = std::min(turned, 180 - turned);
    const double high = std::fabs(a.height_m->value), other = std::fabs(b.height_m->value);
    if (turned > most_turned_deg || std::max(high, other) > unlike * std::min(high, other))
        return 10;
    const auto leg = leg_between(a.place->place, b.place->place);
    const double off = (leg.bearing_deg - towards(a)) / degrees_per_radian;
    const double aside = std::fabs(leg.distance_m * std::sin(off)),
                 on = std::fabs(leg.distance_m * std::cos(off));
    const double allowed = 2 + 1.2 * aside;
    if (aside > farthest_aside_m || on > allowed)
        return 10;
    return 0.4 * aside / farthest_aside_m + 0.4 * on / allowed +
           0.2 * std::fabs(std::log(high / other)) / std::log(unlike);
}

// How ill two contacts of different legs go together: 1 is the limit.
double misfit(const Contact &a, const Contact &b) {
    if (a.large || b.large)
        return 10; // joined before
    if ((a.zone == Zone::track) != (b.zone == Zone::track))
        return 10;
    if (a.zone == Zone::track)
        return misfit_of_drops(a, b);
    const double d = apart(a, b);
    // Positions wander within a recording; a long thing is met at another of its ends.
    const double allowed =
        std::hypot(0.8, 1.4 * std::hypot(std::min(1.5, a.ground_m.sd), std::min(1.5, b.ground_m.sd))) +
        size_of(a, b) / 3;
    if (d > std::min(farthest_m, 2 * allowed))
        return 10;
    double alike = 0;
    for (std::size_t k = 1; k < kind_count; ++k)
        alike += std::sqrt(std::max(0.0, a.chances[k] * b.chances[k]));
    double cost = d / (2 * allowed) + 0.35 * (1 - std::min(1.0, alike));
    if (families_differ(a, b))
        cost += 0.25;
    if (a.height_m && b.height_m && !a.height_at_least && !b.height_at_least) {
        const double off = std::fabs(a.height_m->value - b.height_m->value) /
                           std::max(0.1, std::hypot(a.height_m->sd, b.height_m->sd));
        cost += 0.08 * std::max(0.0, off - 1.5);
    }
    return cost;
}

// Where a leg ran down a ledge and up another not far on, it crossed a channel. It keeps the row of the first
// bank, by which a word of the guide finds it.
void pair_channels(std::vector<Contact> &contacts) {
    constexpr double widest_m = 40, unlike = 3;
    std::vector<std::size_t> drops;
    for (std::size_t i = 0; i < contacts.size(); ++i)
        if (contacts[i].zone == Zone::track &&
            (contacts[i].kind == Kind::ledge || contacts[i].said == Kind::channel))
            drops.push_back(i);
    std::sort(drops.begin(), drops.end(), [&](auto a, auto b) {
        return std::pair(contacts[a].leg, contacts[a].run_m) < std::pair(contacts[b].leg, contacts[b].run_m);
    });
    std::vector<std::size_t> gone;
    for (std::size_t i = 0; i + 1 < drops.size(); ++i) {
        auto &down = contacts[drops[i]];
        const auto &up = contacts[drops[i + 1]];
        const double width = up.run_m - down.run_m;
        if (down.leg != up.leg || down.falls_m <= 0 || up.falls_m >= 0 || width > widest_m ||
            std::max(down.falls_m, -up.falls_m) > unlike * std::min(down.falls_m, -up.falls_m))
            continue;
        const double deep = (down.falls_m - up.falls_m) / 2;
        const double sd =
            std::hypot(down.height_m ? down.height_m->sd : 0.2, (down.falls_m + up.falls_m) / 2);
        down.height_m = Estimate{-deep, sd};
        down.along_m = width;
        down.width_m = width;
        down.last_row = up.last_row;
        down.run_m = (down.run_m + up.run_m) / 2;
        down.depth_m = std::max(down.depth_m, up.depth_m) + deep / 2;
        if (down.place && up.place) {
            const LocalPlane plane(down.place->place);
            const auto to = plane.to_plane(up.place->place);
            down.place->place = plane.to_globe({to.east_m / 2, to.north_m / 2});
        }
        gone.push_back(drops[++i]);
        if (down.said)
            continue;
        // Both steps have to be there.
        auto &ledge = down.chances[static_cast<std::size_t>(Kind::ledge)];
        auto &channel = down.chances[static_cast<std::size_t>(Kind::channel)];
        channel = ledge * up.chances[static_cast<std::size_t>(Kind::ledge)];
        down.chances[0] = std::max(0.0, 1 - channel);
        ledge = 0;
        settle_kind(down);
    }
    std::sort(gone.rbegin(), gone.rend());
    for (const auto i : gone)
        contacts.erase(contacts.begin() + static_cast<std::ptrdiff_t>(i));
}

// A ledge lies in the middle of what was seen of it, and is at least as long as from one crossing to the
// farthest other.
void stretch_drop(Contact &drop, const std::vector<LocatedPoint> &crossings) {
    for (const auto &a : crossings)
        for (const auto &b : crossings) {
            const auto leg = leg_between(a.place, b.place);
            if (leg.distance_m <= drop.length_m.value_or(0))
                continue;
            drop.length_m = leg.distance_m;
            const LocalPlane plane(a.place);
            const auto to = plane.to_plane(b.place);
            drop.place->place = plane.to_globe({to.east_m / 2, to.north_m / 2});
        }
}

} // namespace

std::uint16_t LegCounter::leg_at(const Scan &scan, std::size_t row) {
    const auto time = scan.facts(row).time;
    // A few times a second is often enough.
    if (looked_ != 0 && seconds_between(looked_, time) < 0.3 && time >= looked_)
        return leg_;
    const double dt = looked_ == 0 ? 0 : std::clamp(seconds_between(looked_, time), 0.0, 2.0);
    looked_ = time;
    const auto fix = scan.nav.fix_at(time);
    if (!fix)
        return leg_;
    const double heading = fix->pose.heading_deg;
    if (!heading_)
        heading_ = heading;
    if (std::fabs(wrap_180(heading - *heading_)) < leg_turn_deg) {
        off_s_ = 0;
        // A leg may bend slowly.
        heading_ = wrap_360(*heading_ + std::clamp(wrap_180(heading - *heading_), -0.5, 0.5) * dt);
    } else if ((off_s_ += dt) >= leg_turn_s) {
        ++leg_;
        heading_ = heading;
        off_s_ = 0;
    }
    return leg_;
}

double power_of_look(double turned_deg) {
    return 0.45 + 0.3 * std::fabs(std::sin(turned_deg / degrees_per_radian));
}

void combine_passes(Contact &kept, const Contact &other) {
    Contact::Pass pass{other.row,    other.side, other.slant_m, other.ground_m.value, other.chances,
                       std::nullopt, 0};
    if (!other.maybe_fish.empty())
        pass.fish_chance = other.maybe_fish.front().chance;
    if (other.height_m)
        pass.height_m = other.height_m->value;
    const double power =
        power_of_look(kept.heading_deg && other.heading_deg ? *other.heading_deg - *kept.heading_deg : 0);
    double sum = 0;
    for (std::size_t k = 0; k < kind_count; ++k) {
        const double usual =
            k == 0 ? usual_nothing : (1 - usual_nothing) / static_cast<double>(kind_count - 1);
        sum += kept.chances[k] *= std::pow(std::max(1e-4, other.chances[k]) / usual, power);
    }
    for (auto &v : kept.chances)
        v /= sum;
    if (other.height_m && !other.height_at_least) {
        if (!kept.height_m || kept.height_at_least) {
            kept.height_m = other.height_m;
            kept.height_at_least = false;
        } else {
            const double a = 1 / (kept.height_m->sd * kept.height_m->sd),
                         b = 1 / (other.height_m->sd * other.height_m->sd);
            const double off = std::fabs(kept.height_m->value - other.height_m->value);
            kept.height_m = Estimate{(a * kept.height_m->value + b * other.height_m->value) / (a + b),
                                     std::max(1 / std::sqrt(a + b), off / 4)};
        }
    }
    if (kept.place && other.place) {
        const LocalPlane plane(kept.place->place);
        const auto to = plane.to_plane(other.place->place);
        const double va = std::pow(kept.position_sd_m(), 2), vb = std::pow(other.position_sd_m(), 2);
        const double share = va / std::max(1e-9, va + vb);
        kept.place->place = plane.to_globe({share * to.east_m, share * to.north_m});
        const double left = std::max(shared_position, 1 - share);
        kept.place->covariance.east_east *= left;
        kept.place->covariance.north_north *= left;
        kept.place->covariance.east_north *= left;
    } else if (!kept.place && other.place) {
        kept.place = other.place;
        kept.place_state = other.place_state;
    }
    ++kept.looks;
    kept.passes.push_back(pass);
}

std::vector<Contact> join_contacts(std::vector<Contact> contacts, double least_confidence) {
    pair_channels(contacts);
    join_large(contacts);
    contacts = without_doubles(std::move(contacts));
    std::stable_sort(contacts.begin(), contacts.end(),
                     [](const Contact &a, const Contact &b) { return a.leg < b.leg; });
    // Leg by leg: each contact to at most one thing known so far, each thing to at most one contact.
    std::vector<std::vector<Contact>> things;
    for (std::size_t from = 0; from < contacts.size();) {
        auto to = from;
        while (to < contacts.size() && contacts[to].leg == contacts[from].leg)
            ++to;
        const auto n = to - from, m = things.size();
        std::vector<double> cost(n * m, 10);
        bool any = false;
        for (std::size_t i = 0; i < n; ++i)
            for (std::size_t j = 0; j < m; ++j) {
                double least = 10;
                for (const auto &seen : things[j])
                    least = std::min(least, misfit(contacts[from + i], seen));
                cost[i * m + j] = least;
                any = any || least <= 1;
            }
        // Only what has a partner within reach takes part: assignments are cubic.
        std::vector<int> chosen(n, -1);
        if (any) {
            std::vector<std::size_t> rows, columns;
            for (std::size_t i = 0; i < n; ++i)
                if (std::any_of(cost.begin() + static_cast<std::ptrdiff_t>(i * m),
                                cost.begin() + static_cast<std::ptrdiff_t>((i + 1) * m),
                                [](double v) { return v <= 1; }))
                    rows.push_back(i);
            for (std::size_t j = 0; j < m; ++j)
                if (std::any_of(rows.begin(), rows.end(), [&](auto i) { return cost[i * m + j] <= 1; }))
                    columns.push_back(j);
            std::vector<double> small;
            for (const auto i : rows)
                for (const auto j : columns)
                    small.push_back(cost[i * m + j]);
            const auto pairs = assign(small, rows.size(), columns.size(), 1);
            for (std::size_t i = 0; i < rows.size(); ++i)
                if (pairs[i] >= 0)
                    chosen[rows[i]] = static_cast<int>(columns[static_cast<std::size_t>(pairs[i])]);
        }
        for (std::size_t i = 0; i < n; ++i)
            if (chosen[i] >= 0)
                things[static_cast<std::size_t>(chosen[i])].push_back(std::move(contacts[from + i]));
            else
                things.push_back({std::move(contacts[from + i])});
        from = to;
    }
    std::vector<Contact> kept;
    for (auto &looks : things) {
        std::stable_sort(looks.begin(), looks.end(),
                         [](const Contact &a, const Contact &b) { return a.confidence > b.confidence; });
        std::vector<LocatedPoint> crossings;
        for (const auto &l : looks)
            if (l.zone == Zone::track && l.place)
                crossings.push_back(*l.place);
        auto c = std::move(looks.front());
        for (std::size_t i = 1; i < looks.size(); ++i)
            combine_passes(c, looks[i]);
        if (looks.size() > 1)
            settle_kind(c);
        if (c.zone == Zone::track && c.place && crossings.size() > 1)
            stretch_drop(c, crossings);
        if (c.confidence >= least_confidence)
            kept.push_back(std::move(c));
    }
    std::sort(kept.begin(), kept.end(), [](const Contact &a, const Contact &b) { return a.row < b.row; });
    for (auto &k : kept)
        give_reasons(k);
    return kept;
}

} // namespace heron
