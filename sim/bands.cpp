// The bands of the stand-in, and what another sonar on one of them does.
#include "sim/acoustics.hpp"

#include <algorithm>
#include <cmath>
#include <iterator>

namespace heron::sim {

const std::vector<Band> &bands() {
    static const std::vector<Band> all{
        {420e3, 1.3, 56, 25e3, 134}, {770e3, 0.8, 52, 45e3, 140}, {1150e3, 0.55, 46, 60e3, 144}};
    return all;
}

const std::vector<Band> &head_bands() {
    static const std::vector<Band> all{{455e3, 2.2, 44, 25e3, 134}, {800e3, 1.3, 40, 50e3, 140}};
    return all;
}

const Band &band_nearest(double f, const std::vector<Band> &of) {
    return *std::min_element(of.begin(), of.end(), [f](const Band &a, const Band &b) {
        return std::fabs(a.frequency_hz - f) < std::fabs(b.frequency_hz - f);
    });
}

// Another sonar on the same band: a pulse of it somewhere in the range, on all beams.
void Acoustics::add_streak(Ping &ping, std::mt19937 &random) const {
    for (auto &b : ping.beams) {
        const auto from = random() % (b.code.size() / 2),
                   length = b.code.size() / 3 + random() % (b.code.size() / 3);
        for (auto k = from; k < std::min<std::size_t>(b.code.size(), from + length); ++k)
            b.code[k] = static_cast<std::uint16_t>(std::min(255.0, b.code[k] + 16 / db_per_count));
    }
}

} // namespace heron::sim
