// Tuning while scanning: advice taken or put off, Tune for me, verdicts, filters, conditions, last time.
#include "fake_sounder.hpp"
#include "kit/key_button.hpp"
#include "parts/level_box.hpp"
#include "trip/trip_file.hpp"

#include <QLineEdit>
#include <QSettings>

using namespace heron;
using namespace heron::app;

namespace {

class Tuning : public test::Stage {
  protected:
    std::unique_ptr<test::SounderProcess> sounder;
    void SetUp() override {
        QSettings().clear();
        Stage::SetUp();
        begin();
    }
    void begin() {
        sounder = std::make_unique<test::SounderProcess>(
            QStringList{QStringLiteral("--speed-up"), QStringLiteral("6")});
        ASSERT_EQ(sounder->sources.size(), 2u);
        session().sources.listenTo(sounder->sources);
        ASSERT_TRUE(rows(60));
        skip_conditions();
    }
    TuningBox &box() { return panel().tuning(); }
    bool gain_becomes(int gain) {
        auto s = session().sounder.settings();
        s.gain = gain;
        session().sounder.ask(s);
        return test::wait_for([&] { return session().sounder.settings().gain == gain; });
    }
};

} // namespace

TEST_F(Tuning, AHotPictureIsAdvisedDownWithItsReasonAndReturnTakesIt) {
    ASSERT_TRUE(gain_becomes(96));
    ASSERT_TRUE(
        test::wait_for([&] { return program->tuner.advice() && program->tuner.advice()->set; }, 30000));
    ASSERT_TRUE(test::wait_for([&] { return !box().reason().isEmpty(); }));
    EXPECT_LT(program->tuner.advice()->set->gain, 96);
    const int advised = program->tuner.advice()->set->gain;
    key(Qt::Key_Return);
    EXPECT_TRUE(test::wait_for([&] { return session().sounder.settings().gain == advised; }));
    // The change waits for a verdict; one key gives it, and it is in the trip with both pictures.
    ASSERT_TRUE(test::wait_for([&] { return program->tuner.pending().has_value(); }));
    EXPECT_TRUE(test::wait_for([&] { return box().reason().contains(QStringLiteral("better")); }));
    key(Qt::Key_Return);
    EXPECT_TRUE(notice().contains(QStringLiteral("kept as better"))) << notice().toStdString();
    session().trip.journal()->flush();
    auto trip = TripFile::open_read_only(session().trip.path().toStdString());
    ASSERT_TRUE(trip);
    const auto changes = trip->changes(true);
    ASSERT_FALSE(changes.empty());
    EXPECT_EQ(changes.back().by, "advice");
    EXPECT_EQ(changes.back().verdict, "better");
    EXPECT_FALSE(changes.back().reason.empty());
    EXPECT_FALSE(changes.back().picture_before.empty());
    EXPECT_FALSE(changes.back().picture_after.empty());
    EXPECT_TRUE(program->tuner.hasLastGood());
}

TEST_F(Tuning, BackspacePutsAnAdviceOff) {
    ASSERT_TRUE(gain_becomes(97));
    ASSERT_TRUE(test::wait_for([&] { return program->tuner.advice().has_value(); }, 30000));
    const auto topic = program->tuner.advice()->topic;
    key(Qt::Key_Backspace);
    EXPECT_TRUE(!program->tuner.advice() || program->tuner.advice()->topic != topic);
    QTest::qWait(1500);
    EXPECT_TRUE(!program->tuner.advice() || program->tuner.advice()->topic != topic);
    EXPECT_EQ(session().sounder.settings().gain, 97);
}

TEST_F(Tuning, TuneForMeFindsItsWayFromFarTooHotAndFarTooDark) {
    int found[2];
    int i = 0;
    for (const int from : {100, 4}) {
        ASSERT_TRUE(gain_becomes(from));
        key(Qt::Key_Q);
        ASSERT_TRUE(program->tuner.tuning());
        ASSERT_TRUE(test::wait_for([&] { return !program->tuner.tuning(); }, 40000));
        found[i++] = session().sounder.settings().gain;
        EXPECT_LT(program->tuner.health().share_full, 0.06) << from;
        EXPECT_LT(program->tuner.health().share_black, 0.12) << from;
    }
    EXPECT_NEAR(found[0], found[1], 14) << "both ends lead to the same middle";
}

