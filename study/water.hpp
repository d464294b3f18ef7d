// A water that is full of one thing, for measuring how well it tells itself apart.
#pragma once

#include "sim/scene.hpp"
#include "tuning/budget.hpp"

#include <string>
#include <vector>

namespace heron::study {

struct Water {
    std::string name;
    double depth_m = 5;
    const char *ground = "sand"; ///< silt, sand, gravel, rock
    double suspended_db = -78;
    double temperature_c = 14;
    SmallestThing thing;

    WaterState state() const;
    std::string told() const; ///< one line
};

/// Waters on which the advice was developed, and those kept away from it.
std::vector<Water> developing_waters();
std::vector<Water> held_out_waters();

/// A thing of the study: `aside_m` to the right of the track (left: negative), `along_m` along it.
struct Planted {
    double along_m = 0, aside_m = 0;
};
struct PlantedWater {
    sim::Scene scene;
    std::vector<Planted> things;
    double track_east_m = 0, from_north_m = 0, to_north_m = 0; ///< the boat goes due north
};
/// Things at all distances on both sides, so far apart that no shadow falls on another thing.
PlantedWater plant(const Water &water, double longest_range_m, std::uint32_t seed);

} // namespace heron::study
