// Lakes to read: everything that may lie in one, on many grounds, depths and slopes, with what is truly
// there.
#pragma once

#include "picture/scan.hpp"
#include "reading/kind.hpp"
#include "sim/boat.hpp"
#include "sim/scene.hpp"
#include "tuning/budget.hpp"

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace heron::study {

struct TrueThing {
    Kind kind = Kind::none;
    sim::Point at;
    double height_m = 0, length_m = 1, width_m = 1;
    bool suspended = false;
    double contrast_db = 0;  ///< of its echo without speckle and noise, mean over 0.35 m × 0.1 m
    double shadow_db = 0;    ///< of its shadow, positive
    double margin_db = 0;    ///< by how much the better of both passes what the texture reaches
    bool seen = false;       ///< it lay in the fan at some ping
    bool stands_out = false; ///< echo or shadow passes what the ground's own texture reaches once in 1,000 m²
    std::size_t row = 0;     ///< at which it was abeam
    double ground_m = 0, depth_m = 0; ///< how far aside it was then, and the bottom there under the surface
    double shows = -1;                ///< of a fish: the computed chance that it shows (look/showing.hpp)
};

struct ReadingScene {
    std::string name;
    bool fitting = true; ///< false: for scoring
    double depth_m = 5, slope_deg = 0, rises_to_deg = 0, range_m = 25, frequency_hz = 770e3, speed_m_s = 1.4;
    std::string ground, patch;
    int gain = 50;
    int spots = 0;          ///< small patches of another ground, 0.3 to 1.2 m
    int every = 1;          ///< of so many pings one is kept: a unit that pings more slowly
    double looks = 1;       ///< that the device averages
    Kind drop = Kind::none; ///< a ledge or a channel that the track crosses
    bool curved = false, empty = false, lanes = false;
    bool wood = false; ///< nothing but trees and brush, fish in every second one
    double length_m = 90;
    std::uint32_t seed = 1;
    double crowding = 1;     ///< times as many things
    double sounded_to_m = 0; ///< range as it is run; 0: `range_m`, to which things lie
    sim::Making making;
    sim::Engine engine = sim::Engine::rays;
};

/// The grid: depth 2–14 m under the boat, slope 0–12°, three bands, range 12–36 m, silt to rock with patches,
/// gain right, hot and dark, straight, curved and in lanes. Every third one is for scoring.
/// Every second one for fitting is of a making drawn at random.
std::vector<ReadingScene> reading_scenes();

/// More of that grid, each of a making drawn at random, none fitted to: how the reading travels.
std::vector<ReadingScene> drawn_scenes();
/// `count` others for fitting, each of a making drawn at random.
std::vector<ReadingScene> more_scenes(std::size_t count);

/// A making of its own for each seed.
sim::Making drawn_making(std::uint32_t seed);
/// The lake itself, with what is truly in it.
sim::Scene plant(const ReadingScene &scene, std::vector<TrueThing> &truth);

/// Its ground in the words of the sonar equation.
BottomType bottom_of(const ReadingScene &scene);

/// A scene sounded: the scan as the program would have it, and the truth.
struct Sounded {
    Scan scan;
    std::vector<TrueThing> things;
    LocalPlane plane{GeoPoint{}};
    double km = 0;
    std::vector<std::pair<std::size_t, sim::BoatState>>
        boats; ///< rows of the scan, and where the boat truly was
};
Sounded sound(const ReadingScene &scene);

/// The same ground with its things closer together, heard by the turning head alone: held over a spot, or run
/// over. A thing was seen where it lay within nine tenths of the range and not behind the hull; it
/// stands out where its echo or its shadow does by four decibels and more.
Sounded sound_around(ReadingScene scene, bool moves, const std::vector<sim::Swimmers> &swimmers = {},
                     std::optional<double> seconds = std::nullopt, double speed_m_s = 0.8);

/// Where a place lies from the transducer of a boat, metres ahead and to starboard.
struct FromBoat {
    double ahead_m = 0, starboard_m = 0;
};
FromBoat from_boat(const sim::BoatState &boat, const Installation &installation, const sim::Point &place);

} // namespace heron::study
