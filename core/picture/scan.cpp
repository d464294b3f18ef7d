#include "picture/scan.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

std::size_t bytes_of(const Ping &p) {
    std::size_t n = sizeof(ScanRow);
    for (const auto &b : p.beams)
        n += sizeof(Beam) + b.code.capacity() * sizeof(b.code[0]);
    return n;
}

} // namespace

void Scan::push(Ping ping, const SoundingSettings &settings) {
    const bool side_looking =
        std::any_of(ping.beams.begin(), ping.beams.end(), [](const Beam &b) { return b.side != Side::down; });
    side_looking_ = side_looking_ || side_looking;
    if (!side_looking && side_looking_) {
        ++down_only_;
        return;
    }
    const auto &picks = tracker_.push(ping);
    bytes_ += bytes_of(ping);
    rows_.push_back({std::move(ping), {}, settings});
    const auto n = std::min(picks.size(), rows_.size());
    for (std::size_t i = 0; i < n; ++i)
        rows_[rows_.size() - n + i].bottom = picks[picks.size() - n + i];
    levels_.add(rows_.back().ping, rows_.back().bottom);
    while (bytes_ > most_bytes_ && rows_.size() > 1) {
        bytes_ -= bytes_of(rows_.front().ping);
        rows_.pop_front();
        ++first_;
    }
}

std::size_t Scan::provisional_from() const {
    return rows_.size() > BottomTracker::lag ? end() - BottomTracker::lag : first_;
}

void paint_side(const Ping &ping, const Beam &beam, double range_m, const DisplayWindow &window,
                std::span<std::uint8_t> out) {
    const double per_pixel = range_m / static_cast<double>(out.size());
    const double k_zero = ping.sample_at(0), k_step = ping.sample_at(per_pixel) - k_zero;
    const auto samples = static_cast<double>(beam.code.size());
    const double slope = beam.scale.db_per_code / window.span_db * 255;
    const double base = (beam.scale.db_at_zero - window.floor_db) / window.span_db * 255;
    for (std::size_t x = 0; x < out.size(); ++x) {
        const double from = k_zero + k_step * static_cast<double>(x), to = from + k_step;
        // The samples whose middle lies in the pixel; where there is none, the one under the pixel's middle.
        auto k0 = std::ceil(from - 0.5), k1 = std::ceil(to - 0.5);
        if (k1 <= k0) {
            k0 = std::round((from + to) / 2 - 0.5);
            k1 = k0 + 1;
        }
        out[x] = 0;
        if (k1 <= 0 || k0 >= samples)
            continue;
        const auto first = static_cast<std::size_t>(std::max(0.0, k0)),
                   last = static_cast<std::size_t>(std::min(k1, samples));
        unsigned sum = 0, heard = 0;
        for (auto k = first; k < last; ++k) {
            if (beam.code[k] == missing_code)
                continue;
            sum += beam.code[k];
            ++heard;
        }
        if (heard == 0)
            continue;
        const double level = base + slope * static_cast<double>(sum) / heard;
        out[x] = level <= 0     ? std::uint8_t{0}
                 : level >= 255 ? std::uint8_t{255}
                                : static_cast<std::uint8_t>(level);
    }
}

} // namespace heron
