#include "picture/paint_side.hpp"

#include <algorithm>
#include <cmath>

namespace heron {

void paint_side(const Ping &ping, const Beam &beam, double range_m, const DisplayWindow &window,
                std::span<std::uint8_t> out) {
    const double per_pixel = range_m / static_cast<double>(out.size());
    const double k_zero = ping.sample_at(0), k_step = ping.sample_at(per_pixel) - k_zero;
    const auto samples = static_cast<double>(beam.code.size());
    const double slope = beam.scale.db_per_code / window.span_db * 255;
    const double base = (beam.scale.db_at_zero - beam.gain_db - window.floor_db) / window.span_db * 255;
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
