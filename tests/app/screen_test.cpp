// A unit's screen: opened, suggested, put right by hand, read; a film by a process of its own.
#include "kit/item_list.hpp"
#include "kit/key_button.hpp"
#include "link/messages.hpp"
#include "recording/recording.hpp"
#include "screens.hpp"
#include "sim/circle_screen.hpp"
#include "stage.hpp"
#include "views/read/read_view.hpp"
#include "views/screen/screen_view.hpp"

#include <QClipboard>
#include <QFileDialog>
#include <QMimeData>
#include <QProcess>
#include <QSettings>
#include <QTcpSocket>
#include <QTreeView>

using namespace heron;
using namespace heron::app;

namespace {

class Screen : public test::Stage {
  protected:
    void SetUp() override {
        QSettings().clear();
        Stage::SetUp();
        window->resize(1280, 800);
        window->go(place::screen);
    }
    ScreenView &screen() { return window->view<ScreenView>(); }
    // A picture of the demo lake, and its true calibration.
    QString picture(const char *name, int layout, ScreenCalibration &truth, int rows = 900) {
        sim::ScreenOptions o;
        o.layout = layout;
        sim::SimulatedScreen unit(test::heard_on_ellemoor(), o);
        unit.advance(rows);
        truth = unit.calibration();
        const auto file = folder.file(name);
        EXPECT_TRUE(sim::write_picture(unit.shown(), file));
        return QString::fromStdString(file);
    }
    void drag(const QPointF &from, const QPointF &to) {
        QTest::mousePress(&screen(), Qt::LeftButton, {}, from.toPoint());
        QTest::mouseMove(&screen(), ((from + to) / 2).toPoint());
        QTest::mouseMove(&screen(), to.toPoint());
        QTest::mouseRelease(&screen(), Qt::LeftButton, {}, to.toPoint());
    }
};

} // namespace

TEST_F(Screen, APictureIsSuggestedPutRightAndReadLikeARecording) {
    ScreenCalibration truth;
    const auto file = picture("unit.png", 0, truth);
    EXPECT_TRUE(ScreenView::takes(file));
    screen().open(file);
    const auto &c = screen().calibration();
    EXPECT_EQ(c.newest, NewestAt::top);
    EXPECT_NEAR(c.corners[0].y, truth.corners[0].y, 4);
    EXPECT_NEAR(c.corners[0].x + c.middle * (c.corners[1].x - c.corners[0].x), 470, 6);
    // A corner is pulled to where it belongs, and so is the middle.
    drag(screen().toView(c.corners[1]), screen().toView(truth.corners[1]));
    EXPECT_NEAR(c.corners[1].x, truth.corners[1].x, 1.5);
    const Pixel line{c.corners[0].x + c.middle * (c.corners[1].x - c.corners[0].x), 400};
    drag(screen().toView(line), screen().toView({470, 400}));
    EXPECT_NEAR(c.middle, 0.5, 0.006);
    // Range, scale along the track, depth, by keys.
    EXPECT_FALSE(find<KeyButton>("readScreen")->isEnabled()) << "nobody said the range";
    const double range = c.range_m;
    press("screenRangeMore");
    EXPECT_TRUE(find<KeyButton>("readScreen")->isEnabled());
    EXPECT_GT(c.range_m, range);
    while (c.range_m > 26.5)
        press("screenRangeLess");
    EXPECT_EQ(c.along_m, 0);
    for (int i = 0; i < 7; ++i)
        press("screenAlongMore");
    EXPECT_NEAR(c.along_m, 0.07, 1e-9);
    EXPECT_FALSE(c.depth_m);
    press("screenDepthMore");
    EXPECT_TRUE(c.depth_m);
    press("screenDepthLess");
    EXPECT_FALSE(c.depth_m);
    press("readScreen");
    ASSERT_TRUE(test::wait_for([&] { return session().sources.source() == Sources::Source::recording; }));
    EXPECT_EQ(window->current(), place::scan);
    ASSERT_TRUE(test::wait_for([&] { return session().shown.end() > 600; }));
    // The reader finds what stands there.
    ASSERT_TRUE(test::wait_for([&] { return program->reader.contacts().size() > 3; }));
}

