#include "reading/reader.hpp"

#include "reading/drops.hpp"
#include "reading/large.hpp"

#include <algorithm>
#include <cmath>
#include <iterator>

namespace heron {
std::vector<Contact> Reader::read_block(const Scan &scan, std::size_t first, std::size_t end,
                                        std::size_t core_first, std::size_t core_end,
                                        std::optional<std::vector<AtBorder>> &border, Known &known) const {
    std::vector<Contact> found;
    std::vector<AtBorder> told;
    std::vector<Swath> swaths;
    std::vector<Found> all_found;
    std::vector<Candidate> candidates;
    std::vector<std::vector<BrightGrain>> grains;
    for (const auto side : {Side::port, Side::starboard}) {
        auto prepared = prepare_swath(scan, side, first, end);
        if (prepared.lines() == 0)
            continue;
        all_found.push_back(find_all(prepared));
        swaths.push_back(std::move(prepared));
        grains.push_back(bright_grains(swaths.back()));
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
            auto c = look_of(scan, s, e, behinds[i]);
            c.run_m = run_m_[row];
            c.leg = leg_[row];
            c.features = features_of(s, e, c.behind, crowd_of(s, echoes, behinds, i), chance);
            known.usual.add(e.zone, c.features);
            if (settings_.on_candidate)
                settings_.on_candidate(c, s, e);
            candidates.push_back({swaths.size() - 1, i, std::move(c)});
        }
    }
    weigh(candidates, known, model_);
    for (std::size_t i = 0; i < swaths.size(); ++i)
        give_clusters(grain_clusters(swaths[i], grains[i]), swaths[i], i, candidates);
    for (auto &[swath, echo, c] : candidates) {
        const auto &s = swaths[swath];
        const auto &e = all_found[swath].echoes[echo];
        if (!settings_.keep_all && c.real() < settings_.least_confidence * 0.6)
            continue;
        finish(scan, s, e, depths_, run_m_, c);
        found.push_back(std::move(c));
    }
    if (!settings_.keep_all)
        for (std::size_t i = 0; i < swaths.size(); ++i) {
            auto large = read_large(scan, swaths[i], run_m_, core_first, core_end);
            auto weeds = read_weeds(scan, swaths[i], grains[i], run_m_, core_first, core_end);
            std::move(weeds.begin(), weeds.end(), std::back_inserter(large));
            for (auto &c : large) {
                c.leg = leg_[c.row];
                found.push_back(std::move(c));
            }
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
