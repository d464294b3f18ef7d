// One side of a stretch, even in range and freed of what the sounder, the angle and the ground's own change
// make of its levels: what is left stands out or lies in shadow.
#pragma once

#include "picture/scan.hpp"

#include <algorithm>
#include <optional>
#include <span>
#include <vector>

namespace heron {

/// Levels in a grid: a line a ping, a column a cell along the sound.
struct SwathGrid {
    std::size_t lines = 0, columns = 0;
    std::vector<float> off; ///< dB over the local background, −16…+26; 0 where nothing was heard
    /// What part of that background is the ground's own change, on its coarse grid: dB over the median along
    /// the track, over 6 m × 2 m.
    std::vector<float> patch;
    std::size_t patch_lines = 0, patch_columns = 0, lines_each = 1, columns_each = 1;
    float patch_at(std::size_t line, std::size_t column) const {
        if (patch.empty())
            return 0;
        return patch[std::min(line / lines_each, patch_lines - 1) * patch_columns +
                     std::min(column / columns_each, patch_columns - 1)];
    }
    float at(std::size_t line, std::size_t column) const { return off[line * columns + column]; }
};

struct Swath {
    Side side = Side::starboard;
    std::vector<std::size_t> rows; ///< which row of the scan a line is
    std::vector<double> along_m;   ///< run over ground since the first row asked for, at each line
    std::vector<double> edge_m;    ///< slant range of the first return on this side
    std::vector<double> altitude_m;
    std::vector<double> end_m; ///< end of what was sounded
    double cell_m = 0.05;      ///< along the sound
    double spacing_m = 0.1;    ///< between lines, over ground (median)
    double pulse_m = 0.05;     ///< resolution along the sound
    double beam_rad = 0.015;   ///< width along the track
    double clipped_low = 0;    ///< share of the bottom that the receiver could not tell from nothing
    double clipped_high = 0;   ///< share that saturated it
    /// From the first return outwards: column k is at slant range edge + (k + ½)·cell.
    SwathGrid ground;
    /// From the transducer to the first return: column k is at slant range (k + ½)·cell; 0 beyond.
    SwathGrid water;
    std::vector<float> ground_level_db; ///< of `ground`, before the background was taken off

    double slant_m(std::size_t line, double column) const { return edge_m[line] + column * cell_m; }
    std::size_t lines() const { return rows.size(); }
};

/// From one row to the next over ground, metres; where the run is not known a ping stands for a decimetre.
double step_over_ground(const RowFacts &before, const RowFacts &now);

/// Prepares the lines `first`…`end` (rows of the scan) of one side. Rows without that side or without a
/// bottom, and rows less than 3 cm on from the last one, are passed over. Empty when fewer than 24 lines are
/// left.
///
/// Background: the median along 18 m at one distance behind the first return, then the median over 6 m × 2 m
/// of what that leaves; both on a grid of 0.36 m × 0.12 m.
Swath prepare_swath(const Scan &scan, Side side, std::size_t first, std::size_t end);

/// The same of rays of a turning head, a line each, in their order: `rows` of the scan, `spacing_m` between
/// them over ground at the distance that is looked at. The first return is taken where the depth says; where
/// no bottom was found under a ray, at `altitude_m`, and without that the ray is passed over.
Swath prepare_rays(const Scan &scan, std::span<const std::size_t> rows, double spacing_m,
                   std::optional<double> altitude_m = std::nullopt);

} // namespace heron
