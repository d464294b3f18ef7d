// What is said in the frames: who the sounder is, pings, settings and notes.
#pragma once

#include "fault/fault.hpp"
#include "geo/position.hpp"
#include "link/frame.hpp"
#include "sonar/ping.hpp"
#include "sonar/stream.hpp"

#include <string>
#include <vector>

namespace heron {

/// A sounder introduces itself; the program offers just what it names here.
struct SounderHello {
    std::string name;
    std::vector<double> bands_hz;
    double shortest_range_m = 5;
    double longest_range_m = 60;
    int most_gain = 100;
    Installation installation;
    std::optional<StreamId> stream; ///< what it sounds; nothing: its pings tell
    bool takes_requests = true;     ///< false: it is set by hand on the unit itself
    bool steers = false;            ///< it is a simulated boat that takes a word on where to go (Helm)
    std::string
        gear; ///< JSON that describes bands, beams and steps (tuning/gear.hpp); empty: it tells nothing
};

/// A ping as it crosses the wire: with the sounder's own counter and clock.
struct WirePing {
    std::uint64_t number = 0;      ///< counts transmissions; a step of more than one is a loss
    std::int64_t monotonic_ns = 0; ///< the sounder's clock that is never set
    SoundingSettings settings;     ///< in force at that ping
    Ping ping;
};

Bytes encode_hello(const SounderHello &hello);
Result<SounderHello> decode_hello(std::span<const std::uint8_t> payload);
Bytes encode_ping(const WirePing &ping);
Result<WirePing> decode_ping(std::span<const std::uint8_t> payload);
Bytes encode_settings(const SoundingSettings &settings);
/// Settings out of range or of the wrong type are refused.
Result<SoundingSettings> decode_settings(std::span<const std::uint8_t> payload);

/// What a note asks of a boat that is simulated: to hold over its spot, or to go on along its route. Real
/// sounders skip notes.
enum class Helm : std::uint8_t { route, hold };
Bytes encode_helm(Helm helm);
/// Nothing where the note says something else.
std::optional<Helm> decode_helm(std::span<const std::uint8_t> payload);

} // namespace heron
