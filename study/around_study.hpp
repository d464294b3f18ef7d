// How good the reading of the circle is, and how true the casts are, on lakes that nothing was fitted to.
#pragma once

#include <string>

namespace heron::study {

/// Thirty-six lakes for scoring with a head at the bow: every second one held over a spot, the others run
/// over at a walking pace. Counted is what lies within nine tenths of the range and not behind the hull.
/// Tables in Markdown.
std::string around_study(unsigned threads);

} // namespace heron::study
