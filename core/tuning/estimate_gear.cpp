#include "tuning/estimate_gear.hpp"

#include "fault/told.hpp"
#include "sonar/median.hpp"
#include "water/water.hpp"

#include <algorithm>
#include <cmath>
#include <map>

namespace heron {
namespace {

// The mean of intensities lies 2.5 dB over the median level of speckle, for bottom and noise alike: it
// cancels.
struct OfBand {
    std::vector<double> noise, source, along, across; ///< noise: of the water column
    std::vector<std::pair<double, double>> tail;      ///< of the last third of the range: range, level
    double bandwidth = 0;
    std::size_t rows = 0;
};

// Receiver noise does not mind the range, once the gain over it is taken out; all else falls by twenty
// decibels a decade and more: suspended matter, bubbles under the surface, the bottom.
struct Noise {
    double db = std::nan("");
    bool seen = false; ///< else it is at most that
};
Noise noise_of(const OfBand &b) {
    Noise n;
    constexpr std::size_t enough = 200;
    constexpr double flat_db_a_decade = -15;
    if (b.noise.size() > enough)
        n = {median(b.noise), false};
    if (b.tail.size() < enough)
        return n;
    double sx = 0, sy = 0, sxx = 0, sxy = 0;
    std::vector<double> levels;
    for (const auto &[r, level] : b.tail) {
        const double x = std::log10(r);
        sx += x;
        sy += level;
        sxx += x * x;
        sxy += x * level;
        levels.push_back(level);
    }
    const auto count = static_cast<double>(b.tail.size());
    const double slope = (count * sxy - sx * sy) / std::max(1e-9, count * sxx - sx * sx);
    if (slope > flat_db_a_decade)
        return {median(levels), true};
    // Still falling at the end: the noise lies under that, and under what the column holds.
    const double end = median(levels) + slope * 0.08;
    return {std::isfinite(n.db) ? std::min(n.db, end) : end, false};
}

} // namespace

GearEstimate estimate_gear(const Scan &scan, std::size_t first, std::size_t end, const Gear &known,
                           const WaterState &water) {
    GearEstimate e{known, {}};
    std::map<long, OfBand> bands;
    std::vector<double> periods;
    const double c = sound_speed_fresh_m_s(water.temperature_c);
    for (auto n = std::max(first, scan.first()); n < std::min(end, scan.end()); n += 3) {
        const auto &ping = scan.ping(n);
        const auto &bottom = scan.bottom(n);
        if (!bottom.found || ping.frequency_hz <= 0)
            continue;
        if (n > scan.first()) {
            const double dt = seconds_between(scan.facts(n - 1).time, scan.facts(n).time);
            if (dt > 0 && dt < 1)
                periods.push_back(dt);
        }
        auto &band = bands[std::lround(ping.frequency_hz / 1000)];
        ++band.rows;
        band.bandwidth = ping.bandwidth_hz;
        const double absorption = absorption_fresh_db_per_m(ping.frequency_hz, water.temperature_c);
        const auto &settings = scan.settings(n);
        for (const auto &b : ping.beams) {
            if (b.side != Side::port && b.side != Side::starboard)
                continue;
            band.along.push_back(b.width_along_deg);
            band.across.push_back(b.width_across_deg);
            const double bandwidth = ping.bandwidth_hz > 0 ? ping.bandwidth_hz : 40e3;
            const double resolution = std::max(c / (2 * bandwidth), ping.metres_per_sample());
            const double theta = b.width_along_deg / degrees_per_radian;
            for (std::size_t k = 0; k < b.code.size(); k += 4) {
                if (b.code[k] == missing_code || b.code[k] <= b.scale.clip_low ||
                    b.code[k] >= b.scale.clip_high)
                    continue;
                const double r = ping.slant_m(static_cast<double>(k));
                const double raw = b.level_db(k) - b.gain_db -
                                   settings.tvg_log * std::log10(std::max(r, 0.3)) - 2 * absorption * r;
                if (r > 2.0 / 3 * ping.range_m() && r > 4 * bottom.altitude_m)
                    band.tail.emplace_back(r, raw);
                if (r > 1.5 && r < bottom.altitude_m - 0.5) {
                    band.noise.push_back(raw);
                } else if (r > 1.4 * bottom.altitude_m && r < 3 * bottom.altitude_m) {
                    using namespace sonar_equation;
                    const double grazing = std::asin(bottom.altitude_m / r);
                    band.source.push_back(
                        raw + two_way_loss_db(r, absorption) - cell_area_db(r, grazing, theta, resolution) -
                        lambert_db(lambert_strength_db(water.bottom), grazing) +
                        beam_loss_db(grazing * degrees_per_radian - b.depression_deg, b.width_across_deg));
                }
            }
        }
    }
    if (periods.size() > 20) {
        const double rate = 1 / median(periods);
        e.gear.most_pings_a_second = rate;
        e.said.push_back(told("{:.1f} pings a second, from {} pings", rate, periods.size()));
    }
    for (const auto &[khz, b] : bands) {
        const double own_hz = static_cast<double>(khz) * 1e3;
        if (b.rows < 10)
            continue;
        auto at = std::min_element(
            e.gear.bands.begin(), e.gear.bands.end(), [&](const GearBand &x, const GearBand &y) {
                return std::fabs(x.frequency_hz - own_hz) < std::fabs(y.frequency_hz - own_hz);
            });
        if (at == e.gear.bands.end() || std::fabs(at->frequency_hz - static_cast<double>(khz) * 1e3) > 30e3) {
            e.gear.bands.push_back({static_cast<double>(khz) * 1e3, 1, 50, 40e3, 140});
            at = std::prev(e.gear.bands.end());
        }
        at->along_deg = median(b.along);
        at->across_deg = median(b.across);
        if (b.bandwidth > 0)
            at->bandwidth_hz = b.bandwidth;
        const auto noise = noise_of(b);
        if (!std::isfinite(noise.db) || b.source.size() <= 200)
            continue;
        const double source = median(b.source) - noise.db;
        if (noise.seen) {
            at->source_db = source;
            e.said.push_back(told("{} kHz: beam {:.2f}° along, source {:.0f} dB ± 6, from {} rows", khz,
                                  at->along_deg, at->source_db, b.rows));
        } else {
            at->source_db = std::max(at->source_db, source);
            e.said.push_back(
                told("{} kHz: beam {:.2f}° along; its own noise was not heard at this range, its source is "
                     "{:.0f} dB or more",
                     khz, at->along_deg, source));
        }
    }
    std::sort(e.gear.bands.begin(), e.gear.bands.end(),
              [](const GearBand &a, const GearBand &b) { return a.frequency_hz < b.frequency_hz; });
    return e;
}

} // namespace heron
