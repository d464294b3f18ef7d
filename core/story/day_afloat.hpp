// A day on the water in short steps: how deep, how fast, and what the boat was at, as speed, turns and sonar
// tell it and as the guide puts it right.
#pragma once

#include "fault/fault.hpp"
#include "picture/row_facts.hpp"
#include "sonar/nav_track.hpp"
#include "story/day_conditions.hpp"

#include <limits>
#include <map>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace heron {

enum class Doing : std::uint8_t { scan, fish, run, ashore };
std::string_view name_of(Doing doing);
std::optional<Doing> doing_named(std::string_view name);

inline constexpr double day_step_s = 15;

struct DayStep {
    UnixNs time = 0;                                             ///< of its beginning; it lasts `day_step_s`
    double depth_m = std::numeric_limits<double>::quiet_NaN();   ///< from the surface; not-a-number: unknown
    double speed_m_s = std::numeric_limits<double>::quiet_NaN(); ///< over ground; not-a-number: unknown
    /// How far the boat came in the two minutes about it, over how far it ran: 1 on a straight line, near 0
    /// about one spot. Not-a-number: unknown.
    double straight = std::numeric_limits<double>::quiet_NaN();
    bool sounded = false; ///< the sonar drew rows
};

/// The steps of a trip in which anything was heard, by time. `transducer_m` is the depth of the transducer
/// that drew `rows`, under the surface. Depths and speeds are medians of the step; where the sonar has none,
/// the receiver's. At most two days are looked at from the first time on.
std::vector<DayStep> steps_of(const NavTrack &nav, std::span<const RowFacts> rows, double transducer_m);

struct DaySpan {
    UnixNs from = 0, to = 0;
    Doing what = Doing::ashore;
    bool by_hand = false;
    bool operator==(const DaySpan &) const = default;
};

/// What the boat was at, one stretch after the other, from the first step to the last. Common practice, no
/// published source: one scans on straight lanes at 1.5 to 6.5 mph, runs above, and fishes standing,
/// drifting or about one spot. Five minutes of nothing heard are spent ashore; what lasts less than two
/// minutes (a run: 45 s) goes with what lies about it.
std::vector<DaySpan> doings_of(std::span<const DayStep> steps);
/// The same, with what the guide said in place of what was guessed. What he said reaches no farther than the
/// day does.
std::vector<DaySpan> put_right(std::span<const DaySpan> guessed, std::span<const DaySpan> by_hand);

/// What the guide writes of a day beside its trips.
struct DayNotes {
    std::string aboard;           ///< who was
    std::vector<DaySpan> by_hand; ///< what the boat was at, where it was put right
    DayConditions conditions;     ///< where the trips tell none, or others
    bool operator==(const DayNotes &) const = default;
};
/// By date, "2026-05-14".
using DaysNotes = std::map<std::string, DayNotes>;
std::string days_to_json(const DaysNotes &days);
/// Refuses text that is no such list, naming the day; 20,000 days of 500 stretches and 400 bytes at most.
Result<DaysNotes> days_from_json(std::string_view text);

} // namespace heron
