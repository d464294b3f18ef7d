#include "marks/mark.hpp"

#include "files/identifier.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace heron {
namespace {

// The length of the boat, where a mark made at the boat itself may lie.
constexpr double at_boat_sd_m = 3;

Mark begin(const Scan &scan, std::size_t row, Family family, std::string source) {
    Mark m;
    m.id = new_identifier();
    m.family = family;
    m.source = std::move(source);
    const auto &ping = scan.ping(row);
    m.time = scan.facts(row).time;
    m.range_setting_m = ping.range_m();
    m.frequency_hz = ping.frequency_hz;
    m.gain = scan.settings(row).gain;
    return m;
}

void put_place(Mark &m, const Placed &placed) {
    m.place_remark = say(placed.state);
    if (!placed.at)
        return;
    m.place = placed.at->place;
    m.place_covariance = placed.at->covariance;
}

constexpr const char *in_the_water = "in the water: how far aside is not known from one pass";

} // namespace

std::string plain_name(const Mark &mark) {
    if (!mark.name.empty())
        return mark.name;
    std::string text(mark.kind == Kind::none ? name_of(mark.family) : name_of(mark.kind));
    std::replace(text.begin(), text.end(), '_', ' ');
    return text;
}

Mark mark_at(const Scan &scan, const CursorReading &reading, Family family, std::string source) {
    const auto &c = reading.cursor;
    auto m = begin(scan, c.row, family, std::move(source));
    m.side = name_of(c.side);
    m.slant_m = c.slant_m;
    if (reading.ground_m)
        m.ground_m = reading.ground_m->value;
    m.depth_m = reading.depth_m;
    put_place(m, reading.placed);
    if (!reading.ground_m && m.place_remark.empty())
        m.place_remark = in_the_water;
    return m;
}

Mark mark_of(const Scan &scan, const Contact &c, std::string source) {
    // Families have the same names here and there.
    auto m = begin(scan, c.row, family_named(name_of(c.family)).value_or(Family::unsure), std::move(source));
    const bool under = c.zone == Zone::track;
    if (c.family != Family::unsure && (c.kind_sure || c.said))
        m.kind = c.kind;
    m.side = name_of(under ? Side::down : c.side);
    m.slant_m = c.slant_m;
    m.ground_m = c.ground_m.value;
    m.depth_m = Estimate{c.depth_m, water_depth(scan, c.bottom, c.ground_m.value).sd};
    m.height_m = c.height_m;
    m.height_at_least = c.height_at_least;
    put_place(m, {c.place, c.place_state});
    if (c.zone == Zone::water && m.place_remark.empty())
        m.place_remark = in_the_water;
    return m;
}

Mark mark_measured(const Scan &scan, const MeasureHandles &h, const Measurement &found, Family family,
                   std::string source) {
    auto m = begin(scan, h.row, family, std::move(source));
    m.side = name_of(h.side);
    m.slant_m = h.top_m;
    m.ground_m = found.ground_m.value;
    m.depth_m = found.water_depth_m;
    m.height_m = found.shadow.height_m;
    m.height_at_least = found.shadow.at_least;
    put_place(m, found.placed);
    return m;
}

Mark mark_at_boat(const Scan &scan, std::size_t row, Family family, std::string source) {
    auto m = begin(scan, row, family, std::move(source));
    if (const auto &bottom = scan.bottom(row); bottom.found)
        m.depth_m = Estimate{bottom.altitude_m + scan.installation.draught_m(), bottom.altitude_sd_m};
    put_place(m, place_beside(scan, row, Side::down, {0, at_boat_sd_m}));
    if (m.place_remark.empty())
        m.place_remark = "marked at the boat: nothing was pointed at";
    return m;
}

} // namespace heron
