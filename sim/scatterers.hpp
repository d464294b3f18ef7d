// A second way of hearing a scene, written apart from the rays of acoustics.hpp: the coherent sum over point
// scatterers that lie on the bottom and on things.
#pragma once

#include "sim/boat.hpp"
#include "sim/scene.hpp"
#include "sonar/ping.hpp"

#include <cstdint>
#include <random>
#include <unordered_map>
#include <vector>

namespace heron::sim {

struct Band;

/// The scatterers of a scene, each of a place, a strength and a phase that it keeps from ping to ping: about
/// 700 a square metre, so that a resolution cell holds some ten and its echo is as Rayleigh's law has it
/// (many independent scatterers: Goodman 2007, "Speckle Phenomena in Optics", chapter 2; from memory). It has
/// a texture and shapes of its own: stones lie singly on gravel and rock, domes have faces.
class Scatterers {
  public:
    explicit Scatterers(const Scene &scene);

    struct Beam {
        Point at;                                ///< of the transducer
        double draught_m = 0.3, bearing_rad = 0; ///< the way it looks, clockwise from north
        double tilt_deg = 32, along_deg = 0.8, across_deg = 52;
        bool both_ways = false; ///< one that looks down hears to either side
    };
    /// What a beam hears by slant cell, before the device: one complex field for each of the looks that the
    /// device averages, at frequencies a little apart, and its mean energy.
    struct Field {
        std::vector<std::vector<float>> re, im; ///< [look][cell]
        std::vector<float> energy;              ///< the mean over all phases
    };
    /// `cells` of `cell_m` each; `moving`: bodies that swim, where they are now.
    Field hear(const Beam &beam, double frequency_hz, double bandwidth_hz, std::size_t cells, double cell_m,
               int looks, const std::vector<Body> &moving);

  private:
    static constexpr int raster = 30; ///< heights a metre
    struct Scatterer {
        float x, y, z; ///< m east, north of the tile's corner, and under the surface
        float slope_x, slope_y;
        float amplitude, turns; ///< of phase
    };
    struct Tile {
        std::vector<float> under; ///< depth of what is on top, (raster + 1)²
        std::vector<Scatterer> all;
        std::uint64_t used = 0;
    };
    /// A scatterer as the beam meets it.
    struct Met {
        double r, aside, below, cosine, amplitude, ahead_sine;
    };
    const Tile &tile(int east, int north);
    void grow(Tile &tile, int east, int north);
    double depth_under(Point p);
    double solid_over(Point p, double &strength_db) const;
    double stones_over(Point p, Ground ground) const;
    double noise(Point p, double wave_m, std::uint32_t what) const;
    double random_of(std::int64_t a, std::int64_t b, std::uint32_t what) const;
    void horizon(const Beam &beam, double side, double reach_m);
    void shade(const Beam &beam, double side, double reach_m, const std::vector<Body> &moving);
    double passes(const Met &met) const;

    const Scene &scene_;
    double c_;
    std::unordered_map<std::int64_t, Tile> tiles_;
    std::unordered_map<std::int64_t, std::vector<std::uint32_t>> solids_near_; ///< of each tile
    std::uint64_t clock_ = 0;
    static constexpr int subrays = 7;
    static constexpr double step_m = 0.05, widths = 1.7; ///< how far to either side it listens, in widths
    std::vector<float> lowest_[subrays]; ///< tangent of the ray that just passes all that lies nearer
    struct Shade {
        double aside, low, high, passes; ///< tangents of its upper and lower edge
    };
    std::vector<Shade> shades_[subrays];
    double half_sine_ = 0.02;
};

} // namespace heron::sim
