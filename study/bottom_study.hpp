// How good the chart of the bottom is: on lakes whose ground is known.
#pragma once

#include <string>

namespace heron::study {

/// Hardness, classes and transitions on lakes with patches of other ground. Tables in Markdown. `drawn`: of
/// other makings.
std::string bottom_study(unsigned threads, bool drawn);
/// How many fields of ripples, colonies of pits and sunken lanes are told, and how many where none are.
std::string forms_study(unsigned threads, bool drawn);

} // namespace heron::study
