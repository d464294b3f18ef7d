// Small archives: what a KMZ is.
#pragma once

#include "fault/fault.hpp"

#include <filesystem>
#include <string>
#include <vector>

namespace heron {

struct ZipMember {
    std::string name; ///< with forward strokes, relative
    std::string bytes;
};

/// Writes all members in their order, beside the file, and puts it in place when it is whole; nothing is left
/// behind where that fails.
Result<void> write_zip(const std::filesystem::path &file, const std::vector<ZipMember> &members);

/// Reads the members whose names end as told (all where it is empty). Refuses what is no archive, more than
/// `most_members`, and what would unpack to more than `most_bytes`; names that lead out of the archive are
/// passed over.
Result<std::vector<ZipMember>> read_zip(const std::filesystem::path &file, const std::string &suffix,
                                        std::size_t most_members = 20'000,
                                        std::uintmax_t most_bytes = 256u << 20);

} // namespace heron
