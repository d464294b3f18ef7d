// Which rows stand in which line of the picture, so that it is to scale along the track.
#pragma once

#include "picture/scan.hpp"

#include <cstdint>
#include <utility>

namespace heron {

/// How the axis along the track runs: a line a ping, or a line for so many metres over ground.
enum class Along : std::uint8_t { pings, ground };

/// Lines are numbered from the first row on; the newest has the highest number. While the boat stands or its
/// speed is not known the picture runs on time: a line a ping, whatever the scale.
class TrackLines {
  public:
    TrackLines(Along along, double metres_a_line) : along_(along), metres_a_line_(metres_a_line) {}
    bool operator==(const TrackLines &) const = default;

    std::int64_t line_of(const Scan &scan, std::size_t row) const {
        return along_ == Along::pings ? static_cast<std::int64_t>(row)
                                      : static_cast<std::int64_t>(coordinate(scan.facts(row)));
    }
    /// First row and the one after the last that stand in a line; a line that no row begins in is held by the
    /// row before. Both are `scan.end()` for a line newer than all rows.
    std::pair<std::size_t, std::size_t> rows_of(const Scan &scan, std::int64_t line) const;
    /// Whether a line shows a stretch that ran on time.
    bool on_time(const Scan &scan, std::int64_t line) const;
    Along along() const { return along_; }
    double metres_a_line() const { return metres_a_line_; }

  private:
    double coordinate(const RowFacts &f) const { return f.along_m / metres_a_line_ + f.timed; }
    std::size_t first_at_or_after(const Scan &scan, std::int64_t line) const;
    Along along_;
    double metres_a_line_;
};

} // namespace heron
