// The words all other parts speak: ping, beam, level.
#pragma once

#include "sonar/instant.hpp"

#include <cmath>
#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace heron {

enum class Side : std::uint8_t { port, starboard, down, around };

/// "port", "starboard", "down", "around": the names used in files.
std::string_view name_of(Side side);
std::optional<Side> side_named(std::string_view name);
/// −90 for port, +90 for starboard, 0 otherwise: degrees clockwise from the bow.
constexpr double nominal_azimuth_deg(Side side) {
    return side == Side::port ? -90.0 : side == Side::starboard ? 90.0 : 0.0;
}

/// How the stored codes of a beam become decibels. Levels are relative: no absolute calibration is assumed.
struct LevelScale {
    double db_at_zero = 0;
    double db_per_code = 0.28;
    int clip_low = -1;       ///< a code at or below this is clipped: the truth is lower
    int clip_high = 1 << 17; ///< a code at or above this is clipped: the truth is higher

    double db(int code) const { return db_at_zero + db_per_code * code; }
    bool operator==(const LevelScale &) const = default;
};

/// A sample that holds nothing: not sounded, or before the blanking interval.
inline constexpr std::uint16_t missing_code = 0xFFFF;

/// What one beam heard after one transmission.
struct Beam {
    Side side = Side::port;
    double azimuth_deg = -90;     ///< of the beam's centre, clockwise from the bow
    double depression_deg = 30;   ///< of the beam's centre, below the horizontal
    double width_along_deg = 1;   ///< one-way, half power, along the track
    double width_across_deg = 50; ///< one-way, half power, in the vertical plane abeam
    double gain_db = 0;           ///< applied by the device; contained in the levels
    LevelScale scale;
    std::vector<std::uint16_t> code; ///< one a sample, nearest first

    /// Thin along the track: of beams that look down, a fan and no cone.
    bool is_thin() const { return width_along_deg < 5; }
    double level_db(std::size_t k) const {
        return code[k] == missing_code ? std::numeric_limits<double>::quiet_NaN() : scale.db(code[k]);
    }
};

/// No ping reaches farther: the deepest lake has less than that.
inline constexpr double most_slant_m = 2000;

/// One transmission and what its beams heard.
struct Ping {
    UnixNs time = 0;
    double sound_speed_m_s = 1480;
    double sample_interval_s = 0; ///< > 0
    double first_sample_s = 0;    ///< time of sample 0 after transmission
    double frequency_hz = 0;      ///< centre
    double bandwidth_hz = 0;      ///< 0 for a plain pulse
    double pulse_s = 0;
    bool place_unknown = false; ///< its time cannot be trusted, so neither can its place
    std::vector<Beam> beams;

    double metres_per_sample() const { return sound_speed_m_s / 2 * sample_interval_s; }
    /// Slant range of (fractional) sample `k`: r = c/2 · (first_sample + k · interval).
    double slant_m(double k) const { return sound_speed_m_s / 2 * (first_sample_s + k * sample_interval_s); }
    double sample_at(double slant) const {
        return (slant * 2 / sound_speed_m_s - first_sample_s) / sample_interval_s;
    }
    /// Slant range of the end of the longest beam, metres; 0 without samples.
    double range_m() const;
    /// Range resolution: what the pulse (or its bandwidth) smears, at least one sample.
    double resolution_m() const;
    const Beam *beam(Side side) const;
};

/// How a head at the bow turns, ray by ray.
struct Turning {
    double step_deg = 1.8; ///< from one ray to the next
    int pace = 2;          ///< 1, slow, to 5, fast: rays a second are the device's own for each
    double from_deg = 0;   ///< the sector is swept clockwise off the bow from here …
    double wide_deg = 360; ///< … over so much; 360 is a full turn, less goes to and fro
    bool full() const { return wide_deg >= 360; }
    bool operator==(const Turning &) const = default;
};

/// What can be set on a sounder.
struct SoundingSettings {
    double range_m = 25;
    double frequency_hz = 770e3;
    int gain = 50;       ///< in the sounder's own steps, 0…100
    double tvg_log = 30; ///< time-varied gain: tvg_log · log10(r) + 2αr
    bool pinging = true;
    std::optional<Turning>
        turning; ///< of a head that turns; not kept with its pings, which tell their azimuth
    bool operator==(const SoundingSettings &) const = default;
};

} // namespace heron
