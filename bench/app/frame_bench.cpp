// Frames of the real window, 1280 × 800: the time from the request to update until all is painted and handed
// to the screen. The baseline is a window of the same size that draws one image.
#include "frames.hpp"
#include "parts/picture_view.hpp"
#include "places.hpp"
#include "reading/contact_reader.hpp"
#include "tuning/tuner.hpp"
#include "views/scan/scan_view.hpp"
#include "window/main_window.hpp"

#include <QApplication>
#include <QPainter>
#include <QProcess>
#include <QWindow>
#include <algorithm>
#include <benchmark/benchmark.h>

using namespace heron::app;

namespace {

class ImageWindow : public QWidget {
  public:
    ImageWindow() : image_(1280, 800, QImage::Format_RGB32) {
        for (int y = 0; y < 800; ++y)
            for (int x = 0; x < 1280; ++x)
                image_.setPixel(x, y, qRgb(x % 256, y % 256, (x * y) % 256));
        resize(1280, 800);
        setAttribute(Qt::WA_OpaquePaintEvent);
    }

  protected:
    void paintEvent(QPaintEvent *) override {
        QPainter p(this);
        p.drawImage(0, 0, image_);
    }

  private:
    QImage image_;
};

void draw_one_image(benchmark::State &state) {
    ImageWindow window;
    window.show();
    until([&] { return window.isVisible() && window.windowHandle()->isExposed(); });
    count_frames(state, window, [&] { window.update(); });
}
BENCHMARK(draw_one_image)->UseManualTime()->Iterations(300)->Unit(benchmark::kMicrosecond);

// A live sounder at 30 pings a second.
class LiveWindow {
  public:
    LiveWindow() {
        sounder_.start(QStringLiteral(HERON_BIN "/heron-sounder"),
                       {QStringLiteral(HERON_LAKES "/ellemoor.json"), QStringLiteral("--port"),
                        QStringLiteral("0"), QStringLiteral("--nmea-port"), QStringLiteral("0"),
                        QStringLiteral("--speed-up"), QStringLiteral("1.5")});
        sounder_.waitForReadyRead(10000);
        const auto words = QString::fromUtf8(sounder_.readAllStandardOutput()).split(QLatin1Char(' '));
        program.session.sources.listenTo({{SourceConfig::Kind::sounder, SourceConfig::Way::tcp,
                                           QStringLiteral("127.0.0.1:") + words.value(2).chopped(1)},
                                          {SourceConfig::Kind::nmea, SourceConfig::Way::tcp,
                                           QStringLiteral("127.0.0.1:") + words.value(6).trimmed()}});
        window.resize(1280, 800);
        window.show();
        until([&] { return program.session.shown.scan().end() > 700; });
    }
    ~LiveWindow() {
        sounder_.kill();
        sounder_.waitForFinished();
    }
    Program program;
    MainWindow window{program, allPlaces()};

  private:
    QProcess sounder_;
};

void scan_view_frame(benchmark::State &state) {
    LiveWindow live;
    count_frames(state, live.window);
}
BENCHMARK(scan_view_frame)->UseManualTime()->Iterations(600)->Unit(benchmark::kMicrosecond);

// How far what was looked at stands behind the newest ping, in seconds of the sounder's own time; an
// iteration is an answer of the reading thread. The frames meanwhile are scan_view_frame's.
void live_reading_behind_the_newest_ping(benchmark::State &state) {
    LiveWindow live;
    const auto &reading = live.program.reader;
    std::vector<double> behind;
    std::size_t answers = 0;
    QObject::connect(&reading, &ContactReader::contactsChanged, &live.window, [&] { ++answers; });
    QObject::connect(&live.program.session.shown, &ShownScan::rowArrived, &live.window, [&](std::size_t row) {
        if (const auto seen = reading.seenUntil(); seen > 0)
            behind.push_back(heron::seconds_between(live.program.session.shown.scan().facts(seen - 1).time,
                                                    live.program.session.shown.scan().facts(row).time));
    });
    QElapsedTimer clock;
    for ([[maybe_unused]] const auto _ : state) {
        clock.start();
        const auto before = answers;
        until([&] { return answers > before; });
        state.SetIterationTime(static_cast<double>(clock.nsecsElapsed()) * 1e-9);
    }
    std::sort(behind.begin(), behind.end());
    if (!behind.empty()) {
        state.counters["median_s"] = behind[behind.size() / 2];
        state.counters["most_s"] = behind.back();
    }
}
BENCHMARK(live_reading_behind_the_newest_ping)
    ->UseManualTime()
    ->Iterations(60)
    ->Unit(benchmark::kMillisecond);

void open_the_sample_to_its_first_picture(benchmark::State &state) {
    Program program;
    MainWindow window(program, allPlaces());
    window.show();
    bool painted = false;
    QObject::connect(&window.view<ScanView>().picture(), &PictureView::painted, &window,
                     [&] { painted = true; });
    for ([[maybe_unused]] const auto _ : state) {
        const int number = program.session.shown.number();
        QElapsedTimer clock;
        clock.start();
        program.session.sources.openRecording(QStringLiteral(HERON_SAMPLES "/quarry-pool.nc"));
        until([&] {
            return program.session.shown.number() != number && !program.session.shown.scan().empty();
        });
        painted = false;
        until([&] { return painted; });
        state.SetIterationTime(static_cast<double>(clock.nsecsElapsed()) * 1e-9);
    }
}
BENCHMARK(open_the_sample_to_its_first_picture)
    ->UseManualTime()
    ->Iterations(10)
    ->Unit(benchmark::kMillisecond);

} // namespace

int main(int argc, char **argv) {
    TimedApplication application(argc, argv);
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
}
