// What a side-looking fan and a down-looking cone hear of a scene: one transmission at a time.
#pragma once

#include "sim/boat.hpp"
#include "sim/layers.hpp"
#include "sim/scatterers.hpp"
#include "sim/scene.hpp"
#include "sonar/ping.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <memory>
#include <optional>
#include <random>
#include <unordered_map>
#include <vector>

namespace heron::sim {

/// One band of the stand-in's transducer.
struct Band {
    double frequency_hz;
    double along_deg;    ///< one-way half-power width along the track
    double across_deg;   ///< in the vertical plane abeam
    double bandwidth_hz; ///< of its chirp
    double source_db;    ///< level over its own receiver noise at 1 m from a 0 dB target, in decibels
};
/// The three bands: 420 kHz reaches farthest, 1150 kHz is finest.
const std::vector<Band> &bands();
const Band &band_nearest(double frequency_hz, const std::vector<Band> &of = bands());

/// The bands of the turning head: wider rays than the sides' fans, as its face is shorter.
const std::vector<Band> &head_bands();

/// A sounder over a scene. All that is random comes from the scene's seed.
class Acoustics {
  public:
    static constexpr std::size_t samples_a_side = 1000;
    static constexpr double tilt_deg = 32;                        ///< of both side fans below the horizontal
    static constexpr double db_at_zero = 34, db_per_count = 0.25; ///< 64 dB in eight bits
    static constexpr double gain_step_db = 0.8;    ///< a step of the gain control; 50 is the middle
    static constexpr std::size_t sine_bins = 1024; ///< rays told apart by the sine of their depression

    static constexpr double down_cone_deg = 18.9; ///< its circle on the bottom is a third of the depth across
    static constexpr double down_fan_deg = 46;    ///< across; along it is as thin as the side fans

    explicit Acoustics(const Scene &scene);
    /// What comes out of the receiver before the gain: a ping whose beams hold no codes yet, and for each
    /// beam its levels in decibels with TVG.
    struct Unquantised {
        Ping ping;
        std::vector<std::vector<float>> level_db;
        std::vector<std::vector<float>> energy; ///< of the same cells, before speckle and noise
        /// The levels without chance: the mean energy that comes back, pulse, suspended matter and noise
        /// included.
        std::vector<std::vector<float>> expected_db;
        bool streak = false;
    };
    Unquantised hear_levels(const BoatState &boat, const SoundingSettings &settings,
                            std::uint32_t noise_seed);
    /// The samples of one transmission from where the boat is. Levels: 8 bits, quantised after TVG and gain.
    Ping hear(const BoatState &boat, const SoundingSettings &settings, std::uint32_t noise_seed);
    /// What the turning head hears along one ray, `azimuth_deg` clockwise off the bow. Behind the hull and
    /// the motor next to nothing comes back.
    Ping hear_ray(const BoatState &boat, const SoundingSettings &settings, double azimuth_deg,
                  std::uint32_t noise_seed);
    /// The same before the gain.
    Unquantised hear_ray_levels(const BoatState &boat, const SoundingSettings &settings, double azimuth_deg,
                                std::uint32_t noise_seed);
    static constexpr double head_tilt_deg = 25, hull_from_deg = 168, hull_to_deg = 192;
    /// Swimmers are where they are so many seconds after the start.
    void set_time(double seconds) { seconds_ = seconds; }
    /// The count that a level becomes at a gain of so many decibels.
    static std::uint16_t count_of(double level_db, double gain_db, double db_a_count = db_per_count) {
        return static_cast<std::uint16_t>(
            std::clamp(std::lround((level_db + gain_db - db_at_zero) / db_a_count), 0L, 255L));
    }
    double sound_speed_m_s() const { return c_; }
    /// Without the down view a transmission costs some third less.
    void look_down(bool on) { looks_down_ = on; }

  private:
    struct Heard { // energy per slant cell
        std::vector<float> energy;
        double cell_m;
    };
    void gather(Point at, double reach);
    /// Where the water is layered: for a transducer so deep, out to a range.
    void bend(double transducer_depth, double range);
    BentRays::Met met(double along, double below) const;
    using Fan = std::array<float, sine_bins>; // response by sine of depression
    const std::vector<float> &carried_over(const Band &band, double range, double cell_m);
    const Fan &fan_at(double tilt_deg, double across_deg);
    void add_streak(Ping &ping, std::mt19937 &random) const;
    void hear_plane(Point at, double transducer_depth, double bearing_rad, double weight, double theta_rad,
                    const Fan &fan, double range, Heard &heard);
    void hear_surface(Point at, double draught, double bearing_rad, const Band &band, const Fan &fan,
                      double tilt_deg, Heard &heard) const;
    void hear_down(Point at, double transducer_depth, double bearing_rad, const Band &band, double range,
                   Heard &heard);
    void receive(Unquantised &into, const Heard &heard, Side side, const Band &band,
                 const SoundingSettings &settings, double noise_db, double theta_rad, std::mt19937 &random,
                 const Scatterers::Field *field, bool expects);
    // What `receive` needs of a slant range.
    struct SlantCell {
        double ringing_db; // of the transmission itself
        double added_db;   // by TVG, and by what its making adds untold
        double carried_m2; // two-way, of what fills a shell of the fan
    };
    const std::vector<SlantCell> &slant_cells(const Band &band, double cell_m, std::size_t n, double tvg_log);
    // `expects`: the levels without chance are told too.
    Unquantised listen(const BoatState &boat, const SoundingSettings &settings, std::uint32_t noise_seed,
                       bool expects);
    Unquantised listen_along(const BoatState &boat, const SoundingSettings &settings, double azimuth_deg,
                             std::uint32_t noise_seed, bool expects);
    std::optional<Scatterers::Field> by_scatterers(const Scatterers::Beam &beam, const Band &band,
                                                   Heard &heard);
    int looks() const { return std::max(1, static_cast<int>(std::lround(scene_.sounder_looks))); }
    void quantise(Unquantised &heard, std::uint32_t noise_seed) const;

    const Scene &scene_;
    double c_;
    bool looks_down_ = true;
    std::optional<BentRays> bent_;
    double bent_depth_ = 0, bent_range_ = 0, deepest_m_ = 0;
    std::unique_ptr<Scatterers> scatterers_; ///< where the scene is heard by them
    std::vector<float> normals_;             ///< see receive
    std::vector<float> carried_;             ///< two-way loss by slant cell
    double carried_frequency_ = 0, carried_cell_m_ = 0;
    std::vector<SlantCell> slant_cells_;
    std::array<double, 3> slant_key_{};
    std::map<std::pair<long, long>, Fan> fans_;
    std::vector<float> relief_, patches_; ///< tiles of unit noise: how rough and how uneven a ground is
    // Solids and bodies by the square of the lake in which they stand.
    static constexpr double square_m = 6;
    struct Contents {
        std::vector<std::uint32_t> solids, bodies;
    };
    std::unordered_map<std::int64_t, Contents> squares_;
    std::vector<const Solid *> near_solids_;
    std::vector<const Body *> near_bodies_;
    std::vector<Body> swimming_; ///< where they are now
    double seconds_ = 0;
    double largest_reach_ = 0;
};

} // namespace heron::sim
