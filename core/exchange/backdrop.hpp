// What others have drawn of a lake, laid under the chart: outlines, points, pictures, depths.
#pragma once

#include "fault/fault.hpp"
#include "geo/utm.hpp"

#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace heron {

/// A picture of a part of a backdrop: 0xAARRGGBB, row by row from the north.
struct BackdropPicture {
    int columns = 0, rows = 0;
    std::vector<std::uint32_t> argb;
};

/// A file of another program on the chart's plane. Reads GeoJSON, GPX, KML and GeoPackage as lines and
/// points, GeoTIFF as a picture or, with one band of figures, as depths. Pictures are read in windows,
/// whatever their size. Nothing that a file points to is followed: no other file, no address. Not for several
/// threads.
class Backdrop {
  public:
    static constexpr std::size_t most_features = 200'000, most_points = 3'000'000;
    static constexpr std::uintmax_t most_vector_bytes = 128u << 20;

    /// Refuses, in words: other kinds of files, text with entities or a document type of its own, more than
    /// the above, a picture without a place, and what lies wholly elsewhere on the globe is told by
    /// `warnings`.
    static Result<Backdrop> open(const std::filesystem::path &file, const UtmZone &zone);

    struct Line {
        std::vector<EastNorth> points;
        bool closed = false;
        std::string name;
    };
    struct Point {
        EastNorth at;
        std::string name;
    };
    const std::filesystem::path &file() const { return file_; }
    const std::vector<Line> &lines() const { return lines_; }
    const std::vector<Point> &points() const { return points_; }
    const std::vector<std::string> &warnings() const { return warnings_; }
    bool has_picture() const { return picture_ != nullptr && !figures_; }
    bool has_depths() const { return figures_; }

    /// The part from a corner on (north-west, metres on the plane), a cell so many metres wide; transparent
    /// where there is nothing.
    Result<BackdropPicture> picture(double west_m, double north_m, double cell_m, int columns,
                                    int rows) const;
    /// The figure there as a depth, downward positive whatever its sign in the file; nothing where none is.
    std::optional<double> depth_at(const EastNorth &at) const;
    /// The edges of what it covers on the plane.
    struct Extent {
        double west_m, south_m, east_m, north_m;
    };
    const std::optional<Extent> &extent() const { return extent_; }

  private:
    Result<void> take_lines(void *dataset, const UtmZone &zone);
    Result<void> take_picture(std::shared_ptr<void> dataset, const UtmZone &zone);
    void cover(const EastNorth &p);

    std::filesystem::path file_;
    std::vector<Line> lines_;
    std::vector<Point> points_;
    std::vector<std::string> warnings_;
    std::shared_ptr<void> source_, picture_; ///< GDAL's: the file, and the file as the zone sees it
    bool figures_ = false;
    std::optional<Extent> extent_;
};

} // namespace heron
