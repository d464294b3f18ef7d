// The level that any ground would show at an angle and a distance, learned from the recording itself: what is
// left over it is the ground's own.
#pragma once

#include "picture/scan.hpp"

#include <array>
#include <vector>

namespace heron {

/// Levels are first freed of what physics tells: the device's gain, Lambert's law (the square of the sine of
/// the grazing angle), the area of a sample, spreading and absorption against the time-varied gain as far as
/// it is told. What is left over angle and over distance (beam pattern, misfit of the gain over time) is
/// found by median polish (J. W. Tukey 1977, "Exploratory Data Analysis", chapter 11) over stretches of the
/// track: a patch of other ground that fewer than half of the stretches meet at an angle leaves no trace in
/// it.
class GroundCurve {
  public:
    static constexpr std::size_t sine_bins = 32, range_bins = 32;

    /// Takes a row whose bottom is settled. Rows that turn are taken too: levels do not smear.
    void add(const Scan &scan, std::size_t row);
    /// Once all rows are added (or enough of them).
    void settle();
    bool ready() const { return ready_; }

    /// Of every sample of a beam: decibels over the level that the mean ground of this recording would show;
    /// not-a-number in the water and where nothing was heard; what is clipped counts as the end of the scale.
    void ground_of(const Scan &scan, std::size_t row, const Beam &beam, std::vector<float> &out) const;

  private:
    struct Stretch {
        std::array<float, sine_bins> sum{}, n{};
        std::array<float, range_bins> far_sum{}, far_n{};
        double altitude_m = 0, rows = 0;
    };
    void close();

    std::vector<Stretch> stretches_;
    std::array<Stretch, 2> open_; ///< port and starboard; of a head its left and its right
    std::size_t rows_open_ = 0;
    std::array<double, sine_bins> by_sine_{};
    std::array<double, range_bins> by_range_{};
    bool ready_ = false;
};

} // namespace heron
