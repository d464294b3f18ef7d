#include "screen/scroll.hpp"

#include "sonar/peak.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>
#include <opencv2/imgproc.hpp>
#include <optional>
#include <vector>

namespace heron {
namespace {

constexpr int columns_kept = 96; // and up to twice as many, across: the scroll needs no more
constexpr int pixels_of_a_cell = 6;
constexpr int least_kept = 16;   // rows that two pictures must have in common
constexpr int enough_rows = 160; // to tell by them what lies under something

// What the levels of some rows come to: many scrolls are tried, over rows that are mostly the same.
class RowSums {
  public:
    explicit RowSums(const cv::Mat &levels)
        : columns_(levels.cols), sum_(static_cast<std::size_t>(levels.rows) + 1, 0.0), square_(sum_) {
        for (int y = 0; y < levels.rows; ++y) {
            const auto *row = levels.ptr<float>(y);
            const auto i = static_cast<std::size_t>(y);
            // Two sums each, side by side: one after another each would wait for the one before.
            float a = 0, b = 0, aa = 0, bb = 0;
            for (int k = 0; k + 1 < levels.cols; k += 2) {
                a += row[k];
                aa += row[k] * row[k];
                b += row[k + 1];
                bb += row[k + 1] * row[k + 1];
            }
            if (levels.cols % 2 == 1) {
                a += row[levels.cols - 1];
                aa += row[levels.cols - 1] * row[levels.cols - 1];
            }
            sum_[i + 1] = sum_[i] + static_cast<double>(a + b);
            square_[i + 1] = square_[i] + static_cast<double>(aa + bb);
        }
    }
    double mean(int from, int to) const { return over(sum_, from, to); }
    double sd(int from, int to) const {
        const double m = mean(from, to);
        return std::sqrt(std::max(0.0, over(square_, from, to) - m * m));
    }

