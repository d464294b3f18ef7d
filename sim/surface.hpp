// What a side-looking fan hears by way of the water's surface, and of the surface itself.
#pragma once

#include "water/bounce.hpp"

#include <functional>
#include <vector>

namespace heron::sim {

struct ShallowWater {
    double depth_m = 5, draught_m = 0.3; ///< under the boat; taken as flat aside
    double wind_m_s = 2;
    Sediment bottom; ///< where sound bounces off it
    double frequency_hz = 770e3, along_rad = 0.014;
    double absorption_db_per_m = 0.1;
};

/// Adds to one side's energy by slant cell what comes by the surface and from it. `fan`: two-way response by
/// the sine of depression. Shadows are filled, the far range of thin water becomes haze, ghosts follow strong
/// echoes.
void add_surface(std::vector<float> &energy, double cell_m, const ShallowWater &water,
                 const std::function<double(double)> &fan);

} // namespace heron::sim
