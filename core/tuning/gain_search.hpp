// "Tune for me": brackets the gain from evidence, as a good operator does, in a few steps.
#pragma once

#include "picture/scan.hpp"
#include "tuning/gear.hpp"

#include <optional>
#include <string>

namespace heron {

/// A part of the picture to tune to; all of the bottom zone, if none is told.
struct TuningSpot {
    std::size_t row = 0;
    Side side = Side::starboard;
    double slant_m = 0;
    bool hard = false; ///< known to be hard (a ramp, a wall): it shall come just short of full
};

/// What is left of the truth at a spot (or everywhere): how much the device's gain has lost for good.
struct LostByGain {
    double share_full = 0, share_black = 0;
    std::size_t samples = 0;
    /// One sentence: what can still be levelled from what is stored and what cannot.
    std::string say() const;
};
LostByGain lost_by_gain(const Scan &scan, std::size_t first_row, std::size_t end_row,
                        const std::optional<TuningSpot> &spot = std::nullopt);

class GainSearch {
  public:
    static constexpr int most_steps = 5;
    static constexpr std::size_t rows_a_look = 16;

    GainSearch(const Gear &gear, int gain_now, std::optional<TuningSpot> spot = std::nullopt)
        : gear_(gear), gain_(gain_now), spot_(spot) {}

    /// Looks at a row at the gain asked for; returns the next gain when enough was seen, nothing while
    /// looking, the same gain when it is done.
    std::optional<int> look(const Scan &scan, std::size_t row);
    /// From what is stored, without any change at the device: what gain a spot calls for.
    std::optional<int> from_stored(const Scan &scan, std::size_t first_row, std::size_t end_row);
    bool done() const { return done_; }
    int gain() const { return gain_; }
    int steps() const { return steps_; }
    std::string why() const { return why_; }

  private:
    struct Seen {
        std::vector<double> db;
        double full_db = 0, low_db = 0;
        std::size_t full = 0, black = 0;
    };
    void take(const Scan &scan, std::size_t row, Seen &seen) const;
    int next(Seen &seen);

    Gear gear_;
    int gain_;
    std::optional<TuningSpot> spot_;
    Seen seen_;
    std::size_t rows_ = 0;
    int steps_ = 0, lowest_too_hot_ = 1 << 20, highest_too_dark_ = -1;
    bool done_ = false;
    std::string why_;
};

} // namespace heron
