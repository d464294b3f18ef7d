// What worked on a water the last time: read from the trips that were kept there.
#pragma once

#include "trip/trip_file.hpp"

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace heron {

struct LastTime {
    std::filesystem::path trip;
    UnixNs when = 0;
    std::optional<TripConditions> conditions;
    SoundingSettings settings; ///< in force at its end, or after the last change that was found better
    std::vector<SettingChange>
        better; ///< changes that the guide found better, latest first, without pictures
    std::vector<SettingChange> worse;
};

/// The latest trip in `folder` on a water of that name that holds anything, other than `except`. Trips that
/// cannot be read are passed over.
std::optional<LastTime> last_time(const std::filesystem::path &folder, const std::string &water,
                                  const std::filesystem::path &except = {});

/// Every trip in a folder, newest first.
struct TripSummary {
    std::filesystem::path path;
    std::string water;
    UnixNs started = 0;
    double seconds = 0;
    std::size_t rows = 0, marks = 0;
    std::uintmax_t bytes = 0;
    bool older = false; ///< of an older schema: opening it brings it up to date on a copy
    std::string fault;  ///< why it cannot be opened; empty: it can
};
std::vector<TripSummary> trips_in(const std::filesystem::path &folder);

} // namespace heron
