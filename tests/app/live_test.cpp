// The main job on a live sounder: picture, settings, freeze, read-out, measure, marks.
#include "stage.hpp"

#include "exchange/gpx.hpp"

#include <QFileDialog>
#include <QLineEdit>
#include <QTimer>

using namespace heron;
using namespace heron::app;

namespace {

class Live : public test::Stage {
  protected:
    test::SounderProcess sounder{{QStringLiteral("--speed-up"), QStringLiteral("4")}};
    void SetUp() override {
        Stage::SetUp();
        ASSERT_EQ(sounder.sources.size(), 2u);
        session().sources.listenTo(sounder.sources);
        ASSERT_TRUE(rows(120));
    }
};

} // namespace

TEST_F(Live, ThePictureScrollsWithNoSettingTouched) {
    EXPECT_EQ(session().sources.flow(), Sources::Flow::flowing);
    EXPECT_EQ(picture().topRow(), scan().end() - 1);
    const auto image = picture().grab().toImage();
    // Not one colour, and the strip of water in the middle darker than the bottom aside.
    double middle = 0, aside = 0;
    for (int y = 10; y < 90; ++y) {
        middle += qGray(image.pixel(image.width() / 2 + 25, y));
        aside += qGray(image.pixel(image.width() * 3 / 4, y));
    }
    EXPECT_GT(aside, middle * 1.5);
    EXPECT_TRUE(session().shown.speedNow());
    EXPECT_TRUE(session().shown.headingNow());
    EXPECT_NEAR(*session().shown.speedNow(), 1.4, 0.6);
}

TEST_F(Live, KeysSetRangeBandAndGainOnTheSounder) {
    const auto before = session().sounder.settings();
    key(Qt::Key_BracketRight);
    ASSERT_TRUE(test::wait_for([&] { return session().sounder.settings().range_m > before.range_m; }));
    ASSERT_TRUE(test::wait_for([&] {
        return std::fabs(static_cast<double>(scan().newest().range_m) -
                         session().sounder.settings().range_m) < 0.5;
    }));
    key(Qt::Key_B);
    ASSERT_TRUE(
        test::wait_for([&] { return session().sounder.settings().frequency_hz != before.frequency_hz; }));
    ASSERT_TRUE(test::wait_for([&] {
        return scan().ping(scan().end() - 1).frequency_hz == session().sounder.settings().frequency_hz;
    }));
    press("gainMore");
    ASSERT_TRUE(test::wait_for([&] { return session().sounder.settings().gain > before.gain; }));
    key(Qt::Key_P); // rest
    ASSERT_TRUE(test::wait_for([&] { return !session().sounder.settings().pinging; }));
    // What was under way when it was told still comes; then nothing for as long as a dozen pings would take.
    QElapsedTimer quiet;
    auto until = scan().end();
    quiet.start();
    ASSERT_TRUE(test::wait_for([&] {
        if (scan().end() != until) {
            until = scan().end();
            quiet.restart();
        }
        return quiet.elapsed() > 600;
    }));
    key(Qt::Key_P);
    EXPECT_TRUE(rows(until + 20));
}

TEST_F(Live, FrozenThePictureStandsWhilePingsComeIn) {
    key(Qt::Key_F);
    ASSERT_TRUE(picture().frozen());
    const auto top = picture().topRow(), end = scan().end();
    ASSERT_TRUE(rows(end + 40));
    EXPECT_EQ(picture().topRow(), top);
    EXPECT_GE(picture().rowsWaiting(), 40u);
    key(Qt::Key_F);
    EXPECT_EQ(picture().topRow(), scan().end() - 1);
}

TEST_F(Live, TheCursorReadsOutSideDistancesDepthAndTheWayBack) {
    key(Qt::Key_F);
    const auto row = picture().topRow() - 60;
    QTest::mouseMove(&picture(), on_picture(row, Side::port, 15));
    ASSERT_TRUE(test::wait_for([&] { return !panel().reading().lines().empty(); }));
    QStringList said;
    for (const auto &l : panel().reading().lines())
        said << l.label + QLatin1Char('=') + l.figure + QLatin1Char(' ') + l.rest;
    const auto all = said.join(QLatin1Char('\n'));
    // 15 m along the sound is 49.2 ft; the ground distance is what the depth of that row leaves of it.
    const auto along = readout(QStringLiteral("Along the sound"));
    EXPECT_NEAR(along.split(QLatin1Char(' ')).value(0).toDouble(), 49.2, 0.3); // a pixel is 0.2 ft
    EXPECT_TRUE(along.contains(QStringLiteral("left")));
    const double a = scan().bottom(row).altitude_m;
    const double ground_ft = feet_from_metres(std::sqrt(15 * 15 - a * a));
    const auto told = readout(QStringLiteral("Over ground"));
    EXPECT_NEAR(told.split(QLatin1Char(' ')).value(0).toDouble(), ground_ft, 0.4) << all.toStdString();
}

