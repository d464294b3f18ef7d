// The whole stand-in, without its sockets: a boat on a lake, its receiver, compass and sounder, in simulated
// time.
#pragma once

#include "link/messages.hpp"
#include "sim/acoustics.hpp"
#include "sim/boat.hpp"

#include <optional>
#include <string>
#include <vector>

namespace heron::sim {

class Sounder {
  public:
    /// `start`: the time at which the simulated clock begins.
    Sounder(Scene scene, UnixNs start);
    Sounder(const Sounder &) = delete; // its acoustics look at its own scene
    Sounder &operator=(const Sounder &) = delete;

    SounderHello hello() const;
    const SoundingSettings &settings() const { return settings_; }
    /// Takes what is asked, each value brought to what the sounder can do.
    void ask(const SoundingSettings &wanted);

    /// What comes next in simulated time: a ping, or a round of NMEA sentences.
    struct Event {
        UnixNs time = 0;
        std::optional<WirePing> ping;
        std::vector<std::string> sentences;
    };
    Event next();
    const BoatState &boat() const { return boat_.state(); }
    const Scene &scene() const { return scene_; }
    /// Seconds between pings at the range set: the sound's way there and back and a rest, at most 20 a
    /// second.
    double ping_period_s() const;

  private:
    std::vector<std::string> sentences(UnixNs time);
    double depth_below_transducer() const;

    Scene scene_;
    Boat boat_;
    Acoustics acoustics_;
    SoundingSettings settings_;
    std::mt19937 random_;
    UnixNs start_, now_, next_ping_, next_nmea_;
    std::uint64_t pings_ = 0, rounds_ = 0;
};

} // namespace heron::sim
