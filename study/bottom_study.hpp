// How good the chart of the bottom is: on lakes whose ground is known.
#pragma once

#include <cstdint>
#include <string>

namespace heron::study {

/// Hardness, classes and transitions on lakes with patches of other ground. Tables in Markdown. `drawn`: of
/// other makings.
std::string bottom_study(unsigned threads, bool drawn);
/// How many fields of ripples, sunken lanes and groups of spawning beds are told, and how many where none
/// are. `first_seed`: of the twenty-four lakes.
std::string forms_study(unsigned threads, bool drawn, std::uint32_t first_seed);

} // namespace heron::study
