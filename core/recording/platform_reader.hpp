// What a recording says of the water and of the boat: /Environment and /Platform.
#pragma once

#include "recording/netcdf_file.hpp"
#include "recording/recording.hpp"

#include <optional>
#include <string>
#include <vector>

namespace heron {

/// One line that names the file, the group or variable and what is wrong with it.
tl::unexpected<Fault> refuse(const std::string &file, const std::string &where, const std::string &what);

/// Sound speed and temperature; refuses where neither tells how fast sound runs.
Result<void> read_environment(const std::string &file, const NcGroup &root, RecordingHead &head,
                              std::vector<std::string> &warnings);

/// Where things hang on the boat, positions, headings and sentences, each held to what it can be. A recording
/// without a platform is sound, and has none of them.
Result<void> read_platform(const std::string &file, const NcGroup &root,
                           const std::optional<std::string> &transducer_id, RecordingHead &head,
                           std::vector<std::string> &warnings);

} // namespace heron