TEST_F(Tuning, AFrozenThingSaysWhatCanStillBeHadOfIt) {
    key(Qt::Key_F);
    QTest::mouseClick(&picture(), Qt::LeftButton, Qt::NoModifier,
                      on_picture(picture().topRow() - 30, Side::port, 14));
    ASSERT_TRUE(picture().picked());
    key(Qt::Key_Q);
    EXPECT_TRUE(notice().contains(QStringLiteral("gain"))) << notice().toStdString();
}

TEST_F(Tuning, LastGoodSettingsComeBackWithOneKey) {
    const auto good = session().sounder.settings();
    key(Qt::Key_Equal);
    ASSERT_TRUE(test::wait_for([&] { return session().sounder.settings().gain != good.gain; }));
    const auto better = session().sounder.settings();
    ASSERT_TRUE(test::wait_for([&] { return program->tuner.pending().has_value(); }));
    key(Qt::Key_Return); // better
    for (int i = 0; i < 4; ++i)
        key(Qt::Key_BracketLeft);
    ASSERT_TRUE(test::wait_for([&] { return session().sounder.settings().range_m < better.range_m - 3; }));
    key(Qt::Key_G);
    EXPECT_TRUE(test::wait_for([&] {
        return session().sounder.settings().range_m == better.range_m &&
               session().sounder.settings().gain == better.gain;
    }));
}

TEST_F(Tuning, TheRangeFollowsTheDepthWhenItIsAsked) {
    for (int i = 0; i < 12; ++i)
        key(Qt::Key_BracketRight);
    ASSERT_TRUE(test::wait_for([&] { return session().sounder.settings().range_m > 44; }))
        << session().sounder.settings().range_m;
    key(Qt::Key_A);
    ASSERT_TRUE(program->tuner.rangeFollows());
    ASSERT_TRUE(test::wait_for([&] { return session().sounder.settings().range_m < 40; }, 30000));
    const double depth = scan().bottom(scan().settled_until() - 1).altitude_m;
    EXPECT_NEAR(session().sounder.settings().range_m / depth, program->tuner.timesDepth(), 1.0);
    key(Qt::Key_BracketLeft); // a hand on the range ends it
    EXPECT_FALSE(program->tuner.rangeFollows());
}

TEST_F(Tuning, TheLevelsWindowIsDraggedAndFollowsAgain) {
    const auto before = state().displayWindow();
    ASSERT_TRUE(state().windowFollows());
    auto *levels = find<LevelBox>("tuningLevels");
    // The floor's handle stands under the plot; it is found by trying along it.
    bool gripped = false;
    for (int x = 20; x < levels->width() - 20 && !gripped; x += 8) {
        const QPoint at(x, LevelBox::plot_top + LevelBox::plot_height + LevelBox::bar_height + 26);
        QTest::mousePress(levels, Qt::LeftButton, Qt::NoModifier, at);
        QTest::mouseMove(levels, at + QPoint(-18, 0));
        QTest::mouseRelease(levels, Qt::LeftButton, Qt::NoModifier, at + QPoint(-18, 0));
        gripped = !state().windowFollows();
    }
    ASSERT_TRUE(gripped);
    EXPECT_FALSE(before == state().displayWindow());
    QTest::mouseDClick(levels, Qt::LeftButton, Qt::NoModifier, QPoint(30, 60));
    EXPECT_TRUE(state().windowFollows());
}

TEST_F(Tuning, FiltersSayWhatTheyHide) {
    press("pictureTab");
    press("nearMore");
    press("nearMore");
    press("nearMore");
    EXPECT_NEAR(state().filters().near_surface_m, 1.5, 0.01);
    auto &pages = panel().controls();
    EXPECT_TRUE(pages.differs(1).contains(QStringLiteral("hides"))) << pages.differs(1).toStdString();
    press("streaks");
    EXPECT_TRUE(state().filters().reject_streaks);
    EXPECT_TRUE(pages.differs(3).contains(QStringLiteral("took out"))) << pages.differs(3).toStdString();
    press("contrast");
    EXPECT_TRUE(state().filters().local_contrast);
    EXPECT_TRUE(pages.differs(2).contains(QStringLiteral("texture"))) << "its cost is said";
    const auto plain = picture().grab().toImage();
    const bool evened = state().filters().flatten;
    press("even");
    EXPECT_NE(state().filters().flatten, evened);
    const auto map = Theme::instance().mapName();
    key(Qt::Key_K);
    EXPECT_NE(Theme::instance().mapName(), map);
    EXPECT_NE(picture().grab().toImage(), plain);
    for (int i = 0; i < 3; ++i)
        key(Qt::Key_K);
    EXPECT_EQ(Theme::instance().mapName(), map) << "four maps";
}

