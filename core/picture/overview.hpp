// A whole trip small: one line for many rows, so that hours fit beside the picture.
#pragma once

#include "sonar/ping.hpp"

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace heron {

/// Mean levels over the range, port from far to near, then starboard from near to far. A level is dB + 160 in
/// one byte; 0 where nothing was heard.
using OverviewLine = std::array<std::uint8_t, 64>;

inline constexpr std::size_t rows_an_overview_line = 16;
inline constexpr double overview_zero_db = -160;

/// Grows with the trip; coarser levels, each of four lines of the one before, are kept as it grows.
class Overview {
  public:
    static constexpr std::size_t levels = 5; ///< a line of the last one is 4,096 rows

    void add(const Ping &row);
    /// Lines that were kept elsewhere.
    void add_lines(std::span<const OverviewLine> lines);
    void clear();

    const std::vector<OverviewLine> &lines(std::size_t level) const { return levels_[level]; }
    static constexpr std::size_t rows_a_line(std::size_t level) {
        return rows_an_overview_line << (2 * level);
    }
    /// The finest level with at most `most` lines (the last one where even that has more).
    std::size_t level_for(std::size_t most) const;

  private:
    void grow(std::size_t level);
    std::array<std::vector<OverviewLine>, levels> levels_;
    std::array<float, 64> sum_{};
    std::array<int, 64> heard_{};
    std::size_t rows_ = 0;
};

} // namespace heron
