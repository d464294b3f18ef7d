// heron-screens: pictures and films of screens of units that do not exist.
#include "sim/circle_screen.hpp"
#include "sim/screens.hpp"

#include "files/atomic_file.hpp"

#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <opencv2/imgproc.hpp>
#include <opencv2/videoio.hpp>

namespace {

using namespace heron;

constexpr double by_hand_pixel_sd = 1.5;

bool names_a_film(const std::string &name) {
    return name.ends_with(".avi") || name.ends_with(".mp4");
}

// As a unit saves it (each picture a JPEG) or as a phone films (H.264).
cv::VideoWriter writer_of(const std::string &name, double rate, cv::Size size, bool by_hand) {
    const bool phone = name.ends_with(".mp4");
    cv::VideoWriter writer(name,
                           phone ? cv::VideoWriter::fourcc('a', 'v', 'c', '1')
                                 : cv::VideoWriter::fourcc('M', 'J', 'P', 'G'),
                           rate, size);
    if (by_hand && !phone)
        writer.set(cv::VIDEOWRITER_PROP_QUALITY, 60);
    return writer;
}

// The picture of a head's last turn, or a film of its next ones.
Result<void> circle(sim::Scene scene, const sim::ScreenOptions &options, const std::string &out,
                    double bow_deg, std::size_t skip, int pictures, double rate, ScreenCalibration &truth) {
    constexpr std::size_t a_turn = 400;
    const bool film = names_a_film(out);
    sim::CircleScreen as;
    as.bow_deg = bow_deg;
    as.words = true;
    // A film shows the rays of each picture's time.
    constexpr std::size_t rays_a_picture = 3;
    const auto more = film ? rays_a_picture * static_cast<std::size_t>(pictures) : 0;
    const auto heard = sim::hear_turns(std::move(scene), options.range_m, skip + a_turn + more);
    const auto colours = sim::screen_colours(options.map, options.night);
    truth = sim::calibration_of(as, heard.range_m);
    truth.ramp = colours;
    const std::span all(heard.rays);
    if (!film)
        return sim::write_picture(sim::circle_screen(heard.last_turn(), colours, as), out);
    auto writer = writer_of(out, rate, {as.size, as.size}, false);
    for (std::size_t i = 0; i <= more; i += rays_a_picture) {
        auto frame = sim::circle_screen(all.subspan(skip + i, a_turn), colours, as);
        cv::Mat rgb(frame.height, frame.width, CV_8UC3, frame.pixels.data()), bgr;
        cv::cvtColor(rgb, bgr, cv::COLOR_RGB2BGR);
        writer.write(bgr);
    }
    return {};
}

} // namespace

int main(int argc, char **argv) {
    CLI::App app{"Pictures and films of sonar screens of units that do not exist."};
    std::string scene_file, out, calibration;
    sim::ScreenOptions options;
    int rows = 900, a_picture = 3, pictures = 300, skip = 0;
    double rate = 30;
    unsigned photo = 0;
    app.add_option("SCENE", scene_file, "The lake (.json)")->required();
    app.add_option("OUT", out, "A picture (.png, .jpg) or a film (.avi, or .mp4 as a phone makes it)")
        ->required();
    app.add_option("--calibration", calibration, "Write its calibration, the truth (.json)");
    app.add_option("--layout", options.layout, "Which unit")->check(CLI::Range(0, 6));
    app.add_option("--map", options.map, "Which colours")->check(CLI::Range(0, 4));
    app.add_flag("--night", options.night, "Colours for the night");
    app.add_flag("--live-figures", options.live_figures,
                 "Depth, speed, heading and place as the boat has them");
    app.add_option("--range", options.range_m, "Range to each side, metres")->check(CLI::Range(6.0, 60.0));
    app.add_option("--skip", skip, "Rows sounded before anything is shown")->check(CLI::Range(0, 100000));
    app.add_option("--rows", rows, "Rows sounded before the picture, or before the film")
        ->check(CLI::Range(0, 100000));
    app.add_option("--scroll", a_picture, "Rows from one picture of the film to the next")
        ->check(CLI::Range(1, 200));
    app.add_option("--pictures", pictures, "Of the film")->check(CLI::Range(2, 100000));
    app.add_option("--rate", rate, "Pictures a second of the film")->check(CLI::Range(1.0, 120.0));
    app.add_option("--photographed", photo, "By hand: the seed of its shake; 0 is as saved");
    bool round = false;
    double bow_deg = 0;
    app.add_flag("--circle", round, "Of the head at the bow: --skip then counts its rays");
    app.add_option("--bow", bow_deg, "Where the bow points on a circle, degrees clockwise from up")
        ->check(CLI::Range(0.0, 360.0));
    CLI11_PARSE(app, argc, argv);
    auto scene = sim::read_scene_file(scene_file);
    if (!scene) {
        fmt::print(stderr, "{}\n", scene.error().line());
        return 2;
    }
    if (round) {
        ScreenCalibration truth;
        auto done = circle(std::move(*scene), options, out, bow_deg, static_cast<std::size_t>(skip), pictures,
                           rate, truth);
        if (done && !calibration.empty())
            done = write_file_atomically(calibration, calibration_to_json(truth));
        if (!done)
            fmt::print(stderr, "{}\n", done.error().line());
        return done ? 0 : 2;
    }
    sim::SimulatedScreen screen(std::move(*scene), options);
    screen.advance(skip + rows);
    auto truth = screen.calibration();
    const bool film = names_a_film(out);
    if (film) {
        truth.rows_a_second = a_picture * rate;
        auto first = screen.shown();
        if (photo > 0) {
            // As the first picture shows it; the hand goes on from there.
            first = sim::filmed_by_hand(first, truth.corners, photo, 0);
            truth.width = first.width;
            truth.height = first.height;
            truth.ramp.clear();
            truth.pixel_sd = by_hand_pixel_sd;
        }
        auto writer = writer_of(out, rate, {first.width, first.height}, photo > 0);
        for (int i = 0; i < pictures; ++i) {
            auto frame = i == 0 ? first : screen.shown();
            if (auto corners = truth.corners; i > 0 && photo > 0)
                frame = sim::filmed_by_hand(frame, corners, photo, i / rate);
            cv::Mat rgb(frame.height, frame.width, CV_8UC3, frame.pixels.data()), bgr;
            cv::cvtColor(rgb, bgr, cv::COLOR_RGB2BGR);
            writer.write(bgr);
            screen.advance(a_picture);
        }
    } else {
        auto frame = screen.shown();
        if (photo > 0) {
            frame = sim::photographed(frame, truth.corners, photo);
            truth.width = frame.width;
            truth.height = frame.height;
            truth.ramp.clear();
            truth.pixel_sd = by_hand_pixel_sd;
        }
        if (auto done = sim::write_picture(frame, out); !done) {
            fmt::print(stderr, "{}\n", done.error().line());
            return 2;
        }
    }
    if (!calibration.empty())
        if (auto done = write_file_atomically(calibration, calibration_to_json(truth)); !done) {
            fmt::print(stderr, "{}\n", done.error().line());
            return 2;
        }
    return 0;
}
