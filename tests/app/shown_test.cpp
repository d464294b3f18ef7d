// How the picture is shown: sides, strip, loupe, look down, passes, scales, struck stretches.
#include "fake_sounder.hpp"
#include "parts/down_strip.hpp"
#include "parts/pass_compare.hpp"
#include "picture/plan_patch.hpp"
#include "views/scan/gutter.hpp"

using namespace heron;
using namespace heron::app;

namespace {

class Shown : public test::Afloat {
  protected:
    QImage seen() {
        QTest::qWait(60);
        return picture().grab().toImage();
    }
};

} // namespace

TEST_F(Shown, OneSideTakesTheWholeWidth) {
    key(Qt::Key_F);
    const double both = picture().pixelsPerMetre();
    key(Qt::Key_S);
    EXPECT_EQ(picture().sides(), ShownSides::left);
    EXPECT_NEAR(picture().pixelsPerMetre(), 2 * both, 0.5);
    const auto row = picture().topRow() - 5;
    const auto at = picture().pointAt(picture().positionOf(row, Side::port, 12));
    ASSERT_TRUE(at);
    EXPECT_EQ(at->side, Side::port);
    EXPECT_NEAR(at->slant_m, 12, 0.1);
    EXPECT_FALSE(picture().shows(Side::starboard));
    key(Qt::Key_S);
    EXPECT_EQ(picture().sides(), ShownSides::right);
    key(Qt::Key_S);
    EXPECT_EQ(picture().sides(), ShownSides::both);
}

TEST_F(Shown, WithoutTheWaterStripThingsLieWhereTheyAre) {
    key(Qt::Key_F);
    const auto row = picture().topRow() - 10;
    const double a = scan().bottom(row).altitude_m;
    key(Qt::Key_W);
    ASSERT_EQ(picture().across(), Across::ground);
    // The keel line is the bottom under the boat; 12 m along the sound lies as far out as it is over ground.
    const double x = picture().positionOf(row, Side::starboard, 12).x() - picture().keelX();
    EXPECT_NEAR(x / picture().pixelsPerMetre(), std::sqrt(144 - a * a), 0.1);
    const auto back = picture().pointAt(picture().positionOf(row, Side::starboard, 12));
    ASSERT_TRUE(back);
    EXPECT_NEAR(back->slant_m, 12, 0.15);
    key(Qt::Key_W);
    EXPECT_EQ(picture().across(), Across::slant);
}

TEST_F(Shown, TheLoupeEnlargesWhatIsUnderThePointer) {
    key(Qt::Key_F);
    const QPoint at = on_picture(picture().topRow() - 25, Side::starboard, 12);
    QTest::mouseMove(&picture(), at);
    const auto plain = seen();
    key(Qt::Key_L);
    ASSERT_TRUE(picture().loupe());
    const auto large = seen();
    EXPECT_NE(plain, large);
    key(Qt::Key_L);
    EXPECT_FALSE(picture().loupe());
}

TEST_F(Shown, TheLookDownStandsBesideThePictureRowByRow) {
    const int wide = picture().width();
    key(Qt::Key_Y);
    auto &down = window->view<ScanView>().down();
    ASSERT_TRUE(down.isVisible());
    EXPECT_LT(picture().width(), wide);
    ASSERT_TRUE(sound_until([&] { return scan().end() > 200; }));
    const auto image = down.grab().toImage();
    // Not one colour: the bottom stands in it.
    int differing = 0;
    for (int x = 0; x < image.width(); ++x)
        differing += image.pixel(x, image.height() / 8) != image.pixel(0, image.height() / 8);
    EXPECT_GT(differing, image.width() / 8);
    key(Qt::Key_Y);
    EXPECT_FALSE(down.isVisible());
    EXPECT_EQ(picture().width(), wide);
}

TEST_F(Shown, WithoutASecondPassItIsSaid) {
    key(Qt::Key_E);
    EXPECT_TRUE(notice().contains(QStringLiteral("Point at a thing"))) << notice().toStdString();
    ASSERT_TRUE(sound_until([&] { return scan().end() > 200; }));
    key(Qt::Key_F);
    QTest::mouseClick(&picture(), Qt::LeftButton, Qt::NoModifier,
                      on_picture(picture().topRow() - 60, Side::starboard, 13));
    key(Qt::Key_E);
    EXPECT_TRUE(notice().contains(QStringLiteral("No other pass"))) << notice().toStdString();
}

TEST_F(Shown, StandingStillThePictureRunsOnTimeAndLengthsAreRefused) {
    ASSERT_TRUE(sound_until([&] { return scan().end() > 150; }));
    // From now on the receiver's speed over ground is nought.
    fake.speaks = [](const std::string &s) {
        const auto type = s.substr(3, 3);
        if (type == "RMC")
            return test::with_field(s, 7, "0.0");
        if (type == "VTG")
            return test::with_field(test::with_field(s, 5, "0.0"), 7, "0.0");
        return s;
    };
    const auto moving = scan().end();
    ASSERT_TRUE(sound_until([&] {
        return scan().settled_until() > moving + 60 && strike_of(scan().facts(scan().settled_until() - 20),
                                                                 picture().steadyLimits()) == Strike::stopped;
    }));
    key(Qt::Key_F);
    const auto row = scan().settled_until() - 20;
    picture().goTo(row + 15);
    key(Qt::Key_D);
    drag(on_picture(row, Side::starboard, 12), on_picture(row, Side::starboard, 14));
    QTest::qWait(300);
    QString all;
    for (const auto &l : panel().reading().lines())
        all += l.label + QLatin1Char('\n');
    EXPECT_TRUE(all.contains(QStringLiteral("not measured"))) << all.toStdString();
    EXPECT_TRUE(std::isnan(Gutter::pingsOnHalfMetre(scan(), row)));
}
