// Things found in a swath by its own statistics: bright regions, and dark ones that no bright one explains.
#pragma once

#include "reading/swath.hpp"

#include <cstdint>
#include <vector>

namespace heron {

/// Where a thing was found.
enum class Zone : std::uint8_t {
    ground, ///< an echo behind the first return
    water,  ///< an echo before it: its side distance is not known
    dark,   ///< a shadow without an echo that explains it
    track,  ///< a step in the depths under the boat (reading/drops.hpp)
};

/// One region, in lines and columns of the grid of its zone.
struct Echo {
    Zone zone = Zone::ground;
    std::size_t first_line = 0, last_line = 0, first_column = 0, last_column = 0; ///< inclusive
    std::size_t strongest_line = 0, strongest_column = 0;
    std::size_t cells = 0;
    int grains = 1;                  ///< separate peaks in it
    double peak_db = 0, mean_db = 0; ///< over the background, in the smallest box and over the region
    double z = 0;        ///< of the box that stands out most, in standard deviations of its surroundings
    double z_small = 0;  ///< the same in the smallest box
    double sigma_db = 0; ///< of the smallest box hereabouts
    /// How much its energy's mean stands over its mean of decibels, beyond what that is on this swath's
    /// ground: 0 for even ground however bright, more for what is made of single grains.
    double grainy_db = 0;
    double clutter = 0; ///< share of the surroundings (6 m) that stands out too
    double length_m = 0,
           width_m = 0; ///< longer and shorter extent over ground, two standard deviations each way
    double along_m = 0, across_m = 0; ///< extent of the bounding box over ground
    double turned = 0;                ///< sine of the angle between its longer axis and the track
    double bend_m = 0;                ///< how far it strays from a straight line
    /// Far edge by line from first_line on: the last column of the region; −1 where the line holds none.
    std::vector<int> far_edge;
    std::vector<int> near_edge;
};

/// Levels at which regions begin and end, in standard deviations of box means over 8 m × 4 m, taken from the
/// deviations to the side that is looked for. For independent Gaussian boxes 3.7 is passed by chance once in
/// 9,300, 4.3 once in 117,000; the bright side of speckle in decibels is passed less often.
struct DetectionLevels {
    double seed = 3.7, grow = 2.3, water_seed = 6, dark_seed = 4.3, broad_seed = 4;
};

/// What is bright, on the ground and in the water. Regions join over gaps of less than `join_m` over ground.
std::vector<Echo> find_echoes(const Swath &swath, const DetectionLevels &levels = {}, double join_m = 0.7);

/// What is dark on the ground, away from the echoes and from the darkness that is theirs: `own_until` holds
/// for each echo the column up to which what lies behind it is its own.
std::vector<Echo> find_darks(const Swath &swath, const std::vector<Echo> &echoes,
                             const std::vector<std::size_t> &own_until, const DetectionLevels &levels = {},
                             double join_m = 0.7);

} // namespace heron
