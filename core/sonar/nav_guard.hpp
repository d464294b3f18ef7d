// Watches positions and headings as they come, and lets through what can be true.
#pragma once

#include "sonar/nav_track.hpp"

#include <deque>

namespace heron {

/// A position that leaps farther than a boat can go is held back; when what follows it stays there for three
/// seconds it is believed, and nothing is interpolated across. Positions that stand still while the boat
/// moves, and headings of a compass that jittered before and now does not, are held back too.
class NavGuard {
  public:
    enum class State { fine, leaping, frozen };
    void take(const PositionSample &sample, NavTrack &into);
    void take(const AttitudeSample &sample, NavTrack &into);
    State positions() const { return positions_; }
    State headings() const { return headings_; }

  private:
    State positions_ = State::fine, headings_ = State::fine;
    std::optional<PositionSample> last_position_, still_;
    std::deque<PositionSample> held_;
    std::optional<AttitudeSample> last_heading_;
    std::deque<AttitudeSample> held_headings_;
    UnixNs same_since_ = 0, heading_same_since_ = 0;
    std::deque<bool> jitter_; // whether the last headings differed from the one before
};

} // namespace heron
