#include "reading/reader.hpp"

#include "reading/abeam.hpp"
#include "reading/drops.hpp"
#include "reading/grains.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr double turning_deg_s = 4;

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

// What each may be, once it is known what all of the block show: first by itself, then beside the others.
void Reader::weigh(std::vector<Candidate> &candidates, Known &known) const {
    std::array<Features, 3> usual;
    for (const auto zone : {Zone::ground, Zone::water, Zone::dark})
        usual[static_cast<std::size_t>(zone)] =
            known.usual.of(zone, model_.zones[static_cast<std::size_t>(zone)].usual);
    for (auto &[swath, echo, c] : candidates) {
        c.usual = usual[static_cast<std::size_t>(c.zone)];
        c.chances = c.chances_by(model_);
        known.prior.add(c.zone, c.real());
    }
    std::array<double, 3> shift{};
    for (const auto zone : {Zone::ground, Zone::water, Zone::dark})
        shift[static_cast<std::size_t>(zone)] =
            known.prior.shift(zone, model_.zones[static_cast<std::size_t>(zone)].share_real);
    for (auto &[swath, echo, c] : candidates) {
        c.prior_shift = shift[static_cast<std::size_t>(c.zone)];
        c.chances = shifted(c.chances, c.prior_shift);
        settle_kind(c);
    }
}

std::vector<Contact> Reader::read_block(const Scan &scan, std::size_t first, std::size_t end,
                                        std::size_t core_first, std::size_t core_end,
                                        std::optional<std::vector<AtBorder>> &border, Known &known) const {
    std::vector<Contact> found;
    std::vector<AtBorder> told;
    std::vector<Swath> swaths;
    std::vector<Found> all_found;
    std::vector<Candidate> candidates;
    for (const auto side : {Side::port, Side::starboard}) {
        auto prepared = prepare_swath(scan, side, first, end);
        if (prepared.lines() == 0)
            continue;
        all_found.push_back(find_all(prepared));
        swaths.push_back(std::move(prepared));
        const auto &s = swaths.back();
        const auto &echoes = all_found.back().echoes;
        const auto &behinds = all_found.back().behinds;
        const double chance = chance_shadow(s, echoes);
        for (std::size_t i = 0; i < echoes.size(); ++i) {
            const auto &e = echoes[i];
            const auto row = s.rows[e.strongest_line];
            const bool in_water = e.zone == Zone::water;
            const auto slant_of = [&](std::size_t column) {
                return in_water ? static_cast<double>(column) * s.cell_m
                                : s.slant_m(e.strongest_line, static_cast<double>(column));
            };
            const AtBorder own{side,
                               e.zone,
                               s.rows[e.first_line],
                               s.rows[e.last_line],
                               slant_of(e.first_column),
                               slant_of(e.last_column + 1)};
            if (row >= core_end || own.last_row < core_first)
                continue;
            const bool again = border && std::any_of(border->begin(), border->end(), [&](const AtBorder &b) {
                                   return b.side == own.side && b.zone == own.zone &&
                                          b.first_row <= own.last_row && own.first_row <= b.last_row &&
                                          b.near_m < own.far_m && own.near_m < b.far_m;
                               });
            if (again || (row < core_first && !border))
                continue;
            constexpr double border_m = 1;
            if (run_m_[own.last_row] > run_m_[core_end - 1] - border_m)
                told.push_back(own);
            Contact c;
            c.zone = e.zone;
            c.side = side;
            c.row = row;
            c.first_row = s.rows[e.first_line];
            c.last_row = s.rows[e.last_line];
            c.time = scan.facts(row).time;
            c.run_m = run_m_[row];
            c.leg = leg_[row];
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
            c.behind = behinds[i];
            // A shadow found first: its echo is what throws it.
            if (e.zone == Zone::dark && c.behind.source_z > 0) {
                c.slant_m = c.behind.source_m;
                c.echo_end_m = c.behind.source_end_m;
            }
            c.shadow_start_m = c.behind.start_m;
            c.shadow_end_m = c.behind.end_m;
            c.shadow_cut = c.behind.cut;
            c.features = features_of(s, e, c.behind, crowd_of(s, echoes, behinds, i), chance);
            known.usual.add(e.zone, c.features);
            candidates.push_back({swaths.size() - 1, i, std::move(c)});
        }
    }
    weigh(candidates, known);
    for (auto &[swath, echo, c] : candidates) {
        const auto &s = swaths[swath];
        const auto &e = all_found[swath].echoes[echo];
        if (!settings_.keep_all && c.real() < settings_.least_confidence * 0.6)
            continue;
        if (c.crowned())
            for (const auto &g : grains_in(s, e))
                if (g.chance >= grain_worth_telling)
                    c.maybe_fish.push_back({g.row, g.slant_m, g.chance});
        std::sort(c.maybe_fish.begin(), c.maybe_fish.end(),
                  [](const auto &p, const auto &q) { return p.chance > q.chance; });
        place_contact(scan, s, e, depths_, run_m_, c);
        // Smeared by a turn: seen, but neither size nor place can be trusted.
        if (std::fabs(static_cast<double>(scan.facts(c.row).turn_deg_s)) > turning_deg_s) {
            c.length_m.reset();
            c.width_m.reset();
            c.ground_m.sd *= 1.5;
        }
        found.push_back(std::move(c));
    }
    border = std::move(told);
    return found;
}

