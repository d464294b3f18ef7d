// A unit's screen that is looked at live, as a sounder and a receiver would speak (docs/wire.md, NMEA 0183).
#pragma once

#include "link/messages.hpp"
#include "screen/film.hpp"

#include <optional>
#include <string>

namespace heron {

/// Turns what is taken off a screen into frames and sentences. The screen's settings are what it shows: a
/// request changes nothing.
class ScreenSounder {
  public:
    /// `start`: the time of the first picture.
    ScreenSounder(ScreenCalibration calibration, UnixNs start);

    /// A whole greeting frame and a whole frame of the settings that hold.
    Bytes hello() const;
    Bytes settings() const;
    /// The frames of a row: settings anew where the range has changed, then the ping. Nothing where neither
    /// side of the middle is as wide as 24 pixels.
    Bytes ping(const FilmRow &row);
    /// What a receiver, a compass or a sounder would say in place of a figure; empty for one of the range.
    std::string sentence(double at_s, const Figure &figure) const;
    /// The speed over ground that the rows' own scale along the track tells, once a second of rows (`VTG`);
    /// empty between, and where the calibration knows no such scale or reads the speed off the screen.
    std::string speed_sentence(double at_s);

  private:
    UnixNs time(double at_s) const;
    SoundingSettings settings_now() const;

    ScreenCalibration calibration_;
    UnixNs start_, last_ = 0;
    double range_m_;
    std::uint64_t rows_ = 0, rows_at_speed_ = 0;
    std::optional<double> speed_told_s_;
};

} // namespace heron
