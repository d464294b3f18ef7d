#include "reading/kind_model.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

namespace of_sides {
#include "reading/kind_weights.inc"
}
namespace of_circle {
#include "reading/circle_weights.inc"
}

using Figures = double[3][feature_count];
using Weights = double[3][kind_count][KindModel::inputs];

KindModel built_of(const double (&real)[2], const Figures &usual, const double (&share_real)[3],
                   const double (&temperature)[3], const Figures &mean, const Figures &scale,
                   const Weights &weight) {
    KindModel m;
    m.real_slope = real[0];
    m.real_shift = real[1];
    for (std::size_t z = 0; z < 3; ++z) {
        auto &zone = m.zones[z];
        zone.temperature = temperature[z];
        zone.share_real = share_real[z];
        for (std::size_t i = 0; i < feature_count; ++i) {
            zone.usual[i] = usual[z][i];
            zone.mean[i] = mean[z][i];
            zone.scale[i] = scale[z][i];
        }
        for (std::size_t k = 0; k < kind_count; ++k)
            for (std::size_t i = 0; i < KindModel::inputs; ++i)
                zone.weight[k][i] = weight[z][k][i];
    }
    return m;
}

// A step under the track is a ledge or nothing. As likely as not where it just passes and is half a metre
// high: lower ones are mostly the bottom's own wave, higher ones hardly ever.
KindChances scores_of_drop(const Features &f) {
    KindChances p;
    p.fill(-12);
    p[0] = 0;
    p[static_cast<std::size_t>(Kind::ledge)] = 2.2 * (f[feature_named("stands out")] - std::log2(5.0)) +
                                               6 * (f[feature_named("height")] - std::log2(1.5));
    return p;
}

// What is small and stands on the bottom leaves no lit ground before its shadow that is twice as long as it
// is itself: physics that too few examples show for the weights to have learnt it.
bool floats_for_sure(const Features &f) {
    constexpr double least_height_m = 0.5, least_shadow = 1, lengths = 2;
    return f[feature_named("gap height")] > least_height_m && f[feature_named("shadow")] > least_shadow &&
           f[feature_named("gap")] > lengths * std::exp2(f[feature_named("length")]);
}

} // namespace

Features KindModel::of_drop(double z, double height_m, double run_m) {
    Features f{};
    f[feature_named("stands out")] = std::log2(std::max(1.0, z));
    f[feature_named("height")] = std::log2(1 + std::fabs(height_m));
    f[feature_named("stature")] = std::log2(std::max(0.01, std::fabs(height_m) / std::max(0.1, run_m)));
    return f;
}

std::array<double, KindModel::inputs> KindModel::expand(const ZoneWeights &zone, const Features &features) {
    std::array<double, inputs> x{};
    x[0] = 1;
    for (std::size_t i = 0; i < feature_count; ++i) {
        // Beyond what was ever fitted a feature says no more than at its edge.
        const double v = std::clamp((features[i] - zone.mean[i]) / zone.scale[i], -3.0, 3.0);
        x[1 + i] = v;
        x[1 + feature_count + i] = v * v - 1;
    }
    return x;
}

const KindModel &KindModel::shipped(Side side) {
    static const KindModel sides = built_of(
        of_sides::fitted_real, of_sides::fitted_usual, of_sides::fitted_share_real,
        of_sides::fitted_temperature, of_sides::fitted_mean, of_sides::fitted_scale, of_sides::fitted_weight);
    static const KindModel circle =
        built_of(of_circle::fitted_real, of_circle::fitted_usual, of_circle::fitted_share_real,
                 of_circle::fitted_temperature, of_circle::fitted_mean, of_circle::fitted_scale,
                 of_circle::fitted_weight);
    return side == Side::around ? circle : sides;
}

KindChances KindModel::chances(Zone zone, const Features &features) const {
    const bool track = zone == Zone::track;
    static const ZoneWeights plain = [] {
        ZoneWeights w;
        // Three figures say all that is known of a step: what differs in one of them counts as if all did.
        w.scale.fill(0.15);
        return w;
    }();
    const auto &w = track ? plain : zones[static_cast<std::size_t>(zone)];
    KindChances p{};
    double most = -1e300;
    if (track) {
        p = scores_of_drop(features);
    } else {
        const auto x = expand(w, features);
        for (std::size_t k = 0; k < kind_count; ++k) {
            for (std::size_t i = 0; i < inputs; ++i)
                p[k] += w.weight[k][i] * x[i];
            p[k] /= w.temperature;
        }
    }
    KindChances moved{};
    for (const auto &n : nudges) {
        if (n.zone != zone)
            continue;
        double square = 0;
        for (std::size_t i = 0; i < feature_count; ++i)
            square += std::pow((features[i] - n.features[i]) / w.scale[i], 2);
        const double alike = std::exp(-square / static_cast<double>(feature_count) / (2 * n.reach * n.reach));
        for (std::size_t k = 0; k < kind_count; ++k)
            moved[k] += nudge_most * alike * n.moves[k];
    }
    // However many words there are, they do not move it without bound.
    for (std::size_t k = 0; k < kind_count; ++k)
        most = std::max(most, p[k] +=
                              std::clamp(moved[k], -2 * nudge_most, 2 * nudge_most) + (track ? 0 : shift[k]));
    double sum = 0;
    const bool floats = zone == Zone::ground && floats_for_sure(features);
    constexpr double still_stands = 0.25;
    for (std::size_t k = 0; k < kind_count; ++k)
        sum += p[k] = std::exp(p[k] - most) *
                      (floats && family_of(static_cast<Kind>(k)) == Family::structure ? still_stands : 1);
    for (auto &v : p)
        v /= sum;
    if (track)
        return p;
    // Where the bottom steps is told where the boat crosses it, once; its face aside would be told again and
    // again.
    for (const auto kind : {Kind::ledge, Kind::channel}) {
        auto &step = p[static_cast<std::size_t>(kind)];
        p[0] += step;
        step = 0;
    }
    const double none = std::clamp(p[0], 1e-6, 1 - 1e-6);
    const double told = 1 / (1 + std::exp(-(real_slope * std::log((1 - none) / none) + real_shift)));
    for (std::size_t k = 1; k < kind_count; ++k)
        p[k] *= told / (1 - none);
    p[0] = 1;
    for (std::size_t k = 1; k < kind_count; ++k)
        p[0] -= p[k];
    p[0] = std::max(0.0, p[0]);
    return p;
}

std::vector<KindModel::Share> KindModel::shares(Zone zone, const Features &features, Kind for_kind,
                                                Kind against) const {
    if (zone == Zone::track)
        return {};
    const auto &w = zones[static_cast<std::size_t>(zone)];
    const auto x = expand(w, features);
    const auto &a = w.weight[static_cast<std::size_t>(for_kind)];
    const auto &b = w.weight[static_cast<std::size_t>(against)];
    std::vector<Share> all;
    for (std::size_t i = 0; i < feature_count; ++i)
        all.push_back(
            {i, (a[1 + i] - b[1 + i]) * x[1 + i] +
                    (a[1 + feature_count + i] - b[1 + feature_count + i]) * x[1 + feature_count + i]});
    std::sort(all.begin(), all.end(), [](const Share &p, const Share &q) { return p.adds > q.adds; });
    return all;
}

} // namespace heron
