// Trips into recordings and back.
#pragma once

#include "recording/recording.hpp"
#include "trip/trip_file.hpp"

#include <functional>

namespace heron {

using Progress = std::function<bool(double)>; ///< gets 0…1, returns whether to go on

/// Writes all rows of a trip as a recording. Returns how many pings; stopped or failed, nothing is left
/// behind.
Result<std::size_t> recording_from_trip(const std::filesystem::path &trip,
                                        const std::filesystem::path &recording,
                                        const Progress &progress = {});
/// Makes a trip of a recording. What is odd about the recording is added to `warnings`.
Result<std::size_t> trip_from_recording(const std::filesystem::path &recording,
                                        const std::filesystem::path &trip, std::vector<std::string> &warnings,
                                        const Progress &progress = {});

} // namespace heron
