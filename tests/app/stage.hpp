// The real window on a real (virtual) screen, driven by the events that a mouse and a keyboard make.
#pragma once

#include "kit/theme.hpp"
#include "parts/picture_view.hpp"
#include "places.hpp"
#include "programs.hpp"
#include "reading/contact_reader.hpp"
#include "tuning/tuner.hpp"
#include "views/marks/marks_view.hpp"
#include "views/scan/conditions_box.hpp"
#include "views/scan/control_pages.hpp"
#include "views/scan/range_ruler.hpp"
#include "views/scan/scan_panel.hpp"
#include "views/scan/scan_view.hpp"
#include "views/scan/tuning_box.hpp"
#include "window/main_window.hpp"
#include "window/notice_bar.hpp"
#include "window/program.hpp"
#include "window/status_line.hpp"

#include <QApplication>
#include <QProcess>
#include <QSettings>
#include <QSignalSpy>
#include <QTest>
#include <QTimer>
#include <functional>
#include <gtest/gtest.h>
#include <memory>
#include <set>

namespace heron::test {

/// Lets the window live until the condition holds; false when it does not within `ms`.
inline bool wait_for(const std::function<bool()> &condition, int ms = 20000) {
    return QTest::qWaitFor(condition, ms);
}

inline app::SourceConfig source(app::SourceConfig::Kind kind, quint16 port) {
    return {kind, app::SourceConfig::Way::tcp, QStringLiteral("127.0.0.1:%1").arg(port)};
}

/// Answers a dialog or a menu as soon as it stands. Whoever opens it waits until it is closed, so this is
/// said before.
template <class Dialog>
void when_it_stands(std::function<void(Dialog &)> answer) {
    auto *look = new QTimer(qApp);
    auto *since = new QElapsedTimer;
    since->start();
    QObject::connect(look, &QTimer::timeout, look, [look, since, answer = std::move(answer)] {
        auto *modal = QApplication::activeModalWidget();
        auto *popup = QApplication::activePopupWidget();
        auto *dialog = qobject_cast<Dialog *>(popup != nullptr ? popup : modal);
        const bool stands = dialog != nullptr && dialog->isVisible() &&
                            (popup != nullptr || QGuiApplication::focusWindow() == dialog->windowHandle());
        if (!stands && since->elapsed() < 10'000)
            return;
        look->stop();
        look->deleteLater();
        delete since;
        if (stands)
            return answer(*dialog);
        ADD_FAILURE() << "it never stood";
        for (auto *open : {modal, popup})
            if (open != nullptr)
                open->close();
    });
    look->start(20);
}

/// Whether there is more on a picture than an empty page.
inline bool shows_something(const QImage &image) {
    std::set<QRgb> colours;
    for (int y = 0; y < image.height(); y += 3)
        for (int x = 0; x < image.width(); x += 3)
            colours.insert(image.pixel(x, y));
    return colours.size() > 8;
}

/// heron-sounder in a process of its own, on free ports.
class SounderProcess {
  public:
    explicit SounderProcess(const QStringList &more = {}, const std::string &scene = lake()) {
        process_.setProgram(QString::fromStdString(program("heron-sounder")));
        process_.setArguments(QStringList{QString::fromStdString(scene), QStringLiteral("--port"),
                                          QStringLiteral("0"), QStringLiteral("--nmea-port"),
                                          QStringLiteral("0")} +
                              more);
        process_.start();
        QString said;
        wait_for([&] {
            said += QString::fromUtf8(process_.readAllStandardOutput());
            return said.contains(QLatin1Char('\n'));
        });
        const auto words = said.split(QLatin1Char(' '), Qt::SkipEmptyParts);
        // "pings on 1, NMEA 0183 on 2", and ", head on 3" where it has one.
        const auto port = [&](int i) { return words[i].trimmed().remove(QLatin1Char(',')).toUShort(); };
        if (words.size() >= 7)
            sources = {source(app::SourceConfig::Kind::sounder, port(2)),
                       source(app::SourceConfig::Kind::nmea, port(6))};
        if (words.size() >= 10)
            sources.push_back(source(app::SourceConfig::Kind::sounder, port(9)));
    }
    ~SounderProcess() { kill(); }
    void kill() {
        process_.kill();
        process_.waitForFinished(5000);
    }
    std::vector<app::SourceConfig> sources;

  private:
    QProcess process_;
};

class Stage : public testing::Test {
  protected:
    Folder folder;
    std::unique_ptr<app::Program> program;
    std::unique_ptr<app::MainWindow> window;

    void SetUp() override {
        // No test finds the preferences of another.
        QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope,
                           QString::fromStdString(folder.file("preferences")));
        open();
    }
    void TearDown() override { close(); }
    void close() {
        window.reset();
        program.reset();
    }
    /// The program as it starts, with the marks that the folder already holds.
    void open() {
        close();
        program = std::make_unique<app::Program>();
        session().trip.setFolder(QString::fromStdString(folder.file("trips")));
        window = std::make_unique<app::MainWindow>(*program, app::allPlaces());
        marks().open(QString::fromStdString(folder.file("marks.gpkg")));
        program->reader.openCorrections(QString::fromStdString(folder.file("corrections.json")));
        session().sayCaution();
        show(*window);
    }
    static void show(app::MainWindow &w) {
        w.show();
        ASSERT_TRUE(QTest::qWaitForWindowExposed(&w));
        w.activateWindow();
        QApplication::setActiveWindow(&w);
    }

    app::Session &session() { return program->session; }
    app::MarkLibrary &marks() { return program->marks; }
    app::WindowState &state() { return window->state(); }
    app::PictureView &picture() { return window->view<app::ScanView>().picture(); }
    app::ScanPanel &panel() { return window->view<app::ScanView>().panel(); }
    /// What the window says now: the fault that stands, and the last word.
    QString notice() {
        return QStringList{window->notice().isVisible() ? window->notice().text() : QString(),
                           window->status().word()}
            .join(QLatin1Char(' '))
            .trimmed();
    }
    const Scan &scan() { return session().shown.scan(); }

    void key(int code, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
        auto *to = QApplication::focusWidget();
        QTest::keyClick(to != nullptr ? to : window.get(), static_cast<Qt::Key>(code), modifiers);
    }
    template <class Widget = QWidget>
    Widget *find(const char *name) {
        // Two places may have a control of one name: the one on the screen is meant.
        Widget *w = nullptr;
        for (auto *each : window->findChildren<Widget *>(QString::fromLatin1(name)))
            if (w == nullptr || each->isVisible())
                w = each;
        EXPECT_NE(w, nullptr) << name;
        return w;
    }
    void press(const char *name) {
        if (auto *w = find(name))
            QTest::mouseClick(w, Qt::LeftButton);
    }
    /// Points and drags on the picture, in metres along the sound.
    QPoint on_picture(std::size_t row, Side side, double slant_m) {
        return picture().positionOf(row, side, slant_m).toPoint();
    }
    void drag(QPoint from, QPoint to) {
        QTest::mousePress(&picture(), Qt::LeftButton, Qt::NoModifier, from);
        QTest::mouseMove(&picture(), (from + to) / 2);
        QTest::mouseMove(&picture(), to);
        QTest::mouseRelease(&picture(), Qt::LeftButton, Qt::NoModifier, to);
    }
    /// One figure of the read-out beside the picture.
    QString readout(const QString &label) {
        for (const auto &l : panel().reading().lines())
            if (l.label == label)
                return l.figure + QLatin1Char(' ') + l.rest;
        return {};
    }
    /// Waits until the trip is kept, and answers what is asked at its beginning.
    void skip_conditions() {
        if (wait_for([&] { return panel().conditions().asking(); }, 5000))
            press("skipConditions");
    }
    bool rows(std::size_t n, int ms = 20000) {
        return wait_for([&] { return scan().end() >= n; }, ms);
    }
    /// A trip, opened beside the window.
    void open_trip(const std::string &path) {
        QSignalSpy opened(&session().sources, &app::Sources::opened);
        session().sources.openTrip(QString::fromStdString(path));
        ASSERT_TRUE(wait_for([&] { return !opened.empty(); })) << notice().toStdString();
    }
    /// The sample, played to its end at once.
    void play_sample() {
        session().playback.setSpeed(1000);
        session().sources.openRecording(QString::fromStdString(sample()));
        ASSERT_TRUE(wait_for([&] {
            return session().sources.source() == app::Sources::Source::recording &&
                   session().sources.flow() == app::Sources::Flow::ended && scan().end() == 667;
        }));
    }
};

} // namespace heron::test
