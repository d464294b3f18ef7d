// NMEA 0183 sentences into positions, headings, depths. Field layouts from memory of the standard (IEC
// 61162-1).
#pragma once

#include "sonar/nav_track.hpp"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace heron {

/// A sentence whose checksum was right (or that had none, which the standard lets old talkers do).
struct NmeaSentence {
    std::string talker;              ///< "GP", "SD", …; empty for proprietary ones
    std::string type;                ///< "GGA", "DPT", …
    std::vector<std::string> fields; ///< what stands between the commas after the address
};

/// XOR of all bytes between '$' and '*'.
std::uint8_t nmea_checksum(std::string_view between);
/// "$…*hh\r\n" for `body` without '$' and checksum.
std::string nmea_sentence(std::string_view body);
/// "ddmm.mmmmmm,N,dddmm.mmmmmm,E": degrees and minutes with their hemispheres.
std::string nmea_place(const GeoPoint &place);
/// Nothing for a line that is no sentence or whose checksum is wrong.
std::optional<NmeaSentence> parse_nmea(std::string_view line);

/// Cuts a stream of bytes into lines; garbage and lines longer than `longest_line` are dropped and counted.
class NmeaLines {
  public:
    static constexpr std::size_t longest_line = 256; // 82 by the standard; real talkers exceed it
    /// Adds bytes; returns the lines that became whole, from '$' or '!' on, without line ends.
    std::vector<std::string> push(std::string_view bytes);
    std::uint64_t dropped_bytes() const { return dropped_; }

  private:
    std::string line_;
    std::uint64_t dropped_ = 0;
};

/// Understands a stream of sentences and feeds a track. Knows GGA, GNS, GLL, GST, RMC (with its variation),
/// VTG, HDT, THS, HDG, HDM, DPT, DBT and MTW; others are counted and left alone.
class NmeaDecoder {
  public:
    /// Takes one line heard at `heard`. Positions bear the time that the receiver itself tells (GGA, GNS and
    /// GLL borrow the date of the last RMC, or of `heard`); sentences without a time of their own take
    /// `heard`. What is understood goes into `track`.
    void take(std::string_view line, UnixNs heard, NavTrack &track);

    std::optional<double> water_temperature_c() const { return temperature_; }
    std::uint64_t understood() const { return understood_; }
    std::uint64_t unknown() const { return unknown_; }
    std::uint64_t damaged() const { return damaged_; }
    /// The last time of day told by the receiver, with its date.
    std::optional<UnixNs> receiver_time() const { return receiver_time_; }
    /// Magnetic variation of the last RMC or HDG, degrees, east positive.
    std::optional<double> variation_deg() const { return variation_; }

  private:
    struct Told;
    bool take_sentence(const NmeaSentence &s, UnixNs heard, NavTrack &track);
    void take_fix(const Told &s);
    void take_place(const Told &s);
    void take_minimum(const Told &s);
    void take_doubt(const Told &s);
    void take_speed(const Told &s);
    void take_true(const Told &s);
    void take_magnetic(const Told &s);
    void take_depth(const Told &s);
    void take_temperature(const Told &s);
    void add_position(const Told &s, UnixNs time, const GeoPoint &place, double sd_m, double speed_m_s);
    std::optional<UnixNs> time_of_day(const std::string &hhmmss, UnixNs heard) const;

    std::optional<double> temperature_;
    std::optional<double> variation_;
    std::optional<double> told_sd_m_;
    std::optional<std::int64_t> date_days_;
    std::optional<UnixNs> receiver_time_;
    UnixNs last_position_ = 0;
    std::uint64_t understood_ = 0, unknown_ = 0, damaged_ = 0;
};

} // namespace heron
