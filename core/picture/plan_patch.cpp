#include "picture/plan_patch.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

// A row's transducer on a plane and the way the boat looked.
struct Stand {
    double x = 0, y = 0;   // east, north
    double hx = 0, hy = 1; // heading
    bool known = false;
};

Stand stand_of(const Scan &scan, const LocalPlane &plane, std::size_t row) {
    const auto &f = scan.facts(row);
    if (f.place_unknown)
        return {};
    const auto fix = scan.nav.fix_at(f.time);
    if (!fix)
        return {};
    const auto at = plane.to_plane(transducer_place(fix->pose, scan.installation));
    const double h = fix->pose.heading_deg / degrees_per_radian;
    return {at.east_m, at.north_m, std::sin(h), std::cos(h), true};
}

} // namespace

std::vector<Pass> passes_at(const Scan &scan, const GeoPoint &place, std::size_t end) {
    std::vector<Pass> looks;
    const LocalPlane plane(place);
    constexpr std::size_t coarse = 8;
    const auto along = [&](std::size_t row, Stand &s) {
        s = stand_of(scan, plane, row);
        return -(s.x * s.hx + s.y * s.hy); // how far ahead the place is
    };
    double before = 0;
    bool had = false;
    for (auto n = scan.first(); n < end; n += coarse) {
        const auto &f = scan.facts(n);
        Stand s;
        const double ahead = along(n, s);
        const bool usable = s.known && std::hypot(s.x, s.y) < 1.2 * static_cast<double>(f.range_m) + 10 &&
                            !(std::fabs(f.turn_deg_s) > 6);
        if (usable && had && before > 0 && ahead <= 0) {
            // Abeam between the last two: the row that is nearest to it.
            std::size_t best = n;
            double least = 1e9;
            for (auto m = n - coarse; m <= n; ++m) {
                Stand t;
                const double a = std::fabs(along(m, t));
                if (t.known && a < least)
                    least = a, best = m;
            }
            Stand t;
            along(best, t);
            const double right = -(t.x * t.hy - t.y * t.hx); // towards starboard
            const double ground = std::fabs(right), a = scan.bottom(best).altitude_m;
            if (t.known && std::hypot(ground, a) < static_cast<double>(scan.facts(best).range_m))
                looks.push_back({best, right >= 0 ? Side::starboard : Side::port, ground,
                                 wrap_360(std::atan2(t.hx, t.hy) * degrees_per_radian)});
        }
        before = ahead;
        had = usable;
    }
    return looks;
}

Chip plan_patch(const Scan &scan, const Pass &look, const GeoPoint &place, double size_m, int pixels,
                const DisplayWindow &window, const PictureFilters &filters, const AngleLevels &angles) {
    Chip chip{
        pixels, pixels,
        std::vector<std::uint8_t>(static_cast<std::size_t>(pixels) * static_cast<std::size_t>(pixels), 0)};
    const LocalPlane plane(place);
    // The rows that passed the patch.
    const double reach = size_m * 0.75;
    auto first = look.row, last = look.row;
    const double here = scan.facts(look.row).along_m;
    while (first > scan.first() && here - scan.facts(first - 1).along_m < reach && look.row - first < 4000)
        --first;
    while (last + 1 < scan.end() && scan.facts(last + 1).along_m - here < reach && last - look.row < 4000)
        ++last;
    const auto n = last - first + 1;
    std::vector<Stand> stands(n);
    std::vector<std::vector<float>> levels(n);
    for (std::size_t i = 0; i < n; ++i) {
        stands[i] = stand_of(scan, plane, first + i);
        const auto &ping = scan.ping(first + i);
        if (const auto *b = ping.beam(look.side))
            row_levels(ping, *b, scan.bottom(first + i), filters, angles, nullptr, nullptr,
                       scan.installation.draught_m(), levels[i]);
    }
    if (!stands[look.row - first].known)
        return chip;
    const double mpp = size_m / pixels;
    auto guess = static_cast<std::ptrdiff_t>(look.row - first);
    for (int y = 0; y < pixels; ++y) {
        for (int x = 0; x < pixels; ++x) {
            const double e = (x + 0.5 - pixels / 2.0) * mpp, no = (pixels / 2.0 - y - 0.5) * mpp;
            // The row that has this point abeam: from the last one, a few steps of as many rows as it is off.
            double right = 0, least = 1e9, best_right = 0;
            auto best = guess;
            bool good = false;
            for (int step = 0; step < 6; ++step) {
                const auto &s = stands[static_cast<std::size_t>(guess)];
                if (!s.known)
                    break;
                const double ahead = (e - s.x) * s.hx + (no - s.y) * s.hy;
                right = (e - s.x) * s.hy - (no - s.y) * s.hx;
                if (std::fabs(ahead) < least) {
                    least = std::fabs(ahead);
                    best = guess;
                    best_right = right;
                }
                const auto i = static_cast<std::size_t>(guess);
                const auto j = i + 1 < n ? i + 1 : i - 1;
                const double spacing =
                    std::max(0.01, std::fabs(scan.facts(first + j).along_m - scan.facts(first + i).along_m));
                const auto off = static_cast<std::ptrdiff_t>(std::lround(ahead / spacing));
                if (std::fabs(ahead) < 0.7 * spacing || off == 0) {
                    good = true;
                    break;
                }
                const auto to = std::clamp<std::ptrdiff_t>(guess + std::clamp<std::ptrdiff_t>(off, -400, 400),
                                                           0, static_cast<std::ptrdiff_t>(n) - 1);
                if (to == guess)
                    break;
                guess = to;
            }
            // Headings jump about from row to row: then no row has it quite abeam, and the nearest serves.
            constexpr double near_enough_m = 0.4;
            if (!good && least < near_enough_m) {
                good = true;
                guess = best;
                right = best_right;
            }
            if (!good || (right >= 0) != (look.side == Side::starboard))
                continue;
            const auto i = static_cast<std::size_t>(guess);
            const auto &ping = scan.ping(first + i);
            const double slant = std::hypot(right, scan.bottom(first + i).altitude_m);
            const double k = ping.sample_at(slant);
            if (k < 0 || k >= static_cast<double>(levels[i].size()))
                continue;
            const float v = levels[i][static_cast<std::size_t>(k)];
            if (v == v)
                chip.level[static_cast<std::size_t>(y) * static_cast<std::size_t>(pixels) +
                           static_cast<std::size_t>(x)] =
                    std::max<std::uint8_t>(1, window.level_of(static_cast<double>(v)));
        }
    }
    return chip;
}

} // namespace heron
