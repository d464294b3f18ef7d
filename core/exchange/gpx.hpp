// GPX 1.1 (Topografix schema) out and in. What other programs put into a waypoint and we do not know stays in
// it.
#pragma once

#include "fault/fault.hpp"
#include "marks/mark.hpp"

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

namespace heron {

struct GpxContents {
    std::vector<Mark> marks;
    std::vector<std::string> warnings; ///< waypoints that were left out, and why
    std::string foreign_metadata; ///< extensions of the file itself that we do not know, kept for writing
};

/// What a receiver can show of a name.
struct NameProfile {
    std::size_t most_letters = 0; ///< 0: as long as they are
    bool plain = false;           ///< capitals, figures, spaces and hyphens of ASCII alone
};
/// Names as a receiver of that profile shows them, each different from the others; in the order of the marks.
std::vector<std::string> fitted_names(const std::vector<Mark> &marks, const NameProfile &profile);

/// Marks with a place as waypoints, their open lines as routes beside them; those without a place cannot
/// stand in GPX and are counted in `left_out`. All else that a mark tells, but its pictures, stands in an
/// extension and comes back; so does a name that the profile shortens.
std::string gpx_from_marks(const std::vector<Mark> &marks, std::size_t *left_out = nullptr,
                           std::string_view foreign_metadata = {}, const NameProfile &names = {});
/// A route of places in their order, named.
std::string gpx_from_route(const std::string &name, const std::vector<GeoPoint> &places);
/// Waypoints; and each route and stretch of a track as a line of at most 2,000 corners about its middle.
/// Refuses text that is no GPX, naming the line at which it breaks.
Result<GpxContents> marks_from_gpx(std::string_view text, std::string_view file_name);

/// The same with files. Reads up to 512 MB.
Result<std::size_t> write_gpx(const std::filesystem::path &path,
                              const std::vector<Mark> &marks); ///< how many were left out
Result<GpxContents> read_gpx(const std::filesystem::path &path);

} // namespace heron
