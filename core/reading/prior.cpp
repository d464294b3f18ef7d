#include "reading/prior.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

double logit(double p) {
    return std::log(p / (1 - p));
}

} // namespace

void RecordingPrior::add(Zone zone, double real) {
    if (zone == Zone::track)
        return;
    const auto z = static_cast<std::size_t>(zone);
    real = std::clamp(real, 0.0, 1.0);
    if (kept_[z].size() < most_kept)
        kept_[z].push_back(real);
    else
        kept_[z][seen_[z] % most_kept] = real;
    ++seen_[z];
}

double RecordingPrior::shift(Zone zone, double share) const {
    constexpr double pseudo = 30;
    constexpr int rounds = 12;
    if (zone == Zone::track || !(share > 0 && share < 1))
        return 0;
    const auto &kept = kept_[static_cast<std::size_t>(zone)];
    double now = share;
    for (int round = 0; round < rounds; ++round) {
        const double odds = now * (1 - share) / ((1 - now) * share);
        double real = pseudo * share;
        for (const double r : kept)
            real += r * odds / (r * odds + 1 - r);
        now = std::clamp(real / (pseudo + static_cast<double>(kept.size())), 1e-4, 1 - 1e-4);
    }
    return logit(now) - logit(share);
}

KindChances shifted(KindChances chances, double shift) {
    constexpr double least = 1e-9;
    const double real = std::clamp(1 - chances[0], least, 1 - least);
    const double moved = 1 / (1 + std::exp(-(logit(real) + shift)));
    for (std::size_t k = 1; k < kind_count; ++k)
        chances[k] *= moved / real;
    chances[0] = 1 - moved;
    return chances;
}

} // namespace heron
