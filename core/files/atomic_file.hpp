// Writing a file so that a crash leaves either the old contents or the new, never a half.
#pragma once

#include "fault/fault.hpp"

#include <filesystem>
#include <string_view>

namespace heron {

/// Writes `contents` beside `path`, flushes it to the disk and renames it into place.
/// On any failure the file at `path` is what it was before, and nothing is left beside it.
Result<void> write_file_atomically(const std::filesystem::path &path, std::string_view contents);

/// What a symbolic link stands for, so that a writer replaces the file and leaves the link; `path` itself
/// where it is none.
std::filesystem::path behind_links(const std::filesystem::path &path);

/// The name under which `path` is written until it is whole; in the same folder, so that the rename is
/// atomic.
std::filesystem::path unfinished_name(const std::filesystem::path &path);

/// Flushes the finished file at `unfinished` and renames it to `to`, or to what that links to.
Result<void> move_into_place(const std::filesystem::path &unfinished, const std::filesystem::path &to);

/// Reads a whole file; refuses one larger than `most_bytes`.
Result<std::string> read_whole_file(const std::filesystem::path &path, std::uintmax_t most_bytes);

} // namespace heron