// A circle is seen by its shape; the ball at its rim is pulled to where the bow is; it is read and shown in
// Around.
TEST_F(Screen, ACircleIsSeenTurnedAndShownAround) {
    auto scene = sim::read_scene_file(HERON_LAKES "/ellemoor.json");
    ASSERT_TRUE(scene);
    const auto heard = sim::hear_turns(std::move(*scene), 18, 220);
    sim::CircleScreen as;
    as.bow_deg = 90;
    const auto file = folder.file("circle.png");
    ASSERT_TRUE(sim::write_picture(sim::circle_screen(heard.rays, sim::screen_colours(2, false), as), file));
    screen().open(QString::fromStdString(file));
    const auto &c = screen().calibration();
    ASSERT_TRUE(c.circle_bow_deg) << "its shape tells it";
    EXPECT_NEAR(c.corners[0].x, as.margin, 0.01 * as.size);
    EXPECT_FALSE(find<KeyButton>("swapSides")->isVisible());
    const double middle = as.size / 2.0, rim = middle - as.margin;
    drag(screen().toView({middle, as.margin + 1.0}), screen().toView({middle + rim, middle}));
    EXPECT_NEAR(*c.circle_bow_deg, 90, 2);
    // A circle or none is also said by hand.
    key(Qt::Key_C);
    EXPECT_FALSE(c.circle_bow_deg);
    EXPECT_TRUE(find<KeyButton>("swapSides")->isVisible());
    key(Qt::Key_C);
    ASSERT_TRUE(c.circle_bow_deg);
    press("screenRangeMore");
    press("readScreen");
    ASSERT_TRUE(test::wait_for([&] { return session().sources.source() == Sources::Source::recording; }));
    EXPECT_EQ(window->current(), place::around);
}

// Without the way from row to row heights stand and lengths are refused, in the window as anywhere.
TEST_F(Screen, LengthsAreRefusedWhereTheWayIsNotKnown) {
    ScreenCalibration truth;
    screen().open(picture("unit.png", 0, truth));
    press("screenRangeMore");
    ASSERT_EQ(screen().calibration().along_m, 0);
    press("readScreen");
    ASSERT_TRUE(test::wait_for([&] { return program->reader.contacts().size() > 3; }));
    std::size_t tall = 0;
    for (const auto &c : program->reader.contacts()) {
        EXPECT_FALSE(c.length_m) << name_of(c.kind);
        EXPECT_FALSE(c.width_m);
        tall += c.height_m.has_value();
    }
    EXPECT_GT(tall, 2u);
}

TEST_F(Screen, TheNextScreenOfThatSizeNeedsOnePress) {
    ScreenCalibration truth;
    const auto file = picture("first.png", 4, truth);
    screen().open(file);
    press("newest2");
    press("screenRangeMore");
    press("swapSides");
    press("screenAlongMore");
    press("readScreen");
    ASSERT_TRUE(test::wait_for([&] { return session().sources.source() == Sources::Source::recording; }));
    const auto kept = screen().calibration();
    EXPECT_EQ(kept.newest, NewestAt::left);
    open();
    window->go(place::screen);
    screen().open(picture("second.png", 4, truth, 500));
    EXPECT_EQ(screen().calibration(), kept);
}

TEST_F(Screen, WhatIsNoPictureIsToldAndNothingChanges) {
    const auto file = QString::fromStdString(folder.file("cat.png"));
    QFile out(file);
    ASSERT_TRUE(out.open(QIODevice::WriteOnly));
    out.write("not a picture");
    out.close();
    screen().open(file);
    ASSERT_NE(session().notices.first(), nullptr);
    EXPECT_NE(session().notices.first()->fault.line().find("cat.png"), std::string::npos);
    EXPECT_FALSE(find<KeyButton>("readScreen")->isEnabled());
}