TEST_F(Tuning, WhatDiffersFromPlainIsShown) {
    auto &pages = panel().controls();
    const auto plain = program->tuner.plain();
    ASSERT_TRUE(gain_becomes(plain.gain));
    EXPECT_TRUE(test::wait_for([&] { return !pages.differs(2).contains(QStringLiteral("plain")); }));
    press("gainLess");
    EXPECT_TRUE(test::wait_for([&] {
        return pages.differs(2).contains(QStringLiteral("plain %1").arg(plain.gain));
    })) << pages.differs(2).toStdString();
}

// A bar over the window leaves less room: whole rows wait, none lies under another.
TEST_F(Tuning, WhatIsAskedOfTheDayNeverOverlaps) {
    auto &box = panel().conditions();
    box.ask();
    ASSERT_TRUE(test::wait_for([&] { return box.isVisible(); }));
    for (const int high : {300, 262, 240, 200, 150}) {
        box.resize(box.width(), high);
        const auto keys = box.findChildren<KeyButton *>();
        for (const auto *a : keys)
            for (const auto *b : keys)
                EXPECT_TRUE(a == b || !a->isVisible() || !b->isVisible() ||
                            !a->geometry().intersects(b->geometry()))
                    << high << ": " << a->objectName().toStdString() << " and "
                    << b->objectName().toStdString();
        EXPECT_TRUE(find("keepConditions")->isVisible());
    }
    EXPECT_FALSE(find("level0")->isVisible());
    box.resize(box.width(), 300);
    EXPECT_TRUE(find("level0")->isVisible());
}

TEST_F(Tuning, WhatWorkedOnThisWaterComesUpOnTheNextTrip) {
    // The first trip: conditions in some taps, a change found better.
    panel().conditions().ask();
    ASSERT_TRUE(test::wait_for([&] { return find("waterName")->isVisible(); }));
    auto *water = find<QLineEdit>("waterName");
    water->selectAll();
    QTest::keyClicks(water, QStringLiteral("Ellemoor Water"));
    for (const char *k : {"wind1", "sky0", "level2"})
        press(k);
    press("keepConditions");
    EXPECT_FALSE(panel().conditions().asking());
    window->view<ScanView>().setFocus();
    const auto before = session().sounder.settings().gain;
    key(Qt::Key_Equal);
    ASSERT_TRUE(test::wait_for([&] { return program->tuner.pending().has_value(); }));
    // The unit has taken it too.
    ASSERT_TRUE(test::wait_for([&] { return session().sounder.settings().gain != before; }));
    key(Qt::Key_Return);
    const auto worked = session().sounder.settings();
    session().trip.journal()->flush();
    const auto first = session().trip.path().toStdString();
    sounder->kill();
    open();
    {
        auto trip = TripFile::open_read_only(first);
        ASSERT_TRUE(trip);
        ASSERT_TRUE(trip->conditions());
        EXPECT_EQ(trip->conditions()->wind, "light");
        EXPECT_EQ(trip->conditions()->sky, "bright");
        EXPECT_EQ(trip->conditions()->level, "high");
    }
    // The next trip to that water.
    session().trip.setWater(QStringLiteral("Ellemoor Water"));
    begin();
    ASSERT_TRUE(test::wait_for([&] { return program->tuner.lastTime().has_value(); }, 10000));
    EXPECT_EQ(program->tuner.lastTime()->settings.gain, worked.gain);
    EXPECT_EQ(program->tuner.lastTime()->better.size(), 1u);
    ASSERT_TRUE(test::wait_for([&] { return box().words().contains(QStringLiteral("Last time here")); }));
    press("takeAdvice");
    EXPECT_TRUE(test::wait_for([&] { return session().sounder.settings().gain == worked.gain; }));
}

TEST_F(Tuning, TheInstallationCheckCountsItsSecondsAndSaysItsVerdict) {
    key(Qt::Key_I);
    press("checkLeft");
    ASSERT_TRUE(program->tuner.installationCheck());
    key(Qt::Key_2);
    ASSERT_TRUE(test::wait_for([&] { return program->tuner.installationCheck()->seconds() > 45; }, 30000));
    EXPECT_TRUE(program->tuner.installationCheck()->enough());
    EXPECT_TRUE(test::wait_for([&] { return !box().words().contains(QStringLiteral("of 45")); }));
    EXPECT_FALSE(box().words().isEmpty());
    key(Qt::Key_Return);
    EXPECT_FALSE(program->tuner.installationCheck());
}
