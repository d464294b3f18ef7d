#include "picture/angle_levels.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace heron {
namespace {

constexpr double enough = 30; // samples, below which a bin's own mean says little

} // namespace

void AngleLevels::add(const Ping &ping, const BottomPick &bottom) {
    if (!bottom.found || bottom.altitude_m <= 0)
        return;
    const double keep = 1 - 1 / memory_;
    for (auto &s : sides_)
        for (std::size_t i = 0; i < bins; ++i) {
            s.sum[i] *= keep;
            s.weight[i] *= keep;
        }
    for (const auto &b : ping.beams) {
        if (b.side != Side::port && b.side != Side::starboard)
            continue;
        auto &s = sides_[index_of(b.side)];
        const double first =
            std::max(bottom.altitude_m, b.side == Side::port ? bottom.port_m : bottom.starboard_m);
        const auto from = static_cast<std::size_t>(std::max(0.0, ping.sample_at(first * 1.02)));
        // Every third sample tells as much as all: neighbours share a pulse.
        for (auto k = from; k < b.code.size(); k += 3) {
            // Clipped samples lie about the mean; darkness at the lower end is mostly shadow.
            if (b.code[k] == missing_code || b.code[k] <= b.scale.clip_low || b.code[k] >= b.scale.clip_high)
                continue;
            const double sine = std::min(1.0, bottom.altitude_m / ping.slant_m(static_cast<double>(k)));
            const auto i = std::min(bins - 1, static_cast<std::size_t>(sine * bins));
            s.sum[i] += b.scale.db(b.code[k]) - b.gain_db;
            s.weight[i] += 1;
        }
    }
    ++rows_;
}

void AngleLevels::clear() {
    *this = AngleLevels(memory_);
}

double AngleLevels::Side_::mean() const {
    double total = 0, n = 0;
    for (std::size_t i = 0; i < bins; ++i) {
        if (weight[i] < enough)
            continue;
        total += sum[i] / weight[i];
        n += 1;
    }
    return n > 0 ? total / n : 0;
}

// Straight between the middles of bins; the nearest told bin beyond the ends.
double AngleLevels::usual(const Side_ &s, double sine) const {
    const double at = sine * bins - 0.5;
    const auto told = [&](std::ptrdiff_t i) -> double {
        for (std::ptrdiff_t away = 0; away < static_cast<std::ptrdiff_t>(bins); ++away)
            for (const auto j : {i - away, i + away})
                if (j >= 0 && j < static_cast<std::ptrdiff_t>(bins) &&
                    s.weight[static_cast<std::size_t>(j)] >= enough)
                    return s.sum[static_cast<std::size_t>(j)] / s.weight[static_cast<std::size_t>(j)];
        return 0;
    };
    const auto left = static_cast<std::ptrdiff_t>(std::floor(at));
    const double share = at - static_cast<double>(left);
    return told(left) * (1 - share) + told(left + 1) * share;
}

float AngleLevels::excess_db(Side side, double slant_m, double altitude_m) const {
    if (!ready() || slant_m <= altitude_m || altitude_m <= 0)
        return 0;
    const auto &s = sides_[index_of(side)];
    return static_cast<float>(usual(s, altitude_m / slant_m) - s.mean());
}

const AngleLevels::Table &AngleLevels::table_of(Side side) const {
    const auto which = index_of(side);
    auto &table = tables_[which];
    if (tabled_[which] != rows_) {
        const auto &s = sides_[which];
        const double mean = s.mean();
        for (std::size_t i = 0; i <= bins; ++i)
            table[i] = static_cast<float>(usual(s, static_cast<double>(i) / bins) - mean);
        tabled_[which] = rows_;
    }
    return table;
}

double AngleLevels::farthest_from(const AngleLevels &other) const {
    if (ready() != other.ready())
        return std::numeric_limits<double>::infinity();
    if (!ready())
        return 0;
    double most = 0;
    for (const auto side : {Side::port, Side::starboard}) {
        const auto &a = table_of(side), &b = other.table_of(side);
        for (std::size_t i = 0; i <= bins; ++i)
            most = std::max(most, static_cast<double>(std::fabs(a[i] - b[i])));
    }
    return most;
}

void AngleLevels::excess_of(const Ping &ping, const Beam &beam, const BottomPick &bottom, float *out) const {
    const auto n = beam.code.size();
    std::fill(out, out + n, 0.0F);
    if (!ready() || !bottom.found || bottom.altitude_m <= 0)
        return;
    const auto &table = table_of(beam.side);
    const auto first = static_cast<float>(ping.slant_m(0)),
               step = static_cast<float>(ping.metres_per_sample()),
               altitude = static_cast<float>(bottom.altitude_m);
    for (std::size_t k = 0; k < n; ++k) {
        const float r = first + step * static_cast<float>(k);
        if (r <= altitude)
            continue;
        const float at = altitude / r * bins;
        const int i = std::min(static_cast<int>(bins) - 1, static_cast<int>(at)); // 32 bits: one instruction
        const float share = at - static_cast<float>(i);
        const float *below = table.data() + i;
        out[k] = below[0] * (1 - share) + below[1] * share;
    }
}

} // namespace heron