TEST_F(Screen, APhotographIsChosenWithAPressAndItsPanelFound) {
    sim::ScreenOptions o;
    o.layout = 3;
    sim::SimulatedScreen unit(test::heard_on_ellemoor(), o);
    unit.advance(900);
    auto truth = unit.calibration();
    const auto photograph = sim::photographed(unit.shown(), truth.corners, 4);
    const auto file = folder.file("photograph.png");
    ASSERT_TRUE(sim::write_picture(photograph, file));
    test::when_it_stands<QFileDialog>([&](QFileDialog &dialog) {
        // Aimed at with gloves.
        const auto *list = dialog.findChild<QTreeView *>();
        ASSERT_NE(list, nullptr);
        dialog.setDirectory(QString::fromStdString(std::filesystem::path(file).parent_path().string()));
        EXPECT_TRUE(test::wait_for([&] {
            return list->model()->rowCount(list->rootIndex()) > 0 &&
                   list->visualRect(list->model()->index(0, 0, list->rootIndex())).height() >= 44;
        }));
        auto *name = dialog.findChild<QLineEdit *>(QStringLiteral("fileNameEdit"));
        ASSERT_NE(name, nullptr);
        QTest::keyClicks(name, QString::fromStdString(file));
        QTest::keyClick(name, Qt::Key_Return);
    });
    QTest::mouseClick(&screen(), Qt::LeftButton, {}, QPoint(400, 300));
    const auto &c = screen().calibration();
    ASSERT_EQ(c.width, photograph.width);
    for (std::size_t i = 0; i < 4; ++i) {
        EXPECT_NEAR(c.corners[i].x, truth.corners[i].x, 5);
        EXPECT_NEAR(c.corners[i].y, truth.corners[i].y, 5);
    }
    EXPECT_TRUE(find<KeyButton>("byHand")->isChecked());
}

// No camera stands twice in one place.
TEST_F(Screen, TheNextPhotographKeepsAllButItsCorners) {
    sim::ScreenOptions o;
    o.layout = 3;
    sim::SimulatedScreen unit(test::heard_on_ellemoor(), o);
    unit.advance(900);
    std::array<Pixel, 4> corners;
    const auto taken = [&](const char *name, unsigned shake) {
        corners = unit.calibration().corners;
        const auto file = folder.file(name);
        EXPECT_TRUE(sim::write_picture(sim::photographed(unit.shown(), corners, shake), file));
        return QString::fromStdString(file);
    };
    screen().open(taken("first.png", 4));
    press("screenRangeMore");
    press("swapSides");
    press("readScreen");
    ASSERT_TRUE(test::wait_for([&] { return session().sources.source() == Sources::Source::recording; }));
    const auto kept = screen().calibration();
    open();
    window->go(place::screen);
    screen().open(taken("second.png", 9));
    const auto &c = screen().calibration();
    EXPECT_EQ(c.range_m, kept.range_m);
    EXPECT_TRUE(c.swap_sides);
    for (std::size_t i = 0; i < 4; ++i) {
        EXPECT_NEAR(c.corners[i].x, corners[i].x, 5);
        EXPECT_NEAR(c.corners[i].y, corners[i].y, 5);
    }
    EXPECT_TRUE(find<KeyButton>("readScreen")->isEnabled());
}

TEST_F(Screen, AFilmIsTakenApartBesideTheWindow) {
    const auto film = folder.file("unit.avi");
    const auto made = test::run(std::string(HERON_BIN) + "/heron-screens " HERON_LAKES "/ellemoor.json " +
                                film + " --layout 4 --rows 420 --scroll 6 --pictures 40 --rate 3");
    ASSERT_EQ(made.code, 0) << made.out;
    screen().open(QString::fromStdString(film));
    EXPECT_TRUE(screen().isFilm());
    // At which end new rows come in is seen by how it scrolls.
    ASSERT_TRUE(test::wait_for([&] { return find<QAbstractButton>("newest2")->isChecked(); }));
    press("screenRangeMore");
    press("readScreen");
    ASSERT_TRUE(
        test::wait_for([&] { return session().sources.source() == Sources::Source::recording; }, 60000))
        << (session().notices.first() ? session().notices.first()->fault.line() : "");
    ASSERT_TRUE(test::wait_for([&] { return session().shown.end() > 200; }));
}

