// A range that follows the depth, in steps and with patience, so that it does not twitch.
#pragma once

#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>
#include <vector>

namespace heron {

/// The range is the stated multiple of the depth under the transducer, rounded up to a step of the unit. It
/// changes only when the range now set is off by more than the hysteresis for a while.
class RangeFollower {
  public:
    double times_depth = 3;
    double hysteresis = 0.15; ///< share of the range
    double patience_s = 4;    ///< how long the depth must have called for it

    /// `steps`: the unit's ranges, rising. Returns the range to set, when it is time to.
    std::optional<double> follow(double time_s, double depth_m, double range_now_m,
                                 const std::vector<double> &steps) {
        if (!(depth_m > 0) || steps.empty())
            return std::nullopt;
        depth_m_ = std::isnan(told_s_) || time_s < told_s_ || time_s > told_s_ + 10
                       ? depth_m
                       : depth_m_ + (depth_m - depth_m_) * (1 - std::exp((told_s_ - time_s) / smooth_s));
        told_s_ = time_s;
        const double wanted = times_depth * depth_m_;
        const auto at = std::lower_bound(steps.begin(), steps.end(), wanted * 0.999);
        const double step = at == steps.end() ? steps.back() : *at;
        const bool off = step != range_now_m && (wanted > range_now_m * (1 + hysteresis / 3) ||
                                                 step < range_now_m * (1 - hysteresis));
        if (!off) {
            since_ = never;
            return std::nullopt;
        }
        if (std::isnan(since_))
            since_ = time_s;
        if (time_s - since_ < patience_s)
            return std::nullopt;
        since_ = never;
        return step;
    }

  private:
    static constexpr double never = std::numeric_limits<double>::quiet_NaN();
    static constexpr double smooth_s = 2; ///< a depth reading is as rough as the bottom
    double since_ = never, told_s_ = never, depth_m_ = 0;
};

} // namespace heron
