#include "reading/abeam.hpp"

#include "geo/position.hpp"
#include "reading/measure.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

// Where other tracks ran over the bottom abeam, their depths count for more than any slope. Right under the
// thing such a depth lays the plane anew; what lies off that plane on the way there and behind it is kept
// beside it.
void follow_profile(const Scan &scan, const BoatPose &pose, double azimuth_deg, std::size_t row, double far_m,
                    const TrackDepths &depths, BottomPlane &plane) {
    const auto ground = ground_range_m(std::max(far_m, plane.altitude_m * 1.05), plane);
    if (!ground || *ground < 3)
        return;
    const double own = scan.facts(row).along_m;
    const auto told_at = [&](double g) {
        return depths.depth_at(locate_sample(pose, scan.installation, azimuth_deg, g, 1).place, own);
    };
    constexpr double plane_weight = 0.3, doubt_m = 0.15, step_m = 2;
    const auto share_of = [](const TrackDepths::Depth &d) { return d.weight / (d.weight + plane_weight); };
    if (const auto told = told_at(*ground)) {
        const double by_plane = plane.depth_at(*ground), share = share_of(*told);
        const double depth = by_plane + share * (told->altitude_m - by_plane);
        const double slope = std::atan((plane.altitude_m - depth) / *ground) * degrees_per_radian;
        plane.slope_deg = std::clamp(slope, -25.0, 25.0);
        const double sd = std::atan(doubt_m / std::max(0.1, share) / *ground) * degrees_per_radian;
        plane.slope_sd_deg = std::min(plane.slope_sd_deg, std::max(0.4, sd));
    }
    BottomProfile off{{0, 0}};
    bool bent = false;
    for (double g = step_m; g < *ground + 2 * step_m; g += step_m) {
        const auto told = told_at(g);
        const double by_plane = plane.depth_at(g);
        const double by = told ? share_of(*told) * (told->altitude_m - by_plane) : 0;
        // Half the depth at the most: a bottom does not stand on its head between two tracks.
        off.emplace_back(g, std::clamp(by, -0.5 * plane.altitude_m, 0.5 * plane.altitude_m));
        bent = bent || std::fabs(by) > 0.1;
    }
    if (bent)
        plane.off = std::move(off);
}

} // namespace

BottomPlane shape_abeam(const Scan &scan, const AbeamRequest &asked, const TrackDepths &depths,
                        const std::vector<double> &run_m, BottomPlane plane) {
    const auto *beam = scan.ping(asked.row).beam(asked.side);
    const auto fix = scan.nav.fix_at(scan.facts(asked.row).time);
    if (!fix || beam == nullptr)
        return plane;
    const double bearing = fix->pose.heading_deg + beam->azimuth_deg;
    const auto about =
        locate_sample(fix->pose, scan.installation, beam->azimuth_deg, asked.about_m * 0.9, 1).place;
    auto slope = depths.slope_towards(about, bearing);
    if (auto sides = slope_of_sides(scan, run_m, asked.row)) {
        sides->rises_deg *= asked.side == Side::starboard ? 1 : -1;
        slope = both_slopes(slope, *sides, TrackDepths::usual_prior_deg);
    }
    plane.slope_deg = std::clamp(slope.rises_deg, -15.0, 15.0);
    plane.slope_sd_deg = slope.sd_deg;
    follow_profile(scan, fix->pose, beam->azimuth_deg, asked.row, asked.far_m, depths, plane);
    return plane;
}

std::optional<BottomPlane> bottom_abeam(const Scan &scan, const AbeamRequest &asked) {
    auto plane = bottom_at(scan, asked.row);
    if (!plane)
        return plane;
    constexpr double reach_m = 60;
    constexpr std::size_t most_rows = 4000; // of a boat that hardly moves
    const double own = scan.facts(asked.row).along_m;
    auto first = asked.row, end = asked.row + 1;
    while (first > scan.first() && asked.row - first < most_rows &&
           own - scan.facts(first - 1).along_m < reach_m)
        --first;
    while (end < scan.end() && end - asked.row < most_rows && scan.facts(end).along_m - own < reach_m)
        ++end;
    TrackDepths depths;
    depths.add(scan, first, end);
    // Before these rows nothing is near: there the run stands far off.
    std::vector<double> run(end, own - 2 * reach_m);
    for (auto row = first; row < end; ++row)
        run[row] = scan.facts(row).along_m;
    return shape_abeam(scan, asked, depths, run, *plane);
}

} // namespace heron