// What a device shows comes as a sounder's rows do, until one presses again; the trip keeps them. A film
// stands in for the device: a process of its own looks at either.
TEST_F(Screen, ADeviceSoundsUntilOnePressesAgain) {
    if (!std::filesystem::exists("/dev/video0")) {
        press("liveScreen");
        EXPECT_TRUE(notice().contains(QStringLiteral("no video device"))) << notice().toStdString();
    }
    const auto film = folder.file("unit.avi");
    const auto made = test::run(std::string(HERON_BIN) + "/heron-screens " HERON_LAKES "/ellemoor.json " +
                                film + " --layout 4 --rows 420 --scroll 6 --pictures 400 --rate 20");
    ASSERT_EQ(made.code, 0) << made.out;
    screen().openDevice(QString::fromStdString(film));
    EXPECT_TRUE(screen().isDevice());
    press("newest2");
    press("screenRangeMore");
    const double range = screen().calibration().range_m;
    press("readScreen");
    ASSERT_TRUE(screen().reading());
    ASSERT_TRUE(test::wait_for([&] { return session().sources.live(); }, 30000))
        << (session().notices.first() ? session().notices.first()->fault.line() : "");
    EXPECT_EQ(window->current(), place::scan);
    ASSERT_TRUE(test::wait_for([&] { return session().shown.end() > 150; }, 60000));
    EXPECT_NEAR(session().sounder.settings().range_m, range, 1e-3);
    EXPECT_FALSE(find<KeyButton>("gainMore")->isEnabled()) << "its own keys set it";
    auto other = session().sounder.settings();
    other.range_m += 5;
    session().sounder.ask(other);
    EXPECT_TRUE(notice().contains(QStringLiteral("by its own keys"))) << notice().toStdString();
    ASSERT_TRUE(session().trip.keeping());
    const auto trip = session().trip.path();
    window->go(place::screen);
    if (screen().reading())
        press("readScreen");
    ASSERT_TRUE(test::wait_for([&] { return session().sources.source() == Sources::Source::trip; }, 60000))
        << (session().notices.first() ? session().notices.first()->fault.line() : "");
    EXPECT_EQ(session().trip.path(), trip);
    EXPECT_FALSE(screen().reading());
    EXPECT_GT(session().shown.end(), 150u);
}

TEST_F(Screen, ADeviceThatIsPulledOutIsToldAndItsTripIsKept) {
    const auto film = folder.file("short.avi");
    const auto made = test::run(std::string(HERON_BIN) + "/heron-screens " HERON_LAKES "/ellemoor.json " +
                                film + " --layout 4 --rows 420 --scroll 6 --pictures 60 --rate 20");
    ASSERT_EQ(made.code, 0) << made.out;
    screen().openDevice(QString::fromStdString(film));
    press("newest2");
    press("screenRangeMore");
    press("readScreen");
    ASSERT_TRUE(test::wait_for([&] { return session().sources.live(); }, 30000));
    ASSERT_TRUE(test::wait_for([&] { return session().sources.source() == Sources::Source::trip; }, 60000));
    EXPECT_FALSE(screen().reading());
    EXPECT_TRUE(notice().contains(QStringLiteral("tells no more"))) << notice().toStdString();
    EXPECT_GT(session().shown.end(), 100u);
}

