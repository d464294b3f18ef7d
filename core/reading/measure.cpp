#include "reading/measure.hpp"

#include "fault/told.hpp"
#include "reading/abeam.hpp"

#include <algorithm>
#include <cmath>

namespace heron {

Estimate water_depth(const Scan &scan, const BottomPlane &plane, double ground) {
    return {plane.depth_at(ground) + scan.installation.draught_m(),
            std::hypot(plane.altitude_sd_m, ground * plane.slope_sd_deg / degrees_per_radian)};
}

std::string say(PlaceState state) {
    switch (state) {
    case PlaceState::known:
        return {};
    case PlaceState::known_by_course:
        return told("no compass: the course over ground serves, with a wider error");
    case PlaceState::no_position:
        return told("place unknown: no position at that ping");
    case PlaceState::no_heading:
        return told("place unknown: no heading, and the boat did not run straight");
    case PlaceState::clock_suspect:
        return told("place unknown: the time of that ping steps back");
    }
    return {};
}

Placed place_beside(const Scan &scan, std::size_t row, Side side, const Estimate &ground) {
    Placed placed;
    const auto &ping = scan.ping(row);
    const auto &facts = scan.facts(row);
    if (facts.place_unknown) {
        placed.state = PlaceState::clock_suspect;
        return placed;
    }
    const auto fix = scan.nav.fix_at(facts.time);
    if (!fix) {
        placed.state = scan.nav.position_at(facts.time) ? PlaceState::no_heading : PlaceState::no_position;
        return placed;
    }
    const auto *beam = ping.beam(side);
    const double azimuth = beam != nullptr ? beam->azimuth_deg : nominal_azimuth_deg(side);
    placed.at = locate_sample(fix->pose, scan.installation, azimuth, ground.value, ground.sd);
    placed.state =
        fix->heading_source == HeadingSource::compass ? PlaceState::known : PlaceState::known_by_course;
    return placed;
}

std::optional<BottomPlane> bottom_at(const Scan &scan, std::size_t row) {
    const auto &bottom = scan.bottom(row);
    if (!bottom.found)
        return std::nullopt;
    BottomPlane plane;
    plane.altitude_m = bottom.altitude_m;
    plane.altitude_sd_m = bottom.altitude_sd_m;
    return plane;
}

double range_sd_m(const Ping &ping) {
    constexpr double by_hand_m = 0.06; // about a pixel of the picture at the usual ranges
    return std::hypot(by_hand_m, std::max(ping.metres_per_sample(), ping.resolution_m() / 2));
}

bool shadow_is_cut(const Scan &scan, const MeasureHandles &h) {
    const auto &ping = scan.ping(h.row);
    const auto *beam = ping.beam(h.side);
    if (beam == nullptr)
        return true;
    return h.end_m >= ping.slant_m(static_cast<double>(beam->code.size())) - 2 * ping.metres_per_sample();
}

std::optional<Measurement> measure(const Scan &scan, const MeasureHandles &h,
                                   const std::optional<BottomPlane> &bottom) {
    if (!scan.holds(h.row))
        return std::nullopt;
    const auto plane = bottom ? bottom : bottom_abeam(scan, {h.row, h.side, h.top_m, h.end_m});
    if (!plane)
        return std::nullopt;
    const auto &ping = scan.ping(h.row);
    const auto shadow = read_shadow(h.top_m, h.end_m, range_sd_m(ping), *plane, shadow_is_cut(scan, h));
    if (!shadow)
        return std::nullopt;
    Measurement m;
    m.shadow = *shadow;
    m.ground_m = shadow->ground_m;
    if (h.near_m > 0 && h.near_m < h.top_m) {
        // The near edge is met somewhere between foot and top; half-way up is wrong by no more than the half.
        auto half_way = *plane;
        const double half = shadow->height_m.value / 2;
        half_way.altitude_m -= half;
        if (const auto near = ground_range_m(h.near_m, half_way)) {
            const double slack = half * half_way.altitude_m / std::max(*near, 0.5) / std::sqrt(3.0);
            m.across_m = std::max(0.0, shadow->ground_m.value - *near);
            m.ground_m.value = (shadow->ground_m.value + *near) / 2;
            m.ground_m.sd = std::hypot(shadow->ground_m.sd, slack / 2);
        }
    }
    const double g = m.ground_m.value;
    m.water_depth_m = water_depth(scan, *plane, g);
    m.top_depth_m = std::max(0.0, m.water_depth_m.value - shadow->height_m.value);
    m.nearest_shadow_m = h.end_m - h.top_m;
    m.placed = place_beside(scan, h.row, h.side, m.ground_m);
    return m;
}

CursorReading read_cursor(const Scan &scan, const Cursor &cursor, std::optional<std::size_t> newest) {
    CursorReading reading;
    reading.cursor = cursor;
    if (!scan.holds(cursor.row))
        return reading;
    const auto &ping = scan.ping(cursor.row);
    Estimate ground{cursor.slant_m, 0};
    if (const auto plane = bottom_at(scan, cursor.row)) {
        reading.ground_m = ground_range(cursor.slant_m, range_sd_m(ping), *plane);
        if (reading.ground_m) {
            ground = *reading.ground_m;
            reading.depth_m = water_depth(scan, *plane, ground.value);
        } else {
            reading.in_water = cursor.slant_m < plane->altitude_m;
        }
    }
    if (!reading.ground_m) {
        // On the arc: anywhere from straight below to straight aside.
        ground = {0.75 * cursor.slant_m, 0.16 * cursor.slant_m + 0.2};
    }
    reading.placed = place_beside(scan, cursor.row, cursor.side, ground);
    if (reading.placed.at) {
        if (const auto now = scan.nav.position_at(newest ? scan.facts(*newest).time : scan.newest().time))
            reading.from_boat_now = leg_between(now->place, reading.placed.at->place);
    }
    return reading;
}

} // namespace heron
