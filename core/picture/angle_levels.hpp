// The usual level at each angle, learned from the scan itself, so that the picture can be made even from near
// to far.
#pragma once

#include "picture/bottom_tracker.hpp"
#include "sonar/ping.hpp"

#include <array>

namespace heron {

/// Mean level in decibels by depression angle, apart for each side, with older rows fading. What is taken off
/// a sample is how far the usual level at its angle lies over the mean of all angles: grounds keep their
/// differences, the fall with angle goes. Adding is cheap enough for every row.
class AngleLevels {
  public:
    static constexpr std::size_t bins = 64; ///< by the sine of depression, evenly
    /// `memory`: rows over which the older ones fade to a third.
    explicit AngleLevels(double memory = 600) : memory_(memory) {}

    void add(const Ping &ping, const BottomPick &bottom);
    void clear();
    bool ready() const { return rows_ >= 40; }
    /// How far what is taken off differs at most from what another takes off, decibels; endless where only
    /// one of the two is ready.
    double farthest_from(const AngleLevels &other) const;
    /// Decibels to take off at slant range `slant_m` over a bottom `altitude_m` deep; 0 in the water or while
    /// not ready.
    float excess_db(Side side, double slant_m, double altitude_m) const;
    /// The same for every sample of a beam, into `out` (as many as the beam has).
    void excess_of(const Ping &ping, const Beam &beam, const BottomPick &bottom, float *out) const;

  private:
    struct Side_ {
        std::array<double, bins> sum{}, weight{};
        double mean() const;
    };
    static std::size_t index_of(Side side) { return side == Side::port ? 0 : 1; }
    double usual(const Side_ &s, double sine) const;
    using Table = std::array<float, bins + 1>; ///< excess at sines i / bins
    const Table &table_of(Side side) const;
    std::array<Side_, 2> sides_;
    double memory_;
    std::size_t rows_ = 0;
    mutable std::array<Table, 2> tables_{}; ///< as they were at `tabled_` rows
    mutable std::array<std::size_t, 2> tabled_{};
};

} // namespace heron
