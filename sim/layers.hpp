// Warm water over cold: sound bends where they meet.
#pragma once

#include <vector>

namespace heron::sim {

/// Rays from a transducer in the upper of two still layers with a plane between them (Snell's law, after
/// Medwin and Clay (1998), Fundamentals of Acoustical Oceanography, 3.2; from memory). Tables over the
/// vertical plane, since they are asked for millions of times.
class BentRays {
  public:
    /// Speeds of sound in metres a second, the upper one the greater; `layer_m`: how far below the transducer
    /// they meet, more than 0. Of places down to `deepest_m` below it and out to `farthest_m`.
    BentRays(double above_m_s, double below_m_s, double layer_m, double deepest_m, double farthest_m);
    struct Met {
        double sine;        ///< of the depression under which the ray leaves the transducer
        double r;           ///< metres: the time of the way times the upper speed
        double along, down; ///< which way the ray goes where it meets the place; a unit vector
    };
    /// Of a place `along_m` away and `below_m` below the transducer.
    Met at(double along_m, double below_m) const;
    /// The same worked out, not looked up.
    Met solved(double along_m, double below_m) const;

  private:
    struct Off { // from straight
        float sine, r;
    };
    double ratio_, above_, below_, layer_m_;
    std::size_t columns_ = 0, rows_ = 0;
    std::vector<Off> off_;
};

} // namespace heron::sim
