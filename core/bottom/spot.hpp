// Why a place is good: how far it is from a transition, a drop and deep water, on what ground it lies, and
// what stands about it.
#pragma once

#include "bottom/depth_grid.hpp"
#include "bottom/ground_forms.hpp"
#include "bottom/hardness.hpp"
#include "bottom/transitions.hpp"

#include <optional>
#include <span>
#include <string>
#include <vector>

namespace heron {

/// What a thing is made of, as far as it matters to what lives about it.
enum class SpotMatter : std::uint8_t { other, stone, wood, weeds, built, fish };

/// Something that lies on the chart: a contact or a mark.
struct SpotThing {
    std::string id;
    SpotMatter matter = SpotMatter::other;
    EastNorth at;                   ///< on the chart's plane
    std::optional<double> height_m; ///< over the bottom
    std::optional<double> length_m;
};

struct SpotFacts {
    std::optional<double> depth_m;  ///< there, from the sounded depths
    std::optional<double> hardness; ///< 0 soft … 1 hard, of the ground about it
    GroundClass ground = GroundClass::unknown;
    std::optional<double> to_transition_m;      ///< none within `SpotGround::farthest_m`
    std::optional<double> to_drop_m, drop_m;    ///< nearest drop, and by how much it falls
    std::optional<double> to_deep_m, deep_by_m; ///< nearest water deeper by `SpotGround::deeper_m` and more
    std::optional<double> to_next_m;            ///< nearest other thing that stands on the bottom
    int neighbours = 0;                         ///< things within `SpotGround::about_m`
    bool bigger = false;          ///< taller by a third than each neighbour within 25 m; there is one
    bool wood_with_stone = false; ///< wood beside stone, or stone beside wood, within 4 m
    bool in_weed_opening = false; ///< bare ground with weeds on three sides and more, within 8 m
    bool on_weed_edge = false;    ///< within 3 m of where weeds end
    bool in_ripples = false;      ///< within a field of them, or two metres of it
    bool on_lane = false;         ///< on a sunken lane, or within four metres of it
    bool in_beds = false;         ///< within a group of spawning beds, or two metres of it
    bool on_weed_point = false;   ///< among them, where they fill less than half of the circle

    bool lone() const { return neighbours == 0; }
};

/// What a chart tells of its places; made once of a sheet, asked for each thing. Not for several threads.
class SpotGround {
  public:
    static constexpr double farthest_m = 120, about_m = 10, deeper_m = 1.5, least_drop_m = 0.6,
                            drop_within_m = 3;

    SpotGround() = default;
    SpotGround(const Hardness &hardness, const std::vector<Transition> &transitions, const DepthGrid &depth,
               std::vector<GroundForm> forms = {});
    /// Facts of a thing among all things (itself may be among them, told by its id).
    SpotFacts facts_of(const SpotThing &thing, std::span<const SpotThing> all) const;

  private:
    void weeds_about(const EastNorth &at, SpotFacts &facts) const;

    GroundRaster ground_raster_, depth_raster_;
    std::vector<float> hardness_, depth_m_;
    std::vector<GroundClass> ground_;
    bool has_weeds_ = false;
    std::vector<GroundForm> forms_;
    std::vector<EastNorth> seam_; ///< points of transitions, half a metre apart
    struct Drop {
        EastNorth at;
        double falls_m;
    };
    std::vector<Drop> drops_;
};

} // namespace heron
