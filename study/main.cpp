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
    CLI11_PARSE(app, argc, argv);
    if (*tuning)
        fmt::print("{}", heron::study::tuning_study(developing, threads));
    if (*shown)
        fmt::print("{}", heron::study::foretold_and_shown());
    return 0;
}
