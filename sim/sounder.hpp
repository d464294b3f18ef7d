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

    // The turning head at the bow, a device of its own on the same boat; it sounds from the first word on.
    SounderHello head_hello() const;
    const SoundingSettings &head_settings() const { return head_settings_; }
    void ask_head(const SoundingSettings &wanted);
    /// Seconds between rays: what its pace says, but no faster than the sound comes back.
    double ray_period_s() const;
    bool hold(bool on) { return boat_.hold(on); }
    void put_on_hold() { boat_.put_on_hold(); }

    /// What comes next in simulated time: a ping, a ray of the head, or a round of NMEA sentences.
    struct Event {
        UnixNs time = 0;
        std::optional<WirePing> ping, ray;
        std::vector<std::string> sentences;
    };
    Event next();
    /// Without the down view a transmission costs some third less.
    void look_down(bool on) { acoustics_.look_down(on); }
    const BoatState &boat() const { return boat_.state(); }
    const Scene &scene() const { return scene_; }
    /// Seconds between pings at the range set: the sound's way there and back and a rest, at most 20 a
    /// second.
    double ping_period_s() const;

  private:
    std::vector<std::string> sentences(UnixNs time);
    WirePing sound_ray();
    double depth_below_transducer() const;

    Scene scene_;
    Boat boat_;
    Acoustics acoustics_;
    SoundingSettings settings_;
    std::mt19937 random_;
    UnixNs start_, now_, next_ping_, next_nmea_;
    std::uint64_t pings_ = 0, rounds_ = 0;
    SoundingSettings head_settings_;
    std::mt19937 head_random_;
    UnixNs next_ray_ = 0; ///< 0: it does not sound
    std::uint64_t rays_ = 0;
    double head_says_deg_ = 0, head_is_deg_ = 0; ///< from the start of its sector, clockwise
    double head_way_ = 1;
};

} // namespace heron::sim
