// Beds of weeds as contacts of their own.
#include "reading/large.hpp"

#include "bottom/weeds.hpp"
#include "reading/measure.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

// How high it stands where the boat ran over it: four in five readings lie lower.
std::optional<Estimate> height_under_the_boat(const Scan &scan, const Swath &s, const WeedBed &bed) {
    constexpr double over_m = 2.5;
    constexpr std::size_t least_readings = 6;
    if (bed.nearest_m > over_m)
        return std::nullopt;
    std::vector<double> heights;
    std::size_t last = s.lines();
    for (const auto &cell : bed.all)
        if (cell.ground_m <= over_m && cell.line != last) {
            last = cell.line;
            if (const auto under = under_the_boat(scan, s.rows[cell.line]); under && under->stands_m > 0)
                heights.push_back(under->stands_m);
        }
    if (heights.size() < least_readings)
        return std::nullopt;
    std::sort(heights.begin(), heights.end());
    const double high = heights[heights.size() * 4 / 5];
    return Estimate{high, 0.1 + 0.15 * high};
}

} // namespace

std::vector<Contact> read_weeds(const Scan &scan, const Swath &s, const std::vector<BrightGrain> &grains,
                                const std::vector<double> &run_m, std::size_t first, std::size_t end) {
    std::vector<Contact> found;
    for (const auto &bed : weed_beds(s, grains)) {
        if (std::none_of(bed.all.begin(), bed.all.end(), [&](const WeedBed::Cell &cell) {
                return s.rows[cell.line] >= first && s.rows[cell.line] < end;
            }))
            continue;
        // Shown at the line in its middle, where it is widest.
        std::vector<std::size_t> lines;
        for (const auto &cell : bed.all)
            lines.push_back(cell.line);
        std::nth_element(lines.begin(), lines.begin() + std::ssize(lines) / 2, lines.end());
        const auto line = lines[lines.size() / 2];
        double near = 1e9, far = 0;
        std::size_t first_line = line, last_line = line;
        for (const auto &cell : bed.all) {
            first_line = std::min(first_line, cell.line);
            last_line = std::max(last_line, cell.line);
            if (cell.line == line) {
                near = std::min(near, cell.ground_m);
                far = std::max(far, cell.ground_m);
            }
        }
        Contact c;
        c.zone = Zone::ground;
        c.side = s.side;
        c.row = s.rows[line];
        c.first_row = s.rows[first_line];
        c.last_row = s.rows[last_line];
        c.time = scan.facts(c.row).time;
        c.run_m = run_m[c.row];
        if (const auto at = scan.nav.fix_at(c.time))
            c.heading_deg = at->pose.heading_deg;
        c.slant_m = c.top_m = std::hypot(near, s.altitude_m[line]);
        c.echo_end_m = std::hypot(far, s.altitude_m[line]);
        c.bottom.altitude_m = s.altitude_m[line];
        c.bottom.altitude_sd_m = std::max(0.06, scan.bottom(c.row).altitude_sd_m);
        c.features[0] = std::nan(""); // what is said of it teaches nothing of smaller things
        // Surer the larger it is: a cloud of bait may be as wide as a small bed.
        const double sure = std::min(0.95, 0.7 + 0.004 * bed.area_m2);
        c.chances[static_cast<std::size_t>(Kind::weeds)] = sure;
        c.chances[static_cast<std::size_t>(Kind::none)] = 1 - sure;
        settle_kind(c);
        c.height_m = height_under_the_boat(scan, s, bed);
        c.along_m = s.along_m[last_line] - s.along_m[first_line];
        Large large;
        large.chances = c.chances;
        large.closed = true;
        large.rays = bed.grains;
        large.over_db = bed.over_db;
        for (const auto &cell : bed.rim)
            if (const auto placed = place_beside(scan, s.rows[cell.line], s.side,
                                                 {cell.ground_m, 0.3 + 0.02 * cell.ground_m});
                placed.at)
                large.edge.push_back(*placed.at);
        c.ground_m = {(near + far) / 2, 0.3 + 0.02 * far};
        c.length_m = c.along_m;
        c.width_m = far - near;
        place_large(scan, std::move(large), c);
        found.push_back(std::move(c));
    }
    return found;
}

} // namespace heron
