#include "reading/looks.hpp"

#include "reading/abeam.hpp"
#include "reading/grains.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr double turning_between_looks_deg_s = 4;

// What the formula tells of a kind over what is true, in the median of the scenes for fitting; the sample of
// another making leans the same way. A post or a block is grazed at the far edge of its top, behind the
// echo's beginning; twigs and the outermost stones let sound through, so that the shadow seems to end early.
struct Lean {
    double top = 1; ///< taken off by moving the top out
    double end = 1; ///< taken off by moving the shadow's end out
};
Lean lean_of(const Contact &c) {
    Lean lean{0, 0};
    double all = 0;
    for (std::size_t k = 1; k < kind_count; ++k) {
        const auto kind = static_cast<Kind>(k);
        const double p = c.chances[k];
        lean.top += p * (kind == Kind::built   ? 0.84
                         : kind == Kind::stump ? 0.91
                         : kind == Kind::log   ? 0.93
                                               : 1.0);
        lean.end += p * (kind == Kind::tree        ? 1.4
                         : kind == Kind::rock_pile ? 1.3
                         : kind == Kind::brush     ? 1.2
                                                   : 1.0);
        all += p;
    }
    return all > 0 ? Lean{lean.top / all, lean.end / all} : Lean{};
}

// Heights and distances of a contact from its echo, its shadow and the bottom abeam.
void place_contact(const Scan &scan, const Swath &s, const Echo &e, const TrackDepths &depths,
                   const std::vector<double> &run_m, Contact &c) {
    const auto line = (e.first_line + e.last_line) / 2;
    const auto row = s.rows[line];
    const auto &b = c.behind;
    BottomPlane plane;
    plane.altitude_m = s.altitude_m[line];
    plane.altitude_sd_m = std::max(0.06, scan.bottom(row).altitude_sd_m);
    plane =
        shape_abeam(scan, {row, s.side, c.slant_m, b.found ? b.end_m : c.echo_end_m}, depths, run_m, plane);
    c.bottom = plane;
    const double range_sd = std::hypot(0.7 * s.cell_m, s.pulse_m / 2);
    const bool fishlike =
        c.family == Family::fish || (c.family == Family::unsure && c.placement == Placement::suspended);
    const double beam_m = c.slant_m * s.beam_rad;
    const double length = std::sqrt(std::max(0.03, e.length_m * e.length_m - beam_m * beam_m / 2));
    c.along_m = e.along_m;
    c.length_m = length;
    c.width_m =
        std::min(length, std::sqrt(std::max(0.01, e.width_m * e.width_m - s.pulse_m * s.pulse_m / 2)));
    if (c.zone == Zone::water) {
        // Anywhere on the arc: most of the fan's sound goes some way aside.
        c.ground_m = {0.75 * c.slant_m, 0.16 * c.slant_m + 0.2};
        c.depth_m = plane.depth_at(c.ground_m.value) + scan.installation.draught_m();
    } else {
        double top = c.slant_m, end = b.end_m;
        std::optional<ShadowReading> reading;
        const bool hollow = c.zone == Zone::dark && c.family == Family::bottom && c.kind != Kind::hump;
        if (b.found && (b.score > 0.4 || c.zone == Zone::dark)) {
            if (fishlike) {
                end = (b.start_m + b.end_m) / 2;
                top = (c.slant_m + c.echo_end_m) / 2;
                // A shadow alone: about a metre up.
                if (c.zone == Zone::dark && b.source_z <= 0)
                    top = end * (1 - std::min(1.0, 0.3 * plane.altitude_m) / plane.altitude_m);
                reading = read_shadow(top, end, std::hypot(range_sd, b.end_sd_m), plane, false);
            } else if (c.zone == Zone::ground || !hollow) {
                const double first = b.top_m > 0 ? b.top_m : c.slant_m;
                top = first;
                // A steep face is lit from top to foot; what is bright beyond that lies before the top, which
                // then stands farther out. Some rounds settle it.
                for (int round = 0; round < 5; ++round) {
                    reading = read_shadow(top, end, std::hypot(range_sd, b.end_sd_m), plane, b.cut);
                    if (!reading)
                        break;
                    const double face = plane.altitude_m * reading->height_m.value / first;
                    // Where the light ends is the other witness: at the top itself for a dome, at the foot of
                    // a face.
                    const double by_light = first + 0.8 * std::max(0.0, b.start_m - first - face);
                    const double by_dark = b.start_m - 0.05 - 0.5 * face;
                    top = b.gap_m < 0.3 ? 0.4 * by_light + 0.6 * std::max(first, by_dark) : by_light;
                    top = std::min(top, end - 0.05);
                }
                if (reading && !reading->at_least && reading->height_m.value > 0) {
                    const auto lean = lean_of(c);
                    const double share = reading->height_m.value / plane.altitude_m;
                    top = end * (1 - lean.top * share);
                    // A shadow whose end was seen does not end beyond what was sounded.
                    end = std::clamp(top / std::max(0.04, 1 - lean.end * lean.top * share), top + 0.02,
                                     std::max(end, s.end_m[line] - 0.1));
                    reading = read_shadow(top, end, std::hypot(range_sd, b.end_sd_m), plane, b.cut);
                    c.shadow_end_m = end;
                }
            }
        }
        if (c.zone == Zone::dark && !hollow) {
            // Of what only its shadow shows no more than its extent along the track is known.
            c.length_m = std::sqrt(std::max(0.02, e.along_m * e.along_m - beam_m * beam_m));
            c.width_m.reset();
        }
        if (hollow) {
            // A hollow: the near rim hides its floor. Its middle lies in the dark.
            const double middle = (b.found ? (b.start_m + b.end_m) / 2 : c.slant_m);
            const auto g = ground_range(middle, range_sd, plane);
            c.ground_m = g.value_or(Estimate{middle * 0.9, middle * 0.2});
            if (b.found) {
                const double deep = plane.altitude_m * (b.end_m - b.start_m) / b.end_m * 0.5;
                c.height_m = Estimate{-deep, std::max(0.06, deep * 0.5)};
            }
        } else if (reading) {
            c.top_m = top;
            c.ground_m = reading->ground_m;
            c.height_m = reading->height_m;
            // Where the top is on a face, and where the ground's own texture ends a shadow: not in the
            // formula.
            c.height_m->sd = std::hypot(c.height_m->sd, 0.05 + 0.26 * std::fabs(c.height_m->value));
            c.height_at_least = reading->at_least;
            if (fishlike && c.zone == Zone::dark && b.source_z <= 0) {
                const double doubt = 0.6 * end / plane.altitude_m;
                c.ground_m.sd = std::hypot(c.ground_m.sd, doubt);
                c.height_m->sd = std::hypot(c.height_m->sd, 0.6);
            }
        } else if (fishlike) {
            // No shadow: a metre up, give or take; the arc from near the bottom to three metres up.
            auto up = plane;
            const double off = std::min(1.0, plane.altitude_m * 0.3);
            up.altitude_m -= off;
            c.ground_m = ground_range((c.slant_m + c.echo_end_m) / 2, range_sd, up)
                             .value_or(Estimate{c.slant_m * 0.9, c.slant_m * 0.2});
            c.ground_m.sd =
                std::hypot(c.ground_m.sd, off * plane.altitude_m / std::max(1.0, c.ground_m.value));
        } else {
            c.ground_m = ground_range((c.slant_m + c.echo_end_m) / 2, range_sd, plane)
                             .value_or(Estimate{c.slant_m * 0.9, c.slant_m * 0.2});
        }
        c.ground_m.sd = std::hypot(c.ground_m.sd, std::hypot(0.12, 0.015 * c.ground_m.value));
        c.depth_m = plane.depth_at(c.ground_m.value) + scan.installation.draught_m();
    }
    const auto placed = place_beside(scan, row, s.side, c.ground_m);
    c.place = placed.at;
    c.place_state = placed.state;
}

} // namespace

