// The ground map of a whole file: a recording, a trip, or a log of NMEA sentences.
#pragma once

#include "bottom/clock_check.hpp"
#include "bottom/ground_map.hpp"
#include "units/units.hpp"

#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace heron {

/// What charting a file tells of how far it is, 0 to 1; false breaks it off.
using MapProgress = std::function<bool(double share)>;

/// The ground that one file's sonar heard, gone through twice: once to learn its curve. A log of sentences
/// (`.nmea`, `.log`, `.txt`) has no sonar, only soundings: depth and position are enough for contours.
/// `zone`: the one to lie on; the file's own where none is told. Warnings are added. Refuses what has no
/// positions, what has neither sonar nor depths, and what was broken off. Where no row is
/// chosen the map is empty but for its bands and days, and a warning tells it.
/// `clocks`: learns whether positions come late. `positions_late_s`: by how much they do, as far as it was
/// found out.
Result<GroundMap> map_of_file(const std::string &file, std::optional<UtmZone> zone, double cell_m,
                              std::vector<std::string> &warnings, const MapProgress &progress = {},
                              const RowChoice &choice = {}, ClockCheck *clocks = nullptr,
                              double positions_late_s = 0);

/// The lake's level over its datum that was written down in a trip, metres; nothing where none is told, where
/// it is no figure, and of other files. A bare figure is one of `system`.
std::optional<double> level_told_in(const std::string &file, UnitSystem system);

/// Whether a file of that name, met in a folder, is one to chart: a recording, a trip, or a log named
/// `.nmea`.
bool is_chartable(const std::string &file);

} // namespace heron
