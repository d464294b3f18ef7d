// The second look: of all passes that could be run, the one that is worth most for what is not sure yet.
#pragma once

#include "look/showing.hpp"
#include "reading/contact.hpp"
#include "tuning/advice.hpp"

#include <optional>
#include <string>
#include <vector>

namespace heron {

/// Where the boat must not be led: something that reaches near the surface.
struct KeepOff {
    GeoPoint place;
    double radius_m = 8;
    std::string what; ///< in words
};

struct SecondLookRequest {
    const Contact *contact = nullptr; ///< with a place
    Gear gear;
    WaterState water;
    double first_heading_deg = 0;        ///< of the boat at the first look
    std::optional<GeoPoint> boat;        ///< where it is now: the nearer end of a line is its start
    std::vector<KeepOff> keep_off;       ///< see `near_surface`
    double clear_water_stand_off_m = 10; ///< from fish in clear water; common practice, no published source
    double fastest_m_s = fastest_search_m_s;
};

struct SecondLook {
    bool over = false; ///< straight over it, looking down; else beside it
    double heading_deg = 0;
    Side side = Side::starboard; ///< on which the thing will be
    double ground_m = 0;         ///< how far aside
    Setting setting;
    GeoPoint thing, start, end; ///< the line to run, from well before it to well behind
    /// The chance that what is true can be expected to be given, now and after this pass: Σ p², and its mean
    /// over what may be seen. (The greatest chance alone would not do: a pass that makes a likely answer
    /// likelier in most cases and doubtful in some leaves its mean where it was.)
    double sure_now = 0, sure_then = 0;
    double settles = 0; ///< chance that one kind has nine in ten after it
    double shows = 0;   ///< chance that a thing of the likeliest kind shows to it
    struct Expected {
        Kind kind;
        std::string looks; ///< what it would look like
    };
    std::vector<Expected> expected; ///< of the likeliest two
    std::string why;                ///< one line
};

/// Nothing where nothing is to be gained (less than two in a hundred), where the contact has no place, or
/// where no line keeps off.
///
/// How it is computed: each kind that it may be gives chances for what a pass can show (echo or none; shadow
/// none, touching, standing off, ahead; one grain, long, many grains; squat or upright) from `showing_of`,
/// the shadow's geometry and the cells that fall on it. Over all outcomes the posterior of what is true is
/// averaged. Looks at one thing are not independent: likelihoods count with a power of 0.45 for a pass from
/// the same bearing up to 0.75 for one across it (docs/decisions/014-second-look.md).
std::optional<SecondLook> plan_second_look(const SecondLookRequest &request, UnitSystem units);

/// One pass computed, for those who want to compare: as `SecondLook::sure_then`.
double sure_after(const SecondLookRequest &request, const SecondLook &pass);

/// Contacts and places that reach within `under_surface_m` of the surface.
std::vector<KeepOff> near_surface(const std::vector<Contact> &contacts, double under_surface_m = 1.5);

/// Where the boat stands against the line that was planned.
struct SteeringCue {
    double to_go_m = 0;     ///< along the line until it is abeam; negative: behind
    double off_line_m = 0;  ///< how far the line lies to the right of the boat; negative: to the left
    double turn_deg = 0;    ///< clockwise from the heading now to that of the line
    double thing_m = 0;     ///< how far the thing is now
    double thing_deg = 0;   ///< its true bearing
    Side side = Side::port; ///< on which it is now
    double start_m = 0;     ///< how far the start of the line is, and its true bearing
    double start_deg = 0;
    bool abeam = false;   ///< it is in the fan now: within 15° of abeam and within range
    bool away = false;    ///< not near the line yet: the way to its start is what counts
    bool on_line = false; ///< within a fifth of the distance aside, and 2 m at least, and 15° of its heading
};
SteeringCue steer(const SecondLook &look, const GeoPoint &boat, double heading_deg);

} // namespace heron