Contact look_of(const Scan &scan, const Swath &s, const Echo &e, const ShadowBehind &behind) {
    const auto row = s.rows[e.strongest_line];
    Contact c;
    c.zone = e.zone;
    c.side = s.side;
    c.row = row;
    c.first_row = s.rows[e.first_line];
    c.last_row = s.rows[e.last_line];
    c.time = scan.facts(row).time;
    if (const auto at = scan.nav.fix_at(c.time))
        c.heading_deg = at->pose.heading_deg;
    const auto near = e.near_edge[e.strongest_line - e.first_line];
    const auto far = e.far_edge[e.strongest_line - e.first_line];
    if (e.zone == Zone::water) {
        c.slant_m = near * s.cell_m;
        c.echo_end_m = (far + 1) * s.cell_m;
    } else {
        c.slant_m = s.slant_m(e.strongest_line, near);
        c.echo_end_m = s.slant_m(e.strongest_line, far + 1);
    }
    c.behind = behind;
    // A shadow found first: its echo is what throws it.
    if (e.zone == Zone::dark && c.behind.source_z > 0) {
        c.slant_m = c.behind.source_m;
        c.echo_end_m = c.behind.source_end_m;
    }
    c.shadow_start_m = c.behind.start_m;
    c.shadow_end_m = c.behind.end_m;
    c.shadow_cut = c.behind.cut;
    return c;
}