// Ledges that the boat ran over. They are shown at the first return of the starboard side, where there is
// one.
void Reader::read_drops(const Scan &scan, std::size_t first, std::size_t end, std::size_t core_first,
                        std::size_t core_end, std::vector<Contact> &found) const {
    for (const auto &d : find_drops(scan, run_m_, first, end)) {
        if (d.row < core_first || d.row >= core_end)
            continue;
        Contact c;
        c.zone = Zone::track;
        c.side = scan.ping(d.row).beam(Side::starboard) != nullptr ? Side::starboard : Side::port;
        c.row = d.row;
        c.first_row = d.first_row;
        c.last_row = d.last_row;
        c.time = scan.facts(d.row).time;
        c.run_m = run_m_[d.row];
        c.leg = leg_[d.row];
        if (const auto at = scan.nav.fix_at(c.time))
            c.heading_deg = at->pose.heading_deg;
        c.slant_m = c.echo_end_m = d.altitude_m;
        c.features = KindModel::of_drop(d.z, d.falls_m, d.run_m);
        c.chances = model_.chances(c.zone, c.features);
        settle_kind(c);
        c.falls_m = d.falls_m;
        c.along_m = d.run_m;
        c.bottom.altitude_m = d.altitude_m;
        c.bottom.altitude_sd_m = d.sd_m;
        c.ground_m = {0, 0.3};
        c.depth_m = d.altitude_m + scan.installation.draught_m();
        c.height_m = Estimate{std::fabs(d.falls_m), std::hypot(d.sd_m, 0.05 + 0.05 * std::fabs(d.falls_m))};
        const auto placed = place_beside(scan, d.row, c.side, c.ground_m);
        c.place = placed.at;
        c.place_state = placed.state;
        found.push_back(std::move(c));
    }
}

constexpr std::size_t most_rows = 6000; // of a boat that hardly moves

void Reader::know_runs(const Scan &scan, std::size_t end) {
    if (run_m_.empty() && end > 0)
        run_m_.push_back(0);
    for (auto row = run_m_.size(); row < end; ++row)
        run_m_.push_back(run_m_.back() + step_over_ground(scan.facts(row - 1), scan.facts(row)));
    for (auto row = leg_.size(); row < end; ++row)
        leg_.push_back(legs_.leg_at(scan, row));
}

void Reader::read_rows(const Scan &scan, std::size_t core_first, std::size_t core_end, std::size_t limit,
                       std::optional<std::vector<AtBorder>> &border, Known &known,
                       std::vector<Contact> &found) const {
    auto end = core_end;
    while (end < limit && end - core_end < most_rows / 4 &&
           run_m_[end] - run_m_[core_end] < settings_.margin_m)
        ++end;
    auto first = core_first;
    while (first > scan.first() && core_first - first < most_rows / 4 &&
           run_m_[core_first] - run_m_[first - 1] < settings_.margin_m)
        --first;
    auto all = read_block(scan, first, end, core_first, core_end, border, known);
    read_drops(scan, first, end, core_first, core_end, all);
    for (auto &c : all)
        if (settings_.keep_all || c.confidence >= settings_.least_confidence * 0.6)
            found.push_back(std::move(c));
}

std::vector<Contact> Reader::advance(const Scan &scan, bool all) {
    return advance_to(scan, all ? scan.end() : scan.settled_until(), all);
}

std::vector<Contact> Reader::advance_to(const Scan &scan, std::size_t settled, bool all) {
    std::vector<Contact> found;
    depths_.add(scan, std::min(depth_row_, settled), settled);
    depth_row_ = std::max(depth_row_, settled);
    know_runs(scan, settled);
    while (next_row_ < settled) {
        auto core_end = next_row_;
        while (core_end < settled && core_end - next_row_ < most_rows &&
               run_m_[core_end] - run_m_[next_row_] < settings_.block_m)
            ++core_end;
        auto end = core_end;
        while (end < settled && end - core_end < most_rows / 4 &&
               run_m_[end] - run_m_[core_end] < settings_.margin_m)
            ++end;
        if (!all && end >= settled)
            break; // not enough behind it yet
        read_rows(scan, next_row_, core_end, settled, border_, known_, found);
        next_row_ = core_end;
    }
    std::sort(found.begin(), found.end(), [](const Contact &a, const Contact &b) { return a.row < b.row; });
    return found;
}

std::vector<Contact> Reader::look_ahead(const Scan &scan) {
    std::vector<Contact> found;
    know_runs(scan, scan.end());
    // A boat that hardly moves: no more than can be read in time.
    const auto first = std::max(next_row_, scan.end() > most_rows / 4 ? scan.end() - most_rows / 4 : 0);
    auto border = first == next_row_ ? border_ : std::nullopt;
    auto known = known_; // they are taken in when they are read for good
    if (first < scan.end())
        read_rows(scan, first, scan.end(), scan.end(), border, known, found);
    for (auto &c : found)
        c.provisional = true;
    return found;
}

std::vector<Contact> Reader::read_again(const Scan &scan, std::size_t first, std::size_t end) {
    std::vector<Contact> found;
    end = std::min(end, next_row_);
    depths_ = TrackDepths();
    depths_.add(scan, scan.first(), depth_row_);
    std::optional<std::vector<AtBorder>> border;
    auto known = known_;
    while (first < end) {
        auto core_end = first;
        while (core_end < end && core_end - first < most_rows &&
               run_m_[core_end] - run_m_[first] < settings_.block_m)
            ++core_end;
        read_rows(scan, first, core_end, next_row_, border, known, found);
        first = core_end;
    }
    return found;
}

} // namespace heron
