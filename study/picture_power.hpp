// How well a thing tells itself apart on quantised pictures of the stand-in, distance by distance.
#pragma once

#include "water.hpp"

#include "sim/acoustics.hpp"
#include "tuning/budget.hpp"

#include <array>
#include <vector>

namespace heron::study {

/// Histograms of levels before the gain, so that each gain can be tried on the same pictures.
class PicturePower {
  public:
    static constexpr double strip_m = 2;

    /// Sounds the water once over at this range, band and speed. What is echo and what shadow the stand-in
    /// itself tells: cells that the things make a decibel stronger, and a decibel weaker, than the bare
    /// bottom.
    PicturePower(const PlantedWater &planted, const Water &water, const Gear &gear, const Setting &setting,
                 std::uint32_t seed);

    struct Power {
        /// Ground a minute with three pings on the thing, weighed by how far from chance its echo is told
        /// apart, times how far its shadow is.
        double worth_m2 = 0;
        double plain_product_m2 = 0; ///< the same ground times the mean separation of echo and shadow
        double separation = 0.5;     ///< mean over ground with three pings on the thing
    };
    struct Separation {
        double ground_m = 0, echo = 0.5, shadow = 0.5;
    };
    /// Strip by strip, each with its neighbours.
    std::vector<Separation> separations(int gain) const;
    /// At a gain and at a speed other than it was sounded at (the same noise, more or fewer pings).
    Power at(int gain, double speed_m_s) const;

  private:
    static constexpr std::size_t bins = 1600;
    static constexpr double lowest_db = -20, bin_db = 0.1;
    enum Class : std::uint8_t { echo, bottom, shadow, none };
    using Histogram = std::vector<float>;
    struct Strip {
        std::array<Histogram, 3> of;
    };
    double separation(const Histogram &brighter, const Histogram &darker, int gain) const;

    Gear gear_;
    Setting setting_;
    Water water_;
    double altitude_ = 0, c_ = 0;
    std::vector<Strip> strips_;
};

} // namespace heron::study
