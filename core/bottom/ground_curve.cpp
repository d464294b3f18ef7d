#include "bottom/ground_curve.hpp"

#include "bottom/unknown.hpp"
#include "sonar/median.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace heron {
namespace {

constexpr std::size_t rows_a_stretch = 24;
constexpr double bin_of_range_m = 2, steepest_sine = 0.96;
constexpr float least_samples = 12;

// Lambert's law, the area of a sample, spreading, and the time-varied gain as told, all but what hangs on the
// altitude alone; absorption is taken as compensated, what is not shows in the range curve. `log_r`: log₁₀ of
// the slant range.
double physics_db(double log_r, double log_sine, double sine, double tvg_log) {
    const double steep = sine * sine,
                 log_cosine = steep < 0.04 ? -0.2171472 * steep : 0.5 * std::log10(std::max(0.02, 1 - steep));
    return 20 * log_sine - 10 * log_cosine + (tvg_log - 30) * log_r;
}

// Logarithms of the ranges of a ping's samples: most pings share them.
const std::vector<double> &logs_of(const Ping &ping, std::size_t samples) {
    thread_local std::vector<double> logs;
    thread_local double first = -1, step = -1;
    if (logs.size() < samples || first != ping.slant_m(0) || step != ping.metres_per_sample()) {
        first = ping.slant_m(0);
        step = ping.metres_per_sample();
        logs.resize(samples);
        for (std::size_t k = 0; k < samples; ++k)
            logs[k] = std::log10(std::max(0.01, ping.slant_m(static_cast<double>(k))));
    }
    return logs;
}

std::size_t sine_bin(double sine) {
    return std::min(GroundCurve::sine_bins - 1, static_cast<std::size_t>(sine * GroundCurve::sine_bins));
}

std::size_t range_bin(double slant_m) {
    return std::min(GroundCurve::range_bins - 1, static_cast<std::size_t>(slant_m / bin_of_range_m));
}

// Between the middles of bins.
template <std::size_t n>
double between(const std::array<double, n> &of, double at) {
    const double x = std::clamp(at - 0.5, 0.0, static_cast<double>(n - 1));
    const auto i = std::min(n - 2, static_cast<std::size_t>(x));
    const double share = x - static_cast<double>(i);
    return of[i] * (1 - share) + of[i + 1] * share;
}

// Column effects of a table with holes: rows and columns take turns giving up their medians.
template <std::size_t n>
std::array<double, n> polish(std::vector<std::array<float, n>> table) {
    std::array<double, n> effect{};
    std::vector<float> some;
    for (const auto &row : table)
        for (const float v : row)
            if (v == v)
                some.push_back(v);
    if (some.empty())
        return effect;
    // The whole table's level goes with the columns: what is left lies about nought.
    const float whole = median_in_place(some);
    effect.fill(static_cast<double>(whole));
    for (auto &row : table)
        for (auto &v : row)
            v -= whole;
    for (int round = 0; round < 8; ++round) {
        for (auto &row : table) {
            some.clear();
            for (const float v : row)
                if (v == v)
                    some.push_back(v);
            if (some.empty())
                continue;
            const float m = median_in_place(some);
            for (auto &v : row)
                v -= m;
        }
        for (std::size_t c = 0; c < n; ++c) {
            some.clear();
            for (const auto &row : table)
                if (const float v = row[c]; v == v)
                    some.push_back(v);
            if (some.size() < 2)
                continue;
            const float m = median_in_place(some);
            effect[c] += static_cast<double>(m);
            for (auto &row : table)
                row[c] -= m;
        }
    }
    // A bin that hardly anything was heard in is as its neighbour.
    std::array<bool, n> told{};
    for (std::size_t c = 0; c < n; ++c)
        told[c] = std::count_if(table.begin(), table.end(),
                                [c](const auto &row) { return !std::isnan(row[c]); }) >= 2;
    for (std::size_t c = 0; c < n; ++c)
        for (std::size_t away = 1; !told[c] && away < n; ++away) {
            const bool below = c >= away && told[c - away], above = c + away < n && told[c + away];
            if (!below && !above)
                continue;
            effect[c] = below ? effect[c - away] : effect[c + away];
            break;
        }
    return effect;
}

} // namespace