  private:
    double over(const std::vector<double> &all, int from, int to) const {
        return (all[static_cast<std::size_t>(to)] - all[static_cast<std::size_t>(from)]) /
               (static_cast<double>(to - from) * columns_);
    }
    int columns_;
    std::vector<double> sum_, square_;
};

// Correlation of two equal patches.
double alike(double both, double mean_a, double sd_a, double mean_b, double sd_b) {
    const double spread = sd_a * sd_b;
    if (spread < 1) // of flat patches their levels tell
        return std::fabs(mean_a - mean_b) < 3 ? 1 : 0;
    return (both - mean_a * mean_b) / spread;
}

// Strip by strip across, how well rows are found again `rows` on, and how much what stood still differs and
// what scrolled does, grey levels. Sums are kept by column, so that all columns of a row go at once.
struct StripLook {
    double alike = -1, still = 0, moved_on = 0;
};
std::array<StripLook, ScrollFollower::strips> by_strip(const cv::Mat &before, const cv::Mat &now, int rows) {
    const int keep = now.rows - rows;
    const auto columns = static_cast<std::size_t>(now.cols);
    std::vector<float> a(columns, 0), b(columns, 0), aa(columns, 0), bb(columns, 0), ab(columns, 0),
        still(columns, 0), moved_on(columns, 0);
    // Of tall panels some rows tell as much as all.
    const int step = std::max(1, now.rows / enough_rows);
    int looked = 0, kept_rows = 0;
    for (int y = 0; y < now.rows; y += step, ++looked) {
        const auto *stood = before.ptr<float>(y), *here = now.ptr<float>(y);
        for (std::size_t k = 0; k < columns; ++k)
            still[k] += std::fabs(stood[k] - here[k]);
        if (y >= keep)
            continue;
        ++kept_rows;
        const auto *from = before.ptr<float>(y + rows);
        for (std::size_t k = 0; k < columns; ++k) {
            const float p = from[k], q = here[k];
            a[k] += p;
            b[k] += q;
            aa[k] += p * p;
            bb[k] += q * q;
            ab[k] += p * q;
            moved_on[k] += std::fabs(p - q);
        }
    }
    std::array<StripLook, ScrollFollower::strips> out;
    for (std::size_t i = 0; i < out.size(); ++i) {
        const auto first = static_cast<std::ptrdiff_t>(columns * i / out.size()),
                   last = static_cast<std::ptrdiff_t>(columns * (i + 1) / out.size());
        const auto sum = [&](const std::vector<float> &of) {
            return std::accumulate(of.begin() + first, of.begin() + last, 0.0);
        };
        const double wide = static_cast<double>(last - first), kept = wide * kept_rows;
        out[i].still = sum(still) / (wide * looked);
        out[i].moved_on = sum(moved_on) / kept;
        const double mean_a = sum(a) / kept, mean_b = sum(b) / kept;
        const auto sd = [&](double square, double mean) {
            return std::sqrt(std::max(0.0, square - mean * mean));
        };
        if (keep >= least_kept)
            out[i].alike =
                alike(sum(ab) / kept, mean_a, sd(sum(aa) / kept, mean_a), mean_b, sd(sum(bb) / kept, mean_b));
    }
    return out;
}

// A panel with the mean of each column taken out, narrowed, and what its rows sum up to.
struct Seen {
    cv::Mat levels;
    RowSums sums;
};

Seen seen_on(const Panel &panel) {
    const int each = std::max(1, panel.columns / columns_kept), columns = panel.columns / each;
    // Of wide cells the middle serves.
    const int taken = std::min(each, pixels_of_a_cell), first = (each - taken) / 2;
    cv::Mat now(panel.rows, columns, CV_32F), usual;
    const float scale = 1 / (256.0F * static_cast<float>(taken));
    for (int y = 0; y < now.rows; ++y) {
        const Rgb *from = &panel.at(y, first);
        auto *to = now.ptr<float>(y);
        for (int k = 0; k < columns; ++k, from += each) {
            int grey = 0; // as ITU-R BT.601 weighs the colours, times 256
            for (int i = 0; i < taken; ++i)
                grey += 77 * from[i].red + 150 * from[i].green + 29 * from[i].blue;
            to[k] = static_cast<float>(grey) * scale;
        }
    }
    // Off the mean of each column: the dark water and the bright ground near it are there in all rows.
    cv::reduce(now, usual, 0, cv::REDUCE_AVG, CV_32F);
    const auto *mean = usual.ptr<float>(0);
    for (int y = 0; y < now.rows; ++y) {
        auto *row = now.ptr<float>(y);
        for (int k = 0; k < columns; ++k)
            row[k] -= mean[k];
    }
    return {now, RowSums(now)};
}

// How much is found again on `now` of what stood on `before`, `rows` scrolled: −1…1.
double found_again(const Seen &before, const Seen &now, int rows) {
    const int all = now.levels.rows, keep = all - rows;
    if (rows < 0 || keep < least_kept)
        return -1;
    const double both = before.levels.rowRange(rows, all).dot(now.levels.rowRange(0, keep)) /
                        (static_cast<double>(keep) * now.levels.cols);
    return alike(both, before.sums.mean(rows, all), before.sums.sd(rows, all), now.sums.mean(0, keep),
                 now.sums.sd(0, keep));
}

// Between whole rows: a film's pixels need not be the unit's own.
double between_rows(const Seen &before, const Seen &now, int rows, double here) {
    return rows + (rows > 0 ? peak_between(found_again(before, now, rows - 1), here,
                                           found_again(before, now, rows + 1))
                            : 0);
}

} // namespace

struct ScrollFollower::State {
    std::optional<Seen> last;
    int last_rows = 0; // of the scroll before
    // What the scroll is counted from, so that parts of a row neither add up nor get lost: a picture some
    // time ago, what part of a row was over then, how far it has scrolled since, and how many rows of both
    // were told.
    std::optional<Seen> counted_from;
    double over = 0, since = 0;
    int told = 0;
    cv::Mat window;
};
ScrollFollower::ScrollFollower() : state_(std::make_unique<State>()) {}
ScrollFollower::~ScrollFollower() = default;

namespace {

constexpr double the_same = 0.9, plainly = 0.9, enough_alike = 0.5;

// The whole number of rows that lays most on most, and how well.
struct Best {
    int rows = 0;
    double alike = 0;
};

Best best_scroll(const Seen &before, const Seen &now, double same, int last_rows, cv::Mat &window) {
    Best best{0, same};
    const auto attempt = [&](int from, int to) {
        for (int rows = std::max(1, from); rows <= to; ++rows)
            if (const double a = found_again(before, now, rows); a > best.alike + 1e-4)
                best = {rows, a};
    };
    // Most often it goes on as it went, or the picture is the same to the last pixel.
    constexpr int about = 2;
    constexpr double identical = 0.9999;
    if (same > identical)
        return best;
    if (last_rows > 0) {
        attempt(last_rows - about, last_rows + about);
        if (best.alike > plainly && best.rows > 0 && std::abs(best.rows - last_rows) < about)
            return best;
    }
    if (window.size() != now.levels.size())
        cv::createHanningWindow(window, now.levels.size(), CV_32F);
    const double moved = -cv::phaseCorrelate(before.levels, now.levels, window).y;
    const int guess = static_cast<int>(std::lround(moved));
    attempt(guess - about, guess + about);
    // Phase correlation may hold to what does not move (rulers, a cursor): then each number is tried.
    const bool agreed = best.rows > 0 && std::fabs(moved - best.rows) < 1 && best.alike > enough_alike;
    if (best.alike < plainly && !agreed)
        attempt(1, std::min(now.levels.rows / 3, 96));
    return best;
}

} // namespace

Scroll ScrollFollower::next(const Panel &panel) {
    auto now = seen_on(panel);
    Scroll s;
    s.shown.assign(strips, true);
    auto &state = *state_;
    const auto begin_anew = [&state](const Seen &at, double over) {
        state.counted_from = at;
        state.over = over;
        state.since = 0;
        state.told = 0;
    };
    if (!state.last || state.last->levels.size() != now.levels.size()) {
        begin_anew(now, 0);
        state.last = std::move(now);
        return s;
    }
    const double same = found_again(*state.last, now, 0);
    const auto best = best_scroll(*state.last, now, same, state.last_rows, state.window);
    s.alike = best.alike;
    if (same > the_same && same >= best.alike - 0.01) {
        s.state = ScrollState::still;
        return s;
    }
    // Strip by strip: under a menu nothing is found again, and what stands still while the rest scrolls lies
    // over it. Where hardly anything differs it is noise that is not found again.
    constexpr double covered_strip = 0.35, stands_still = 1.5, times_usual = 2, counts_more = 2;
    const auto looks = by_strip(state.last->levels, now.levels, best.rows);
    std::array<double, strips> moved_on{};
    std::transform(looks.begin(), looks.end(), moved_on.begin(),
                   [](const StripLook &l) { return l.moved_on; });
    std::nth_element(moved_on.begin(), moved_on.begin() + strips / 2, moved_on.end());
    const double much = times_usual * moved_on[strips / 2] + counts_more;
    int shown = 0, alike_strips = 0;
    for (std::size_t i = 0; i < looks.size(); ++i) {
        const bool over_it = best.rows > 0 && looks[i].still < stands_still &&
                             looks[i].still<0.5 * looks[i].moved_on, like = looks[i].alike> covered_strip;
        s.shown[i] = (like || looks[i].moved_on < much) && !over_it;
        shown += s.shown[i] ? 1 : 0;
        alike_strips += like && !over_it ? 1 : 0;
    }
    if (best.alike < enough_alike && alike_strips < strips / 2) {
        begin_anew(now, 0);
        state.last = std::move(now);
        state.last_rows = 0;
        s.state = ScrollState::jumped;
        s.shown.assign(strips, true);
        return s;
    }
    s.rows_exact = between_rows(*state.last, now, best.rows, best.alike);
    state.since += s.rows_exact;
    // Seen from farther back the same scroll is told more truly.
    const int whole = static_cast<int>(std::lround(state.since));
    if (const double a = found_again(*state.counted_from, now, whole); a > enough_alike) {
        const double refined = between_rows(*state.counted_from, now, whole, a);
        if (std::fabs(refined - state.since) < 1)
            state.since = refined;
    }
    s.rows = std::max(0, static_cast<int>(std::lround(state.over + state.since)) - state.told);
    state.told += s.rows;
    if (state.since > now.levels.rows / 4.0) {
        constexpr double none = 0.15; // of a row: pixels are the unit's own
        const double over = state.over + state.since - state.told;
        begin_anew(now, std::fabs(over) < none ? 0 : over);
    }
    state.last = std::move(now);
    state.last_rows = best.rows;
    s.state = s.rows == 0      ? ScrollState::still
              : shown < strips ? ScrollState::covered
                               : ScrollState::scrolled;
    return s;
}

} // namespace heron
