// What is known of a day beside its marks.
#pragma once

#include <optional>
#include <string>

namespace heron {

struct DayConditions {
    std::string wind, sky, clarity, level; ///< in words: "light", "cloud", "stained", "low"; empty: not told
    std::optional<double> temperature_c;   ///< of the water, −2…45
    std::optional<double> level_m;         ///< of the lake over its datum, −1000…1000
    bool operator==(const DayConditions &) const = default;

    /// Whether a figure can be one of a water's.
    static bool lawful_temperature(double celsius) { return celsius >= -2 && celsius <= 45; }
    static bool lawful_level(double metres) { return metres >= -1000 && metres <= 1000; }
    /// What is told here, and of the rest what `otherwise` tells.
    DayConditions over(const DayConditions &otherwise) const {
        auto all = otherwise;
        for (const auto &[to, from] :
             {std::pair{&all.wind, &wind}, {&all.sky, &sky}, {&all.clarity, &clarity}, {&all.level, &level}})
            if (!from->empty())
                *to = *from;
        if (temperature_c)
            all.temperature_c = temperature_c;
        if (level_m)
            all.level_m = level_m;
        return all;
    }
};

} // namespace heron
