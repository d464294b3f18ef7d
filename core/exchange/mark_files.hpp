// Marks as files of other programs, by suffix: GPX, KML and KMZ, GeoJSON, CSV, GeoPackage.
#pragma once

#include "exchange/gpx.hpp"
#include "fault/fault.hpp"
#include "marks/mark.hpp"

#include <filesystem>
#include <string>
#include <vector>

namespace heron {

struct MarksRead {
    std::vector<Mark> marks;
    std::vector<std::string> warnings; ///< what was left out, and why
};

/// Whether marks can be read from and written to a file of that name.
bool is_mark_file(const std::filesystem::path &path);

/// Reads by the suffix. Files of other programs may name their columns otherwise, put them in any order, part
/// them by comma, semicolon or tab, and write decimal commas. Refuses what is broken with the place at which
/// it breaks, and text that defines entities of its own; up to 512 MB.
Result<MarksRead> read_mark_file(const std::filesystem::path &path);

struct MarksWritten {
    std::size_t written = 0, without_place = 0;
};
/// Writes by the suffix; the old file stands until the new one is whole. A GeoPackage is written anew, with
/// what it is told alone.
/// `names`: of GPX, what a simple receiver can show of them.
Result<MarksWritten> write_mark_file(const std::filesystem::path &path, const std::vector<Mark> &marks,
                                     const NameProfile &names = {});

/// What a format cannot hold of these marks, a sentence each; empty where nothing is lost.
std::vector<std::string> lost_in(const std::filesystem::path &path, const std::vector<Mark> &marks);

/// What an import brings, held against what is known: by id; else by place (within a metre) and name.
struct ImportPlan {
    std::vector<Mark> fresh;     ///< not known
    std::vector<Mark> different; ///< known, and otherwise; as they would be after taking them
    std::size_t same = 0;
};
ImportPlan plan_import(const std::vector<Mark> &known, const std::vector<Mark> &brought);

// The formats by themselves.
std::string kml_from_marks(const std::vector<Mark> &marks, bool with_pictures,
                           std::size_t *left_out = nullptr);
Result<MarksRead> marks_from_kml(std::string_view text, std::string_view file_name);
std::string geojson_from_marks(const std::vector<Mark> &marks, std::size_t *left_out = nullptr);
Result<MarksRead> marks_from_geojson(std::string_view text, std::string_view file_name);
std::string csv_from_marks(const std::vector<Mark> &marks);
Result<MarksRead> marks_from_csv(std::string_view text, std::string_view file_name);

/// "geo:46.5001234,-21.2498765;u=4?q=…" (RFC 5870, the name as others put it): what a QR code shows a phone.
std::string geo_uri(const Mark &mark);

} // namespace heron