// What each may be, once it is known what all of the block show: first by itself, then beside the others.
void weigh(std::vector<Candidate> &candidates, Known &known, const KindModel &model) {
    std::array<Features, 3> usual;
    for (const auto zone : {Zone::ground, Zone::water, Zone::dark})
        usual[static_cast<std::size_t>(zone)] =
            known.usual.of(zone, model.zones[static_cast<std::size_t>(zone)].usual);
    for (auto &[swath, echo, c] : candidates) {
        c.usual = usual[static_cast<std::size_t>(c.zone)];
        c.chances = c.chances_by(model);
        known.prior.add(c.zone, c.real());
    }
    std::array<double, 3> shift{};
    for (const auto zone : {Zone::ground, Zone::water, Zone::dark})
        shift[static_cast<std::size_t>(zone)] =
            known.prior.shift(zone, model.zones[static_cast<std::size_t>(zone)].share_real);
    for (auto &[swath, echo, c] : candidates) {
        c.prior_shift = shift[static_cast<std::size_t>(c.zone)];
        c.chances = shifted(c.chances, c.prior_shift);
        settle_kind(c);
    }
}

void give_clusters(const std::vector<GrainCluster> &clusters, const Swath &s, std::size_t swath,
                   std::vector<Candidate> &candidates) {
    constexpr double beside_m = 0.5;
    for (const auto &cluster : clusters) {
        Contact *likeliest = nullptr;
        for (auto &[of, echo, c] : candidates) {
            if (of != swath || c.zone == Zone::water || c.cluster)
                continue;
            const auto at = std::lower_bound(s.rows.begin(), s.rows.end(), c.row);
            if (at == s.rows.end())
                continue;
            const auto line = static_cast<std::size_t>(at - s.rows.begin());
            const double a = s.altitude_m[line],
                         ground = std::sqrt(std::max(0.0, c.slant_m * c.slant_m - a * a));
            if (std::hypot(s.along_m[line] - cluster.along_m, ground - cluster.ground_m) <
                    cluster.radius_m + beside_m &&
                (likeliest == nullptr || c.real() > likeliest->real()))
                likeliest = &c;
        }
        if (likeliest == nullptr)
            continue;
        likeliest->cluster = cluster;
        likeliest->chances = shifted(likeliest->chances, cluster_evidence(cluster.z));
        settle_kind(*likeliest);
    }
}

namespace {

// What was found of a group or a cloud may be a part of it: where its grains reach it is told to reach.
void spread_over_cluster(const Scan &scan, const Swath &s, Contact &c) {
    const auto &k = *c.cluster;
    const double along = k.last_along_m - k.first_along_m, across = k.far_m - k.near_m;
    constexpr double wider = 1.5;
    if (!c.length_m || std::max(along, across) < wider * *c.length_m)
        return;
    const auto line_at = [&](double along_m) {
        const auto at = std::lower_bound(s.along_m.begin(), s.along_m.end(), along_m);
        return std::min(static_cast<std::size_t>(at - s.along_m.begin()), s.lines() - 1);
    };
    const auto own = std::min(
        static_cast<std::size_t>(std::lower_bound(s.rows.begin(), s.rows.end(), c.row) - s.rows.begin()),
        s.lines() - 1);
    const double a = s.altitude_m[own], ground = std::sqrt(std::max(0.0, c.slant_m * c.slant_m - a * a));
    c.first_row = std::min(c.first_row, s.rows[line_at(k.first_along_m)]);
    c.last_row = std::max(c.last_row, s.rows[line_at(k.last_along_m)]);
    c.slant_m = std::min(c.slant_m, std::hypot(k.near_m, a));
    c.echo_end_m = std::max(c.echo_end_m, std::hypot(k.far_m, a));
    c.along_m = along;
    c.length_m = std::max(along, across);
    c.width_m = std::min(along, across);
    // As far aside of what was found as its middle lies.
    c.ground_m.value = std::max(0.0, c.ground_m.value + k.ground_m - ground);
    const auto placed = place_beside(scan, s.rows[line_at(k.along_m)], c.side, c.ground_m);
    c.place = placed.at;
    c.place_state = placed.state;
}

} // namespace

void finish(const Scan &scan, const Swath &s, const Echo &e, const TrackDepths &depths,
            const std::vector<double> &run_m, Contact &c) {
    if (c.crowned())
        for (const auto &g : grains_in(s, e))
            if (g.chance >= grain_worth_telling)
                c.maybe_fish.push_back({g.row, g.slant_m, g.chance});
    std::sort(c.maybe_fish.begin(), c.maybe_fish.end(),
              [](const auto &p, const auto &q) { return p.chance > q.chance; });
    place_contact(scan, s, e, depths, run_m, c);
    if (c.cluster && c.loose())
        spread_over_cluster(scan, s, c);
    // Smeared by a turn: seen, but neither size nor place can be trusted. A ray has its own heading.
    if (s.side != Side::around &&
        std::fabs(static_cast<double>(scan.facts(c.row).turn_deg_s)) > turning_between_looks_deg_s) {
        c.length_m.reset();
        c.width_m.reset();
        c.ground_m.sd *= 1.5;
    }
    // Without a speed a ping stands for a decimetre: enough to look by, not to measure by.
    if (s.side != Side::around && std::isnan(scan.facts(c.row).speed_m_s)) {
        c.length_m.reset();
        c.width_m.reset();
    }
}

} // namespace heron
