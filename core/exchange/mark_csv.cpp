// Marks as a table (RFC 4180) and back: any order of columns, any of three separators, decimal points or
// commas.
#include "exchange/mark_files.hpp"
#include "files/csv.hpp"
#include "files/identifier.hpp"
#include "marks/mark_json.hpp"
#include "units/number_text.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <map>

namespace heron {
namespace {

constexpr std::array<const char *, 18> columns{
    "id",          "name",     "family", "kind", "latitude", "longitude", "place_sd_m", "depth_m", "height_m",
    "height_sd_m", "length_m", "bottom", "time", "note",     "tags",      "lake",       "level",   "source"};

// All cells of a table; a separator within quotes is none.
std::vector<std::vector<std::string>> cells_of(std::string_view text, char separator, std::size_t most_rows) {
    std::vector<std::vector<std::string>> rows(1);
    std::string cell;
    bool in_quotes = false, any = false;
    const auto end_cell = [&] {
        rows.back().push_back(std::move(cell));
        cell.clear();
    };
    for (std::size_t i = 0; i < text.size() && rows.size() <= most_rows; ++i) {
        const char c = text[i];
        if (in_quotes) {
            if (c == '"' && i + 1 < text.size() && text[i + 1] == '"') {
                cell += '"';
                ++i;
            } else if (c == '"') {
                in_quotes = false;
            } else {
                cell += c;
            }
            continue;
        }
        any = any || (c != '\n' && c != '\r');
        if (c == '"' && cell.empty())
            in_quotes = true;
        else if (c == separator)
            end_cell();
        else if (c == '\n') {
            end_cell();
            if (!any)
                rows.back().clear();
            else
                rows.emplace_back();
            any = false;
        } else if (c != '\r')
            cell += c;
    }
    if (any || !cell.empty())
        end_cell();
    if (rows.back().empty())
        rows.pop_back();
    return rows;
}

std::string plain(const std::string &s) {
    std::string out;
    for (const char c : s)
        if (std::isalnum(static_cast<unsigned char>(c)) != 0)
            out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return out;
}

// What others call the columns.
std::string ours(const std::string &head) {
    static const std::map<std::string, std::string> names{{"lat", "latitude"},
                                                          {"latitude", "latitude"},
                                                          {"latitudedeg", "latitude"},
                                                          {"y", "latitude"},
                                                          {"lon", "longitude"},
                                                          {"long", "longitude"},
                                                          {"lng", "longitude"},
                                                          {"longitude", "longitude"},
                                                          {"longitudedeg", "longitude"},
                                                          {"x", "longitude"},
                                                          {"name", "name"},
                                                          {"title", "name"},
                                                          {"waypoint", "name"},
                                                          {"kind", "kind"},
                                                          {"type", "kind"},
                                                          {"symbol", "kind"},
                                                          {"sym", "kind"},
                                                          {"icon", "kind"},
                                                          {"family", "family"},
                                                          {"note", "note"},
                                                          {"notes", "note"},
                                                          {"comment", "note"},
                                                          {"description", "note"},
                                                          {"desc", "note"},
                                                          {"depth", "depth_m"},
                                                          {"depthm", "depth_m"},
                                                          {"depthft", "depth_ft"},
                                                          {"height", "height_m"},
                                                          {"heightm", "height_m"},
                                                          {"heightft", "height_ft"},
                                                          {"heightsdm", "height_sd_m"},
                                                          {"time", "time"},
                                                          {"date", "time"},
                                                          {"datetime", "time"},
                                                          {"tags", "tags"},
                                                          {"lake", "lake"},
                                                          {"water", "lake"},
                                                          {"level", "level"},
                                                          {"source", "source"},
                                                          {"id", "id"},
                                                          {"placesdm", "place_sd_m"},
                                                          {"lengthm", "length_m"},
                                                          {"bottom", "bottom"}};
    const auto at = names.find(plain(head));
    return at == names.end() ? std::string() : at->second;
}

// "46.5", "46,5", "46°30.5′N", "N 46 30.5".
std::optional<double> figure(const std::string &text, bool place) {
    std::string s;
    double sign = 1;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        const auto u = static_cast<unsigned char>(c);
        if (place && (c == 'S' || c == 's' || c == 'W' || c == 'w'))
            sign = -1;
        else if (place && (std::isalpha(u) != 0 || u >= 0x80 || c == '\'' || c == '"'))
            s += ' ';
        else
            s += c == ',' ? '.' : c;
    }
    std::array<double, 3> parts{};
    std::size_t n = 0;
    std::string_view left = s;
    while (n < 3 && left.find_first_not_of(' ') != std::string_view::npos) {
        const auto part = take_number(left);
        if (!part || !(left.empty() || left.starts_with(' ')))
            return std::nullopt;
        parts[n++] = *part;
    }
    if (n == 0 || (n > 1 && !place))
        return std::nullopt;
    const double size = std::fabs(parts[0]) + parts[1] / 60 + parts[2] / 3600;
    return sign * (std::signbit(parts[0]) ? -size : size);
}

} // namespace

