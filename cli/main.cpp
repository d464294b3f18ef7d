// heron: the work of Young Heron without a window.
#include "commands.hpp"

#include <CLI/CLI.hpp>

int main(int argc, char **argv) {
    CLI::App app{"Young Heron without a window: looks at sonar recordings, makes them, and carries marks."};
    app.require_subcommand(1);
    app.footer(
        "Recordings are netCDF-4 files in the SONAR-netCDF4 profile of docs/recording.md.\n"
        "Exit codes: 0 done (warnings on stderr, one a line); 2 refused, with one line that says why.");
    int code = 0;
    std::string in, out, start;
    bool json = false;
    double seconds = 60;

    auto *info = app.add_subcommand("info", "What a recording holds");
    info->add_option("RECORDING", in, "A .nc file")->required();
    info->add_flag("--json", json, "Print JSON for other programs");
    info->callback([&] { code = heron::cli::info(in, json); });

    auto *simulate = app.add_subcommand("simulate", "Make a recording of a lake that does not exist");
    simulate->add_option("SCENE", in, "The lake, as docs/scene.md describes it (.json)")->required();
    simulate->add_option("OUT", out, "The recording to write (.nc)")->required();
    simulate->add_option("--seconds", seconds, "How long the boat sounds")
        ->check(CLI::Range(0.1, 86400.0))
        ->capture_default_str();
    simulate->add_option("--start", start, "Time at the start, RFC 3339; now, if not given");
    simulate->callback([&] { code = heron::cli::simulate(in, out, seconds, start); });

    auto *convert =
        app.add_subcommand("convert", "Read a recording and write it anew, with what could be read of it");
    convert->add_option("IN", in, "A .nc file")->required();
    convert->add_option("OUT", out, "The .nc file to write")->required();
    convert->callback([&] { code = heron::cli::convert(in, out); });

    auto *marks = app.add_subcommand("marks", "List marks, or carry them between a mark file and GPX");
    marks->add_option("IN", in, "A .gpx file or a mark file (.gpkg)")->required();
    marks->add_option("OUT", out, "Where to write them: .gpx, or a mark file to add them to");
    marks->callback([&] { code = heron::cli::marks(in, out); });

    CLI11_PARSE(app, argc, argv);
    return code;
}