TEST_F(Live, MeasureMarkNameAndUndo) {
    key(Qt::Key_F);
    key(Qt::Key_D);
    ASSERT_TRUE(picture().measuring());
    const auto row = picture().topRow() - 50;
    ASSERT_TRUE(test::wait_for([&] { return scan().nav.fix_at(scan().facts(row).time).has_value(); }));
    drag(on_picture(row, Side::starboard, 12), on_picture(row, Side::starboard, 15));
    ASSERT_TRUE(picture().handles());
    ASSERT_TRUE(test::wait_for([&] { return panel().reading().measurement().has_value(); }));
    const auto m = panel().reading().measurement();
    const auto h = *picture().handles();
    const double a = scan().bottom(h.row).altitude_m;
    EXPECT_NEAR(m->shadow.height_m.value, a * (h.end_m - h.top_m) / h.end_m, 1e-9);
    // Dragging the end handle changes the figure while it moves.
    const auto end = on_picture(row, Side::starboard, h.end_m);
    const auto grip = end + QPoint(0, end.y() > 90 ? -52 : 52);
    QTest::mousePress(&picture(), Qt::LeftButton, Qt::NoModifier, grip);
    QTest::mouseMove(&picture(), grip + QPoint(30, 0));
    EXPECT_GT(panel().reading().measurement()->shadow.height_m.value, m->shadow.height_m.value);
    QTest::mouseRelease(&picture(), Qt::LeftButton, Qt::NoModifier, grip + QPoint(30, 0));
    key(Qt::Key_X); // structure
    ASSERT_EQ(marks().all().size(), 1u);
    EXPECT_EQ(marks().all()[0].family, Family::structure);
    EXPECT_TRUE(marks().all()[0].height_m);
    ASSERT_TRUE(marks().all()[0].place);
    EXPECT_FALSE(marks().all()[0].chip.empty());
    EXPECT_TRUE(notice().contains(QStringLiteral("saved"))) << notice().toStdString();
    key(Qt::Key_D); // away with the handles
    for (const auto &[code, family] :
         {std::pair{Qt::Key_Z, Family::fish}, {Qt::Key_C, Family::bottom}, {Qt::Key_V, Family::hazard}}) {
        QTest::mouseClick(&picture(), Qt::LeftButton, Qt::NoModifier, on_picture(row - 10, Side::port, 14));
        key(code);
        EXPECT_EQ(marks().all().back().family, family);
    }
    ASSERT_EQ(marks().all().size(), 4u);
    key(Qt::Key_U);
    EXPECT_EQ(marks().all().size(), 3u);
    // What was saved is on the disk: another start of the program finds it.
    const auto id = marks().all()[0].id;
    open();
    ASSERT_EQ(marks().all().size(), 3u);
    EXPECT_EQ(marks().all()[0].id, id);
}

TEST_F(Live, MarksAreNamedSortedWrittenAboutAndExported) {
    key(Qt::Key_F);
    QTest::mouseClick(&picture(), Qt::LeftButton, Qt::NoModifier,
                      on_picture(picture().topRow() - 40, Side::port, 13));
    key(Qt::Key_X);
    ASSERT_EQ(marks().all().size(), 1u);
    key(Qt::Key_6);
    ASSERT_EQ(window->rail().current(), place::marks);
    auto *name = find<QLineEdit>("markName");
    QTest::mouseClick(name, Qt::LeftButton);
    QTest::keyClicks(name, QStringLiteral("Weir stump"));
    QTest::keyClick(name, Qt::Key_Return);
    EXPECT_EQ(marks().all()[0].name, "Weir stump");
    auto *kind = find<QComboBox>("markKind");
    kind->setFocus();
    const int stump = kind->findData(static_cast<int>(Kind::stump));
    for (int i = 0; i < stump; ++i)
        QTest::keyClick(kind, Qt::Key_Down);
    EXPECT_EQ(marks().all()[0].kind, Kind::stump);
    auto *note = find<QPlainTextEdit>("markNote");
    QTest::mouseClick(note->viewport(), Qt::LeftButton);
    QTest::keyClicks(note, QStringLiteral("perch at dusk"));
    // Kept when the hand rests, as one change.
    EXPECT_TRUE(test::wait_for([&] { return marks().all()[0].note == "perch at dusk"; }, 4000));
    // Export through the file dialog, as a guide would.
    const auto out = folder.file("out.gpx");
    test::when_it_stands<QFileDialog>([&](QFileDialog &dialog) {
        auto *edit = dialog.findChild<QLineEdit *>(QStringLiteral("fileNameEdit"));
        ASSERT_NE(edit, nullptr);
        edit->selectAll();
        QTest::keyClicks(edit, QString::fromStdString(out));
        QTest::keyClick(edit, Qt::Key_Return);
    });
    press("export");
    ASSERT_TRUE(test::wait_for([&] { return std::filesystem::exists(out); }, 5000));
    const auto babel = test::run("gpsbabel -i gpx -f " + out + " -o unicsv -F -");
    EXPECT_NE(babel.out.find("Weir stump"), std::string::npos) << babel.out;
}

TEST_F(Live, BothScalesStandOverThePicture) {
    const auto &ruler = window->view<ScanView>().ruler();
    const double range = picture().range();
    const auto plane = bottom_at(scan(), picture().topRow());
    ASSERT_TRUE(plane);
    EXPECT_TRUE(ruler.groundText(plane->altitude_m * 0.9).isEmpty()) << "no ground figure inside the water";
    const double ground = ruler.groundText(range).toDouble();
    EXPECT_NEAR(ground, feet_from_metres(*ground_range_m(range, *plane)), 1);
    key(Qt::Key_N); // metres
    EXPECT_NEAR(ruler.groundText(range).toDouble(), *ground_range_m(range, *plane), 0.3);
    key(Qt::Key_N);
}
