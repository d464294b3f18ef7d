// Lakes whose ground is known, and what a boat's lane over them hears.
#pragma once

#include "reading_scenes.hpp"

#include "bottom/ground_map.hpp"

#include <vector>

namespace heron::study {

// A lake whose ground is cut into fields, sailed in two lanes; a thing here and there.
struct GroundScene {
    ReadingScene base;
    std::uint32_t seed = 1;
    int fields = 10;
};

/// Twenty-four of them from a seed on, of the stand-in's own making or of makings drawn at random.
std::vector<GroundScene> ground_scenes(bool drawn, std::uint32_t first_seed = 1);
/// Cuts the ground into the scene's fields, each of one ground; borders bend.
void lay_fields(sim::Scene &lake, const GroundScene &scene);
/// Sailed for so long as the scene is set; the beam that looks down is kept with `down`.
Scan sail(const sim::Scene &lake, const ReadingScene &scene, double seconds, bool down = false);
GroundMap map_of(const std::vector<const Scan *> &scans, const UtmZone &zone);

} // namespace heron::study
