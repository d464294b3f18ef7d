// The first bottom return under the boat, followed from ping to ping.
#pragma once

#include "sonar/ping.hpp"

#include <cstdint>
#include <deque>
#include <vector>

namespace heron {

/// Where the depth under the boat was taken from.
enum class BottomSource : std::uint8_t { first_return, sounder, hand };

/// Where one ping first met the bottom.
struct BottomPick {
    bool found = false;
    double altitude_m = 0;    ///< depth of the bottom under the transducer
    double altitude_sd_m = 0; ///< one sigma
    double port_m = 0;        ///< slant range of the first return on that side; 0 where there is none
    double starboard_m = 0;
    BottomSource source = BottomSource::first_return; ///< of `altitude_m`
};

/// Follows the bottom with a fixed look-ahead: for each range the rise of level from the 1.2 m before to the
/// 0.6 m behind is a score, summed over the beams of a ping; the path of best total score that moves at most
/// 0.1 m a ping is the bottom (Viterbi). Where over 17 pings that path gathers less than 5 dB a ping, and
/// less than eight times what lies beside it, there is none: over noise, or where the bottom lies so near
/// that its return begins with the pulse. A pick is provisional until `lag` more pings have come.
class BottomTracker {
  public:
    static constexpr std::size_t lag = 24;

    /// Takes the next ping. Returns the picks of the newest pings, oldest first; the last one belongs to
    /// `ping`, and at most `lag` before it may differ from what was said earlier.
    const std::vector<BottomPick> &push(const Ping &ping);

  private:
    static constexpr double bin_m = 0.05;
    static constexpr int most_step = 2; // bins a ping
    static constexpr std::size_t bins = 1600;

    struct Row {
        std::vector<std::int8_t> step; // where the best path into each bin came from
        std::vector<float> score;      // mean of its beams
        float rest = 0;                // the mean of that over all that was heard
        std::vector<float> port_edge, starboard_edge, down_edge; // score of each alone, for the refinement
    };
    std::vector<float> total_;
    std::deque<Row> rows_;
    std::vector<BottomPick> picks_;
};

} // namespace heron