std::string csv_from_marks(const std::vector<Mark> &marks) {
    std::string out;
    for (const auto *c : columns)
        out += (out.empty() ? "" : ",") + std::string(c);
    out += "\r\n";
    const auto number = [](const std::optional<double> &v, int decimals) {
        return v ? fmt::format("{:.{}f}", *v, decimals) : std::string();
    };
    for (const auto &m : marks) {
        std::string tags;
        for (const auto &t : m.tags)
            tags += (tags.empty() ? "" : "; ") + t;
        const std::array<std::string, columns.size()> cells{
            csv_cell(m.id),
            csv_cell(m.name),
            std::string(name_of(m.family)),
            m.kind == Kind::none ? "" : std::string(name_of(m.kind)),
            m.place ? fmt::format("{:.8f}", m.place->latitude_deg) : "",
            m.place ? fmt::format("{:.8f}", m.place->longitude_deg) : "",
            m.place ? fmt::format("{:.2f}", m.place_covariance.radial_sd_m()) : "",
            number(m.depth_m ? std::optional(m.depth_m->value) : std::nullopt, 2),
            number(m.height_m ? std::optional(m.height_m->value) : std::nullopt, 2),
            number(m.height_m ? std::optional(m.height_m->sd) : std::nullopt, 2),
            number(m.length_m, 2),
            csv_cell(m.bottom),
            m.time != 0 ? print_rfc3339(m.time, 3) : "",
            csv_cell(m.note),
            csv_cell(tags),
            csv_cell(m.lake),
            std::string(name_of(m.level)),
            csv_cell(m.source)};
        for (std::size_t i = 0; i < cells.size(); ++i)
            out += (i == 0 ? "" : ",") + cells[i];
        out += "\r\n";
    }
    return out;
}

Result<MarksRead> marks_from_csv(std::string_view text, std::string_view file_name) {
    constexpr std::size_t most_rows = 1'000'000;
    if (text.starts_with("\xEF\xBB\xBF"))
        text.remove_prefix(3);
    // The separator that parts the heads best.
    const auto first = text.substr(0, text.find('\n'));
    char separator = ',';
    std::ptrdiff_t most = -1;
    for (const char c : {',', ';', '\t'}) {
        const auto n = std::count(first.begin(), first.end(), c);
        if (n > most) {
            most = n;
            separator = c;
        }
    }
    const auto rows = cells_of(text, separator, most_rows);
    const auto refused = [&](const std::string &why) {
        return fail(told("{}: {}", file_name, why), told("no mark was taken from it, and none was changed"),
                    told("a table of marks has a head with latitude and longitude, and a line each"));
    };
    if (rows.empty())
        return refused(told("it is empty"));
    std::map<std::string, std::size_t> where;
    for (std::size_t i = 0; i < rows[0].size(); ++i)
        if (const auto name = ours(rows[0][i]); !name.empty())
            where.emplace(name, i);
    if (!where.contains("latitude") || !where.contains("longitude"))
        return refused(told("its head names no latitude and longitude"));
    MarksRead out;
    std::size_t bad = 0;
    for (std::size_t r = 1; r < rows.size(); ++r) {
        const auto cell = [&](const char *name) -> std::string {
            const auto at = where.find(name);
            if (at == where.end() || at->second >= rows[r].size())
                return {};
            auto s = rows[r][at->second];
            while (!s.empty() && s.back() == ' ')
                s.pop_back();
            s.erase(0, std::min(s.find_first_not_of(' '), s.size()));
            if (s.size() > 1 && s.front() == '\'' &&
                std::string_view("=+-@").find(s[1]) != std::string_view::npos)
                s.erase(0, 1);
            return s;
        };
        const auto leave = [&](const std::string &why) {
            if (++bad <= 5)
                out.warnings.push_back(told("line {} was left out: {}", r + 1, why));
        };
        Mark m;
        const auto lat_text = cell("latitude"), lon_text = cell("longitude");
        const auto lat = figure(lat_text, true), lon = figure(lon_text, true);
        if (!lat_text.empty() || !lon_text.empty()) {
            if (!lat || !lon || std::fabs(*lat) > 90 || std::fabs(*lon) > 180) {
                leave(told("'{}', '{}' is no place", lat_text.substr(0, 40), lon_text.substr(0, 40)));
                continue;
            }
            m.place = GeoPoint{*lat, *lon};
        }
        m.id = cell("id");
        if (m.id.empty())
            m.id = new_identifier();
        m.name = cell("name");
        auto kind = cell("kind");
        std::transform(kind.begin(), kind.end(), kind.begin(),
                       [](unsigned char c) { return c == ' ' ? '_' : std::tolower(c); });
        m.kind = kind_named(kind).value_or(Kind::none);
        m.family = family_named(cell("family"))
                       .value_or(m.kind != Kind::none ? family_of(m.kind)
                                                      : family_named(kind).value_or(Family::unsure));
        if (const auto sd = figure(cell("place_sd_m"), false); sd && *sd > 0 && *sd < 1e5)
            m.place_covariance = {*sd * *sd / 2, 0, *sd * *sd / 2};
        const auto estimate = [&](const char *metres, const char *feet,
                                  const char *doubt) -> std::optional<Estimate> {
            auto v = figure(cell(metres), false);
            if (!v)
                if (const auto ft = figure(cell(feet), false))
                    v = metres_from_feet(*ft);
            if (!v)
                return std::nullopt;
            return Estimate{*v, figure(cell(doubt), false).value_or(0)};
        };
        m.depth_m = estimate("depth_m", "depth_ft", "");
        m.height_m = estimate("height_m", "height_ft", "height_sd_m");
        m.length_m = figure(cell("length_m"), false);
        m.bottom = cell("bottom");
        m.time = parse_rfc3339(cell("time")).value_or(0);
        m.note = cell("note");
        m.lake = cell("lake");
        m.source = cell("source");
        m.level =
            level_named(cell("level")).value_or(m.family == Family::hazard ? Level::anyone : Level::crew);
        std::string tag;
        for (const char c : cell("tags") + ";") {
            if (c != ';') {
                tag += c;
                continue;
            }
            const auto from = tag.find_first_not_of(' ');
            if (from != std::string::npos)
                m.tags.push_back(tag.substr(from));
            tag.clear();
        }
        out.marks.push_back(std::move(m));
    }
    if (bad > 5)
        out.warnings.push_back(told("{} more lines were left out", bad - 5));
    return out;
}

} // namespace heron
