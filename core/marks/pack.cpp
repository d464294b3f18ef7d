#include "marks/pack.hpp"

#include "fault/told.hpp"
#include "sonar/instant.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr double smallest_m = 5, largest_m = 50'000;

bool wanted(const Mark &m, const PackSettings &s) {
    if (!s.families.empty() && !s.families.contains(m.family))
        return false;
    if (!s.kinds.empty() && !s.kinds.contains(m.kind))
        return false;
    if (!s.lake.empty() && m.lake != s.lake)
        return false;
    return s.tags.empty() || std::any_of(s.tags.begin(), s.tags.end(), [&](const std::string &t) {
               return std::find(m.tags.begin(), m.tags.end(), t) != m.tags.end();
           });
}

} // namespace

Level level_of(const Mark &m, Field field) {
    const auto at = m.field_levels.find(field);
    return at == m.field_levels.end() ? usual_level(field, m.family == Family::hazard) : at->second;
}

void copy_field(Field field, const Mark &from, Mark &to) {
    switch (field) {
    case Field::name:
        to.name = from.name;
        break;
    case Field::kind:
        to.kind = from.kind;
        break;
    case Field::place:
        to.place = from.place;
        to.place_covariance = from.place_covariance;
        to.place_remark = from.place_remark;
        break;
    case Field::measures:
        to.depth_m = from.depth_m;
        to.height_m = from.height_m;
        to.height_at_least = from.height_at_least;
        to.length_m = from.length_m;
        to.bottom = from.bottom;
        to.lake_level_m = from.lake_level_m;
        to.shape = from.shape;
        to.closed = from.closed;
        break;
    case Field::time:
        to.time = from.time;
        break;
    case Field::picture:
        to.chip = from.chip;
        break;
    case Field::note:
        to.note = from.note;
        break;
    case Field::tags:
        to.tags = from.tags;
        to.lake = from.lake;
        break;
    case Field::settings:
        to.side = from.side;
        to.slant_m = from.slant_m;
        to.ground_m = from.ground_m;
        to.seen_from_deg = from.seen_from_deg;
        to.range_setting_m = from.range_setting_m;
        to.frequency_hz = from.frequency_hz;
        to.gain = from.gain;
        break;
    case Field::story:
        to.source = from.source;
        to.by = from.by;
        to.confirmed = from.confirmed;
        to.turned_out = from.turned_out;
        to.foreign_gpx = from.foreign_gpx;
        to.sightings = from.sightings;
        break;
    case Field::outcomes:
        to.outcomes = from.outcomes;
        break;
    }
}

std::optional<Mark> as_seen_by(const Mark &mark, Level receiver) {
    if (receiver == Level::me)
        return mark;
    const auto sees = [&](Field f) { return open_to(level_of(mark, f), receiver); };
    if (!open_to(mark.level, receiver) || !mark.place || !sees(Field::place))
        return std::nullopt;
    // Built up from nothing: a field that is added to marks one day stays here until somebody lets it go.
    Mark m;
    m.id = mark.id;
    m.family = mark.family;
    m.level = mark.level;
    for (std::size_t f = 0; f < field_count; ++f)
        if (const auto field = static_cast<Field>(f); sees(field))
            copy_field(field, mark, m);
    // Each look tells no more than the mark itself may.
    for (auto &s : m.sightings) {
        if (!sees(Field::picture))
            s.chip = {};
        if (!sees(Field::settings)) {
            s.side.clear();
            s.slant_m = s.ground_m = s.range_setting_m = s.frequency_hz = 0;
            s.gain = 0;
            s.seen_from_deg.reset();
        }
        if (!sees(Field::time))
            s.time = 0;
        if (!sees(Field::measures)) {
            s.depth_m.reset();
            s.height_m.reset();
            s.height_at_least = false;
        }
        if (!sees(Field::kind))
            s.kind = Kind::none;
    }
    // The crew goes on with the guide's own levels; others have no need to know them.
    if (receiver == Level::crew)
        m.field_levels = mark.field_levels;
    return m;
}

double circle_of(double radius) {
    double circle = smallest_m;
    while (circle * 2 <= std::min(std::max(radius, smallest_m), largest_m))
        circle *= 2;
    return circle;
}

