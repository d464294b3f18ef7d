// A contact: one thing as one look saw it, or several looks joined.
#pragma once

#include "reading/clusters.hpp"
#include "reading/kind_model.hpp"
#include "reading/measure.hpp"
#include "units/units.hpp"

#include <optional>
#include <string>
#include <vector>

namespace heron {

enum class Placement : std::uint8_t { on_bottom, suspended, unknown };
std::string_view name_of(Placement placement);

/// What is known of a thing larger than a boat (reading/large.hpp).
struct Large {
    std::vector<LocatedPoint> edge; ///< where its shadows begin: along a wall, all over a heap
    bool closed = false;            ///< a heap, walls about a court, weeds: its outline counts, not its line
    std::size_t rays = 0;           ///< shadows that tell of it; of weeds: bright grains
    double stray_m = 0;             ///< a wall's: of its edge from a straight line, one sigma
    double steady = 0;              ///< share of the steps along it that show it
    double over_db = 0;             ///< of weeds: mean energy over the ground beside
    KindChances chances{};          ///< by these figures, whatever is said of it or learned
    /// A wall's line from end to end in few points, or the hull of the rest.
    std::vector<GeoPoint> outline() const;
};

struct Contact {
    // The best look.
    Zone zone = Zone::ground;
    Side side = Side::starboard;
    std::size_t row = 0, first_row = 0, last_row = 0; ///< strongest, first and last row of its echo
    UnixNs time = 0;                                  ///< of the strongest row
    double slant_m = 0;                               ///< to the nearest part of its echo
    double echo_end_m = 0;                            ///< slant range of its echo's far edge
    double top_m = 0;          ///< slant range of the top that the ray to the shadow's end grazes
    double shadow_start_m = 0; ///< slant ranges; 0 where no shadow was found
    double shadow_end_m = 0;
    bool shadow_cut = false;
    double run_m = 0;                  ///< run over ground at the strongest row
    std::uint16_t leg = 0;             ///< of the track; a leg ends where the boat has turned by 60°
    std::optional<double> heading_deg; ///< of the boat

    // What it is.
    KindChances chances{};
    Kind kind = Kind::none; ///< the likeliest kind of the likeliest family
    bool kind_sure = true;  ///< false: `kind` may well be another of the family
    Family family = Family::unsure;
    double confidence = 0; ///< that it is real and of this family; of `unsure`: that it is real
    Placement placement = Placement::unknown;

    // Where and how large.
    Estimate ground_m;                ///< aside of the transducer
    BottomPlane bottom;               ///< abeam, as it was taken for all that follows
    double depth_m = 0;               ///< of the bottom there, from the surface
    std::optional<Estimate> height_m; ///< of its top over the bottom; of a fish's centre; negative: a hollow
    bool height_at_least = false;
    std::optional<double> length_m, width_m;
    std::optional<LocatedPoint> place;
    PlaceState place_state = PlaceState::no_position;
    double along_m = 0; ///< extent along the track
    double falls_m = 0; ///< of a step under the track: how much deeper it is ahead; negative: shallower

    Features features{};
    Features usual{}; ///< what such figures usually are in this recording; see reading/usual.hpp
    /// The figures as they are weighed.
    Features weighed() const;
    double prior_shift = 0; ///< added to the log odds of being real in this recording; see reading/prior.hpp
    /// What a model says of it in this recording.
    KindChances chances_by(const KindModel &model) const;
    ShadowBehind behind;
    std::optional<GrainCluster> cluster; ///< in whose midst it lies as the likeliest of all there
    std::vector<std::string> reasons;    ///< what speaks for it
    std::vector<std::string> doubts;     ///< what speaks against it
    int looks = 1;                       ///< how many looks were joined
    std::optional<Large> large;
    bool provisional = false; ///< read before all that lies about it was heard
    std::optional<Kind> said; ///< by the guide; then it is what was said
    /// Grains in wood or brush that twigs hardly make of themselves (reading/grains.hpp), the likeliest
    /// first.
    struct MaybeFish {
        std::size_t row = 0;
        double slant_m = 0;
        double chance = 0; ///< that it is a fish, where every second wood holds some
    };
    std::vector<MaybeFish> maybe_fish;
    /// The other passes that were joined into it, the likeliest first.
    struct Pass {
        std::size_t row = 0;
        Side side = Side::starboard;
        double slant_m = 0, ground_m = 0;
        KindChances chances{};
        std::optional<double> height_m;
        double fish_chance = 0; ///< of the likeliest of its `maybe_fish`
    };
    std::vector<Pass> passes;

    /// Wood with a crown, as likely as not: fish may stand in it.
    bool crowned() const {
        return chances[static_cast<std::size_t>(Kind::tree)] +
                   chances[static_cast<std::size_t>(Kind::brush)] >
               0.5;
    }
    /// Of many that stand apart: a group, a cloud of bait, weeds.
    bool loose() const { return kind == Kind::fish_group || kind == Kind::bait_ball || kind == Kind::weeds; }
    double real() const { return 1 - chances[static_cast<std::size_t>(Kind::none)]; }
    double position_sd_m() const;
};

/// Names family, kind, confidence and placement from the chances. `unsure` where no family has half of what
/// is real; the kind counts as sure from 0.35 on.
void settle_kind(Contact &contact);

/// One line each: what in the picture led to this, and what speaks against it.
void give_reasons(Contact &contact, UnitSystem units = UnitSystem::metres);

} // namespace heron
