// A log of NMEA 0183 sentences as a track: of a receiver, a phone, a depth sounder.
#pragma once

#include "fault/fault.hpp"
#include "sonar/nav_track.hpp"

#include <string>
#include <vector>

namespace heron {

/// Sentences that carry no time of their own belong to the epoch before them; a time before a sentence is
/// passed over. Refuses what holds no sentence and what is larger than 512 MiB.
Result<NavTrack> track_of_log(const std::string &file);

} // namespace heron
