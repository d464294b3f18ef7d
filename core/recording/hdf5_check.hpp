// What an HDF5 file may not do to whoever opens it, looked for before netCDF follows its links.
#pragma once

#include "fault/fault.hpp"

#include <filesystem>

namespace heron {

/// Refuses a file whose links or data lead out of it (external links, external storage, virtual data), that
/// holds groups within themselves, or more groups and variables than any recording has. Files of netCDF's
/// classic form pass.
Result<void> check_hdf5(const std::filesystem::path &path);

} // namespace heron
