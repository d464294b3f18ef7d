// heron: the work of Young Heron without a window.
#include "chart_command.hpp"
#include "commands.hpp"
#include "read_command.hpp"
#include "screen_command.hpp"

#include "version/version.hpp"

#include <CLI/CLI.hpp>
#include <malloc.h>

int main(int argc, char **argv) {
    // Reading makes and drops pictures of some megabytes: kept, not given back to the system and fetched
    // again.
    ::mallopt(M_MMAP_THRESHOLD, 32 << 20);
    ::mallopt(M_TRIM_THRESHOLD, 64 << 20);
    CLI::App app{"Young Heron without a window: looks at sonar recordings, makes them, and carries marks."};
    app.set_version_flag("--version", std::string(heron::program_and_version));
    app.require_subcommand(1);
    app.footer(
        "Recordings are netCDF-4 files in the SONAR-netCDF4 profile of docs/recording.md.\n"
        "Exit codes: 0 done (warnings on stderr, one a line); 2 refused, with one line that says why.");
    int code = 0;
    std::string in, out;
    bool json = false;

    auto *info = app.add_subcommand("info", "What a recording holds");
    info->add_option("RECORDING", in, "A .nc file")->required();
    info->add_flag("--json", json, "Print JSON for other programs");
    info->callback([&] { code = heron::cli::info(in, json); });

    heron::cli::ReadOptions reading;
    auto *read = app.add_subcommand("read", "Find what lies in a recording, and say what it may be");
    read->add_option("IN", reading.in, "A recording (.nc), a trip (.trip.gpkg), or a folder of them")
        ->required();
    read->add_option("--marks", reading.marks, "GeoJSON to write; with a folder, the folder to write to")
        ->required();
    read->add_option("--track", reading.track, "GeoJSON of the track, in stretches");
    read->add_option("--bottom", reading.bottom, "GeoTIFF of the bottom: hardness and roughness");
    read->add_flag("--quiet", reading.quiet, "Say nothing but warnings");
    read->callback([&] { code = heron::cli::read(reading); });

    heron::cli::ChartOptions charting;
    auto *bottom = app.add_subcommand(
        "chart", "Chart the bottom: mosaic, hardness, depth, transitions. Not for navigation");
    bottom
        ->add_option(
            "IN", charting.in,
            "Recordings (.nc), trips (.trip.gpkg), logs of NMEA 0183 (.nmea, .log, .txt), folders of them")
        ->required();
    bottom->add_option("--mosaic", charting.mosaic, "GeoTIFF of the levels over the mean ground");
    bottom->add_option("--hardness", charting.hardness, "GeoTIFF of hardness and roughness");
    bottom->add_option("--depth", charting.depth, "GeoTIFF of the depth and its doubt");
    bottom->add_option("--package", charting.package,
                       "GeoPackage of contours, transitions, coverage and track");
    bottom->add_option("--kmz", charting.kmz, "KMZ: the mosaic on the globe, contours, transitions, track");
    bottom->add_option("--png", charting.png, "PNG of the mosaic, with a world file and its plane beside it");
    bottom->add_option("--texture", charting.texture,
                       "GeoTIFF of level, spread, co-occurrence contrast, homogeneity and entropy");
    bottom->add_option("--band", charting.khz, "Pings of that band alone, kHz (to the next 10)");
    bottom->add_option("--day", charting.day, "What was sounded on that day alone, YYYY-MM-DD (UTC)");
    bottom->add_flag("--blend", charting.blend, "All looks at a place together instead of the best");
    bottom
        ->add_option("--positions-late", charting.positions_late_s,
                     "Seconds by which positions are told late; charting tells what opposite passes say")
        ->check(CLI::Range(-5.0, 5.0));
    bottom->add_option("--cell", charting.cell_m, "Metres a cell")
        ->check(CLI::Range(0.05, 10.0))
        ->capture_default_str();
    bottom->add_option("--contour", charting.contour_m, "Metres from contour to contour")
        ->check(CLI::Range(0.05, 50.0))
        ->capture_default_str();
    bottom
        ->add_option("--level", charting.level_m,
                     "The lake's level over its datum, metres, for what does not tell its own")
        ->check(CLI::Range(-100.0, 100.0));
    bottom->add_flag("--as-it-stands", charting.as_it_stands, "Leave depths as they were sounded");
    bottom->add_flag("--quiet", charting.quiet, "Say nothing but warnings");
    bottom->callback([&] { code = heron::cli::chart(charting); });

    auto *simulate = app.add_subcommand("simulate", "Make a recording of a lake that does not exist");
    heron::cli::SimulateOptions lake;
    simulate->add_option("SCENE", lake.scene, "The lake, as docs/scene.md describes it (.json)")->required();
    simulate->add_option("OUT", lake.out, "The recording to write (.nc)")->required();
    simulate->add_option("--seconds", lake.seconds, "How long the boat sounds")
        ->check(CLI::Range(0.1, 86400.0))
        ->capture_default_str();
    simulate->add_option("--start", lake.start, "Time at the start, RFC 3339; now, if not given");
    simulate->add_option("--range", lake.range_m, "Range to each side, metres")->check(CLI::Range(6.0, 60.0));
    simulate->add_option("--band", lake.band_khz, "Band, kHz; the nearest that the sounder has")
        ->check(CLI::Range(1.0, 1e5));
    simulate->add_option("--gain", lake.gain, "Gain, in the sounder's steps")->check(CLI::Range(0.0, 100.0));
    simulate->add_option("--tvg", lake.tvg_log, "Time-varied gain: so many times log10 of the range")
        ->check(CLI::Range(0.0, 60.0));
    simulate->callback([&] { code = heron::cli::simulate(lake); });

    heron::cli::PictureOptions shown;
    auto *picture = app.add_subcommand("picture", "Read a picture of a unit's screen as a recording is read");
    picture->add_option("IN", shown.in, "PNG, JPEG, WebP or TIFF; or a folder of them")->required();
    picture->add_option("--calibration", shown.calibration,
                        "What makes it measurable: docs/screens.md (.json)");
    picture->add_option("--marks", shown.marks, "GeoJSON to write; with a folder, the folder to write to");
    picture->add_option("--recording", shown.recording, "Recording to write (.nc); with a folder, a folder");
    picture->add_option("--guess", shown.guess, "Write a calibration to begin with, and read nothing");
    picture->add_option("--range", shown.range_m, "Range to each side for that, metres")
        ->check(CLI::Range(1.0, 500.0));
    picture->add_flag("--quiet", shown.quiet, "Say nothing but warnings");
    picture->callback([&] { code = heron::cli::picture(shown); });

    heron::cli::FilmCommandOptions filmed;
    auto *film = app.add_subcommand(
        "film", "Make a recording of a film of a unit's screen, or of a video device; or be "
                "the sounder that it shows");
    film->add_option("IN", filmed.in, "A film, or a device such as /dev/video0")->required();
    film->add_option("--calibration", filmed.calibration, "What makes it measurable: docs/screens.md (.json)")
        ->required();
    film->add_option("--recording", filmed.recording, "Recording to write (.nc)");
    film->add_option(
        "--sounder", filmed.sounder_port,
        "Instead of that: send its rows as they come as a sounder does, on this port of the loopback; 0 "
        "takes any free one");
    film->add_option("--nmea-port", filmed.nmea_port,
                     "With --sounder: the port for what is read off the screen, as NMEA 0183")
        ->capture_default_str();
    film->add_option("--speed-up", filmed.speed_up,
                     "With --sounder: how many times faster than it was filmed")
        ->check(CLI::Range(0.1, 100.0))
        ->capture_default_str();
    film->add_option("--start", filmed.start,
                     "Time of its first picture, RFC 3339; the file's own, if not given");
    film->add_option("--nmea", filmed.nmea,
                     "A log of NMEA 0183 sentences of a receiver beside it, for its places")
        ->check(CLI::ExistingFile);
    film->add_flag("--follow", filmed.follow, "It was filmed by hand: follow the screen");
    film->add_flag("--quiet", filmed.quiet, "Say nothing but warnings");
    film->callback([&] { code = heron::cli::film(filmed); });

    auto *convert = app.add_subcommand(
        "convert", "Carry sonar between trips (.trip.gpkg) and recordings (.nc), or write a recording anew");
    convert->add_option("IN", in, "A .nc or .trip.gpkg file")->required();
    convert->add_option("OUT", out, "The file to write, .nc or .trip.gpkg")->required();
    convert->callback([&] { code = heron::cli::convert(in, out); });

    heron::cli::MarksOptions carried;
    auto *marks = app.add_subcommand(
        "marks",
        "List marks, carry them between files of many kinds, or make a pack of what a receiver may see");
    marks->add_option("IN", carried.in, "GPX, KML, KMZ, GeoJSON, CSV, or a mark file or trip (.gpkg)")
        ->required();
    marks->add_option("OUT", carried.out, "Where to write them, by suffix; none: they are listed");
    marks->add_option("--level", carried.level, "Whom they are for: me, crew, client, anyone");
    marks
        ->add_option("--name-letters", carried.name_letters,
                     "GPX for a simple receiver: names of at most so many letters")
        ->check(CLI::Range(3, 200));
    marks->add_flag("--plain-names", carried.plain_names,
                    "GPX for a simple receiver: names in plain capitals");
    marks->add_option("--coarsen", carried.coarsen_m, "Places to within a circle of so many metres")
        ->check(CLI::Range(5.0, 50'000.0));
    marks->add_option("--kind", carried.kinds, "Only these kinds or families");
    marks->add_option("--tag", carried.tags, "Only marks with one of these tags");
    marks->add_flag("--join", carried.join, "Join what is likely one thing");
    marks->add_option("--join-from", carried.join_from, "From this chance on")
        ->check(CLI::Range(0.5, 1.0))
        ->capture_default_str();
    marks->callback([&] { code = heron::cli::marks(carried); });

    std::string text;
    double around_marks = 20;
    std::vector<std::string> keep;
    bool do_it = false;
    auto *trip =
        app.add_subcommand("trip", "Look at a trip, copy it while it is open, make an old one small");
    trip->require_subcommand(1);
    auto *trip_info = trip->add_subcommand("info", "What a trip holds");
    trip_info->add_option("TRIP", in, "A .trip.gpkg file")->required();
    trip_info->callback([&] { code = heron::cli::trip_info(in); });
    auto *trip_copy = trip->add_subcommand("copy", "Copy a trip, also while it is written");
    trip_copy->add_option("TRIP", in, "A .trip.gpkg file")->required();
    trip_copy->add_option("OUT", out, "The copy")->required();
    trip_copy->callback([&] { code = heron::cli::trip_copy(in, out); });
    auto *trip_note = trip->add_subcommand("note", "Write a note into a trip that nobody has open");
    trip_note->add_option("TRIP", in, "A .trip.gpkg file")->required();
    trip_note->add_option("TEXT", text, "The note")->required();
    trip_note->callback([&] { code = heron::cli::trip_note(in, text); });
    auto *thin = trip->add_subcommand(
        "thin", "Take pings out of an old trip; marks, track, overview and a mosaic stay");
    thin->add_option("TRIP", in, "A .trip.gpkg file")->required();
    thin->add_option("--around-marks", around_marks, "Seconds of pings to keep before and after each mark")
        ->check(CLI::Range(0.0, 3600.0))
        ->capture_default_str();
    thin->add_option("--keep", keep, "Rows to keep, as FIRST-LAST; may be given several times");
    thin->add_flag("--do", do_it, "Do it; without, only the saving is told");
    thin->callback([&] { code = heron::cli::trip_thin(in, around_marks, keep, do_it); });

    CLI11_PARSE(app, argc, argv);
    return code;
}
