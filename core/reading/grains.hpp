// Single bright grains within a thing that is itself made of grains: fish in trees and brush.
#pragma once

#include "reading/echoes.hpp"

#include <cstddef>
#include <vector>

namespace heron {

/// One maximum of energy within an echo.
struct Grain {
    std::size_t row = 0;      ///< of the scan
    double along_m = 0;       ///< run over ground in the swath
    double slant_m = 0;       ///< of its middle
    double level_db = 0;      ///< mean energy of two pings by a pulse and a half, over the background
    double falls_db = 0;      ///< to the higher of what lies two pulses nearer and two farther
    double over_pings_db = 0; ///< over the next strongest of its own pings, at most 8
    double over_ring_db = 0;  ///< over the mean energy about it
    double chance = 0;        ///< that it is a fish, among wood with and without fish
};

/// All maxima within an echo on the ground that no other within a beam and two pulses passes, the strongest
/// first. `chance` is right for wood of which every second one holds fish: a clean echo, sharp on both
/// sides along the sound and alone on its pings, is what twigs hardly make of themselves; one softer by 6 dB
/// than the hardest is given half. Fitted on trees and brush of the lakes for fitting (docs/accuracy.md).
std::vector<Grain> grains_in(const Swath &swath, const Echo &echo);

/// From this chance on a grain is told of.
inline constexpr double grain_worth_telling = 0.55;

} // namespace heron
