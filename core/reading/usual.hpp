// What figures of candidates usually are in this recording: gain, averaging, grazing law and ground move them
// all together, and a thing is told by how it differs from the rest.
#pragma once

#include "reading/features.hpp"

#include <vector>

namespace heron {

/// Figures that hang on the scene and the device more than on the thing.
inline constexpr std::array<std::string_view, 20> figures_of_the_scene{
    "peak",          "mean",       "stands out",    "stands small", "rough",        "clutter", "shadow depth",
    "shadow beside", "before",     "halo",          "touching",     "clipped",      "border",  "patch",
    "shadow odds",   "dark apart", "darkest apart", "source",       "source level", "grainy"};

/// Medians of such figures over all candidates of a recording so far, by zone; each held to what is usual
/// anywhere by ten pseudo-counts: (n · median + 10 · usual anywhere) / (n + 10).
class UsualFigures {
  public:
    /// Takes in what one candidate shows.
    void add(Zone zone, const Features &features);
    /// `anywhere`: the medians of the lakes that the weights were fitted on.
    Features of(Zone zone, const Features &anywhere) const;
    std::size_t count(Zone zone) const { return seen_[static_cast<std::size_t>(zone)]; }

  private:
    static constexpr std::size_t most_kept = 2000; // the newest of them
    std::array<std::vector<Features>, 3> kept_;
    std::array<std::size_t, 3> seen_{};
};

/// The figures as they are weighed: those of the scene less what is usual there.
Features over_usual(const Features &features, const Features &usual);

} // namespace heron
