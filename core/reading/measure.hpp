// A measurement on one ping of a scan: handles on echo top and shadow end, and what follows from them.
#pragma once

#include "geo/position.hpp"
#include "picture/scan.hpp"
#include "reading/shadow.hpp"

#include <optional>
#include <string>

namespace heron {

/// Where the handles stand.
struct MeasureHandles {
    std::size_t row = 0; ///< number of the ping in the scan
    Side side = Side::starboard;
    double top_m = 0; ///< slant range of the echo's top, which the ray to the shadow's end grazes
    double end_m = 0; ///< slant range of the shadow's end
    double near_m =
        0; ///< slant range at which the echo of a wide thing begins; 0: it is no wider than its top
    bool floating = false; ///< the dark stands apart from the echo; `end_m` is its middle
};

/// Why a place is not known, or how it came about.
enum class PlaceState { known, known_by_course, no_position, no_heading, clock_suspect };
/// One sentence for the guide; empty when the place is known.
std::string say(PlaceState state);

struct Placed {
    std::optional<LocatedPoint> at;
    PlaceState state = PlaceState::no_position;
};
/// The place of a point `ground_m` aside of the boat at the time of a row.
Placed place_beside(const Scan &scan, std::size_t row, Side side, const Estimate &ground_m);

/// Depth of the bottom `ground_m` aside, from the surface: the slope across is what is least known.
Estimate water_depth(const Scan &scan, const BottomPlane &plane, double ground_m);

struct Measurement {
    ShadowReading shadow;
    Estimate
        ground_m; ///< horizontal distance of the thing's middle: of its top, or half-way to its near edge
    double across_m = 0;         ///< from near edge to top over ground; 0 when no near edge was told
    Estimate water_depth_m;      ///< at the thing, from the surface
    double top_depth_m = 0;      ///< of its top, under the surface
    double nearest_shadow_m = 0; ///< length of the shadow along the sound
    Placed placed;
};

/// The bottom abeam of a row as far as it is known: its altitude, level with a doubt of 2° across.
/// Nothing where no bottom was found.
std::optional<BottomPlane> bottom_at(const Scan &scan, std::size_t row);
/// One sigma of a range put down by hand on the picture: half a pulse or one sample, whichever is more, and
/// the hand itself.
double range_sd_m(const Ping &ping);
/// Whether the shadow's end stands at the edge of what was sounded.
bool shadow_is_cut(const Scan &scan, const MeasureHandles &handles);
/// Nothing when the bottom is unknown or the handles make no sense (end before top).
/// `bottom`: where more is known of it than the track within 60 m tells (`bottom_abeam`).
std::optional<Measurement> measure(const Scan &scan, const MeasureHandles &handles,
                                   const std::optional<BottomPlane> &bottom = std::nullopt);

/// What lies under a point of the picture.
struct Cursor {
    std::size_t row = 0;
    Side side = Side::starboard;
    double slant_m = 0;
};
struct CursorReading {
    Cursor cursor;
    bool in_water = false;            ///< before the first return: side distance not known
    std::optional<Estimate> ground_m; ///< of the bottom there; nothing in the water
    std::optional<Estimate> depth_m;  ///< of the bottom there, from the surface
    Placed placed;
    std::optional<Leg> from_boat_now; ///< distance and true bearing from where the boat is now
};
/// `now`: the row that shows where the boat is now; the newest of the scan where none is told.
CursorReading read_cursor(const Scan &scan, const Cursor &cursor,
                          std::optional<std::size_t> now = std::nullopt);

} // namespace heron
