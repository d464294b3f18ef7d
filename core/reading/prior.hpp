// How much of what was found in this recording is real: empty water throws up as many candidates as full
// water, and each of them is believed the less.
#pragma once

#include "reading/echoes.hpp"
#include "reading/kind.hpp"

#include <array>
#include <vector>

namespace heron {

/// The share of real ones among the candidates of a zone, learned from what each by itself is believed
/// (expectation and maximisation; Saerens, Latinne and Decaestecker 2002, "Adjusting the outputs of a
/// classifier to new a priori probabilities", Neural Computation 14), held by thirty pseudo-counts to the
/// share on the lakes for fitting.
class RecordingPrior {
  public:
    /// `real`: the chance of being real that a candidate has by itself, 0 to 1.
    void add(Zone zone, double real);
    /// What is added to the natural logarithm of the odds of being real. `share`: the one on the lakes for
    /// fitting, 0 to 1.
    double shift(Zone zone, double share) const;

  private:
    static constexpr std::size_t most_kept = 2000; // the newest of them
    std::array<std::vector<double>, 3> kept_;
    std::array<std::size_t, 3> seen_{};
};

/// Chances with the odds of being real moved by so much; kinds keep their shares of it.
KindChances shifted(KindChances chances, double shift);

} // namespace heron
