#include "picture/bottom_tracker.hpp"

#include "sonar/peak.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numeric>

namespace heron {
namespace {

constexpr double nothing_nearer_m = 0.35; // the pulse still rings there
constexpr float penalty_per_bin = 0.7F;   // dB for each bin that the path moves
constexpr float weakest_rise_db = 3;
// A path through noise gathers under 4 dB a ping and four times what lies beside it, over deep silt in the
// finest band 7 dB and more; in a picture nearly all black less, but next to nothing lies beside it.
constexpr float weakest_path_db = 5, over_the_rest = 8;
constexpr std::size_t path_reach = 8; // pings each way

constexpr std::size_t filled = 10, beyond = 5; // bins behind the last one heard: taken as it, and empty

// Mean level of a beam in bins of `bin_m`, some beyond the last one heard; not-a-number where nothing was
// heard.
std::vector<double> binned(const Ping &p, const Beam &b, double bin_m, std::size_t most_bins) {
    const double end = std::clamp(p.slant_m(static_cast<double>(b.code.size())) / bin_m, 0.0,
                                  static_cast<double>(most_bins));
    const auto bins = std::min(most_bins, static_cast<std::size_t>(end) + 1 + filled + beyond);
    std::vector<double> sum(bins, 0);
    std::vector<int> count(bins, 0);
    for (std::size_t k = 0; k < b.code.size(); ++k) {
        if (b.code[k] == missing_code)
            continue;
        const double r = p.slant_m(static_cast<double>(k));
        const auto i = static_cast<std::size_t>(std::max(0.0, r / bin_m));
        if (i >= bins)
            break;
        sum[i] += b.scale.db(b.code[k]);
        ++count[i];
    }
    std::size_t last = bins;
    for (std::size_t i = 0; i < bins; ++i) {
        if (count[i] > 0) {
            sum[i] /= count[i];
            last = i;
        } else {
            // Samples farther apart than a bin leave holes; the one before fills them.
            sum[i] = last < bins && i - last < filled ? sum[last] : std::numeric_limits<double>::quiet_NaN();
        }
    }
    return sum;
}

// How steeply a beam's level rises.
class Rises {
  public:
    explicit Rises(const std::vector<double> &level) : sum_(level.size() + 1, 0), n_(level.size() + 1, 0) {
        for (std::size_t i = 0; i < level.size(); ++i) {
            const bool heard = !std::isnan(level[i]);
            sum_[i + 1] = sum_[i] + (heard ? level[i] : 0);
            n_[i + 1] = n_[i] + heard;
        }
    }
    // At each bin: mean of the next `after` bins less the mean of the previous `before`.
    std::vector<float> over(std::size_t before, std::size_t after) const {
        const auto bins = sum_.size() - 1;
        std::vector<float> out(bins, 0);
        for (std::size_t i = 4; i + 4 < bins; ++i) {
            const auto a = i > before ? i - before : 0, c = std::min(i + after, bins);
            const int na = n_[i] - n_[a], nc = n_[c] - n_[i];
            if (na < 3 || nc < static_cast<int>(after) / 2)
                continue;
            out[i] = static_cast<float>((sum_[c] - sum_[i]) / nc - (sum_[i] - sum_[a]) / na);
        }
        return out;
    }

