#include "tuning/gain_search.hpp"

#include "fault/told.hpp"
#include <algorithm>
#include <cmath>

namespace heron {
namespace {

// The middle of the bottom stands at this share of what the unit tells apart: above it there must be room for
// hard things (twenty decibels and more), beneath it for shadow.
constexpr double middle_share = 0.42;
constexpr double spot_along_rows = 8, spot_across_m = 1.2;

} // namespace

std::string LostByGain::say() const {
    if (samples == 0)
        return told("Nothing was heard there.");
    const auto hundred = [](double share) { return std::lround(100 * share); };
    if (share_full < 0.005 && share_black < 0.02)
        return told("All of it can still be levelled from what is stored.");
    if (share_full >= 0.005 && share_black >= 0.02)
        return told("{} of 100 samples are full and {} black: lost for good. The rest can still be levelled.",
                    std::max(1L, hundred(share_full)), hundred(share_black));
    return share_full >= 0.005
               ? told("{} of 100 samples are full: lost for good. The rest can still be levelled.",
                      std::max(1L, hundred(share_full)))
               : told("{} of 100 samples are black: lost for good. The rest can still be levelled.",
                      hundred(share_black));
}

LostByGain lost_by_gain(const Scan &scan, std::size_t first, std::size_t end,
                        const std::optional<TuningSpot> &spot) {
    LostByGain lost;
    std::size_t full = 0, black = 0;
    for (auto n = std::max(first, scan.first()); n < std::min(end, scan.end()); ++n) {
        const auto &ping = scan.ping(n);
        const auto &bottom = scan.bottom(n);
        for (const auto &b : ping.beams) {
            if (b.side == Side::down || (spot && b.side != spot->side))
                continue;
            const double from = spot ? spot->slant_m - spot_across_m : bottom.altitude_m + 0.3;
            const double to = spot ? spot->slant_m + spot_across_m : ping.range_m();
            const auto k1 =
                std::min(b.code.size(), static_cast<std::size_t>(std::max(0.0, ping.sample_at(to))));
            for (auto k = static_cast<std::size_t>(std::max(0.0, ping.sample_at(from))); k < k1; ++k) {
                if (b.code[k] == missing_code)
                    continue;
                ++lost.samples;
                full += b.code[k] >= b.scale.clip_high;
                black += b.code[k] <= b.scale.clip_low;
            }
        }
    }
    if (lost.samples > 0) {
        lost.share_full = static_cast<double>(full) / static_cast<double>(lost.samples);
        lost.share_black = static_cast<double>(black) / static_cast<double>(lost.samples);
    }
    return lost;
}

void GainSearch::take(const Scan &scan, std::size_t row, Seen &seen) const {
    const auto &ping = scan.ping(row);
    const auto &bottom = scan.bottom(row);
    for (const auto &b : ping.beams) {
        if (b.side == Side::down || (spot_ && b.side != spot_->side))
            continue;
        const double from = spot_ ? spot_->slant_m - spot_across_m
                                  : (bottom.found ? bottom.altitude_m + 0.3 : ping.range_m() / 3);
        const double to = spot_ ? spot_->slant_m + spot_across_m : ping.range_m();
        const auto k1 = std::min(b.code.size(), static_cast<std::size_t>(std::max(0.0, ping.sample_at(to))));
        for (auto k = static_cast<std::size_t>(std::max(0.0, ping.sample_at(from))); k < k1; ++k) {
            if (b.code[k] == missing_code)
                continue;
            seen.db.push_back(b.scale.db(b.code[k]));
            seen.full += b.code[k] >= b.scale.clip_high;
            seen.black += b.code[k] <= b.scale.clip_low;
        }
        seen.full_db = b.scale.db(std::min(b.scale.clip_high, 65534));
        seen.low_db = b.scale.db(b.scale.clip_low);
    }
}

// Where the middle of the levels is known the step follows from it; where it is clipped the bracket is
// halved, or half of the span is stepped.
int GainSearch::next(Seen &seen) {
    if (seen.db.empty())
        return gain_;
    const auto at = [&](double share) {
        const auto i = static_cast<std::ptrdiff_t>(share * static_cast<double>(seen.db.size() - 1));
        std::nth_element(seen.db.begin(), seen.db.begin() + i, seen.db.end());
        return seen.db[static_cast<std::size_t>(i)];
    };
    const double n = static_cast<double>(seen.db.size());
    const double full = static_cast<double>(seen.full) / n, black = static_cast<double>(seen.black) / n;
    const bool hard = spot_ && spot_->hard;
    // A hard thing's brightest tenth shall stand one step short of full; otherwise the middle of all counts.
    const double level = hard ? at(0.9) : at(0.5);
    const double wanted = hard ? seen.full_db - 2 * gear_.db_a_gain_step
                               : seen.low_db + middle_share * (seen.full_db - seen.low_db);
    const double clipped_high = hard ? 0.1 : 0.5;
    double shift = wanted - level;
    const double half_span = (seen.full_db - seen.low_db) / 3;
    if (full > clipped_high) {
        lowest_too_hot_ = std::min(lowest_too_hot_, gain_);
        shift = -half_span;
    } else if (black > 0.5) {
        highest_too_dark_ = std::max(highest_too_dark_, gain_);
        shift = half_span;
    }
    why_ = told("{} of 100 samples full, {} black", std::lround(100 * full), std::lround(100 * black));
    int to = gain_ + static_cast<int>(std::lround(shift / gear_.db_a_gain_step));
    // Never back to what is known to be wrong.
    if (to >= lowest_too_hot_)
        to = highest_too_dark_ >= 0 ? (lowest_too_hot_ + highest_too_dark_) / 2 : lowest_too_hot_ - 1;
    if (to <= highest_too_dark_)
        to = lowest_too_hot_ < (1 << 20) ? (lowest_too_hot_ + highest_too_dark_ + 1) / 2
                                         : highest_too_dark_ + 1;
    return std::clamp(to, 0, gear_.gain_steps);
}

std::optional<int> GainSearch::look(const Scan &scan, std::size_t row) {
    if (done_)
        return gain_;
    if (scan.settings(row).gain != gain_)
        return std::nullopt; // the sounder has not followed yet
    take(scan, row, seen_);
    if (++rows_ < rows_a_look)
        return std::nullopt;
    const int to = next(seen_);
    seen_ = Seen();
    rows_ = 0;
    // Within two decibels it is right; more steps would only follow the bottom.
    if (std::abs(to - gain_) * gear_.db_a_gain_step <= 2 || steps_ == most_steps) {
        done_ = true;
        return gain_;
    }
    ++steps_;
    gain_ = to;
    return gain_;
}

std::optional<int> GainSearch::from_stored(const Scan &scan, std::size_t first, std::size_t end) {
    Seen seen;
    for (auto n = std::max(first, scan.first()); n < std::min(end, scan.end()); ++n)
        take(scan, n, seen);
    if (seen.db.size() < 50)
        return std::nullopt;
    return next(seen);
}

} // namespace heron