void coarsen(Mark &m, double radius) {
    if (!m.place)
        return;
    const double circle = circle_of(radius);
    // Squares whose half diagonal is the circle's radius; each is cut in four by the next smaller circle.
    // Rows of a fixed height, each row's squares as wide as they are there in metres.
    constexpr double metres_a_degree = 111'132.95; // of latitude, mean; the grid need only be fixed
    const double side = circle * std::sqrt(2.0);
    // The row's width is that of the largest grid's row, so that smaller squares lie within larger ones.
    const double rows_deg = side / metres_a_degree, widest_deg = largest_m * std::sqrt(2.0) / metres_a_degree;
    const double row = std::floor((m.place->latitude_deg + 90) / rows_deg);
    const double lat = (row + 0.5) * rows_deg - 90;
    const double band = std::floor((m.place->latitude_deg + 90) / widest_deg) * widest_deg - 90;
    // The widest circle of latitude in the band bounds all its squares.
    const double near_equator = band < 0 ? std::min(0.0, band + widest_deg) : band;
    const double squeeze =
        std::max(0.02, std::cos(std::clamp(near_equator, -89.0, 89.0) / degrees_per_radian));
    const double columns_deg = side / (metres_a_degree * squeeze);
    const double column = std::floor((m.place->longitude_deg + 180) / columns_deg);
    m.place = GeoPoint{std::clamp(lat, -90.0, 90.0), wrap_180((column + 0.5) * columns_deg - 180)};
    m.place_covariance = {circle * circle / 4, 0, circle * circle / 4};
    m.place_remark = told("known to within {}", print_length(circle, UnitSystem::metres, 0).text());
    m.side.clear();
    m.slant_m = m.ground_m = 0;
    m.seen_from_deg.reset();
    m.shape.clear();
    m.sightings.clear();
    m.chip = {};
    m.source.clear();
    m.foreign_gpx.clear();
    for (auto &o : m.outcomes)
        o.time -= o.time % (86'400 * ns_per_s);
    // Of the time the day stays: with the boat's track known, a minute would be a place.
    m.time -= m.time % (86'400 * ns_per_s);
}

std::vector<Mark> packed(const std::vector<Mark> &marks, const PackSettings &settings) {
    std::vector<Mark> out;
    for (const auto &m : marks) {
        if (!wanted(m, settings))
            continue;
        auto seen = as_seen_by(m, settings.receiver);
        if (!seen)
            continue;
        // A hazard that is told askew is worse than none: it is told as it is, or not.
        if (settings.coarsen_m && m.family != Family::hazard)
            coarsen(*seen, *settings.coarsen_m);
        out.push_back(std::move(*seen));
    }
    return out;
}

std::vector<std::string> told_of_pack(const std::vector<Mark> &marks, const PackSettings &s) {
    std::vector<std::string> lines;
    const auto out = packed(marks, s);
    const auto hazards = static_cast<std::size_t>(
        std::count_if(out.begin(), out.end(), [](const Mark &m) { return m.family == Family::hazard; }));
    lines.push_back(told("{} of {} marks go out, {} of them hazards", out.size(), marks.size(), hazards));
    const auto kept = static_cast<std::size_t>(std::count_if(
        marks.begin(), marks.end(), [&](const Mark &m) { return !open_to(m.level, s.receiver); }));
    if (kept > 0)
        lines.push_back(told("{} stay here: they are for closer eyes", kept));
    const auto placeless = static_cast<std::size_t>(
        std::count_if(marks.begin(), marks.end(), [](const Mark &m) { return !m.place; }));
    if (placeless > 0 && s.receiver != Level::me)
        lines.push_back(told("{} have no place and stay here", placeless));
    if (s.coarsen_m)
        lines.push_back(told("places are told to within {}, hazards as they are",
                             print_length(circle_of(*s.coarsen_m), UnitSystem::metres, 0).text()));
    const auto any = [&](const auto &has) { return std::any_of(out.begin(), out.end(), has); };
    std::string sees, not_seen;
    const auto add = [](std::string &to, const std::string &what) { to += (to.empty() ? "" : ", ") + what; };
    const auto say = [&](const std::string &what, bool seen) { add(seen ? sees : not_seen, what); };
    say(told("names"), any([](const Mark &m) { return !m.name.empty(); }));
    say(told("kinds"), any([](const Mark &m) { return m.kind != Kind::none; }));
    say(told("depths and heights"), any([](const Mark &m) { return m.depth_m || m.height_m; }));
    say(told("dates"), any([](const Mark &m) { return m.time != 0; }));
    say(told("pictures"), any([](const Mark &m) { return !m.chip.empty(); }));
    say(told("notes"), any([](const Mark &m) { return !m.note.empty(); }));
    say(told("tags and waters"), any([](const Mark &m) { return !m.tags.empty() || !m.lake.empty(); }));
    say(told("settings"), any([](const Mark &m) { return m.range_setting_m > 0; }));
    say(told("sightings and who made them"),
        any([](const Mark &m) { return !m.sightings.empty() || !m.by.empty(); }));
    say(told("outcomes"), any([](const Mark &m) { return !m.outcomes.empty(); }));
    if (!sees.empty())
        lines.push_back(told("in the pack: {}", sees));
    if (!not_seen.empty())
        lines.push_back(told("left out: {}", not_seen));
    return lines;
}

} // namespace heron