  private:
    std::vector<double> sum_; // of all before
    std::vector<int> n_;
};

// The range near `about` (m) at which this side rises most steeply.
double edge_near(const std::vector<float> &score, double about, double bin_m) {
    if (score.empty())
        return 0;
    const auto middle = static_cast<std::ptrdiff_t>(about / bin_m);
    std::ptrdiff_t best = -1;
    for (auto i = std::max<std::ptrdiff_t>(1, middle - 9); i <= middle + 9 && i + 1 < std::ssize(score); ++i)
        if (best < 0 || score[static_cast<std::size_t>(i)] > score[static_cast<std::size_t>(best)])
            best = i;
    if (best < 1 || score[static_cast<std::size_t>(best)] < weakest_rise_db)
        return 0;
    const auto at = [&score](std::ptrdiff_t bin) {
        return static_cast<double>(score[static_cast<std::size_t>(bin)]);
    };
    return (static_cast<double>(best) + peak_between(at(best - 1), at(best), at(best + 1))) * bin_m;
}

} // namespace

const std::vector<BottomPick> &BottomTracker::push(const Ping &ping) {
    Row row;
    std::vector<float> score(bins, 0);
    float beams = 0;
    std::size_t heard = 1;
    for (const auto &b : ping.beams) {
        if (b.side == Side::around || b.code.empty())
            continue;
        const auto level = binned(ping, b, bin_m, bins);
        beams += 1;
        for (auto i = heard; i < level.size(); ++i)
            if (!std::isnan(level[i]))
                heard = i + 1;
        const Rises rises(level);
        const auto wide = rises.over(24, 12);
        for (std::size_t i = 0; i < level.size(); ++i) {
            // The two sides need not meet the bottom at quite the same range.
            float best = 0;
            for (std::size_t j = i > 2 ? i - 2 : 0; j <= std::min(level.size() - 1, i + 2); ++j)
                best = std::max(best, wide[j]);
            if (static_cast<double>(i) * bin_m > nothing_nearer_m)
                score[i] += std::min(best, 25.0F);
        }
        (b.side == Side::port        ? row.port_edge
         : b.side == Side::starboard ? row.starboard_edge
                                     : row.down_edge) = rises.over(8, 5);
    }
    row.score = score;
    for (auto &v : row.score)
        v /= std::max(1.0F, beams);
    row.rest = std::accumulate(row.score.begin(), row.score.end(), 0.0F) / static_cast<float>(heard);
    row.step.assign(bins, 0);
    if (total_.empty()) {
        total_ = score;
    } else {
        // Of the paths so far, the best that comes into each bin, moved by its penalty; the first of equal
        // ones.
        constexpr auto none = -std::numeric_limits<float>::infinity();
        std::array<float, bins + 2UL * most_step> before;
        before.fill(none);
        std::copy(total_.begin(), total_.end(), before.begin() + most_step);
        std::array<float, bins> best, from;
        best.fill(none);
        from.fill(0);
        for (int d = -most_step; d <= most_step; ++d) {
            const float *came = before.data() + (most_step + d);
            const float moved = penalty_per_bin * static_cast<float>(std::abs(d)),
                        step = static_cast<float>(d);
            for (std::size_t i = 0; i < bins; ++i) {
                const float t = came[i] - moved;
                from[i] = t > best[i] ? step : from[i];
                best[i] = t > best[i] ? t : best[i];
            }
        }
        std::vector<float> next(bins);
        for (std::size_t i = 0; i < bins; ++i) {
            // The past fades, so that a new bottom far from the old path is found within some fifty pings.
            next[i] = 0.97F * best[i] + score[i];
            row.step[i] = static_cast<std::int8_t>(from[i]);
        }
        total_ = std::move(next);
    }
    rows_.push_back(std::move(row));
    if (rows_.size() > lag + 1)
        rows_.pop_front();

    auto at = static_cast<std::size_t>(std::max_element(total_.begin(), total_.end()) - total_.begin());
    picks_.assign(rows_.size(), {});
    std::vector<float> gathered(rows_.size() + 1, 0); // along the path, from the newest back
    std::vector<float> beside(rows_.size() + 1, 0);
    const auto newest = at;
    for (std::size_t n = rows_.size(); n-- > 0;) {
        gathered[n] = gathered[n + 1] + rows_[n].score[at];
        beside[n] = beside[n + 1] + rows_[n].rest;
        at = static_cast<std::size_t>(static_cast<std::ptrdiff_t>(at) + rows_[n].step[at]);
    }
    at = newest;
    for (std::size_t n = rows_.size(); n-- > 0;) {
        auto &pick = picks_[n];
        const double about = static_cast<double>(at) * bin_m;
        // Each side meets the bottom by itself; for one that does not, what looks down stands in.
        const double down = edge_near(rows_[n].down_edge, about, bin_m);
        pick.port_m = edge_near(rows_[n].port_edge, about, bin_m);
        pick.starboard_m = edge_near(rows_[n].starboard_edge, about, bin_m);
        if (pick.port_m <= 0)
            pick.port_m = down;
        if (pick.starboard_m <= 0)
            pick.starboard_m = down;
        const auto from = n > path_reach ? n - path_reach : 0,
                   to = std::min(rows_.size(), n + path_reach + 1);
        const float rises = gathered[from] - gathered[to], rest = beside[from] - beside[to];
        const bool there = rises >= weakest_path_db * static_cast<float>(to - from) ||
                           (rises > 0 && rises >= over_the_rest * rest);
        pick.found = there && (pick.port_m > 0 || pick.starboard_m > 0);
        at = static_cast<std::size_t>(static_cast<std::ptrdiff_t>(at) + rows_[n].step[at]);
    }
    // The boat's own depth changes slowly; the jitter of single edges does not. On a slope the side that
    // rises is met early, so the farther of the two stands for the depth under the boat.
    std::vector<double> raw(picks_.size());
    for (std::size_t n = 0; n < picks_.size(); ++n)
        raw[n] = std::max(picks_[n].port_m, picks_[n].starboard_m);
    for (std::size_t n = 0; n < picks_.size(); ++n) {
        if (!picks_[n].found)
            continue;
        std::vector<double> near;
        for (std::size_t m = n > 3 ? n - 3 : 0; m < std::min(picks_.size(), n + 4); ++m)
            if (picks_[m].found)
                near.push_back(raw[m]);
        std::sort(near.begin(), near.end());
        picks_[n].altitude_m = near[near.size() / 2];
        picks_[n].altitude_sd_m = std::max(0.05, (near.back() - near.front()) / 2);
    }
    return picks_;
}

} // namespace heron
