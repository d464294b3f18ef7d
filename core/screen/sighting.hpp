// A screen that was read, as it is kept: which picture or film, how it was calibrated, and the recording that
// was made of it. The original stays where it is and is never changed.
#pragma once

#include "screen/calibration.hpp"
#include "sonar/instant.hpp"

#include <filesystem>

namespace heron {

struct ScreenSighting {
    std::filesystem::path recording; ///< beside which it is kept
    std::filesystem::path original;  ///< where it was; it may be gone
    UnixNs read_at = 0;
    bool film = false;
    std::string told; ///< what was told of it when it was read, up to 2,000 bytes
    ScreenCalibration calibration;
    bool operator==(const ScreenSighting &) const = default;
};

/// Kept as `<recording>.json`.
std::filesystem::path kept_as(const std::filesystem::path &recording);
Result<void> keep(const ScreenSighting &sighting);
/// Of a recording; refuses what is no such note, naming the entry.
Result<ScreenSighting> sighting_of(const std::filesystem::path &recording);
/// All whose recording is still there, the newest first, 2,000 at most; notes that cannot be read are passed
/// over.
std::vector<ScreenSighting> sightings_in(const std::filesystem::path &folder);

} // namespace heron
