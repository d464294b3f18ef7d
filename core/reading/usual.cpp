#include "reading/usual.hpp"

#include <algorithm>

namespace heron {

void UsualFigures::add(Zone zone, const Features &features) {
    if (zone == Zone::track)
        return;
    const auto z = static_cast<std::size_t>(zone);
    auto &kept = kept_[z];
    if (kept.size() < most_kept)
        kept.push_back(features);
    else
        kept[seen_[z] % most_kept] = features;
    ++seen_[z];
}

Features UsualFigures::of(Zone zone, const Features &anywhere) const {
    Features usual{};
    if (zone == Zone::track)
        return usual;
    constexpr double pseudo = 10;
    const auto &kept = kept_[static_cast<std::size_t>(zone)];
    const auto n = static_cast<double>(kept.size());
    std::vector<double> values;
    for (const auto name : figures_of_the_scene) {
        const auto i = feature_named(name);
        double median = 0;
        if (!kept.empty()) {
            values.clear();
            for (const auto &f : kept)
                values.push_back(f[i]);
            const auto middle = values.begin() + std::ssize(values) / 2;
            std::nth_element(values.begin(), middle, values.end());
            median = *middle;
        }
        usual[i] = (n * median + pseudo * anywhere[i]) / (n + pseudo);
    }
    return usual;
}

Features over_usual(const Features &features, const Features &usual) {
    auto over = features;
    for (std::size_t i = 0; i < over.size(); ++i)
        over[i] -= usual[i];
    return over;
}

} // namespace heron
