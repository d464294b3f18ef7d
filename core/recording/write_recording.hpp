// A whole recording onto the disk at once.
#pragma once

#include "recording/recording.hpp"

#include <span>

namespace heron {

/// The file appears when it is whole; nothing is left behind of one that is not.
Result<void> write_recording(const std::filesystem::path &path, const RecordingHead &head,
                             std::span<const Ping> pings);

} // namespace heron
