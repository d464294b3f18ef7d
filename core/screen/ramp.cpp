#include "screen/ramp.hpp"

#include "sonar/median.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace heron {
namespace {

double square(const OkLab &a, const OkLab &b) {
    const double l = a.lightness - b.lightness, x = a.a - b.a, y = a.b - b.b;
    return l * l + x * x + y * y;
}

double distance(const OkLab &a, const OkLab &b) {
    return std::sqrt(std::pow(a.lightness - b.lightness, 2) + std::pow(a.a - b.a, 2) +
                     std::pow(a.b - b.b, 2));
}

} // namespace

ColourRamp estimate_ramp(const Panel &panel) {
    constexpr std::size_t bins = 64, most = 60'000;
    std::array<std::vector<double>, bins> a, b;
    const auto every = std::max<std::size_t>(1, panel.pixels.size() / most);
    std::vector<OkLab> seen;
    for (std::size_t i = 0; i < panel.pixels.size(); i += every) {
        const auto lab = oklab_of(panel.pixels[i]);
        const auto bin = static_cast<std::size_t>(std::clamp(lab.lightness, 0.0, 0.999) * bins);
        a[bin].push_back(lab.a);
        b[bin].push_back(lab.b);
        seen.push_back(lab);
    }
    ColourRamp r;
    std::vector<OkLab> stops;
    for (std::size_t i = 0; i < bins; ++i) {
        if (a[i].size() * 2000 < seen.size())
            continue;
        const OkLab c{(static_cast<double>(i) + 0.5) / bins, median_in_place(a[i]), median_in_place(b[i])};
        stops.push_back(c);
        r.colours.push_back(rgb_of(c));
    }
    if (stops.size() < 2)
        return r;
    std::vector<double> off;
    for (const auto &c : seen) {
        double least = 1;
        for (const auto &s : stops)
            least = std::min(least, distance(c, s));
        off.push_back(least);
    }
    std::sort(off.begin(), off.end());
    r.spread = off[off.size() / 2];
    constexpr double off_the_ramp = 0.06;
    r.rises = off[off.size() * 85 / 100] < off_the_ramp;
    return r;
}

ColourRamp ramp_of(std::span<const Rgb> colours) {
    ColourRamp r;
    r.colours.assign(colours.begin(), colours.end());
    for (std::size_t i = 1; i < r.colours.size(); ++i)
        r.rises = r.rises && oklab_of(r.colours[i]).lightness >= oklab_of(r.colours[i - 1]).lightness - 1e-3;
    return r;
}

std::optional<std::string> doubt_of(const ColourRamp &ramp) {
    if (ramp.rises)
        return std::nullopt;
    return told("the colours do not grow lighter all the way: levels are guessed, places and heights stand");
}

LevelOfColour::LevelOfColour(const ColourRamp &ramp) : table_(1u << 18, not_met) {
    const int between =
        std::clamp(static_cast<int>(160 / std::max<std::size_t>(1, ramp.colours.size())), 1, 32);
    for (std::size_t i = 0; i + 1 < ramp.colours.size(); ++i) {
        const auto p = oklab_of(ramp.colours[i]), q = oklab_of(ramp.colours[i + 1]);
        for (int k = 0; k < between; ++k) {
            const double f = static_cast<double>(k) / between;
            stops_.push_back({p.lightness + f * (q.lightness - p.lightness), p.a + f * (q.a - p.a),
                              p.b + f * (q.b - p.b)});
        }
    }
    if (!ramp.colours.empty())
        stops_.push_back(oklab_of(ramp.colours.back()));
}

std::int16_t LevelOfColour::nearest(Rgb colour) const {
    if (stops_.size() < 2)
        return 0;
    const auto at_six_bits = [](std::uint8_t v) {
        const auto six = static_cast<unsigned>(v >> 2);
        return static_cast<std::uint8_t>(six << 2 | six >> 4);
    };
    const auto c = oklab_of({at_six_bits(colour.red), at_six_bits(colour.green), at_six_bits(colour.blue)});
    const auto at = std::min_element(stops_.begin(), stops_.end(), [&c](const OkLab &p, const OkLab &q) {
        return square(c, p) < square(c, q);
    });
    return static_cast<std::int16_t>(std::lround(255.0 * static_cast<double>(at - stops_.begin()) /
                                                 static_cast<double>(stops_.size() - 1)));
}

} // namespace heron
