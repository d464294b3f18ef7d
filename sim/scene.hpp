// A lake that does not exist: its bottom, what stands on it, what swims in it, and the boat's way over it.
#pragma once

#include "fault/fault.hpp"
#include "geo/position.hpp"

#include <cstdint>
#include <filesystem>
#include <optional>
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

/// Fish that go along a path, there and back: where each is follows from the time alone.
struct Swimmers {
    std::vector<Point> path;
    double speed_m_s = 0.3;
    double above_bottom_m = 1;
    struct Fish {
        Point off; ///< from the middle of the shoal
        double up_m = 0, radius_m = 0.1, strength_db = -34;
    };
    std::vector<Fish> fish;
    std::string name;

    /// The middle of the shoal so many seconds after the start.
    Point at(double seconds) const;
};

/// Where the boat is held, and how it strays there.
struct Hold {
    Point at;
    double heading_deg = 0;
    double drift_m = 1.2;  ///< one sigma of each of east and north
    double swing_deg = 10; ///< one sigma of its heading
};

/// Ripples of sand: crests in a row, told along the way across them.
struct Ripples {
    double wave_m = 0.6, height_m = 0.06;
    double across_deg = 0; ///< direction across the crests
};

/// A spawning bed: a bowl swept clean, with a low rim about it.
struct Bowl {
    Point at;
    double radius_m = 0.45, deep_m = 0.15;
    static constexpr double rim = 1.3; ///< the rim's outer edge, in radii

    /// How far it is sunk under the bottom, so many radii from its middle; negative on the rim.
    double sunk_m(double radii) const;
};

struct BoatPlan {
    std::vector<Point> route;
    std::optional<Hold> hold;
    double speed_m_s = 1.4;
    double gnss_wander_m = 0.4;
    double gnss_noise_m = 0.05;
    double heading_noise_deg = 0.6;
    Installation installation;
    BodyOffset head{2.75, 0.15, 0.45}; ///< where the turning head hangs
    /// As a recording of the head has it.
    Installation head_installation() const {
        auto i = installation;
        i.transducer = head;
        return i;
    }
};

/// What is wrong with how the sounder hangs or what it hears.
struct SounderFault {
    bool swapped = false;
    double roll_deg = 0;     ///< it hangs tilted, left side down positive
    double weak_left_db = 0; ///< weed on one side
    int streak_every = 0;    ///< another sonar is heard on about one of so many pings; 0: on none
};

/// What is wrong with the turning head.
struct HeadFault {
    double zero_deg = 0;       ///< its zero lies so much clockwise of the bow, untold
    bool backwards = false;    ///< it turns the other way than it says
    double stuck_after_s = -1; ///< from then on it stands; negative: never
    double skips = 0;          ///< share of steps that it misses without knowing
    double heading_late_s = 0; ///< the compass tells what was so long ago
};

/// How a water scatters and how a device hears it, over what the scene says: nobody's lake and nobody's
/// device is quite as the formulas have it. As it stands, physics and the stand-in's own device.
struct Making {
    bool surface = true;      ///< sound goes by the surface too, and comes back from it
    double grazing_power = 2; ///< scatter falls as the sine of grazing to this power; Lambert's law: 2
    double patchy = 1;        ///< times how unevenly a ground scatters
    double rough = 1;         ///< times the height of its grains
    double patch_fall = 2;    ///< how the power of both falls with the wave number; see texture.hpp
    double rough_fall = 2;
    double beam = 1;            ///< times the width along the track
    double beam_told = 1;       ///< what the ping tells of that width, over what it is
    double bandwidth = 1;       ///< times the band's; what is told too
    std::size_t samples = 1000; ///< a side
    double source_db = 0;       ///< on the level over the receiver's noise
    double tvg_db_per_m = 0;    ///< by how much the device's gain over range is off
    double ripple_db = 0;       ///< and how much it goes up and down over `ripple_m`
    double ripple_m = 8;
    double things_db = 0;      ///< on what stands and swims, against its ground
    double opacity = 1;        ///< times what bodies take from sound that passes them
    double gain_wander_db = 0; ///< from ping to ping, untold
    double weak_share = 0;     ///< of pings that come in `weak_db` lower
    double weak_db = 6;
    double db_per_count = 0.25; ///< of the eight bits
};

/// How a scene is heard: by rays that run over it (acoustics.hpp), or as the coherent sum over scatterers
/// (scatterers.hpp).
enum class Engine : std::uint8_t { rays, scatterers };

/// Under the warm water of the surface.
struct ColdLayer {
    double below_m = 0;       ///< under the surface begins the cold
    double temperature_c = 8; ///< colder than the surface
};

struct Scene {
    std::string name;
    Engine engine = Engine::rays;
    std::uint32_t seed = 1;
    GeoPoint origin;
    double width_m = 0, height_m = 0; ///< the lake reaches from 0,0 to here
    double temperature_c = 14;        ///< at the surface
    std::optional<ColdLayer> cold;    ///< heard by rays alone
    double suspended_db = -78;        ///< volume scatter of suspended matter, dB re 1 m⁻¹ at 770 kHz
    double noise_db = 0;              ///< of the place, over a quiet lake
    double wind_m_s = 2;              ///< over the water, at mast height: how rough its surface is
    std::vector<Solid> solids;
    std::vector<Body> bodies;
    std::vector<Swimmers> swimmers;
    std::vector<Truth> truth;
    BoatPlan boat;
    SounderFault sounder_fault;
    HeadFault head_fault;
    double sounder_looks = 1; ///< independent looks that the device averages before it writes a sample, ≥ 1
    Making making;

    double depth_m(Point p) const; ///< of the bare bottom under the surface; clamped at the edges
    Ground ground(Point p) const;

    // Rasters, one value every `cell_m`, row by row from the south-west corner.
    static constexpr double cell_m = 0.25;
    std::size_t columns = 0, rows = 0;
    std::vector<float> depth;
    std::vector<std::uint8_t> grounds;
    std::vector<Ripples> ripples;
    std::vector<std::uint8_t>
        rippled; ///< of each cell: 1 + which ripples, 0 none; empty where there are none
    /// By how much ripples stand over the bare bottom there.
    double ripple_m(Point p) const;
    std::vector<Bowl> bowls;
    std::vector<std::uint16_t> bowled; ///< of each cell: 1 + which bowl is nearest, 0 none; empty: no bowls
    /// Digs a bowl and sweeps its floor down to gravel, where it is not harder.
    void dig(const Bowl &bowl);
    /// How far a bowl is sunk under the bare bottom there; negative on its rim.
    double sunk_m(Point p) const;
};

/// Reads a scene; docs/scene.md is the schema. Refuses what is not in it, naming the entry.
Result<Scene> read_scene(std::string_view json, std::string_view file_name);
Result<Scene> read_scene_file(const std::filesystem::path &path);

} // namespace heron::sim
