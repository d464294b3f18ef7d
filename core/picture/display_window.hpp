// Which levels the picture shows: floor and span in decibels, and the histogram on which they are set.
#pragma once

#include "picture/bottom_tracker.hpp"
#include "sonar/ping.hpp"

#include <array>

namespace heron {

/// Of levels without the device's gain: those at `floor_db` and below are the darkest, at `floor_db +
/// span_db` and above the lightest.
struct DisplayWindow {
    double floor_db = -80;
    double span_db = 40;
    std::uint8_t level_of(double db) const {
        const double x = (db - floor_db) / span_db * 255;
        return x <= 0 ? std::uint8_t{0} : x >= 255 ? std::uint8_t{255} : static_cast<std::uint8_t>(x);
    }
    bool operator==(const DisplayWindow &) const = default;
};

/// How often each level was heard lately, without the device's gain as the picture shows it, apart for the
/// water column and for the bottom zone behind it.
class LevelHistogram {
  public:
    // Levels are relative: whatever a beam can hold has its place.
    static constexpr double lowest_db = -300, step_db = 0.5;
    static constexpr std::size_t bins = 1312; // to +356 dB
    using Counts = std::array<double, bins>;

    /// Adds a ping; older ones fade with a time constant of `memory` pings.
    void add(const Ping &ping, const BottomPick &bottom, double memory = 200);
    const Counts &bottom() const { return bottom_; }
    const Counts &water() const { return water_; }
    bool empty() const { return total_ <= 0; }
    /// The level below which `share` (0…1) of the bottom zone lies, dB.
    double bottom_quantile_db(double share) const;
    /// A window that shows shadow as dark, the usual bottom in the middle and hard things light: from no more
    /// than 22 dB under to no more than 20 dB over the median of the bottom.
    DisplayWindow fitting_window() const;

  private:
    Counts bottom_{}, water_{};
    double total_ = 0;
};

} // namespace heron
