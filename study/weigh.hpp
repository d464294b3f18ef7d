// What stands out, decided from the truth and not by the reader.
#pragma once

#include "reading_scenes.hpp"

#include "sim/acoustics.hpp"

#include <utility>
#include <vector>

namespace heron::study {

/// Where the boat runs: from (60, 20) north; the lake is 120 m wide.
inline constexpr double keel_east = 60, from_north = 20;

/// Tells of each thing whether it was seen and whether it stands out: its echo or its shadow, without speckle
/// and noise, against what the ground's own texture reaches once in 1,000 m², both as means of decibels over
/// 0.35 m × 0.1 m (shadows 0.3 m).
void weigh(const ReadingScene &scene, const sim::Scene &lake, const SoundingSettings &settings,
           Sounded &sounded);

} // namespace heron::study