void GroundCurve::close() {
    for (auto &s : open_) {
        if (s.rows > 0)
            stretches_.push_back(s);
        s = {};
    }
    rows_open_ = 0;
}

void GroundCurve::add(const Scan &scan, std::size_t row) {
    const auto &bottom = scan.bottom(row);
    if (!bottom.found || !(bottom.altitude_m > 0.2))
        return;
    const auto &ping = scan.ping(row);
    const double tvg_log = scan.settings(row).tvg_log;
    for (const auto &b : ping.beams) {
        if (b.side == Side::down)
            continue;
        constexpr double hull_deg = 150;
        if (b.side == Side::around && std::fabs(wrap_180(b.azimuth_deg)) > hull_deg)
            continue;
        auto &s = open_[b.side == Side::port || (b.side == Side::around && b.azimuth_deg < 0) ? 0 : 1];
        s.altitude_m += bottom.altitude_m;
        s.rows += 1;
        const auto &logs = logs_of(ping, b.code.size());
        const double log_altitude = std::log10(bottom.altitude_m);
        for (auto k =
                 static_cast<std::size_t>(std::max(0.0, ping.sample_at(bottom.altitude_m / steepest_sine)));
             k < b.code.size(); k += 2) {
            // What is clipped is at least so much; left out, hard ground would seem softer than it is.
            if (b.code[k] == missing_code)
                continue;
            const double r = ping.slant_m(static_cast<double>(k)), sine = bottom.altitude_m / r;
            const auto db = static_cast<float>(b.scale.db(b.code[k]) - b.gain_db -
                                               physics_db(logs[k], log_altitude - logs[k], sine, tvg_log));
            s.sum[sine_bin(sine)] += db;
            s.n[sine_bin(sine)] += 1;
            s.far_sum[range_bin(r)] += db;
            s.far_n[range_bin(r)] += 1;
        }
    }
    if (++rows_open_ >= rows_a_stretch)
        close();
}

void GroundCurve::settle() {
    close();
    std::vector<std::array<float, sine_bins>> by_sine;
    for (const auto &s : stretches_) {
        std::array<float, sine_bins> row;
        for (std::size_t i = 0; i < sine_bins; ++i)
            row[i] = s.n[i] >= least_samples ? s.sum[i] / s.n[i] : unknown;
        by_sine.push_back(row);
    }
    by_sine_ = polish(std::move(by_sine));
    // What is left over distance; a stretch has one altitude.
    std::vector<std::array<float, range_bins>> by_range;
    for (const auto &s : stretches_) {
        const double altitude = s.altitude_m / s.rows;
        std::array<float, range_bins> row;
        for (std::size_t i = 0; i < range_bins; ++i) {
            const double r = (static_cast<double>(i) + 0.5) * bin_of_range_m, sine = altitude / r;
            row[i] = s.far_n[i] >= least_samples && sine < steepest_sine
                         ? s.far_sum[i] / s.far_n[i] - static_cast<float>(between(by_sine_, sine * sine_bins))
                         : unknown;
        }
        by_range.push_back(row);
    }
    by_range_ = polish(std::move(by_range));
    ready_ = !stretches_.empty();
}

void GroundCurve::ground_of(const Scan &scan, std::size_t row, const Beam &b, std::vector<float> &out) const {
    const auto &ping = scan.ping(row);
    const auto &bottom = scan.bottom(row);
    out.assign(b.code.size(), unknown);
    if (!ready_ || !bottom.found || !(bottom.altitude_m > 0.2))
        return;
    const double tvg_log = scan.settings(row).tvg_log;
    const auto &logs = logs_of(ping, b.code.size());
    const double log_altitude = std::log10(bottom.altitude_m);
    for (auto k = static_cast<std::size_t>(std::max(0.0, ping.sample_at(bottom.altitude_m / steepest_sine)));
         k < b.code.size(); ++k) {
        if (b.code[k] == missing_code)
            continue;
        const double r = ping.slant_m(static_cast<double>(k)), sine = bottom.altitude_m / r;
        out[k] = static_cast<float>(
            b.scale.db(b.code[k]) - b.gain_db - physics_db(logs[k], log_altitude - logs[k], sine, tvg_log) -
            between(by_sine_, sine * sine_bins) - between(by_range_, r / bin_of_range_m));
    }
}

} // namespace heron
