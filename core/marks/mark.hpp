// A mark: a thing, where it truly lies, and how it was seen.
#pragma once

#include "geo/position.hpp"
#include "marks/kept_chip.hpp"
#include "marks/level.hpp"
#include "reading/contact.hpp"
#include "sonar/ping.hpp"

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace heron {

/// One look at the thing, as it was seen then.
struct Sighting {
    UnixNs time = 0;
    std::optional<GeoPoint> place;
    PlaceCovariance place_covariance;
    Family family = Family::unsure;
    Kind kind = Kind::none;
    std::string side;
    double slant_m = 0, ground_m = 0;
    std::optional<double> seen_from_deg; ///< from the thing to the transducer that saw it, true
    std::optional<Estimate> depth_m, height_m;
    bool height_at_least = false;
    double range_setting_m = 0, frequency_hz = 0;
    int gain = 0;
    std::string source;               ///< the recording or trip
    std::string by;                   ///< who, and on which screen
    std::vector<std::string> reasons; ///< why the program read it so
    KeptChip chip;
    bool operator==(const Sighting &) const;
};

/// What came of a visit.
struct Outcome {
    enum class What : std::uint8_t { looked, fished, bite, landed } what = What::looked;
    UnixNs time = 0;
    std::string species;            ///< of a bite or a fish; empty: not said
    std::optional<double> length_m; ///< of a fish that was landed
    bool released = false;
    std::optional<double> out_of_water_s;
    std::string note;
    std::string by;
    bool operator==(const Outcome &) const;
};
std::string_view name_of(Outcome::What what);
std::optional<Outcome::What> outcome_named(std::string_view name);

/// How the guide came to know what it is.
enum class Confirmed : std::uint8_t { no, eye, camera, diver, rod };
std::string_view name_of(Confirmed by);
std::optional<Confirmed> confirmed_named(std::string_view name);

struct Mark {
    std::string id;   ///< unique, given once
    std::string name; ///< may be empty until somebody names it
    Family family = Family::unsure;
    Kind kind = Kind::none; ///< one of kinds_of(family); none: not said
    std::string note;
    UnixNs time = 0; ///< of the ping on which it was seen
    std::optional<GeoPoint> place;
    PlaceCovariance place_covariance;
    std::string place_remark; ///< why the place is unknown or doubtful; empty when it is known
    std::string side;         ///< "port", "starboard", "down"; empty when marked at the boat
    double slant_m = 0;
    double ground_m = 0;
    std::optional<double> seen_from_deg; ///< from the thing to the transducer that saw it, true
    std::optional<Estimate> depth_m;     ///< of the bottom there, from the surface
    std::optional<Estimate> height_m;    ///< from its shadow
    bool height_at_least = false;
    double range_setting_m = 0; ///< the settings it was seen with
    double frequency_hz = 0;
    int gain = 0;
    std::string source; ///< the recording or trip it was seen on
    KeptChip chip;
    std::string foreign_gpx; ///< what another program's GPX said and we do not understand, kept as it was

    std::string lake;                   ///< the water it lies in, as the guide calls it
    std::vector<std::string> tags;      ///< the guide's own words and folders
    std::vector<EastNorth> shape;       ///< an outline or a line about the place, metres east and north of it
    bool closed = false;                ///< it is an outline
    std::optional<double> length_m;     ///< longer extent
    std::string bottom;                 ///< what it stands on: "silt", "sand", …; empty: not known
    std::optional<double> lake_level_m; ///< of the water over the lake's datum when `depth_m` was told
    std::vector<Sighting>
        sightings; ///< the looks that were joined into it; empty: the one that it tells itself
    std::vector<Outcome> outcomes; ///< in the order of time
    Confirmed confirmed = Confirmed::no;
    Kind turned_out = Kind::none; ///< what it truly is, where that was found out
    std::string by;               ///< who made it, on which screen
    Level level = Level::crew;    ///< who may see that it is there
    FieldLevels field_levels;     ///< who may see what of it, where that differs from the usual
};

/// The look that a mark tells itself, as one of its sightings.
Sighting sighting_of(const Mark &mark);
/// All looks: its sightings, or the one that it tells itself.
std::vector<Sighting> all_sightings(const Mark &mark);

/// What to call a mark that nobody has named: "stump, 31 ft right" and the like are the app's; this is the
/// plain kind or family.
std::string plain_name(const Mark &mark);

/// A mark at a point of the picture, placed by the bottom there (or on the arc in the water).
Mark mark_at(const Scan &scan, const CursorReading &reading, Family family, std::string source);
/// A mark at a measured thing: true side distance, height and depth with their doubt.
Mark mark_measured(const Scan &scan, const MeasureHandles &handles, const Measurement &measurement,
                   Family family, std::string source);
/// A mark at what was read: place, height and depth with their doubt as the contact tells them, and its kind
/// where that is sure. A ledge or channel was seen looking down. Note and chip are the caller's.
Mark mark_of(const Scan &scan, const Contact &contact, std::string source);
/// A mark at the boat itself at the time of a row, when nothing was pointed at.
Mark mark_at_boat(const Scan &scan, std::size_t row, Family family, std::string source);

} // namespace heron