// Whoever listens to a film hears, ping for ping, what its recording holds; a word of his changes nothing.
TEST_F(Screen, ListeningToAFilmHearsWhatItsRecordingHolds) {
    const auto film = folder.file("unit.avi"), calibration = folder.file("c.json"),
               recording = folder.file("r.nc");
    ASSERT_EQ(test::run(std::string(HERON_BIN) + "/heron-screens " HERON_LAKES "/ellemoor.json " + film +
                        " --layout 0 --rows 500 --scroll 5 --pictures 60 --rate 20 --calibration " +
                        calibration)
                  .code,
              0);
    ASSERT_EQ(test::run(std::string(HERON_BIN) + "/heron film " + film + " --calibration " + calibration +
                        " --recording " + recording)
                  .code,
              0);
    const auto held = read_recording(recording);
    ASSERT_TRUE(held) << held.error().line();
    QProcess process;
    process.start(QStringLiteral(HERON_BIN "/heron"),
                  {QStringLiteral("film"), QString::fromStdString(film), QStringLiteral("--calibration"),
                   QString::fromStdString(calibration), QStringLiteral("--sounder"), QStringLiteral("0"),
                   QStringLiteral("--speed-up"), QStringLiteral("50")});
    ASSERT_TRUE(test::wait_for([&] { return process.canReadLine(); }, 20000));
    const auto words = QString::fromLatin1(process.readLine()).split(QLatin1Char(' '));
    QTcpSocket socket;
    socket.connectToHost(QStringLiteral("127.0.0.1"), QString(words[2]).remove(QLatin1Char(',')).toUShort());
    ASSERT_TRUE(socket.waitForConnected(5000));
    const auto request = encode_frame(FrameType::request, encode_settings({}));
    socket.write(reinterpret_cast<const char *>(request.data()), static_cast<qint64>(request.size()));
    FrameReader frames;
    std::vector<WirePing> heard;
    ASSERT_TRUE(test::wait_for(
        [&] {
            const auto bytes = socket.readAll();
            frames.push({reinterpret_cast<const std::uint8_t *>(bytes.constData()),
                         static_cast<std::size_t>(bytes.size())});
            while (const auto f = frames.next())
                if (f->type == FrameType::ping)
                    if (auto ping = decode_ping(f->payload))
                        heard.push_back(std::move(*ping));
            return process.state() == QProcess::NotRunning && socket.bytesAvailable() == 0;
        },
        60000));
    EXPECT_EQ(process.exitCode(), 0) << process.readAllStandardError().toStdString();
    ASSERT_EQ(heard.size(), held->pings.size());
    for (std::size_t i = 0; i < heard.size(); ++i) {
        ASSERT_EQ(heard[i].number, i + 1);
        ASSERT_NEAR(heard[i].ping.sample_interval_s, held->pings[i].sample_interval_s, 1e-12);
        ASSERT_EQ(heard[i].ping.beams.size(), held->pings[i].beams.size());
        for (std::size_t b = 0; b < heard[i].ping.beams.size(); ++b)
            ASSERT_EQ(heard[i].ping.beams[b].code, held->pings[i].beams[b].code) << i;
    }
}

TEST_F(Screen, EveryKeyIsWholeInBothWindowsSizes) {
    ScreenCalibration truth;
    screen().open(picture("keys.png", 1, truth, 700));
    for (const auto size : {QSize(1024, 680), QSize(1920, 1080)}) {
        window->resize(size);
        QTest::qWait(50);
        for (auto *key : screen().findChildren<KeyButton *>()) {
            EXPECT_TRUE(key->wordFits()) << key->objectName().toStdString();
            EXPECT_TRUE(screen().rect().contains(key->geometry())) << key->objectName().toStdString();
            EXPECT_GE(key->height(), 44);
        }
    }
}

TEST_F(Screen, APictureThatWasCopiedElsewhereIsTakenAndKept) {
    QGuiApplication::clipboard()->clear();
    press("pasteScreen");
    EXPECT_TRUE(notice().contains(QStringLiteral("No picture was copied"))) << notice().toStdString();
    ScreenCalibration truth;
    const auto file = picture("unit.png", 1, truth);
    QGuiApplication::clipboard()->setImage(QImage(file));
    key(Qt::Key_V, Qt::ControlModifier);
    ASSERT_TRUE(test::wait_for([&] { return !(screen().calibration() == ScreenCalibration()); }, 5000))
        << notice().toStdString();
    EXPECT_TRUE(test::shows_something(screen().grab().toImage()));
}

