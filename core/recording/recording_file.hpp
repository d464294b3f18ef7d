// A recording as it lies in its file, in the process that opens it: recording/recording.hpp has that done by
// a child.
#pragma once

#include "recording/beam_group.hpp"
#include "recording/netcdf_file.hpp"
#include "recording/recording.hpp"

#include <array>
#include <cstdint>
#include <optional>

namespace heron {

/// A ping of a recording: where its samples stand.
struct RecordingEntry {
    UnixNs time = 0;
    std::uint32_t group = 0;
    bool place_unknown = false;
    std::size_t row = 0;
    /// Other groups that heard the same transmission with other beams.
    struct Other {
        std::uint32_t group = 0;
        std::size_t row = 0;
    };
    static constexpr std::size_t most_others = 3;
    std::array<Other, most_others> others{};
    std::size_t other_count = 0;
};

/// All of it but the samples is read on opening.
struct RecordingFile {
    /// Refuses with one line that names file, group, variable and fault.
    static Result<RecordingFile> open(const std::filesystem::path &path);
    /// Ping `i` of `order`; a fault where the file is damaged there.
    Result<Ping> ping(std::size_t i) const;
    /// From here on the rows of each group that belong to this part are read many at a time.
    void fetch_together(std::size_t part);

    std::string name;
    RecordingHead head;
    std::vector<std::string> warnings;
    std::vector<BeamGroup> groups;
    std::vector<RecordingEntry> order; ///< as `RecordingReader` counts pings
    static constexpr std::size_t rows_a_part = 4096;

  private:
    explicit RecordingFile(NcFile &&f) : file(std::move(f)) {}
    Result<void> open_groups();
    NcFile file;
    std::optional<std::size_t> together; ///< the part whose rows are fetched together
};

} // namespace heron
