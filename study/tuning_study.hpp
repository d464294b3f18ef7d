// Is the advice good? Settings advised against the best that a grid finds, measured on quantised pictures.
#pragma once

#include <string>

namespace heron::study {

/// Runs over the waters and returns the tables as Markdown. `developing`: over the waters that the advice was
/// developed on.
std::string tuning_study(bool developing, unsigned threads);

/// What the budget foretells at the advised setting beside what the pictures show, strip by strip.
std::string foretold_and_shown();

} // namespace heron::study