// A box is drawn round a figure, read at once, kept for the next screen, and taken away by a press in it.
TEST_F(Screen, FiguresOnAScreenAreBoxedAndRead) {
    sim::SimulatedScreen unit(test::heard_on_ellemoor(), {});
    unit.advance(760);
    const auto file = folder.file("s.png");
    ASSERT_TRUE(sim::write_picture(unit.shown(), file));
    screen().open(QString::fromStdString(file));
    const auto drag = [&](Pixel from, Pixel to) {
        QTest::mousePress(&screen(), Qt::LeftButton, Qt::NoModifier, screen().toView(from).toPoint());
        QTest::mouseMove(&screen(), screen().toView(to).toPoint());
        QTest::mouseRelease(&screen(), Qt::LeftButton, Qt::NoModifier, screen().toView(to).toPoint());
    };
    const auto corners = screen().calibration().corners;
    press("screenFigures");
    drag({10, 28}, {150, 58});
    ASSERT_EQ(screen().calibration().figures.size(), 1u);
    EXPECT_EQ(screen().calibration().figures[0].of, FigureBox::Of::depth);
    press("screenFigures");
    drag({160, 28}, {300, 58});
    ASSERT_EQ(screen().calibration().figures.size(), 2u);
    EXPECT_EQ(screen().calibration().figures[1].of, FigureBox::Of::speed);
    EXPECT_EQ(screen().calibration().corners, corners) << "no corner was pulled meanwhile";
    EXPECT_TRUE(test::shows_something(screen().grab().toImage()));
    drag({220, 40}, {221, 41});
    EXPECT_EQ(screen().calibration().figures.size(), 1u) << "a press takes its box away";
    for (int i = 0; i < 4; ++i)
        press("screenFigures");
    const auto *key = find("screenFigures");
    EXPECT_FALSE(key->property("checked").toBool()) << "after the range none is drawn any more";
    EXPECT_FALSE(find("screenTrack")->isEnabled()) << "a picture has one time: no track";
}

// What was read stays: with its recording, its calibration and a small picture, also when the original is
// gone.
TEST_F(Screen, WhatWasReadIsKeptAndLookedAtAgain) {
    ScreenCalibration truth;
    const auto file = picture("first.png", 0, truth, 760);
    screen().open(file);
    press("screenRangeMore");
    press("screenAlongMore");
    const auto as_read = screen().calibration();
    press("readScreen");
    ASSERT_TRUE(test::wait_for([&] { return session().shown.end() > 600; }));
    window->go(place::screen);
    screen().open(picture("second.png", 1, truth, 760));
    EXPECT_FALSE(screen().calibration() == as_read);
    key(Qt::Key_B);
    auto *list = find<ItemList>("keptList");
    ASSERT_TRUE(list->isVisible());
    ASSERT_GE(list->model()->rowCount(), 1);
    EXPECT_TRUE(list->model()->index(0, 0).data().toString().startsWith(QStringLiteral("first.png")));
    EXPECT_TRUE(test::shows_something(screen().grab().toImage()));
    press("readScreen");
    EXPECT_EQ(window->current(), place::scan);
    EXPECT_TRUE(screen().calibration() == as_read) << "as it was read";
    ASSERT_TRUE(test::wait_for([&] { return session().shown.end() > 600; }));
    // Without its original what was read of it still stands.
    ASSERT_TRUE(QFile::remove(file));
    window->go(place::screen);
    key(Qt::Key_B);
    ASSERT_TRUE(list->isVisible());
    EXPECT_TRUE(
        list->model()->index(0, 0).data(subtitle_role).toString().contains(QStringLiteral("no longer")));
    QTest::keyClick(list, Qt::Key_Return);
    ASSERT_TRUE(test::wait_for([&] { return window->current() == place::scan; }));
    ASSERT_TRUE(test::wait_for([&] { return session().shown.end() > 600; }));
}
