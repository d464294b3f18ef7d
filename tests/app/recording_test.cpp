// Recordings in the window: the sample of another making, and files that are damaged.
#include "stage.hpp"

#include <QFileDialog>
#include <QLineEdit>
#include <QMenu>
#include <QTimer>

using namespace heron;
using namespace heron::app;

using RecordingInWindow = test::Stage;

TEST_F(RecordingInWindow, OpensThroughMenuAndDialog) {
    session().playback.setSpeed(1000);
    test::when_it_stands<QMenu>([](QMenu &menu) {
        test::when_it_stands<QFileDialog>([](QFileDialog &dialog) {
            auto *edit = dialog.findChild<QLineEdit *>(QStringLiteral("fileNameEdit"));
            ASSERT_NE(edit, nullptr);
            QTest::keyClicks(edit, QString::fromStdString(test::sample()));
            QTest::keyClick(edit, Qt::Key_Return);
        });
        QTest::keyClick(&menu, Qt::Key_Down);
        QTest::keyClick(&menu, Qt::Key_Return);
    });
    key(Qt::Key_O);
    ASSERT_TRUE(test::wait_for([&] { return session().sources.flow() == Sources::Flow::ended; }));
    EXPECT_EQ(scan().end(), 667u);
    EXPECT_NEAR(picture().range(), 22, 0.3);
}

// The sample tells a gain of 20 dB, which is no part of what is shown: the bottom lies in the middle of the
// scale.
TEST_F(RecordingInWindow, ThePictureOfTheSampleIsNeitherDarkNorPale) {
    play_sample();
    ASSERT_GT(std::fabs(scan().ping(300).beams.front().gain_db), 10);
    picture().goTo(300);
    ASSERT_TRUE(test::wait_for([&] { return !picture().grab().isNull(); }));
    const auto image = picture().grab().toImage();
    const auto &map = Theme::instance().map().table();
    std::vector<std::size_t> levels;
    for (int y = image.height() / 4; y < 3 * image.height() / 4; y += 3)
        for (int x = image.width() / 20; x < image.width() / 4; x += 3) {
            const auto found = std::find(map.begin(), map.end(), image.pixel(x, y));
            if (found != map.end())
                levels.push_back(static_cast<std::size_t>(found - map.begin()));
        }
    ASSERT_GT(levels.size(), 1000u);
    std::nth_element(levels.begin(), levels.begin() + std::ssize(levels) / 2, levels.end());
    EXPECT_GT(levels[levels.size() / 2], 80u);
    EXPECT_LT(levels[levels.size() / 2], 200u);
}

// The tree of the sample is 2.057 m high by its truth file; the handles stand where the eye puts them.
TEST_F(RecordingInWindow, AThingOfTheSampleIsMeasuredOnThePicture) {
    play_sample();
    picture().goTo(300);
    key(Qt::Key_D);
    const auto &ping = scan().ping(157);
    drag(on_picture(157, Side::port, ping.slant_m(503)), on_picture(157, Side::port, ping.slant_m(845)));
    const auto m = panel().reading().measurement();
    ASSERT_TRUE(m);
    EXPECT_NEAR(m->shadow.height_m.value, 2.057, 0.15 * 2.057);
    EXPECT_TRUE(readout(QStringLiteral("Height")).contains(QStringLiteral("±")));
}

TEST_F(RecordingInWindow, DamagedAndForeignFilesAreToldAndThePictureStays) {
    play_sample();
    const auto good = test::contents(test::sample());
    const std::pair<std::string, std::string> files[] = {{"empty.nc", ""},
                                                         {"foreign.nc", std::string(5000, 'x')},
                                                         {"cut.nc", good.substr(0, good.size() / 3)},
                                                         {"absent.nc", "absent"}};
    for (const auto &[name, bytes] : files) {
        const auto path = folder.file(name);
        if (bytes != "absent")
            std::ofstream(path, std::ios::binary) << bytes;
        session().sources.openRecording(QString::fromStdString(path));
        ASSERT_TRUE(test::wait_for([&] { return notice().contains(QString::fromStdString(name)); })) << name;
        EXPECT_TRUE(notice().contains(QStringLiteral("are as they were"))) << notice().toStdString();
        EXPECT_EQ(scan().end(), 667u);
        QTest::mouseClick(&window->notice(), Qt::LeftButton); // put away
        EXPECT_FALSE(window->notice().isVisible());
    }
}

TEST_F(RecordingInWindow, WithoutPositionsThingsAreMeasuredAndThePlaceIsSaidToBeUnknown) {
    ASSERT_EQ(
        test::run("/usr/bin/python3 " HERON_TESTS "/core/recording/make_variants.py " + folder.file("."))
            .code,
        0);
    session().playback.setSpeed(1000);
    session().sources.openRecording(QString::fromStdString(folder.file("no-position.nc")));
    ASSERT_TRUE(test::wait_for([&] { return session().sources.flow() == Sources::Flow::ended; }));
    EXPECT_TRUE(notice().contains(QStringLiteral("no positions"))) << notice().toStdString();
    picture().goTo(scan().end() - 1);
    key(Qt::Key_D);
    const auto row = scan().end() - 20;
    const double range = picture().range();
    drag(on_picture(row, Side::port, range * 0.6), on_picture(row, Side::port, range * 0.75));
    ASSERT_TRUE(panel().reading().measurement());
    bool told = false;
    for (const auto &l : panel().reading().lines())
        told = told || l.label.contains(QStringLiteral("place unknown"));
    EXPECT_TRUE(told);
    key(Qt::Key_X);
    ASSERT_EQ(marks().all().size(), 1u);
    EXPECT_FALSE(marks().all()[0].place);
    EXPECT_TRUE(marks().all()[0].height_m);
}

TEST_F(RecordingInWindow, JumpsAnywhereByTheTripStripAndTheWheel) {
    play_sample();
    auto *strip = window->view<ScanView>().findChild<QWidget *>(QStringLiteral("trip"));
    ASSERT_NE(strip, nullptr);
    QTest::mouseClick(strip, Qt::LeftButton, Qt::NoModifier, {strip->width() / 2, strip->height() - 4});
    EXPECT_LT(picture().topRow(), 660u);
    EXPECT_TRUE(picture().frozen());
    key(Qt::Key_Home);
    EXPECT_EQ(picture().topRow(), 666u);
}
