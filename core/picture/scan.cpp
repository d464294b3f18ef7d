#include "picture/scan.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

const SoundedRow no_row;
const SoundingSettings not_told{0, 0, 0, 0, true, std::nullopt};

} // namespace

const SoundingSettings &Scan::settings(std::size_t n) const {
    const std::size_t which = facts_[n].settings;
    return which < settings_.size() ? settings_[which] : settings_.empty() ? not_told : settings_.back();
}

// How the boat ran, as far as it is told yet.
void Scan::add_facts(const SoundedRow &row) {
    RowFacts f;
    f.time = row.ping.time;
    f.range_m = static_cast<float>(row.ping.range_m());
    f.place_unknown = row.ping.place_unknown;
    if (const auto v = nav.speed_at(f.time))
        f.speed_m_s = static_cast<float>(*v);
    if (settings_.empty() || !(settings_.back() == row.settings))
        settings_.push_back(row.settings);
    f.settings = static_cast<std::uint16_t>(std::min<std::size_t>(settings_.size() - 1, 0xFFFF));
    if (!facts_.empty()) {
        const auto &before = facts_.back();
        f.along_m = before.along_m;
        f.timed = before.timed;
        const double dt = seconds_between(before.time, f.time);
        if (f.speed_m_s >= static_cast<float>(standing_m_s))
            f.along_m += static_cast<double>(f.speed_m_s) * std::clamp(dt, 0.0, 2.0);
        else
            ++f.timed;
    }
    facts_.push_back(f);
}

// The turn at a row is told by headings on both sides of it, so it comes a second late.
void Scan::settle_turns() {
    if (nav.attitudes().empty())
        return;
    const auto told_until = nav.attitudes().back().time;
    for (auto n = turns_until_; n < facts_.size(); ++n) {
        auto &f = facts_[n];
        const auto second_later = later(f.time, ns_per_s);
        const bool whole = second_later <= told_until;
        const auto a = nav.attitude_at(later(f.time, -ns_per_s)),
                   b = nav.attitude_at(whole ? second_later : f.time);
        if (a && b && b->time > a->time)
            f.turn_deg_s = static_cast<float>(wrap_180(b->heading_deg - a->heading_deg) /
                                              seconds_between(a->time, b->time));
        if (whole && n == turns_until_)
            ++turns_until_;
    }
    // A silent compass must not hold this up.
    turns_until_ = std::max(turns_until_, facts_.size() > 200 ? facts_.size() - 200 : 0);
}

// A sounder of its own that looks straight down bounds where the first return can be: the bottom under the
// boat answers too, so it is not deeper than told; over a slope it comes from uphill, a part of the depth
// early, and the sounder is right. Where the picture has it much nearer, or nowhere, it followed something
// else: noise, weeds, a cloud of fish, a second echo.
void Scan::use_sounder(BottomPick &pick, UnixNs time) const {
    const auto told = nav.steady_depth_at(time);
    if (!told)
        return;
    const double altitude = told->to_waterline_m
                                ? told->below_transducer_m + *told->to_waterline_m - installation.draught_m()
                                : told->below_transducer_m;
    constexpr double least_m = 0.5, nearest_share = 0.6;
    if (altitude < least_m)
        return;
    const double deepest = altitude + std::max(0.3, 0.08 * altitude), nearest = nearest_share * altitude;
    const auto possible = [&](double first_return) {
        return first_return >= nearest && first_return <= deepest;
    };
    if (!pick.found || !possible(pick.altitude_m)) {
        pick.found = true;
        pick.altitude_m = pick.port_m = pick.starboard_m = altitude;
        pick.altitude_sd_m = std::max(0.15, 0.05 * altitude);
        pick.source = BottomSource::sounder;
        return;
    }
    for (double *side : {&pick.port_m, &pick.starboard_m})
        if (*side > 0 && !possible(*side))
            *side = pick.altitude_m;
    const double deeper = altitude - pick.altitude_m;
    if (deeper > std::max(0.12, 0.025 * pick.altitude_m)) {
        pick.altitude_m = altitude;
        pick.altitude_sd_m = std::max(0.1, deeper / 3);
        pick.source = BottomSource::sounder;
    }
}

