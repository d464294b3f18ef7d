#include "reading/sweep_reader.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numeric>
#include <set>

namespace heron {
namespace {

constexpr double ring_ratio = 1.6, overlap = 1.25;
constexpr std::size_t margin_rays = 24;

double held_logit(double p) {
    p = std::clamp(p, 1e-4, 1 - 1e-4);
    return std::log(p / (1 - p));
}

// Two things of one turn that lie on one spot: the likelier stays.
std::vector<Contact> without_doubles_of_a_turn(std::vector<Contact> all) {
    std::sort(all.begin(), all.end(), [](const Contact &a, const Contact &b) { return a.real() > b.real(); });
    std::vector<Contact> kept;
    for (auto &c : all) {
        const bool again = std::any_of(kept.begin(), kept.end(), [&](const Contact &k) {
            if (!c.place || !k.place)
                return c.row == k.row && std::fabs(c.slant_m - k.slant_m) < 0.5;
            const double apart = leg_between(c.place->place, k.place->place).distance_m;
            return apart < 0.6 + 0.35 * std::max(c.length_m.value_or(0), k.length_m.value_or(0));
        });
        if (!again)
            kept.push_back(std::move(c));
    }
    return kept;
}

} // namespace

std::optional<double> altitude_of_rays(const Scan &scan, std::span<const std::size_t> rows) {
    constexpr double bin_m = 0.1, nearest_m = 1, least_rise_db = 4, share = 0.6;
    constexpr std::ptrdiff_t before = 10, behind = 8;
    std::vector<std::vector<float>> levels;
    double steepest_deg = 0;
    for (const auto row : rows) {
        const auto &ping = scan.ping(row);
        const auto *beam = ping.beam(Side::around);
        if (beam == nullptr || beam->code.empty())
            continue;
        steepest_deg = std::clamp(beam->depression_deg + 0.75 * beam->width_across_deg, 20.0, 85.0);
        const auto bins =
            static_cast<std::size_t>(ping.slant_m(static_cast<double>(beam->code.size())) / bin_m);
        levels.resize(std::max(levels.size(), bins));
        for (std::size_t b = 0; b < bins; ++b) {
            const auto k = std::lround(ping.sample_at((static_cast<double>(b) + 0.5) * bin_m));
            if (k >= 0 && k < std::ssize(beam->code) &&
                beam->code[static_cast<std::size_t>(k)] != missing_code)
                levels[b].push_back(
                    static_cast<float>(beam->level_db(static_cast<std::size_t>(k)) - beam->gain_db));
        }
    }
    std::vector<double> median;
    for (auto &some : levels) {
        if (some.empty())
            break;
        std::nth_element(some.begin(), some.begin() + std::ssize(some) / 2, some.end());
        median.push_back(static_cast<double>(some[some.size() / 2]));
    }
    std::vector<double> rise(median.size(), 0);
    double most = 0;
    for (auto b = static_cast<std::ptrdiff_t>(nearest_m / bin_m) + before; b + behind < std::ssize(median);
         ++b) {
        const auto at = median.begin() + b;
        const double now =
            std::accumulate(at, at + behind, 0.0) / behind - std::accumulate(at - before, at, 0.0) / before;
        rise[static_cast<std::size_t>(b)] = now;
        most = std::max(most, now);
    }
    if (most < least_rise_db)
        return std::nullopt;
    const auto first = std::find_if(rise.begin(), rise.end(), [&](double r) { return r > share * most; });
    return static_cast<double>(first - rise.begin()) * bin_m * std::sin(steepest_deg / degrees_per_radian);
}

std::vector<Contact> SweepReader::read_sweep(const Scan &scan, std::size_t sweep) {
    const auto &all = rays_.rays();
    const auto of = [&](std::size_t n) {
        return std::find_if(all.begin(), all.end(), [n](const PlacedRay &r) { return r.sweep == n; }) -
               all.begin();
    };
    const auto first = static_cast<std::size_t>(of(sweep)), end = static_cast<std::size_t>(of(sweep + 1));
    if (end <= first + 8)
        return {};
    const bool round = std::fabs(all[end - 1].off_bow_deg - all[first].off_bow_deg) < 30 && end - first > 60;
    // A whole turn goes on into the next; a sector turns back.
    const auto from = round ? first - std::min(first, margin_rays) : first,
               to = round ? std::min(all.size(), end + margin_rays) : end;
    std::vector<std::size_t> rows;
    for (auto i = from; i < to; ++i)
        rows.push_back(all[i].row);
    const auto &middle = all[(first + end) / 2];
    SweepView view;
    view.sweep = sweep;
    view.rays = end - first;
    view.placed = middle.on_ground && rays_.plane();
    if (view.placed)
        view.head = rays_.plane()->to_globe(middle.at);
    view.range_m =
        std::sqrt(std::max(0.0, middle.range_m * middle.range_m - middle.altitude_m * middle.altitude_m));
    view.from_deg = middle.bearing_deg;
    view.half_deg = round ? 180 : std::fabs(wrap_180(all[end - 1].off_bow_deg - all[first].off_bow_deg)) / 2;
    views_.push_back(view);

    std::vector<double> steps;
    for (auto i = first + 1; i < end; ++i)
        steps.push_back(std::fabs(wrap_180(all[i].off_bow_deg - all[i - 1].off_bow_deg)));
    std::nth_element(steps.begin(), steps.begin() + std::ssize(steps) / 2, steps.end());
    const double step = std::max(0.2, steps[steps.size() / 2]) / degrees_per_radian;
    // Without a depth sounder the rays tell how deep it is.
    const auto known =
        std::count_if(rows.begin(), rows.end(), [&](std::size_t r) { return scan.bottom(r).found; });
    const auto altitude = 2 * known < std::ssize(rows) ? altitude_of_rays(scan, rows) : std::nullopt;
    std::vector<Swath> swaths;
    std::vector<Found> found;
    std::vector<Candidate> candidates;
    const auto row_first = all[first].row, row_last = all[end - 1].row;
    for (double near = std::max(1.5, 0.8 * altitude.value_or(middle.altitude_m)); near < middle.range_m;
         near *= ring_ratio) {
        const double far = near * ring_ratio, about = std::sqrt(near * far);
        auto swath = prepare_rays(scan, rows, std::max(0.03, step * about), altitude);
        if (swath.lines() == 0)
            continue;
        found.push_back(find_all(swath));
        swaths.push_back(std::move(swath));
        const auto &s = swaths.back();
        const auto &echoes = found.back().echoes;
        const auto &behinds = found.back().behinds;
        const double chance = chance_shadow(s, echoes);
        for (std::size_t i = 0; i < echoes.size(); ++i) {
            const auto &e = echoes[i];
            const auto row = s.rows[e.strongest_line];
            if (row < row_first || row > row_last)
                continue;
            auto c = look_of(scan, s, e, behinds[i]);
            if (c.slant_m < near || (c.slant_m >= far && far < middle.range_m) ||
                c.slant_m > 0.985 * middle.range_m)
                continue;
            c.run_m = run_m_[row];
            c.leg = static_cast<std::uint16_t>(sweep);
            c.features = features_of(s, e, c.behind, crowd_of(s, echoes, behinds, i), chance);
            known_.usual.add(e.zone, c.features);
            candidates.push_back({swaths.size() - 1, i, std::move(c)});
        }
    }
    weigh(candidates, known_, model_);
    std::vector<Contact> told;
    for (auto &[swath, echo, c] : candidates) {
        if (!settings_.keep_all && c.real() < settings_.least_confidence * 0.4)
            continue;
        finish(scan, swaths[swath], found[swath].echoes[echo], depths_, run_m_, c);
        told.push_back(std::move(c));
    }
    return settings_.keep_all ? told : without_doubles_of_a_turn(std::move(told));
}

std::vector<Contact> SweepReader::advance(const Scan &scan, bool all) {
    std::vector<Contact> found;
    constexpr std::size_t rows_at_once = 400;
    while (true) {
        const auto end = std::min(scan.end(), next_row_ + rows_at_once);
        while (run_m_.size() < end)
            run_m_.push_back(scan.facts(run_m_.size()).along_m);
        depths_.add(scan, depth_row_, end);
        depth_row_ = end;
        rays_.follow(scan, end);
        check_.follow(rays_, scan);
        next_row_ = end;
        const bool last = end == scan.end();
        // The turn after it must have begun, with its margin.
        while (!rays_.empty() &&
               (next_sweep_ + 1 < rays_.sweep() || (last && all && next_sweep_ <= rays_.sweep()))) {
            auto some = read_sweep(scan, next_sweep_++);
            std::move(some.begin(), some.end(), std::back_inserter(found));
        }
        if (last)
            return found;
    }
}

namespace {

// Chances were fitted to single looks from the side; what several turns tell alike is right more often.
// Counted on lakes of the stand-in (docs/accuracy.md).
constexpr double lift = 0.5;

struct Thing {
    EastNorth at;
    std::vector<const Contact *> looks;
    std::set<std::size_t> sweeps;
};

bool may_be_one(const Contact &a, const Contact &b) {
    return a.family == b.family || a.family == Family::unsure || b.family == Family::unsure ||
           a.placement == b.placement;
}

bool could_see(const SweepView &v, const LocalPlane &plane, const EastNorth &at) {
    const auto head = plane.to_plane(v.head);
    const double e = at.east_m - head.east_m, n = at.north_m - head.north_m;
    return std::hypot(e, n) < 0.93 * v.range_m &&
           std::fabs(wrap_180(std::atan2(e, n) * degrees_per_radian - v.from_deg)) < v.half_deg + 0.1;
}

Contact together(const Thing &thing, const std::vector<SweepView> &views, const LocalPlane &plane,
                 bool for_casts) {
    // The surest look stands for it.
    auto c = **std::max_element(thing.looks.begin(), thing.looks.end(),
                                [](const Contact *a, const Contact *b) { return a->real() < b->real(); });
    const auto &model = KindModel::shipped(Side::around);
    std::array<double, kind_count> mean{};
    double real = 0, n = 0;
    // The chance that stays where a turn that could have seen it did not: what stands is often lost in the
    // texture; for a cast, a fish has gone.
    const double unseen = for_casts && c.family == Family::fish ? 0.1 : 0.3;
    std::set<std::pair<long, long>> spots;
    for (const auto &v : views) {
        if (!v.placed || !could_see(v, plane, thing.at))
            continue;
        n += 1;
        const auto look = std::find_if(thing.looks.begin(), thing.looks.end(), [&](const Contact *l) {
            return l->leg == static_cast<std::uint16_t>(v.sweep);
        });
        // Before what was brought to the counts of joined things.
        real += look == thing.looks.end()
                    ? held_logit(unseen)
                    : (held_logit((*look)->real()) - model.real_shift) / model.real_slope;
        const auto at = plane.to_plane(v.head);
        constexpr double moved_m = 2;
        if (look != thing.looks.end())
            spots.insert({std::lround(at.east_m / moved_m), std::lround(at.north_m / moved_m)});
    }
    for (const auto *l : thing.looks)
        for (std::size_t k = 1; k < kind_count; ++k)
            mean[k] += std::log(std::max(1e-4, l->chances[k] / std::max(1e-6, l->real())));
    if (n > 0) {
        const double views_apart = static_cast<double>(std::min<std::size_t>(spots.size(), 5));
        const double odds =
            model.real_slope * (lift + real / n * (1 + 0.25 * std::max(0.0, views_apart - 1))) +
            model.real_shift;
        const double p = 1 / (1 + std::exp(-odds));
        double sum = 0;
        for (std::size_t k = 1; k < kind_count; ++k)
            sum += mean[k] = std::exp(mean[k] / static_cast<double>(thing.looks.size()));
        c.chances[0] = 1 - p;
        for (std::size_t k = 1; k < kind_count; ++k)
            c.chances[k] = p * mean[k] / sum;
    }
    settle_kind(c);
    c.looks = static_cast<int>(thing.looks.size());
    for (const auto *l : thing.looks)
        c.leg = std::max(c.leg, l->leg);
    // Heights by the inverse of their variances; what they share stays in the doubt.
    double weight = 0, height = 0;
    for (const auto *l : thing.looks)
        if (l->height_m && !l->height_at_least && l->family == c.family) {
            const double w = 1 / (l->height_m->sd * l->height_m->sd);
            weight += w;
            height += w * l->height_m->value;
        }
    if (weight > 0 && c.height_m) {
        c.height_at_least = false;
        c.height_m = Estimate{height / weight, std::max(0.7 * c.height_m->sd, 1 / std::sqrt(weight))};
    }
    if (c.place) {
        c.place->place = plane.to_globe(thing.at);
        const double share =
            std::max(0.5, 1 / std::sqrt(static_cast<double>(std::max<std::size_t>(1, spots.size()))));
        c.place->covariance.east_east *= share;
        c.place->covariance.north_north *= share;
        c.place->covariance.east_north *= share;
    }
    give_reasons(c);
    return c;
}

// A wide thing falls apart in some turns: of what then overlaps the likelier stays.
std::vector<Contact> without_parts(std::vector<Contact> all, const LocalPlane &plane) {
    std::sort(all.begin(), all.end(),
              [](const Contact &a, const Contact &b) { return a.confidence > b.confidence; });
    std::vector<Contact> kept;
    for (auto &c : all) {
        const auto at = plane.to_plane(c.place->place);
        const bool part = std::any_of(kept.begin(), kept.end(), [&](const Contact &k) {
            const auto other = plane.to_plane(k.place->place);
            return std::hypot(at.east_m - other.east_m, at.north_m - other.north_m) <
                   0.9 + 0.45 * std::max(c.length_m.value_or(0), k.length_m.value_or(0));
        });
        if (!part)
            kept.push_back(std::move(c));
    }
    return kept;
}

} // namespace

std::vector<Contact> join_sweeps(const std::vector<Contact> &looks, const std::vector<SweepView> &views,
                                 double least_confidence, bool for_casts) {
    std::vector<Contact> joined;
    std::optional<LocalPlane> plane;
    for (const auto &c : looks)
        if (c.place && !plane)
            plane.emplace(c.place->place);
    std::vector<Thing> things;
    for (const auto &c : looks) {
        if (!c.place) {
            // Without a place each turn speaks for itself.
            if (c.confidence >= least_confidence)
                joined.push_back(c);
            continue;
        }
        const auto at = plane->to_plane(c.place->place);
        Thing *nearest = nullptr;
        double least = 1;
        for (auto &t : things) {
            if (t.sweeps.count(c.leg) > 0 || !may_be_one(*t.looks.back(), c))
                continue;
            const double gate =
                0.9 + 0.35 * std::max(c.length_m.value_or(0), t.looks.back()->length_m.value_or(0)) +
                0.02 * c.ground_m.value;
            const double d = std::hypot(at.east_m - t.at.east_m, at.north_m - t.at.north_m) / gate;
            if (d < least) {
                least = d;
                nearest = &t;
            }
        }
        if (nearest == nullptr) {
            things.push_back({at, {&c}, {c.leg}});
            continue;
        }
        nearest->looks.push_back(&c);
        nearest->sweeps.insert(c.leg);
        constexpr double newest = 0.5;
        const double share =
            std::max(for_casts ? newest : 0.0, 1 / static_cast<double>(nearest->looks.size()));
        nearest->at.east_m += share * (at.east_m - nearest->at.east_m);
        nearest->at.north_m += share * (at.north_m - nearest->at.north_m);
    }
    std::vector<Contact> all;
    for (const auto &t : things)
        all.push_back(together(t, views, *plane, for_casts));
    if (plane)
        all = without_parts(std::move(all), *plane);
    // A cast goes to what is there now: seen in one of the last two turns that could see it.
    const auto is_there = [&](const Contact &c) {
        const auto at = plane->to_plane(c.place->place);
        int could = 0;
        for (auto v = views.rbegin(); v != views.rend() && could < 2; ++v) {
            if (!v->placed || !could_see(*v, *plane, at))
                continue;
            ++could;
            if (c.leg >= v->sweep)
                return true;
        }
        return could < 2;
    };
    for (auto &c : all)
        if (c.confidence >= least_confidence && (!for_casts || c.family != Family::fish || is_there(c)))
            joined.push_back(std::move(c));
    std::sort(joined.begin(), joined.end(),
              [](const Contact &a, const Contact &b) { return a.confidence > b.confidence; });
    return joined;
}

} // namespace heron
