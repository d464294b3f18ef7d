// What is known of every row of a trip, however long: where the bottom was met, how the boat ran.
#pragma once

#include "picture/bottom_tracker.hpp"
#include "sonar/ping_codec.hpp"

#include <limits>
#include <span>

namespace heron {

struct RowFacts {
    UnixNs time = 0;
    BottomPick bottom;
    double along_m = 0; ///< run over ground since the first row
    std::uint32_t timed =
        0;             ///< rows up to this one, it included, at which the boat stood or its speed was unknown
    float range_m = 0; ///< end of what was sounded
    float speed_m_s = std::numeric_limits<float>::quiet_NaN();  ///< over ground; not-a-number: unknown
    float turn_deg_s = std::numeric_limits<float>::quiet_NaN(); ///< yaw rate, clockwise positive
    std::uint16_t settings = 0;                                 ///< which of the scan's settings
    bool place_unknown = false;                                 ///< its time cannot be trusted
};

/// Packs facts as bytes and back, for the trip file (docs/trip-file.md). Nothing for bytes of another form.
std::vector<std::uint8_t> pack_facts(std::span<const RowFacts> rows);
std::optional<std::vector<RowFacts>> unpack_facts(std::span<const std::uint8_t> bytes);

/// Holds facts that came from a file to what a row can lawfully be, from `first` on: finite figures within
/// reach, a run that never goes back and grows by what a boat can run between two rows, at most one more
/// timed row each. A row whose time is of another century takes that of the row before and counts as of
/// unknown place. How many rows had to be held.
std::size_t hold_facts(std::vector<RowFacts> &rows, std::size_t first = 0);

/// Below this the boat stands or drifts, and the picture runs on time.
inline constexpr double standing_m_s = 0.25;

/// Why what a row shows along the track cannot be measured.
enum class Strike : std::uint8_t { none, turning, stopped, too_fast, too_slow };

/// Limits of what counts as straight and steady. Turning smears beyond g = v/ω; common practice asks for 1 to
/// 5 mph.
struct SteadyLimits {
    double turn_deg_s = 3;
    double fastest_m_s = 3.0; ///< set from the speed band computed for the gear in use
    double slowest_m_s = standing_m_s;
};
/// Unknown speed and unknown turn strike nothing: absence of a sensor is told elsewhere.
Strike strike_of(const RowFacts &row, const SteadyLimits &limits);

} // namespace heron
