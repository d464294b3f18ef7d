// A lake that does not exist: its bottom, what stands on it, what swims in it, and the boat's way over it.
#pragma once

#include "fault/fault.hpp"
#include "geo/position.hpp"

#include <cstdint>
#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

namespace heron::sim {

/// East, north in metres from the scene's origin.
struct Point {
    double x = 0, y = 0;
};

enum class Ground : std::uint8_t { silt, sand, gravel, rock };
/// Lambert backscatter strength of a ground at 1 m², dB: orders of magnitude from docs (silt −35 … rock −12).
double lambert_db(Ground ground);

/// Something solid that stands on the bottom, told by how high it is over each point.
struct Solid {
    enum class Shape : std::uint8_t { dome, post, wall, log } shape = Shape::dome;
    Point a, b;               ///< centre in a; a wall or a log runs from a to b
    double half_width_m = 1;  ///< across (dome: half of the second axis; post: radius)
    double half_length_m = 1; ///< dome: half of the first axis
    double turn_deg = 0;      ///< dome: direction of the first axis, clockwise from north
    double height_m = 1;
    double strength_db = -14;

    double height_at(Point p) const; ///< 0 outside
    double reach_m() const;          ///< from the middle between a and b
    Point middle() const { return {(a.x + b.x) / 2, (a.y + b.y) / 2}; }
};

/// A small round body in the water: a fish, a twig, a fry.
struct Body {
    Point at;
    double height_m = 1; ///< over the bottom
    double radius_m = 0.1;
    double strength_db = -34; ///< target strength
    double opacity = 1;       ///< share of sound that does not pass
};

/// What a thing in the scene truly is, for checking what is read.
struct Truth {
    std::string kind;
    std::string name;
    Point at;
    double height_m = 0;
    bool suspended = false;
};

struct BoatPlan {
    std::vector<Point> route;
    double speed_m_s = 1.4;
    double gnss_wander_m = 0.4;
    double gnss_noise_m = 0.05;
    double heading_noise_deg = 0.6;
    Installation installation;
};

/// What is wrong with how the sounder hangs or what it hears.
struct SounderFault {
    bool swapped = false;
    double roll_deg = 0;     ///< it hangs tilted, left side down positive
    double weak_left_db = 0; ///< weed on one side
    int streak_every = 0;    ///< another sonar is heard on about one of so many pings; 0: on none
};

struct Scene {
    std::string name;
    std::uint32_t seed = 1;
    GeoPoint origin;
    double width_m = 0, height_m = 0; ///< the lake reaches from 0,0 to here
    double temperature_c = 14;
    double suspended_db = -78; ///< volume scatter of suspended matter, dB re 1 m⁻¹ at 770 kHz
    double noise_db = 0;       ///< of the place, over a quiet lake
    std::vector<Solid> solids;
    std::vector<Body> bodies;
    std::vector<Truth> truth;
    BoatPlan boat;
    SounderFault sounder_fault;
    double sounder_looks = 1; ///< independent looks that the device averages before it writes a sample, ≥ 1

    double depth_m(Point p) const; ///< of the bare bottom under the surface; clamped at the edges
    Ground ground(Point p) const;

    // Rasters, one value every `cell_m`, row by row from the south-west corner.
    static constexpr double cell_m = 0.25;
    std::size_t columns = 0, rows = 0;
    std::vector<float> depth;
    std::vector<std::uint8_t> grounds;
};

/// Reads a scene; docs/scene.md is the schema. Refuses what is not in it, naming the entry.
Result<Scene> read_scene(std::string_view json, std::string_view file_name);
Result<Scene> read_scene_file(const std::filesystem::path &path);

} // namespace heron::sim
