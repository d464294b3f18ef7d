#include "tuning/installation_check.hpp"

#include "fault/told.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr double side_margin = 1.35; // how much more must stand on one side to name it
constexpr double uneven_db = 3;
constexpr double tilted_deg = 5;
constexpr double fan_deg = 50; // one-way half-power width across, where the beam does not tell

} // namespace

void InstallationCheck::add(const Scan &scan, std::size_t row) {
    const auto &ping = scan.ping(row);
    const auto &bottom = scan.bottom(row);
    if (!bottom.found || ping.beams.empty())
        return;
    if (last_ != 0)
        seconds_ += std::clamp(seconds_between(last_, ping.time), 0.0, 1.0);
    last_ = ping.time;
    ++rows_;
    // Bright with dark behind it, or nothing at all behind it: a thing that stands up. From there on the two
    // sides are not alike, and are not compared.
    double alike_until = ping.range_m();
    constexpr std::size_t window = 12;
    for (const auto &b : ping.beams) {
        if (b.side != Side::port && b.side != Side::starboard)
            continue;
        const int side = b.side == Side::port ? 0 : 1;
        const double first = b.side == Side::port ? bottom.port_m : bottom.starboard_m;
        const auto from = static_cast<std::size_t>(std::max(0.0, ping.sample_at(bottom.altitude_m + 0.5)));
        for (auto k = from; k + 3 * window < b.code.size(); k += window) {
            double here = 0, behind = 0;
            for (std::size_t i = 0; i < window; ++i) {
                here += b.level_db(k + i) / window;
                behind += b.level_db(k + 2 * window + i) / window;
            }
            if (std::isnan(here) || std::isnan(behind))
                continue;
            if (here - behind > 9) {
                wall_[side] += here - behind;
                alike_until = std::min(alike_until, ping.slant_m(static_cast<double>(k)) - 0.5);
            }
        }
        // A rising bank meets the sound early.
        if (first > 0 && first < 0.9 * bottom.altitude_m)
            wall_[side] += 200 * (1 - first / bottom.altitude_m);
    }
    for (const auto &b : ping.beams) {
        if (b.side != Side::port && b.side != Side::starboard)
            continue;
        const int side = b.side == Side::port ? 0 : 1;
        const auto from = static_cast<std::size_t>(std::max(0.0, ping.sample_at(bottom.altitude_m + 0.5)));
        const auto until =
            std::min(b.code.size(), static_cast<std::size_t>(std::max(0.0, ping.sample_at(alike_until))));
        for (auto k = from; k < until; k += 2) {
            if (b.code[k] == missing_code || b.code[k] <= b.scale.clip_low || b.code[k] >= b.scale.clip_high)
                continue;
            const double angle =
                std::asin(std::min(1.0, bottom.altitude_m / ping.slant_m(static_cast<double>(k)))) *
                degrees_per_radian;
            const int i = static_cast<int>(angle / 90 * angles);
            if (i < 0 || i >= angles)
                continue;
            sum_[side][i] += b.level_db(k) - b.gain_db;
            n_[side][i] += 1;
        }
    }
}

InstallationCheck::Verdict InstallationCheck::verdict() const {
    Verdict v;
    const double known = wall_[known_ == Side::port ? 0 : 1], other = wall_[known_ == Side::port ? 1 : 0];
    const double least = 4.0 * static_cast<double>(rows_); // something must stand there at all
    if (known > side_margin * other && known > least)
        v.sides = Verdict::Sides::right;
    else if (other > side_margin * known && other > least)
        v.sides = Verdict::Sides::swapped;
    // Left less right by angle. Equal beams tilted by δ differ by a straight line over the angle: for a
    // Gaussian fan of two-way loss k·(φ − φ₀)², k = 24.08/width² dB, the difference is 4k·δ·(φ − φ₀), with
    // the sign of the tilt.
    double sx = 0, sy = 0, sxx = 0, sxy = 0, n = 0;
    for (int i = 1; i < angles - 2; ++i) {
        if (n_[0][i] < 200 || n_[1][i] < 200)
            continue;
        const double x = (i + 0.5) * 90 / angles, y = sum_[0][i] / n_[0][i] - sum_[1][i] / n_[1][i];
        sx += x;
        sy += y;
        sxx += x * x;
        sxy += x * y;
        n += 1;
    }
    if (n >= 3) {
        v.left_over_right_db = sy / n;
        const double slope = (n * sxy - sx * sy) / std::max(1e-9, n * sxx - sx * sx);
        const double k = 24.08 / (fan_deg * fan_deg);
        v.tilt_deg = slope / (4 * k);
        v.tilted = std::fabs(v.tilt_deg) > tilted_deg;
        v.uneven = std::fabs(v.left_over_right_db) > uneven_db && !v.tilted;
    }
    return v;
}

std::string InstallationCheck::Verdict::say() const {
    std::string text;
    switch (sides) {
    case Sides::right:
        text = told("Left is left and right is right.");
        break;
    case Sides::swapped:
        text = told("The sides are swapped: the plugs are crossed, or the transducer hangs backwards.");
        break;
    case Sides::unsure:
        text = told("Nothing stood out on one side only; pass closer to the dock or bank and check again.");
        break;
    }
    const auto lean = print_number(std::fabs(tilt_deg), 0);
    const auto weaker = print_number(std::fabs(left_over_right_db), 0);
    if (tilted)
        text += " " + (tilt_deg > 0 ? told("It hangs tilted by about {}°, left side down.", lean)
                                    : told("It hangs tilted by about {}°, right side down.", lean));
    else if (uneven)
        text += " " +
                (left_over_right_db > 0
                     ? told("The right side is {} dB weaker: look for weed, a plug, or something in its way.",
                            weaker)
                     : told("The left side is {} dB weaker: look for weed, a plug, or something in its way.",
                            weaker));
    else
        text += " " + told("Both sides are equally bright.");
    return text;
}

} // namespace heron
