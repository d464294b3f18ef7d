// Things larger than a boat: walls and banks that run on, and heaps of stones, each told as one.
//
// The search for echoes takes the ground's own change off over some metres, and with it the shadow of a wall
// and the brightness of a heap. Here levels are set against the whole stretch, and what throws shadow after
// shadow is followed.
#pragma once

#include "reading/contact.hpp"
#include "reading/swath.hpp"

#include <cstddef>
#include <vector>

namespace heron {

/// A dark run on one step along the track, behind a bright edge.
struct ShadowRun {
    std::size_t line = 0;             ///< middle line of the step in the swath
    double along_m = 0, ground_m = 0; ///< of the edge: run over ground, and aside
    double edge_m = 0;                ///< slant range of the bright edge
    double start_m = 0, end_m = 0;    ///< slant ranges of the dark
    double depth_db = 0;              ///< the dark under its surroundings
    double bright_db = 0;             ///< the edge over its surroundings
    double height_m = 0;              ///< that it tells over a level bottom
    bool cut = false;                 ///< the dark runs out of what was sounded
};

/// The step over which levels are averaged along the track, metres.
inline constexpr double large_step_m = 0.4;

/// Dark runs at least 0.6 m long over ground, 5 dB under what lies within six metres of range of them, behind
/// an edge at least 4 dB over it; of one step along the track those in order of range.
std::vector<ShadowRun> shadow_runs(const Swath &swath);

/// Runs that hang together, as one thing. A wall or bank: within 0.9 m of each other over 6 m and more, one
/// run to a step, along one line and of one height; where its edge is no 8 dB over the ground (median), a
/// ledge from above: the dark is ground that falls away. A heap of stones: within 2.5 m, from 5 m by 4 m on,
/// several to a step and two to 5 m² at the least. What is neither comes not.
struct LargeThing {
    Kind kind = Kind::built;
    std::vector<std::size_t> runs; ///< in `shadow_runs`, along the track
    double length_m = 0, width_m = 0;
    double stray_m = 0; ///< a wall's: how far its edge strays from a straight line, one sigma
    double steady = 0;  ///< a wall's: share of its steps that show it
    Estimate height_m;  ///< a wall's: the median of its rays; a heap's: its tallest stones
    bool at_least = false;
};
std::vector<LargeThing> large_things(const Swath &swath, const std::vector<ShadowRun> &runs);

/// The contacts that they make, with their lines or outlines; told are
/// those that show in the rows `first`…`end` of the scan.
std::vector<Contact> read_large(const Scan &scan, const Swath &swath, const std::vector<double> &run_m,
                                std::size_t first, std::size_t end);

/// Beds of weeds as contacts of their own (reading/clusters.hpp), as `read_large`. Where the boat ran over
/// one and a beam looks down, with a height.
std::vector<Contact> read_weeds(const Scan &scan, const Swath &swath, const std::vector<BrightGrain> &grains,
                                const std::vector<double> &run_m, std::size_t first, std::size_t end);

/// Place, length and width of a large contact, from its edge.
void settle_large(Contact &contact);

/// Puts a large contact where it lies, `ground_m` aside of the boat at its row, with the depth there; without
/// a speed it has neither length nor width.
void place_large(const Scan &scan, Large large, Contact &contact);

/// Whether a contact is a part of a large one: it lies at its line or within its outline, and is no fish; of
/// a bed of weeds only what is as loose itself or hardly told.
bool part_of_large(const Contact &part, const Contact &large);

/// Joins what several stretches and sides tell of one wall or one heap.
void join_large(std::vector<Contact> &contacts);

} // namespace heron
