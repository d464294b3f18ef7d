// One source of NMEA 0183: its sentences, decoded, placed in time.
#pragma once

#include "recording/nmea.hpp"
#include "sonar/nav_guard.hpp"

namespace heron {

/// Sentences without a time of their own belong to the receiver's last epoch, so many of the host's seconds
/// ago. That ties them to the receiver's clock, whatever the host's says.
class NmeaFeed {
  public:
    /// `host_time`: when the line was heard, by this machine's clock. What can be true goes into `track`.
    void take(std::string_view line, UnixNs host_time, NavTrack &track);
    const NmeaDecoder &decoder() const { return decoder_; }
    const NavGuard &guard() const { return guard_; }

  private:
    NmeaDecoder decoder_;
    NavGuard guard_;
    UnixNs epoch_heard_ = 0;
};

} // namespace heron
