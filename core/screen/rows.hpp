// Rows of a screen as pings, for all that reads recordings.
#pragma once

#include "recording/recording.hpp"
#include "screen/ramp.hpp"

#include <optional>

namespace heron {

/// One row of levels across, port's edge first; −1 where something covered it.
using LevelRow = std::vector<int>;

/// The speed that the time of rows is reckoned with where nothing tells it, m/s (common practice, no
/// published source).
inline constexpr double reckoned_speed_m_s = 1.4;

/// A row as a ping of both sides (one, where the middle lies at an edge). `columns`: of the panel.
Ping ping_of(const LevelRow &row, const ScreenCalibration &calibration, UnixNs time);

/// Seconds from row to row: from the scroll, else from the scale along the track at the reckoned speed.
double seconds_a_row(const ScreenCalibration &calibration);

/// What a recording keeps of depths, and of speeds that no position carries: sentences (it has no other place
/// for them).
void write_down_depths_and_speeds(RecordingHead &head);
/// A speed over ground as a receiver tells it, its end of line included.
std::string vtg_sentence(double m_s);

/// Head of a recording made from a screen: what was assumed stands in its summary. With a place known at the
/// newest of the rows from `first` to `last`, positions and heading as if the boat had run straight; else
/// none, but the speed where the way from row to row is known.
RecordingHead head_of(const ScreenCalibration &calibration, UnixNs first, UnixNs last,
                      const std::string &made_from);

/// A whole picture as a recording; its newest row (of a circle its last ray) has the time `newest`.
struct PictureRows {
    Recording recording;
    ColourRamp ramp;
};
Result<PictureRows> rows_of(const ScreenPicture &picture, const ScreenCalibration &calibration, UnixNs newest,
                            const std::string &made_from);

} // namespace heron
