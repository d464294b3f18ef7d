// A sounder described by what its maker or a recording tells: what advice is computed from.
#pragma once

#include "fault/fault.hpp"
#include "sonar/ping.hpp"

#include <string>
#include <string_view>
#include <vector>

namespace heron {

struct GearBand {
    double frequency_hz = 800e3;
    double along_deg = 0.8;     ///< one-way half-power width along the track
    double across_deg = 52;     ///< in the vertical plane abeam
    double bandwidth_hz = 40e3; ///< of a chirp; a plain pulse of τ seconds has 1/τ
    /// Level over its own receiver noise, at 1 m from a target of 0 dB, in decibels. Nobody can look it up:
    /// it is estimated from a recording (`estimate_gear`), or the usual for its class stands in.
    double source_db = 140;
    bool operator==(const GearBand &) const = default;
};

struct Gear {
    std::string name;
    std::vector<GearBand> bands;
    double tilt_deg = 30;               ///< of the side fans below the horizontal
    double most_pings_a_second = 20;    ///< the unit's own, however short the range
    double rest_s = 0.004;              ///< between the last echo and the next transmission
    double assumed_sound_speed_m_s = 0; ///< a unit that assumes a fixed one; 0: it knows the true one
    double draught_m = 0.3;
    double shortest_range_m = 6, longest_range_m = 60;
    int samples_a_side = 0;        ///< that a range is cut into; 0: as many as the bandwidth resolves
    int screen_pixels = 1000;      ///< across its sonar picture
    bool screen_shows_both = true; ///< both sides share them; else one side has them all
    int gain_steps = 100;
    double db_a_gain_step = 0.8;
    int contrast_steps = 20;
    double db_a_contrast_step = 2;
    double level_span_db = 64; ///< what its levels tell apart, from black to full
    /// Level (signal over receiver noise, TVG included) that gives the lowest count at the middle of the
    /// gain; unknown units have not-a-number, and gain is then advised from the picture only.
    double level_at_zero_db = std::numeric_limits<double>::quiet_NaN();
    double tvg_log = 30;
    /// Flow and motor noise: from this speed on it rises by so much a doubling.
    double noise_from_m_s = 1.8, noise_db_a_doubling = 18;
    bool operator==(const Gear &) const = default;

    int pixels_a_side() const { return screen_shows_both ? screen_pixels / 2 : screen_pixels; }
    /// Seconds from ping to ping at a range: 2R/c and a rest, but no faster than the unit can.
    double ping_period_s(double range_m, double sound_speed_m_s) const;
    /// What is told apart across, along the sound, metres: c/(2B), but no less than a sample.
    double resolution_m(std::size_t band, double range_m, double sound_speed_m_s) const;
    /// Rise of the noise at a speed, decibels.
    double noise_rise_db(double speed_m_s) const;
};

/// The units of the three classes in use (450, 800 and 1200 kHz), with figures that are common practice, no
/// published source.
Gear usual_gear();

std::string gear_to_json(const Gear &gear);
/// Refuses text that is no such description, naming the entry.
Result<Gear> gear_from_json(std::string_view text);

} // namespace heron
