// The chart of a day whose lanes span five kilometres both ways: 20,000 × 20,000 cells of a quarter of a
// metre.
#include "frames.hpp"
#include "places.hpp"
#include "recording/recording.hpp"
#include "views/chart/chart_sheet_view.hpp"
#include "views/chart/chart_view.hpp"
#include "window/main_window.hpp"

#include <QMouseEvent>
#include <QTemporaryDir>
#include <QWindow>
#include <cmath>
#include <fstream>
#include <random>

using namespace heron::app;

namespace {

// Held by this process now, megabytes.
double held_mb() {
    std::ifstream in("/proc/self/statm");
    double whole = 0, resident = 0;
    in >> whole >> resident;
    return resident * 4096 / 1e6;
}

// Eight hours at 1.4 m/s: eight lanes of five kilometres, 700 m apart, 25 m to each side over 5 m of water, a
// ping every 0.35 m. The samples are noise of the height that a bottom has, so that nothing waits for a
// simulator.
heron::RecordingHead day_head(const std::vector<heron::UnixNs> &times,
                              const std::vector<heron::GeoPoint> &places,
                              const std::vector<double> &headings) {
    heron::RecordingHead head;
    head.title = "a day";
    head.sonar_model = "none";
    head.sound_speed_m_s = 1480;
    head.installation.transducer = {0, 0, 0.3};
    for (std::size_t i = 0; i < times.size(); ++i) {
        heron::PositionSample p;
        p.time = times[i];
        p.place = places[i];
        p.sd_m = 0.5;
        p.speed_m_s = 1.4;
        head.nav.add(p);
        heron::AttitudeSample a;
        a.time = times[i];
        a.heading_deg = headings[i];
        head.nav.add(a);
    }
    return head;
}

std::string write_the_day(const std::string &folder) {
    constexpr int lanes = 8, samples = 400;
    constexpr double lane_m = 5000, apart_m = 700, every_m = 0.35, speed = 1.4, altitude_m = 4.7,
                     range_m = 25;
    const heron::GeoPoint origin{46.5, -21.25};
    std::vector<heron::UnixNs> times;
    std::vector<heron::GeoPoint> places;
    std::vector<double> headings;
    heron::UnixNs now = 1'780'000'000LL * heron::ns_per_s;
    for (int lane = 0; lane < lanes; ++lane) {
        const double heading = lane % 2 == 0 ? 90 : 270;
        const auto start = heron::point_along(origin, 0, lane * apart_m);
        for (double m = 0; m < lane_m; m += every_m) {
            times.push_back(now);
            places.push_back(heron::point_along(start, 90, lane % 2 == 0 ? m : lane_m - m));
            headings.push_back(heading);
            now += static_cast<heron::UnixNs>(every_m / speed * 1e9);
        }
        now += 60 * heron::ns_per_s;
    }
    const auto file = folder + "/day.nc";
    auto writer = heron::RecordingWriter::create(file, day_head(times, places, headings));
    std::mt19937 random(7);
    std::vector<std::uint16_t> noise(20'000);
    for (auto &v : noise)
        v = static_cast<std::uint16_t>(100 + random() % 60);
    heron::Ping ping;
    ping.sound_speed_m_s = 1480;
    ping.sample_interval_s = range_m / samples * 2 / ping.sound_speed_m_s;
    ping.frequency_hz = 770e3;
    ping.pulse_s = 5e-5;
    const auto first = static_cast<int>(altitude_m / range_m * samples);
    for (const auto side : {heron::Side::port, heron::Side::starboard}) {
        heron::Beam beam;
        beam.side = side;
        beam.azimuth_deg = heron::nominal_azimuth_deg(side);
        beam.depression_deg = 30;
        beam.width_along_deg = 0.8;
        beam.width_across_deg = 50;
        beam.scale = {-100, 0.25, 0, 255};
        beam.code.assign(samples, 12);
        ping.beams.push_back(beam);
    }
    for (const auto time : times) {
        ping.time = time;
        for (auto &beam : ping.beams) {
            const auto from = random() % (noise.size() - samples);
            for (int k = first; k < samples; ++k)
                beam.code[static_cast<std::size_t>(k)] = noise[from + static_cast<std::size_t>(k)];
        }
        if (!writer || !writer->add(ping))
            return {};
    }
    return writer && writer->finish() ? file : std::string();
}

// Frames while the whole day is panned, then while one zooms in and out; memory before it and with it.
void chart_of_a_day(benchmark::State &state) {
    QTemporaryDir folder;
    const auto file = write_the_day(folder.path().toStdString());
    if (file.empty()) {
        state.SkipWithError("the day could not be written");
        return;
    }
    Program program;
    MainWindow window(program, allPlaces());
    window.resize(1280, 800);
    window.show();
    until([&] { return window.isVisible() && window.windowHandle()->isExposed(); });
    const double before = held_mb();
    QElapsedTimer clock;
    clock.start();
    program.chart.addFiles({QString::fromStdString(file)});
    until([&] { return !program.chart.adding() && program.chart.sheet() != nullptr; });
    state.counters["laid_s"] = static_cast<double>(clock.elapsed()) / 1000;
    window.go(place::chart);
    auto &sheet = *window.view<ChartView>().findChild<ChartSheetView *>();
    sheet.fitAll();
    const bool zooms = state.range(0) == 1;
    const QPointF middle(sheet.width() / 2.0, sheet.height() / 2.0);
    // As a hand drags it: hither and thither.
    const auto mouse = [&](QEvent::Type type, const QPointF &at) {
        QMouseEvent event(type, at, sheet.mapToGlobal(at), Qt::LeftButton, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&sheet, &event);
    };
    if (!zooms)
        mouse(QEvent::MouseButtonPress, middle);
    int n = 0;
    count_frames(state, window, [&] {
        ++n;
        if (zooms)
            sheet.zoom(n / 40 % 2 == 0 ? 1.1 : 1 / 1.1, middle);
        else
            mouse(QEvent::MouseMove, middle + QPointF(60 * std::sin(n / 10.0), 40 * std::cos(n / 10.0)));
        sheet.update();
    });
    state.counters["tiles"] = static_cast<double>(program.chart.tiles().size());
    state.counters["held_mb"] = held_mb();
    state.counters["of_the_chart_mb"] = held_mb() - before;
}
BENCHMARK(chart_of_a_day)
    ->ArgName("zooms")
    ->Arg(0)
    ->Arg(1)
    ->UseManualTime()
    ->Iterations(240)
    ->Unit(benchmark::kMicrosecond);

} // namespace
