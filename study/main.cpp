#include "around_study.hpp"
#include "bottom_study.hpp"
#include "reading_study.hpp"
#include "tuning_study.hpp"

#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <thread>

int main(int argc, char **argv) {
    CLI::App app{"Measures how good the advice is, on waters of the stand-in"};
    app.require_subcommand(1);
    bool developing = false;
    unsigned threads = std::max(1U, std::thread::hardware_concurrency());
    auto *tuning = app.add_subcommand(
        "tuning", "Settings advised against the best of a grid; Tune for me; rules of thumb");
    tuning->add_flag("--developing", developing, "On the waters that the advice was developed on");
    app.add_option("--threads", threads, "How many waters at once");
    auto *shown = app.add_subcommand("budget", "What the budget foretells beside what the pictures show");
    auto *reading = app.add_subcommand("reading", "Contacts read on lakes whose truth is known");
    bool fitting = false, drawn = false, scatterers = false, empty = false, joining = false, wood = false,
         learning = false;
    std::size_t more = 0;
    std::string fit, recording, truth, examples;
    reading->add_flag("--fitting", fitting, "Score on the scenes that the weights were fitted on");
    reading->add_flag("--drawn", drawn, "Score on sixty lakes of makings drawn at random");
    reading->add_flag("--scatterers", scatterers, "Score on lakes heard by the second engine");
    reading->add_flag("--joining", joining, "Count what is joined of things seen from several legs");
    reading->add_flag("--empty", empty, "Count what is told on lakes in which nothing lies");
    reading->add_flag("--wood", wood, "Count fish seen within trees and brush");
    reading->add_flag("--learning", learning,
                      "What a guide's words on a water do to the reading of the rest of it");
    bool both = false, ranges = false;
    reading->add_flag("--both", both, "Fit on lakes of both engines");
    reading->add_flag("--ranges", ranges, "Count what is found in a minute at ranges chosen in four ways");
    reading->add_option("--fit", fit, "Fit anew and write the weights to this file");
    reading->add_option("--recording", recording, "Score on this recording instead");
    reading->add_option("--truth", truth, "What is truly there (GeoJSON)");
    reading->add_option("--examples", examples, "Write what was measured of every candidate to this file");
    reading->add_option("--more", more, "Of so many lakes more");
    auto *around =
        app.add_subcommand("around", "Contacts and casts from the circle on lakes whose truth is known");
    std::string fit_circle;
    around->add_option("--fit", fit_circle, "Fit anew and write the weights to this file");
    auto *bottom = app.add_subcommand("bottom", "The chart of the bottom on lakes whose ground is known");
    bool drawn_bottom = false;
    bottom->add_flag("--drawn", drawn_bottom, "On lakes of makings drawn at random");
    bool forms = false;
    bottom->add_flag("--forms", forms, "Ripples, lanes and spawning beds instead of the chart");
    std::uint32_t first_lake = 1;
    bottom->add_option("--first-lake", first_lake, "Number of the first of the twenty-four lakes of --forms");
    CLI11_PARSE(app, argc, argv);
    if (*tuning)
        fmt::print("{}", heron::study::tuning_study(developing, threads));
    using heron::study::Lakes;
    const auto lakes = drawn        ? Lakes::drawn
                       : scatterers ? Lakes::scatterers
                       : fitting    ? Lakes::fitting
                                    : Lakes::scoring;
    if (*reading && !examples.empty())
        heron::study::write_examples(threads, examples, more);
    else if (*reading)
        fmt::print("{}", joining    ? heron::study::joining_study(threads)
                         : empty    ? heron::study::empty_lakes(threads, fitting)
                         : learning ? heron::study::learning_study(threads)
                         : ranges   ? heron::study::range_study(threads)
                         : wood     ? heron::study::wood_study(threads, fitting)
                         : fit.empty()
                             ? heron::study::reading_study(threads, lakes, recording, truth)
                             : heron::study::fit_reading(threads, fit, false,
                                                         both         ? heron::study::FitOn::both
                                                         : scatterers ? heron::study::FitOn::scatterers
                                                                      : heron::study::FitOn::rays));
    if (*around)
        fmt::print("{}", fit_circle.empty() ? heron::study::around_study(threads)
                                            : heron::study::fit_reading(threads, fit_circle, true));
    if (*bottom)
        fmt::print("{}", forms ? heron::study::forms_study(threads, drawn_bottom, first_lake)
                               : heron::study::bottom_study(threads, drawn_bottom));
    if (*shown)
        fmt::print("{}", heron::study::foretold_and_shown());
    return 0;
}
