#include "marks/joining.hpp"

#include "fault/told.hpp"
#include "files/identifier.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <unordered_set>

namespace heron {
namespace {

constexpr double wander_m = 0.7, surest_m = 0.5, usual_sd_m = 3, one_pass_s = 90;

PlaceCovariance doubt_of(const PlaceCovariance &c) {
    // A place that tells no doubt has the usual one.
    auto d = c.east_east + c.north_north > 0
                 ? c
                 : PlaceCovariance{usual_sd_m * usual_sd_m, 0, usual_sd_m * usual_sd_m};
    d.east_east += wander_m * wander_m / 2;
    d.north_north += wander_m * wander_m / 2;
    return d;
}

struct Apart {
    double metres, square_sigmas, log_normal; ///< and the logarithm of the density there
};
Apart apart(const Mark &a, const Mark &b) {
    const LocalPlane plane(*a.place);
    const auto d = plane.to_plane(*b.place);
    const auto ca = doubt_of(a.place_covariance), cb = doubt_of(b.place_covariance);
    const double ee = ca.east_east + cb.east_east, en = ca.east_north + cb.east_north,
                 nn = ca.north_north + cb.north_north, det = std::max(1e-6, ee * nn - en * en);
    const double square =
        (nn * d.east_m * d.east_m - 2 * en * d.east_m * d.north_m + ee * d.north_m * d.north_m) / det;
    return {std::hypot(d.east_m, d.north_m), square,
            -0.5 * square - 0.5 * std::log(det) - std::log(2 * std::numbers::pi)};
}

// Log odds that two things of one kind (true) or of two are named so. Names are right some seven times in
// ten.
double of_kinds(const Mark &a, const Mark &b) {
    if (a.family == Family::unsure || b.family == Family::unsure)
        return 0;
    if (a.family != b.family)
        return a.family == Family::fish || b.family == Family::fish ? -3 : -1.6;
    if (a.kind == Kind::none || b.kind == Kind::none)
        return 0.4;
    if (a.kind == b.kind)
        return 1.2;
    return -0.7;
}

// Heights told with their doubt: of one thing they differ by that, of two by half a metre or so.
double of_heights(const Mark &a, const Mark &b) {
    if (!a.height_m || !b.height_m || a.height_at_least || b.height_at_least)
        return 0;
    const double d = a.height_m->value - b.height_m->value;
    constexpr double others_m = 0.6, least_sd_m = 0.15;
    const double own = std::hypot(std::max(least_sd_m, a.height_m->sd), std::max(least_sd_m, b.height_m->sd)),
                 other = std::hypot(own, others_m);
    return std::clamp(-0.5 * d * d / (own * own) - std::log(own) + 0.5 * d * d / (other * other) +
                          std::log(other),
                      -4.0, 2.0);
}

double of_lengths(const Mark &a, const Mark &b) {
    if (!a.length_m || !b.length_m || !(*a.length_m > 0) || !(*b.length_m > 0))
        return 0;
    const double ratio = std::fabs(std::log(*a.length_m / *b.length_m));
    constexpr double own = 0.5, others = 0.9;
    return std::clamp(-0.5 * ratio * ratio / (own * own) + 0.5 * ratio * ratio / (others * others) +
                          std::log(others / own),
                      -2.0, 1.0);
}

bool of_one_pass(const Mark &a, const Mark &b) {
    for (const auto &x : all_sightings(a))
        for (const auto &y : all_sightings(b))
            if (!x.source.empty() && x.source == y.source && x.time != 0 && y.time != 0 &&
                std::fabs(seconds_between(x.time, y.time)) < one_pass_s)
                return true;
    return false;
}

// The place of several looks, weighed by their doubt.
void place_anew(Mark &m) {
    // Sums of weights (the inverse of each doubt) and of weighed places.
    double ee = 0, en = 0, nn = 0, e_sum = 0, n_sum = 0;
    std::optional<LocalPlane> plane;
    for (const auto &s : m.sightings) {
        if (!s.place)
            continue;
        if (!plane)
            plane.emplace(*s.place);
        const auto c = doubt_of(s.place_covariance);
        const double det = std::max(1e-9, c.east_east * c.north_north - c.east_north * c.east_north);
        const double wee = c.north_north / det, wen = -c.east_north / det, wnn = c.east_east / det;
        const auto at = plane->to_plane(*s.place);
        ee += wee;
        en += wen;
        nn += wnn;
        e_sum += wee * at.east_m + wen * at.north_m;
        n_sum += wen * at.east_m + wnn * at.north_m;
    }
    if (plane) {
        const double det = std::max(1e-12, ee * nn - en * en);
        m.place = plane->to_globe({(nn * e_sum - en * n_sum) / det, (ee * n_sum - en * e_sum) / det});
        const double floor = surest_m * surest_m / 2;
        m.place_covariance = {std::max(floor, nn / det), -en / det, std::max(floor, ee / det)};
        m.place_remark.clear();
    }
    // Heights that are told whole.
    double weight = 0, height = 0;
    for (const auto &s : m.sightings)
        if (s.height_m && !s.height_at_least) {
            const double w = 1 / std::pow(std::max(0.1, s.height_m->sd), 2);
            weight += w;
            height += w * s.height_m->value;
        }
    if (weight > 0) {
        m.height_m = Estimate{height / weight, std::max(0.05, 1 / std::sqrt(weight))};
        m.height_at_least = false;
    }
}

template <class T>
void add_new(std::vector<T> &to, const std::vector<T> &from) {
    for (const auto &x : from)
        if (std::find(to.begin(), to.end(), x) == to.end())
            to.push_back(x);
}

// Which look shows most: one with a picture, with a height, from near.
double worth(const Sighting &s) {
    return (s.chip.empty() ? 0 : 4) + (s.height_m && !s.height_at_least ? 2 : 0) -
           std::min(1.0, s.place ? s.place_covariance.radial_sd_m() / 10 : 1);
}

void tell_the_best(Mark &m) {
    const auto best = std::max_element(m.sightings.begin(), m.sightings.end(),
                                       [](const auto &x, const auto &y) { return worth(x) < worth(y); });
    if (best == m.sightings.end())
        return;
    m.time = best->time;
    m.side = best->side;
    m.slant_m = best->slant_m;
    m.ground_m = best->ground_m;
    m.seen_from_deg = best->seen_from_deg;
    m.range_setting_m = best->range_setting_m;
    m.frequency_hz = best->frequency_hz;
    m.gain = best->gain;
    m.source = best->source;
    m.chip = best->chip;
    if (best->depth_m)
        m.depth_m = best->depth_m;
    place_anew(m);
}

} // namespace

double chance_of_one(const Mark &a, const Mark &b, double density) {
    if (!a.place || !b.place || (a.family == Family::hazard) != (b.family == Family::hazard))
        return 0;
    const auto d = apart(a, b);
    constexpr double never_sigmas = 5, never_m = 60;
    if (d.square_sigmas > never_sigmas * never_sigmas || d.metres > never_m)
        return 0;
    const double odds =
        d.log_normal - std::log(density) + of_kinds(a, b) + of_heights(a, b) + of_lengths(a, b);
    return 1 / (1 + std::exp(-odds));
}

std::vector<JoinProposal> propose_joins(const std::vector<Mark> &marks, double least, UnitSystem units) {
    const auto metres = [units](double m) { return print_length(m, units).text(); };
    // Only what lies in the same or the next square of a hundred metres is held against each other.
    constexpr double square_deg = 0.001;
    std::map<std::pair<long, long>, std::vector<std::size_t>> squares;
    const auto square_of = [](const GeoPoint &p) {
        return std::pair{std::lround(p.latitude_deg / square_deg), std::lround(p.longitude_deg / square_deg)};
    };
    for (std::size_t i = 0; i < marks.size(); ++i)
        if (marks[i].place)
            squares[square_of(*marks[i].place)].push_back(i);
    std::vector<JoinProposal> all;
    for (const auto &[square, own] : squares)
        for (long y = square.first - 1; y <= square.first + 1; ++y)
            for (long x = square.second - 1; x <= square.second + 1; ++x) {
                const auto other = squares.find({y, x});
                if (other == squares.end())
                    continue;
                for (const auto i : own)
                    for (const auto j : other->second) {
                        if (j <= i)
                            continue;
                        const auto &a = marks[i], &b = marks[j];
                        const double chance = chance_of_one(a, b);
                        if (chance < least || of_one_pass(a, b))
                            continue;
                        const auto d = apart(a, b);
                        JoinProposal p{a.id, b.id, chance, d.metres, std::sqrt(d.square_sigmas), {}, {}};
                        p.speaks_for.push_back(told("{} apart, {} times what both places are in doubt by",
                                                    metres(d.metres), print_number(p.apart_sigmas, 1)));
                        if (a.kind != Kind::none && a.kind == b.kind)
                            p.speaks_for.push_back(told("both were named {}", std::string(name_of(a.kind))));
                        else if (a.kind != Kind::none && b.kind != Kind::none)
                            p.speaks_against.push_back(told("one was named {}, the other {}",
                                                            std::string(name_of(a.kind)),
                                                            std::string(name_of(b.kind))));
                        if (a.family != b.family && a.family != Family::unsure && b.family != Family::unsure)
                            p.speaks_against.push_back(told("one is {}, the other {}",
                                                            std::string(name_of(a.family)),
                                                            std::string(name_of(b.family))));
                        if (a.height_m && b.height_m)
                            (of_heights(a, b) >= 0 ? p.speaks_for : p.speaks_against)
                                .push_back(told("heights {} and {}", metres(a.height_m->value),
                                                metres(b.height_m->value)));
                        if (a.length_m && b.length_m)
                            (of_lengths(a, b) >= 0 ? p.speaks_for : p.speaks_against)
                                .push_back(
                                    told("lengths {} and {}", metres(*a.length_m), metres(*b.length_m)));
                        all.push_back(std::move(p));
                    }
            }
    std::sort(all.begin(), all.end(), [](const auto &p, const auto &q) {
        return p.chance != q.chance ? p.chance > q.chance : std::pair(p.a, p.b) < std::pair(q.a, q.b);
    });
    std::unordered_set<std::string> taken;
    std::vector<JoinProposal> out;
    for (auto &p : all)
        if (!taken.contains(p.a) && !taken.contains(p.b)) {
            taken.insert(p.a);
            taken.insert(p.b);
            out.push_back(std::move(p));
        }
    return out;
}

Mark joined(const Mark &a, const Mark &b) {
    Mark m = a;
    m.sightings = all_sightings(a);
    add_new(m.sightings, all_sightings(b));
    if (m.sightings.size() > 200)
        m.sightings.resize(200);
    std::sort(m.sightings.begin(), m.sightings.end(),
              [](const auto &x, const auto &y) { return x.time < y.time; });
    add_new(m.outcomes, b.outcomes);
    std::sort(m.outcomes.begin(), m.outcomes.end(),
              [](const auto &x, const auto &y) { return x.time < y.time; });
    add_new(m.tags, b.tags);
    if (m.name.empty())
        m.name = b.name;
    if (m.note.empty())
        m.note = b.note;
    else if (!b.note.empty() && m.note.find(b.note) == std::string::npos)
        m.note += "\n" + b.note;
    if (m.family == Family::unsure)
        m.family = b.family;
    if (m.kind == Kind::none && m.family == b.family)
        m.kind = b.kind;
    if (m.lake.empty())
        m.lake = b.lake;
    if (m.bottom.empty())
        m.bottom = b.bottom;
    if (!m.length_m)
        m.length_m = b.length_m;
    if (m.shape.empty() && !b.shape.empty() && a.place && b.place) {
        // About the other's place it lay; about this one it lies on.
        const auto off = LocalPlane(*a.place).to_plane(*b.place);
        for (const auto &p : b.shape)
            m.shape.push_back({p.east_m + off.east_m, p.north_m + off.north_m});
        m.closed = b.closed;
    }
    if (m.confirmed == Confirmed::no) {
        m.confirmed = b.confirmed;
        m.turned_out = b.turned_out;
    }
    m.level = std::min(a.level, b.level);
    for (const auto &[field, level] : b.field_levels) {
        const auto at = m.field_levels.find(field);
        m.field_levels[field] = at == m.field_levels.end()
                                    ? std::min(level, usual_level(field, m.family == Family::hazard))
                                    : std::min(at->second, level);
    }
    tell_the_best(m);
    return m;
}

std::optional<SplitMarks> split(const Mark &mark, std::size_t sighting) {
    if (mark.sightings.size() < 2 || sighting >= mark.sightings.size())
        return std::nullopt;
    SplitMarks out;
    out.rest = mark;
    const auto look = mark.sightings[sighting];
    out.rest.sightings.erase(out.rest.sightings.begin() + static_cast<std::ptrdiff_t>(sighting));
    tell_the_best(out.rest);
    auto &t = out.taken;
    t.id = new_identifier();
    t.family = look.family;
    t.kind = look.kind;
    t.time = look.time;
    t.place = look.place;
    t.place_covariance = look.place_covariance;
    t.side = look.side;
    t.slant_m = look.slant_m;
    t.ground_m = look.ground_m;
    t.depth_m = look.depth_m;
    t.height_m = look.height_m;
    t.height_at_least = look.height_at_least;
    t.range_setting_m = look.range_setting_m;
    t.frequency_hz = look.frequency_hz;
    t.gain = look.gain;
    t.source = look.source;
    t.by = look.by;
    t.chip = look.chip;
    t.lake = mark.lake;
    t.level = mark.level;
    t.field_levels = mark.field_levels;
    t.sightings = {look};
    return out;
}

} // namespace heron