void Scan::push(SoundedRow row) {
    add_facts(row);
    const auto &picks = tracker_.push(row.ping);
    live_bytes_ += bytes_of(row);
    if (live_.empty())
        live_first_ = facts_.size() - 1;
    live_.push_back(std::move(row));
    const auto n = std::min(picks.size(), facts_.size() - tracked_from_);
    for (std::size_t i = 0; i < n; ++i) {
        auto &f = facts_[facts_.size() - n + i];
        if (f.bottom.source == BottomSource::hand)
            continue;
        f.bottom = picks[picks.size() - n + i];
        use_sounder(f.bottom, f.time);
    }
    settle_turns();
    while (live_bytes_ > most_bytes_ / 2 && live_.size() > 1) {
        live_bytes_ -= bytes_of(live_.front());
        live_.pop_front();
        ++live_first_;
    }
}

void Scan::push_known(std::span<const RowFacts> facts) {
    facts_.insert(facts_.end(), facts.begin(), facts.end());
    live_.clear();
    live_bytes_ = 0;
    live_first_ = facts_.size();
    tracked_from_ = facts_.size();
    turns_until_ = facts_.size();
    tracker_ = BottomTracker();
}

void Scan::amend(std::size_t first_row, std::span<const RowFacts> facts) {
    for (std::size_t i = 0; i < facts.size() && first_row + i < facts_.size(); ++i)
        facts_[first_row + i] = facts[i];
}

void Scan::push_gap() {
    RowFacts f;
    if (!facts_.empty()) {
        f = facts_.back();
        f.bottom = {};
        ++f.timed;
    }
    push_known(std::span(&f, 1));
}

// Asks for the rows of a part that are missing; those that are held stay, since somebody may be looking at
// them.
void Scan::fetch_part(std::size_t number, Part &part) const {
    part.rows.resize(rows_a_fetch);
    part.asked_at = end();
    part.asked_use = uses_;
    auto fresh = fetch_(number * rows_a_fetch, rows_a_fetch);
    for (std::size_t i = 0; i < std::min(fresh.size(), rows_a_fetch); ++i) {
        if (part.rows[i] || fresh[i].ping.beams.empty())
            continue;
        const auto bytes = bytes_of(fresh[i]);
        part.bytes += bytes;
        fetched_bytes_ += bytes;
        part.rows[i] = std::make_shared<const SoundedRow>(std::move(fresh[i]));
    }
}

const SoundedRow &Scan::row(std::size_t n) const {
    if (n >= live_first_ && n - live_first_ < live_.size())
        return live_[n - live_first_];
    if (!fetch_)
        return no_row;
    const auto [at, fresh] = fetched_.try_emplace(n / rows_a_fetch);
    auto &part = at->second;
    const auto i = n % rows_a_fetch;
    part.used = ++uses_;
    // What was not there is not there the next time either, unless the scan has grown, or long after (a disk
    // may be behind).
    if (fresh || (!part.rows[i] && (n >= part.asked_at || end() >= part.asked_at + rows_a_fetch ||
                                    uses_ - part.asked_use > ask_again_after)))
        fetch_part(at->first, part);
    return part.rows[i] ? *part.rows[i] : no_row;
}

std::size_t Scan::provisional_from() const {
    const auto lag = std::max(BottomTracker::lag, facts_.size() - turns_until_);
    return facts_.size() > lag ? facts_.size() - lag : 0;
}

void Scan::correct_bottom(std::size_t first_row, std::span<const BottomPick> picks) {
    for (std::size_t i = 0; i < picks.size() && first_row + i < facts_.size(); ++i) {
        facts_[first_row + i].bottom = picks[i];
        facts_[first_row + i].bottom.source = BottomSource::hand;
    }
}

void Scan::restore_bottom(std::size_t first_row, std::span<const BottomPick> picks) {
    for (std::size_t i = 0; i < picks.size() && first_row + i < facts_.size(); ++i)
        facts_[first_row + i].bottom = picks[i];
}

std::size_t Scan::row_at(UnixNs time) const {
    auto low = first(), high = end();
    while (low < high) {
        const auto middle = low + (high - low) / 2;
        if (facts_[middle].time <= time)
            low = middle + 1;
        else
            high = middle;
    }
    return low > first() ? low - 1 : first();
}

void Scan::trim() {
    if (fetched_bytes_ <= most_bytes_ / 2)
        return;
    std::vector<std::pair<std::uint64_t, std::size_t>> by_use;
    for (const auto &[number, part] : fetched_)
        by_use.emplace_back(part.used, number);
    std::sort(by_use.begin(), by_use.end());
    for (const auto &[used, number] : by_use) {
        if (fetched_bytes_ <= most_bytes_ / 3)
            break;
        fetched_bytes_ -= fetched_.at(number).bytes;
        fetched_.erase(number);
    }
}

} // namespace heron
