// How good the reading is: fitted on some lakes, scored on others.
#pragma once

#include <cstdint>
#include <string>

namespace heron::study {

/// By what the lakes for fitting are heard: the first engine, every fourth of them by the second and the
/// others not at all, or every fourth by the second and the rest by the first.
enum class FitOn : std::uint8_t { rays, scatterers, both };

/// Fits the weights on the scenes for fitting and writes them as the source that the program is built with.
/// `circle`: for single turns of a head instead of the sides.
std::string fit_reading(unsigned threads, const std::string &weights_file, bool circle = false,
                        FitOn engines = FitOn::rays);
/// Writes what every candidate of all scenes, their empty twins and `more` scenes for fitting was measured
/// as, what it was taken for and truly is, and what stands out (zone −1), as CSV; beside it, in FILE.cuts,
/// the picture about each
/// (`CutOut`, bytes in the order of the lines). For whoever tries another way of weighing, as
/// study/learned_eye.py.
void write_examples(unsigned threads, const std::string &file, std::size_t more);
/// On which lakes: those for scoring, those fitted to, sixty more of makings drawn at random, or
/// every second of those for scoring, heard by the second engine.
enum class Lakes : std::uint8_t { scoring, fitting, drawn, scatterers };
/// Scores what ships on such lakes, or on a recording with its truth beside it where one is named, and tells
/// recall over precision for eight working points. Tables in Markdown.
std::string reading_study(unsigned threads, Lakes lakes, const std::string &recording,
                          const std::string &truth);

/// What is told on 18 km of lakes in which nothing lies, on the grounds for scoring or for fitting.
std::string empty_lakes(unsigned threads, bool fitting);
/// How well things seen from several legs are joined, on all scenes in lanes (joining is fitted on nothing).
std::string joining_study(unsigned threads);
/// Things that the shipped reader finds and takes for the right family in a minute, at ranges chosen in four
/// ways.
std::string range_study(unsigned threads);
/// What twenty words of a guide on things of a water do to the reading of the rest of that water.
std::string learning_study(unsigned threads);
/// How many fish within trees and brush are seen as grains of their own, and how often wood without fish
/// shows such a grain.
std::string wood_study(unsigned threads, bool fitting);

} // namespace heron::study
