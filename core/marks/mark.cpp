#include "marks/mark.hpp"

#include "files/identifier.hpp"
#include "files/named.hpp"

#include <algorithm>
#include <array>
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
    if (family == Family::hazard)
        m.level = Level::anyone;
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

// Looking down or at the boat itself there is no side to see it from.
void put_seen_from(Mark &m, const Scan &scan, std::size_t row) {
    constexpr double aside_m = 2;
    if (!m.place || m.ground_m < aside_m)
        return;
    if (const auto fix = scan.nav.fix_at(scan.facts(row).time))
        m.seen_from_deg = leg_between(*m.place, transducer_place(fix->pose, scan.installation)).bearing_deg;
}

constexpr const char *in_the_water = "in the water: how far aside is not known from one pass";

} // namespace

bool Sighting::operator==(const Sighting &o) const {
    const auto same = [](const std::optional<Estimate> &a, const std::optional<Estimate> &b) {
        return a.has_value() == b.has_value() && (!a || (a->value == b->value && a->sd == b->sd));
    };
    return time == o.time && place.has_value() == o.place.has_value() &&
           (!place || (place->latitude_deg == o.place->latitude_deg &&
                       place->longitude_deg == o.place->longitude_deg)) &&
           family == o.family && kind == o.kind && side == o.side && slant_m == o.slant_m &&
           ground_m == o.ground_m && seen_from_deg == o.seen_from_deg && same(depth_m, o.depth_m) &&
           same(height_m, o.height_m) && height_at_least == o.height_at_least &&
           range_setting_m == o.range_setting_m && frequency_hz == o.frequency_hz && gain == o.gain &&
           source == o.source && by == o.by && reasons == o.reasons && chip == o.chip;
}

bool Outcome::operator==(const Outcome &o) const {
    return what == o.what && time == o.time && species == o.species && length_m == o.length_m &&
           released == o.released && out_of_water_s == o.out_of_water_s && note == o.note && by == o.by;
}

namespace {

constexpr std::array<std::string_view, 4> whats{"looked", "fished", "bite", "landed"};
constexpr std::array<std::string_view, 5> confirms{"no", "eye", "camera", "diver", "rod"};

} // namespace

std::string_view name_of(Outcome::What what) {
    return whats[static_cast<std::size_t>(what)];
}
std::optional<Outcome::What> outcome_named(std::string_view name) {
    return named<Outcome::What>(whats, name);
}
std::string_view name_of(Confirmed by) {
    return confirms[static_cast<std::size_t>(by)];
}
std::optional<Confirmed> confirmed_named(std::string_view name) {
    return named<Confirmed>(confirms, name);
}

Sighting sighting_of(const Mark &m) {
    Sighting s;
    s.time = m.time;
    s.place = m.place;
    s.place_covariance = m.place_covariance;
    s.family = m.family;
    s.kind = m.kind;
    s.side = m.side;
    s.slant_m = m.slant_m;
    s.ground_m = m.ground_m;
    s.seen_from_deg = m.seen_from_deg;
    s.depth_m = m.depth_m;
    s.height_m = m.height_m;
    s.height_at_least = m.height_at_least;
    s.range_setting_m = m.range_setting_m;
    s.frequency_hz = m.frequency_hz;
    s.gain = m.gain;
    s.source = m.source;
    s.by = m.by;
    s.chip = m.chip;
    return s;
}

std::vector<Sighting> all_sightings(const Mark &m) {
    return m.sightings.empty() ? std::vector<Sighting>{sighting_of(m)} : m.sightings;
}

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
    put_seen_from(m, scan, c.row);
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
    m.length_m = c.length_m;
    put_place(m, {c.place, c.place_state});
    put_seen_from(m, scan, c.row);
    // A wall keeps its line, a heap its outline.
    if (c.large && c.place) {
        const LocalPlane plane(c.place->place);
        for (const auto &corner : c.large->outline())
            m.shape.push_back(plane.to_plane(corner));
        m.closed = c.large->closed;
    }
    if (c.zone == Zone::water && m.place_remark.empty())
        m.place_remark = in_the_water;
    auto look = sighting_of(m);
    look.reasons = c.reasons;
    m.sightings.push_back(std::move(look));
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
    put_seen_from(m, scan, h.row);
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
