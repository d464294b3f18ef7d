#include "screen/scroll.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <vector>

namespace heron {
namespace {

constexpr int columns_kept = 96; // and up to twice as many, across: the scroll needs no more

// What the levels of some rows come to: many scrolls are tried, over rows that are mostly the same.
class RowSums {
  public:
    explicit RowSums(const cv::Mat &levels)
        : columns_(levels.cols), sum_(static_cast<std::size_t>(levels.rows) + 1, 0.0), square_(sum_) {
        for (int y = 0; y < levels.rows; ++y) {
            const cv::Mat row = levels.row(y);
            const auto i = static_cast<std::size_t>(y);
            sum_[i + 1] = sum_[i] + cv::sum(row)[0];
            square_[i + 1] = square_[i] + row.dot(row);
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

// What differs on the whole between two equal patches, grey levels.
double unlike(const cv::Mat &a, const cv::Mat &b) {
    return cv::norm(a, b, cv::NORM_L1) / static_cast<double>(a.total());
}

// What stayed, `rows` after scrolling, within some columns.
double stayed(const cv::Mat &before, const cv::Mat &now, int rows, int from, int to) {
    const int keep = now.rows - rows;
    if (keep < 16)
        return -1;
    const cv::Mat a = before(cv::Rect(from, rows, to - from, keep)),
                  b = now(cv::Rect(from, 0, to - from, keep));
    cv::Scalar mean_a, mean_b, sd_a, sd_b;
    cv::meanStdDev(a, mean_a, sd_a);
    cv::meanStdDev(b, mean_b, sd_b);
    return alike(a.dot(b) / static_cast<double>(a.total()), mean_a[0], sd_a[0], mean_b[0], sd_b[0]);
}

} // namespace

struct ScrollFollower::State {
    cv::Mat last, window;
};
ScrollFollower::ScrollFollower() : state_(std::make_unique<State>()) {}
ScrollFollower::~ScrollFollower() = default;

Scroll ScrollFollower::next(const Panel &panel) {
    cv::Mat colour(panel.rows, panel.columns, CV_8UC3, const_cast<Rgb *>(panel.pixels.data())), grey, small;
    cv::cvtColor(colour, grey, cv::COLOR_RGB2GRAY);
    const int each = std::max(1, panel.columns / columns_kept), columns = panel.columns / each;
    cv::resize(grey.colRange(0, columns * each), small, {columns, panel.rows}, 0, 0, cv::INTER_AREA);
    cv::Mat now;
    small.convertTo(now, CV_32F);
    // Off the mean of each column: the dark water and the bright ground near it are there in all rows.
    cv::Mat usual;
    cv::reduce(now, usual, 0, cv::REDUCE_AVG, CV_32F);
    now -= cv::repeat(usual, now.rows, 1);
    Scroll s;
    s.shown.assign(strips, true);
    if (state_->last.size() != now.size()) {
        state_->last = now;
        return s;
    }
    if (state_->window.size() != now.size())
        cv::createHanningWindow(state_->window, now.size(), CV_32F);
    const RowSums sums_before(state_->last), sums_now(now);
    const auto stayed_whole = [&](int rows) {
        const int keep = now.rows - rows;
        if (keep < 16)
            return -1.0;
        const double both = state_->last.rowRange(rows, now.rows).dot(now.rowRange(0, keep)) /
                            (static_cast<double>(keep) * now.cols);
        return alike(both, sums_before.mean(rows, now.rows), sums_before.sd(rows, now.rows),
                     sums_now.mean(0, keep), sums_now.sd(0, keep));
    };
    const double same = stayed_whole(0);
    constexpr double the_same = 0.9, found_again = 0.5, covered_strip = 0.35;
    // The exact scroll, and the whole numbers of rows about it: the one that lays most on most.
    double response = 0;
    const auto moved = cv::phaseCorrelate(state_->last, now, state_->window, &response);
    s.rows_exact = std::max(0.0, -moved.y);
    int best = 0;
    double most = same;
    const int guess = static_cast<int>(std::lround(s.rows_exact));
    const auto attempt = [&](int rows) {
        if (rows < 0 || rows > now.rows - 16)
            return;
        if (const double a = stayed_whole(rows); a > most + 1e-4) {
            most = a;
            best = rows;
        }
    };
    for (int rows = guess - 2; rows <= guess + 2; ++rows)
        attempt(rows);
    // Phase correlation may hold to what does not move (rulers, a cursor): then each number is tried.
    if (most < 0.9)
        for (int rows = 1; rows <= std::min(now.rows / 3, 96); ++rows)
            attempt(rows);
    s.alike = most;
    if (same > the_same && same >= most - 0.01) {
        s.state = ScrollState::still;
        return s;
    }
    // Strip by strip: under a menu nothing is found again.
    int shown = 0;
    std::array<double, strips> by_strip{};
    for (int i = 0; i < strips; ++i) {
        by_strip[static_cast<std::size_t>(i)] =
            stayed(state_->last, now, best, now.cols * i / strips, now.cols * (i + 1) / strips);
        const int from = now.cols * i / strips, to = now.cols * (i + 1) / strips;
        // And what stands still while the rest scrolls lies over it.
        constexpr double stands_still = 1.5;
        const double still = unlike(state_->last.colRange(from, to), now.colRange(from, to)),
                     moved_on = unlike(state_->last(cv::Rect(from, best, to - from, now.rows - best)),
                                       now(cv::Rect(from, 0, to - from, now.rows - best)));
        const bool over_it = best > 0 && still < stands_still && still < 0.5 * moved_on;
        s.shown[static_cast<std::size_t>(i)] =
            by_strip[static_cast<std::size_t>(i)] > covered_strip && !over_it;
        shown += s.shown[static_cast<std::size_t>(i)] ? 1 : 0;
    }
    state_->last = now;
    if (most < found_again && shown < strips / 2) {
        s.state = ScrollState::jumped;
        s.shown.assign(strips, true);
        return s;
    }
    s.rows = best;
    s.state = best == 0 ? ScrollState::still : shown < strips ? ScrollState::covered : ScrollState::scrolled;
    return s;
}

} // namespace heron
