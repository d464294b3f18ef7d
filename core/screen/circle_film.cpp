#include "screen/circle_film.hpp"

#include "screen/hand.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

// Counts of 255 by which a ray must differ, and how much more than the film's own noise.
constexpr double least_counts = 4, times_noise = 4, most_noise = 12;
constexpr double most_changed = 0.6, noise_at = 0.3; // shares of all rays
constexpr int least_passed = 20;                     // that may look as before, however few changed

double difference(const LevelRow &a, const LevelRow &b) {
    double sum = 0;
    for (std::size_t k = 0; k < a.size(); ++k)
        sum += std::abs(a[k] - b[k]);
    return sum / static_cast<double>(std::max<std::size_t>(1, a.size()));
}

struct Run {
    int first = 0, rays = 0;
};

// All that changed lies in one run; the rest is the longest stretch of what did not.
Run run_of(const std::vector<bool> &changed) {
    Run still;
    for (int from = 0, length = 0; from < 2 * rays_of_a_circle; ++from) {
        length = changed[static_cast<std::size_t>(from % rays_of_a_circle)]
                     ? 0
                     : std::min(rays_of_a_circle, length + 1);
        if (length > still.rays)
            still = {(from - length + 1) % rays_of_a_circle, length};
    }
    return {(still.first + still.rays) % rays_of_a_circle, rays_of_a_circle - still.rays};
}

} // namespace

CircleTaker::CircleTaker(ScreenCalibration calibration, Take take)
    : calibration_(std::move(calibration)), take_(std::move(take)) {}

void CircleTaker::tell(const std::string &what, double seconds) {
    if (facts_.warnings.size() < most_film_warnings)
        facts_.warnings.push_back(
            told("at {}:{:04.1f}: {}", static_cast<int>(seconds / 60), std::fmod(seconds, 60), what));
}

void CircleTaker::add(const ScreenPicture &picture, double seconds, const std::optional<Homography> &onto) {
    const auto upright =
        upright_panel(picture, onto ? moved(calibration_, *onto) : calibration_, panel_size(calibration_));
    if (!level_) {
        const auto ramp = calibration_.ramp.empty() ? estimate_ramp(circle_panel(upright, calibration_))
                                                    : ramp_of(calibration_.ramp);
        level_ = std::make_unique<LevelOfColour>(ramp);
        if (!ramp.rises)
            tell(told("the colours do not grow lighter all the way: levels are guessed"), seconds);
    }
    auto rays = rays_on(upright, calibration_, *level_);
    ++facts_.pictures;
    facts_.seconds = seconds;
    const double from_s = std::exchange(last_s_, seconds);
    const auto before = std::exchange(before_, std::move(rays));
    if (before.empty())
        return;
    std::vector<double> off(rays_of_a_circle);
    for (std::size_t i = 0; i < off.size(); ++i)
        off[i] = difference(before[i], before_[i]);
    auto sorted = off;
    const auto noise = sorted.begin() + static_cast<std::ptrdiff_t>(noise_at * rays_of_a_circle);
    std::nth_element(sorted.begin(), noise, sorted.end());
    const double enough = std::max(least_counts, times_noise * *noise);
    std::vector<bool> changed(rays_of_a_circle);
    std::transform(off.begin(), off.end(), changed.begin(), [enough](double d) { return d > enough; });
    if (*noise <= most_noise && std::none_of(changed.begin(), changed.end(), [](bool c) { return c; }))
        return;
    const auto run = run_of(changed);
    if (run.rays > most_changed * rays_of_a_circle || *noise > most_noise) {
        tell(told("most of the circle changed at once: its range, its colours or the view, or some time is "
                  "missing"),
             seconds);
        edge_.reset();
        return;
    }
    const int last = (run.first + run.rays - 1) % rays_of_a_circle;
    if (edge_) {
        // It goes on from where it was: which end of the run lies nearer tells the way it turns.
        const auto away = [this](int ray) {
            const int d = std::abs(ray - *edge_);
            return std::min(d, rays_of_a_circle - d);
        };
        if (away(run.first) != away(last))
            clockwise_ = away(run.first) < away(last);
    }
    std::vector<int> order;
    for (int i = 0; i < run.rays; ++i)
        order.push_back(clockwise_ ? (run.first + i) % rays_of_a_circle
                                   : (last - i + rays_of_a_circle) % rays_of_a_circle);
    // The ray at the edge was half drawn before.
    if (edge_ && order.size() > 1 && order.front() == *edge_)
        order.erase(order.begin());
    // It leaps over none: a ray between that looks as it did a turn ago was swept too.
    if (edge_) {
        const int step = clockwise_ ? 1 : rays_of_a_circle - 1;
        const int between =
            (clockwise_ ? order.front() - *edge_ : *edge_ - order.front()) + 2 * rays_of_a_circle;
        const int passed = between % rays_of_a_circle - 1,
                  most_passed = std::max(least_passed, 2 * static_cast<int>(order.size()));
        if (passed > 0 && passed <= most_passed)
            for (int i = passed; i > 0; --i)
                order.insert(order.begin(), (*edge_ + i * step) % rays_of_a_circle);
    }
    for (std::size_t i = 0; i < order.size(); ++i)
        take_(order[i], before_[static_cast<std::size_t>(order[i])],
              from_s + (seconds - from_s) * static_cast<double>(i + 1) / static_cast<double>(order.size()));
    edge_ = order.back();
    facts_.rows += order.size();
    facts_.most_scroll = std::max(facts_.most_scroll, static_cast<double>(order.size()));
    facts_.rows_a_second = seconds > 0 ? static_cast<double>(facts_.rows) / seconds : 0;
}

} // namespace heron
