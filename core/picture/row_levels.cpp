#include "picture/row_levels.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace heron {
namespace {

constexpr float nothing = std::numeric_limits<float>::quiet_NaN();
constexpr float streak_db = 10; // over both neighbours
constexpr double stands_out_db = 8;

float level(const Beam &b, std::size_t k) {
    return b.code[k] == missing_code ? nothing : static_cast<float>(b.scale.db(b.code[k]) - b.gain_db);
}

// Boxcar mean over ±half samples, not-a-number passed over.
void running_mean(std::span<const float> in, std::ptrdiff_t half, std::vector<float> &out) {
    const auto n = std::ssize(in);
    out.resize(in.size());
    double sum = 0;
    std::ptrdiff_t heard = 0, from = 0, to = 0;
    for (std::ptrdiff_t k = 0; k < n; ++k) {
        for (; to < std::min(n, k + half + 1); ++to)
            if (const float v = in[static_cast<std::size_t>(to)]; v == v)
                sum += static_cast<double>(v), ++heard;
        for (; from < k - half; ++from)
            if (const float v = in[static_cast<std::size_t>(from)]; v == v)
                sum -= static_cast<double>(v), --heard;
        out[static_cast<std::size_t>(k)] =
            heard > 0 ? static_cast<float>(sum / static_cast<double>(heard)) : 0;
    }
}

// To the nearest whole, a half upwards. The library's own is a call, once a pixel.
std::ptrdiff_t rounded(double v) {
    const auto down = static_cast<std::ptrdiff_t>(v + 0.5); // NOLINT(bugprone-incorrect-roundings)
    return down - (static_cast<double>(down) > v + 0.5 ? 1 : 0);
}

} // namespace

void row_levels(const Ping &ping, const Beam &beam, const BottomPick &bottom, const PictureFilters &filters,
                const AngleLevels &angles, const Beam *before, const Beam *after, double draught_m,
                std::vector<float> &out, HiddenByFilters *hidden) {
    const auto n = beam.code.size();
    out.resize(n);
    for (std::size_t k = 0; k < n; ++k)
        out[k] = level(beam, k);
    // A filter that knows only one neighbour cannot tell a streak from a new thing.
    if (filters.reject_streaks && before != nullptr && after != nullptr && before->code.size() == n &&
        after->code.size() == n) {
        for (std::size_t k = 0; k < n; ++k) {
            const float a = level(*before, k), b = level(*after, k), highest = std::max(a, b);
            if (out[k] > highest + streak_db) {
                out[k] = (a + b) / 2;
                if (hidden != nullptr)
                    ++hidden->streaks;
            }
        }
    }
    if (filters.flatten) {
        static thread_local std::vector<float> excess;
        excess.resize(n);
        angles.excess_of(ping, beam, bottom, excess.data());
        for (std::size_t k = 0; k < n; ++k)
            out[k] -= excess[k];
    }
    if (filters.near_surface_m > draught_m) {
        // An echo at slant range r lies at most r under the transducer: what is nearer is surely shallow.
        const double shallow = filters.near_surface_m - draught_m;
        const auto until = std::min(n, static_cast<std::size_t>(std::max(0.0, ping.sample_at(shallow))));
        double usual = 0;
        std::size_t heard = 0;
        for (std::size_t k = 0; k < until; ++k)
            if (out[k] == out[k])
                usual += static_cast<double>(out[k]), ++heard;
        usual /= static_cast<double>(std::max<std::size_t>(1, heard));
        // The first half metre is the transmission itself, and is no loss.
        const auto own = static_cast<std::size_t>(std::max(0.0, ping.sample_at(0.5)));
        for (std::size_t k = 0; k < until; ++k) {
            if (hidden != nullptr && k > own && static_cast<double>(out[k]) > usual + stands_out_db)
                ++hidden->near_surface;
            out[k] = nothing;
        }
    }
    if (filters.local_contrast) {
        static thread_local std::vector<float> wide, small;
        const double step = std::max(1e-3, ping.metres_per_sample());
        running_mean(out, static_cast<std::ptrdiff_t>(1.2 / step), wide);
        running_mean(out, static_cast<std::ptrdiff_t>(0.06 / step), small);
        float middle = 0;
        std::size_t heard = 0;
        for (const float v : out)
            if (v == v)
                middle += v, ++heard;
        middle /= static_cast<float>(std::max<std::size_t>(1, heard));
        for (std::size_t k = 0; k < n; ++k)
            if (out[k] == out[k])
                out[k] = middle + 0.25F * (wide[k] - middle) + 1.4F * (small[k] - wide[k]);
    }
}

void paint_levels(const Ping &ping, std::span<const float> levels, double altitude_m, Across across,
                  double range_m, const DisplayWindow &window, std::span<std::uint8_t> out) {
    const double per_pixel = range_m / static_cast<double>(out.size());
    const auto samples = std::ssize(levels);
    const auto slope = static_cast<float>(255 / window.span_db);
    const auto floor = static_cast<float>(window.floor_db);
    // Along the sound samples lie evenly on the pixels; over ground they crowd together near the boat.
    const double first = ping.sample_at(0), each = (ping.sample_at(range_m) - first) / range_m;
    const auto sample_at = [&](double x) {
        return first + each * (across == Across::ground
                                   ? std::sqrt(x * x * per_pixel * per_pixel + altitude_m * altitude_m)
                                   : x * per_pixel);
    };
    double from = sample_at(0);
    for (std::size_t x = 0; x < out.size(); ++x) {
        const double to = sample_at(static_cast<double>(x) + 1);
        // The samples whose middle lies in the pixel; where there is none, the one under the pixel's middle.
        auto k0 = rounded(from), k1 = rounded(to);
        if (k1 <= k0) {
            k0 = rounded((from + to) / 2 - 0.5);
            k1 = k0 + 1;
        }
        from = to;
        out[x] = 0;
        float sum = 0;
        int heard = 0;
        for (auto k = std::max<std::ptrdiff_t>(0, k0); k < std::min(k1, samples); ++k)
            if (const float v = levels[static_cast<std::size_t>(k)]; v == v)
                sum += v, ++heard;
        if (heard == 0)
            continue;
        const float v = (sum / static_cast<float>(heard) - floor) * slope;
        // 1 is the darkest that was heard; 0 is nothing.
        out[x] = v <= 1 ? std::uint8_t{1} : v >= 255 ? std::uint8_t{255} : static_cast<std::uint8_t>(v);
    }
}

} // namespace heron
