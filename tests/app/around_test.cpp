// The place Around in the real window: the circle of a head whose boat lies over a known spot, casts from its
// seats, marks, turns back, the boat's page, and a live head that is set.
#include "around_stage.hpp"

#include "parts/level_box.hpp"

#include "views/around/boat_page.hpp"
#include "views/around/head_controls.hpp"

#include <cmath>

using namespace heron;
using namespace heron::app;
using test::basin, test::boulder_ahead_m, test::boulder_right_m;

namespace {
using Around = test::AroundStage;
} // namespace

TEST_F(Around, EachSeatIsToldItsOwnDirectionAndDistance) {
    record();
    EXPECT_TRUE(test::shows_something(circle().grab().toImage()));
    EXPECT_NEAR(bow().depthUnderBow().value_or(0), 4, 0.2);
    press_on(at(boulder_ahead_m, boulder_right_m));
    const auto casts = bow().casts();
    ASSERT_EQ(casts.size(), 3u);
    const auto &boat = session().boats.boat();
    for (std::size_t i = 0; i < casts.size(); ++i) {
        // Worked from the scene, not from the picture.
        const double ahead = boulder_ahead_m - (boat.head.behind_bow_m - boat.seats[i].at.behind_bow_m),
                     right = boulder_right_m - (boat.seats[i].at.right_m - boat.head.right_m);
        EXPECT_NEAR(casts[i].off_bow.degrees, std::atan2(right, ahead) * degrees_per_radian, 1.0) << i;
        EXPECT_NEAR(casts[i].distance_m, std::hypot(ahead, right), 0.2) << i;
    }
    EXPECT_TRUE(card().said(0).contains(QStringLiteral("12:45"))) << card().said(0).toStdString();
    EXPECT_TRUE(card().said(0).contains(QStringLiteral("in reach"))) << card().said(0).toStdString();
    EXPECT_TRUE(card().said(2).contains(QStringLiteral("out of reach"))) << card().said(2).toStdString();
    EXPECT_TRUE(test::shows_something(card().grab().toImage()));
    // Escape aims at nothing again.
    key(Qt::Key_Escape);
    EXPECT_TRUE(bow().casts().empty());
}

TEST_F(Around, AMarkOnTheCircleLiesWhereTheThingLies) {
    record();
    press_on(at(boulder_ahead_m, boulder_right_m));
    key(Qt::Key_X);
    ASSERT_EQ(marks().all().size(), 1u) << notice().toStdString();
    const auto &mark = marks().all()[0];
    EXPECT_EQ(mark.family, Family::structure);
    EXPECT_EQ(mark.side, "around");
    ASSERT_TRUE(mark.place);
    const auto off = LocalPlane({46.5, -21.25}).to_plane(*mark.place);
    EXPECT_NEAR(off.east_m, 50, 0.4);
    EXPECT_NEAR(off.north_m, 58, 0.4);
    EXPECT_GT(mark.place_covariance.radial_sd_m(), 0);
    EXPECT_FALSE(mark.chip.empty());
    EXPECT_TRUE(notice().contains(QStringLiteral("saved"))) << notice().toStdString();
    // Marks tells it as seen on the circle, on neither side.
    key(Qt::Key_6);
    const auto facts = window->view<MarksView>().facts(mark).join(QLatin1Char(' '));
    EXPECT_TRUE(facts.contains(QStringLiteral("on the circle"))) << facts.toStdString();
    EXPECT_FALSE(facts.contains(QStringLiteral("right"))) << facts.toStdString();
    EXPECT_FALSE(facts.contains(QStringLiteral("each side"))) << facts.toStdString();
    key(Qt::Key_4);
    // It is what is aimed at now, and stays so when pressed again from elsewhere.
    key(Qt::Key_Escape);
    press_on(at(boulder_ahead_m, boulder_right_m));
    ASSERT_TRUE(bow().aim());
    EXPECT_EQ(bow().aim()->mark, QString::fromStdString(mark.id));
    // The mark goes: nothing is aimed at.
    marks().remove(QString::fromStdString(mark.id));
    EXPECT_FALSE(bow().aim());
}

TEST_F(Around, NothingPointedAtMarksNothingAndSaysSo) {
    key(Qt::Key_4);
    key(Qt::Key_Z);
    EXPECT_TRUE(marks().all().empty());
    EXPECT_TRUE(notice().contains(QStringLiteral("Press on the circle"))) << notice().toStdString();
    EXPECT_TRUE(test::shows_something(circle().grab().toImage())) << "words where no head is heard";
}

TEST_F(Around, APlaceKeepsItsPlaceWhateverIsUp) {
    record();
    for (int i = 0; i < 3; ++i) {
        press("up");
        for (const auto &[ahead, right] : {std::pair{6.0, 3.0}, {9.0, -4.0}, {2.0, 0.5}}) {
            const auto place = bow().pose().from({ahead, right});
            const auto spot = circle().spotAt(circle().positionOf(place));
            ASSERT_TRUE(spot) << i;
            EXPECT_NEAR(spot->from_head.ahead_m, ahead, 1e-6);
            EXPECT_NEAR(spot->from_head.right_m, right, 1e-6);
            ASSERT_TRUE(spot->seen) << i;
            EXPECT_NEAR(spot->seen->slant_m, std::hypot(std::hypot(ahead, right), 3.6), 0.3);
        }
    }
    // Straight ahead is straight up.
    const auto head = circle().positionOf(bow().pose().head),
               ahead = circle().positionOf(bow().pose().from({5, 0}));
    EXPECT_NEAR(head.x(), ahead.x(), 0.5);
    EXPECT_LT(ahead.y(), head.y());
}

TEST_F(Around, TurnsAreSteppedBackThrough) {
    record();
    press("turnBack");
    EXPECT_TRUE(circle().frozen());
    EXPECT_EQ(circle().turnsBack(), 1);
    const auto before = circle().grab().toImage();
    press("turnBack");
    EXPECT_EQ(circle().turnsBack(), 2);
    EXPECT_NE(circle().grab().toImage(), before);
    key(Qt::Key_Period);
    EXPECT_EQ(circle().turnsBack(), 1);
    EXPECT_EQ(circle().grab().toImage(), before) << "the same turn is the same picture";
    key(Qt::Key_Period);
    EXPECT_FALSE(circle().frozen());
}

TEST_F(Around, TheCardFillsTheWindowAndGoesAgain) {
    record();
    EXPECT_FALSE(find("castLarge")->isEnabled()) << "nothing is aimed at";
    press_on(at(boulder_ahead_m, boulder_right_m));
    key(Qt::Key_A);
    EXPECT_TRUE(card().large());
    EXPECT_EQ(card().size(), window->view<AroundView>().size());
    EXPECT_TRUE(test::shows_something(card().grab().toImage()));
    key(Qt::Key_Escape);
    EXPECT_FALSE(card().large());
    EXPECT_TRUE(bow().aim()) << "and it is still aimed at";
}

TEST_F(Around, TheBoatIsEnteredAndEveryCastFollows) {
    record();
    press_on(at(boulder_ahead_m, boulder_right_m));
    const double before = bow().casts()[2].spare_m;
    EXPECT_LT(before, 0);
    key(Qt::Key_B);
    auto *reach = find<QLineEdit>("seatReach3");
    ASSERT_NE(reach, nullptr);
    ASSERT_TRUE(reach->isVisible());
    const auto type = [&](QLineEdit *field, const QString &text) {
        field->selectAll();
        QTest::keyClicks(field, text);
        QTest::keyClick(field, Qt::Key_Return);
    };
    reach->setFocus();
    type(reach, QStringLiteral("70 ft"));
    EXPECT_NEAR(session().boats.boat().seats[2].reach_m, 21.336, 1e-6);
    EXPECT_TRUE(bow().casts()[2].in_reach());
    // What cannot be stays out, and is told.
    auto *length = find<QLineEdit>("boatLength");
    length->setFocus();
    type(length, QStringLiteral("900 ft"));
    EXPECT_NEAR(session().boats.boat().length_m, 5.8, 1e-9);
    type(length, QStringLiteral("long"));
    EXPECT_NEAR(session().boats.boat().length_m, 5.8, 1e-9);
    EXPECT_TRUE(length->text().contains(QStringLiteral("19")));
    press("addSeat");
    EXPECT_EQ(session().boats.boat().seats.size(), 4u);
    EXPECT_EQ(bow().casts().size(), 4u);
    press("anotherBoat");
    EXPECT_EQ(session().boats.all().size(), 2u);
    press("removeBoat");
    EXPECT_EQ(session().boats.all().size(), 1u);
    press("boatDone");
    EXPECT_FALSE(window->view<AroundView>().boat().isVisible());
    // It is there at the next start.
    open();
    EXPECT_EQ(session().boats.boat().seats.size(), 4u);
    EXPECT_NEAR(session().boats.boat().seats[2].reach_m, 21.336, 1e-3);
}

TEST_F(Around, TheRodPointsFromSeatAfterSeat) {
    record();
    press("rod");
    EXPECT_TRUE(circle().rod());
    EXPECT_EQ(circle().seat(), 0u);
    QTest::mouseMove(&circle(), at(8, 0));
    const auto first = circle().grab().toImage();
    press("rod");
    EXPECT_EQ(circle().seat(), 1u);
    QTest::mouseMove(&circle(), at(8, 0));
    EXPECT_NE(circle().grab().toImage(), first);
    press("rod");
    press("rod");
    EXPECT_FALSE(circle().rod());
}

TEST_F(Around, WhereToHoldIsShownSaidAndFollows) {
    record();
    key(Qt::Key_Y);
    EXPECT_TRUE(bow().holdWanted());
    EXPECT_TRUE(notice().contains(QStringLiteral("Press on what"))) << notice().toStdString();
    EXPECT_TRUE(card().holdWords().isEmpty());
    press_on(at(boulder_ahead_m, boulder_right_m));
    ASSERT_TRUE(bow().hold());
    const auto spot = *bow().hold();
    EXPECT_EQ(spot.reached_from.size(), session().boats.boat().seats.size())
        << "the stern casts far enough too";
    EXPECT_TRUE(card().holdWords().contains(QStringLiteral("every seat reaches it")))
        << card().holdWords().toStdString();
    EXPECT_TRUE(card().holdWords().contains(QStringLiteral("From here")) ||
                card().holdWords().contains(QStringLiteral("You are there")))
        << card().holdWords().toStdString();
    EXPECT_TRUE(test::shows_something(circle().grab().toImage()));
    // A hazard marked on that spot: another one is found.
    Mark hazard;
    hazard.id = "hazard-1";
    hazard.family = Family::hazard;
    hazard.place = bow().rays().plane()->to_globe(spot.head);
    ASSERT_TRUE(marks().add(hazard));
    ASSERT_TRUE(bow().hold());
    EXPECT_GT(std::hypot(bow().hold()->head.east_m - spot.head.east_m,
                         bow().hold()->head.north_m - spot.head.north_m),
              3);
    key(Qt::Key_Y);
    EXPECT_FALSE(bow().hold());
    EXPECT_TRUE(card().holdWords().isEmpty());
}

// The boulder is 1.3 m tall; its shadow runs away from the head along the ray.
TEST_F(Around, AHeightIsMeasuredAlongItsRayAndKeptInTheMark) {
    record();
    key(Qt::Key_D);
    ASSERT_TRUE(circle().measures());
    const double range = std::hypot(boulder_ahead_m, boulder_right_m);
    const auto beyond = [&](double metres) {
        return at(boulder_ahead_m * (range + metres) / range, boulder_right_m * (range + metres) / range);
    };
    press_on(at(boulder_ahead_m, boulder_right_m));
    EXPECT_FALSE(bow().aim()) << "a press that measures aims at nothing";
    ASSERT_TRUE(circle().handles());
    EXPECT_FALSE(circle().measurement()) << "no shadow yet";
    // By the geometry: the ray that grazes a top 1.3 m over the bottom 3.6 m under the head meets the bottom
    // at g·A/(A − h), and the top shows √(g² + (A − h)²) away, drawn over ground at √(that² − A²).
    const double altitude = bow().rays().rays().back().altitude_m, top_slant = circle().handles()->top_m;
    const double height = 1.0, end_slant = top_slant * altitude / (altitude - height),
                 end_ground = std::sqrt(end_slant * end_slant - altitude * altitude);
    QTest::mouseMove(&circle(), beyond(end_ground - range));
    press_on(beyond(end_ground - range));
    ASSERT_TRUE(circle().measurement());
    EXPECT_NEAR(circle().measurement()->shadow.height_m.value, height, 0.1);
    EXPECT_TRUE(test::shows_something(circle().grab().toImage()));
    key(Qt::Key_X);
    ASSERT_EQ(marks().all().size(), 1u) << notice().toStdString();
    ASSERT_TRUE(marks().all()[0].height_m);
    EXPECT_NEAR(marks().all()[0].height_m->value, height, 0.1);
    key(Qt::Key_Escape);
    EXPECT_FALSE(circle().measures());
    EXPECT_FALSE(circle().handles());
}

TEST_F(Around, TheLoupeAndTheLevelsShowWhatIsThere) {
    record();
    press_on(at(boulder_ahead_m, boulder_right_m));
    const auto before = circle().grab().toImage();
    key(Qt::Key_L);
    EXPECT_TRUE(circle().loupe());
    EXPECT_NE(circle().grab().toImage(), before);
    EXPECT_FALSE(find<LevelBox>("circleLevels")->isVisible());
    key(Qt::Key_P);
    auto *levels = find<LevelBox>("circleLevels");
    EXPECT_TRUE(levels->isVisible());
    EXPECT_TRUE(test::shows_something(levels->grab().toImage()));
    auto &display = circle().display();
    ASSERT_TRUE(display.windowFollows());
    // The window of the sides is another.
    const auto sides = state().displayWindow();
    bool gripped = false;
    for (int x = 20; x < levels->width() - 20 && !gripped; x += 8) {
        const QPoint spot(x, LevelBox::plot_top + LevelBox::plot_height + LevelBox::bar_height + 26);
        QTest::mousePress(levels, Qt::LeftButton, Qt::NoModifier, spot);
        QTest::mouseMove(levels, spot + QPoint(-24, 0));
        QTest::mouseRelease(levels, Qt::LeftButton, Qt::NoModifier, spot + QPoint(-24, 0));
        gripped = !display.windowFollows();
    }
    EXPECT_TRUE(gripped);
    EXPECT_TRUE(sides == state().displayWindow());
}

TEST_F(Around, AHeadMountedTheWrongWayRoundIsToldByItsOwnPicture) {
    const auto scene = folder.file("turned.json"), recording = folder.file("turned.nc");
    auto text = std::string(basin);
    text.insert(text.rfind('}'), R"(,"head":{"zero_deg":180})");
    std::ofstream(scene) << text;
    const auto made = test::run(test::program("heron-sounder") + " " + scene +
                                " --device head --hold --record " + recording + " --seconds 80");
    ASSERT_EQ(made.code, 0) << made.out;
    session().playback.setSpeed(1000);
    session().sources.openRecording(QString::fromStdString(recording));
    EXPECT_TRUE(test::wait_for([&] { return program->circle.findings().zero_deg.has_value(); }, 60000));
    EXPECT_TRUE(notice().contains(QStringLiteral("wrong way round"))) << notice().toStdString();
}

TEST_F(Around, ALiveHeadTurnsAsItIsAsked) {
    const test::SounderProcess sounder({QStringLiteral("--device"), QStringLiteral("both"),
                                        QStringLiteral("--head-port"), QStringLiteral("0"),
                                        QStringLiteral("--speed-up"), QStringLiteral("4")});
    session().sources.listenTo(sounder.sources);
    ASSERT_TRUE(
        test::wait_for([&] { return session().head.hello() && bow().rays().rays().size() > 60; }, 60000));
    skip_conditions();
    key(Qt::Key_4);
    const auto before = *session().head.settings().turning;
    press("turnFaster");
    ASSERT_TRUE(test::wait_for([&] { return session().head.settings().turning->pace > before.pace; }));
    const double range = session().head.settings().range_m;
    press("headRangeLess");
    ASSERT_TRUE(test::wait_for([&] { return session().head.settings().range_m < range - 0.5; }));
    ASSERT_TRUE(test::wait_for([&] { return bow().rays().rays().back().range_m < range - 0.5; }));
    press("sector");
    ASSERT_TRUE(test::wait_for([&] { return !session().head.settings().turning->full(); }));
    ASSERT_TRUE(test::wait_for([&] {
        const auto &rays = bow().rays().rays();
        return rays.size() > 20 && std::fabs(rays.back().off_bow_deg) < 91 &&
               std::fabs(rays[rays.size() - 10].off_bow_deg) < 91;
    }));
    EXPECT_FALSE(window->view<AroundView>().controls().buys().isEmpty());
    const auto asked = session().head.settings();
    press("adviseHead");
    EXPECT_TRUE(notice().contains(QStringLiteral("the trade says"))) << notice().toStdString();
    ASSERT_TRUE(test::wait_for([&] { return session().head.settings() != asked; }));
    // Far too much gain: found again from the picture in a few steps.
    auto hot = session().head.settings();
    hot.gain = session().head.hello()->most_gain;
    session().head.ask(hot);
    ASSERT_TRUE(test::wait_for([&] { return session().head.settings().gain == hot.gain; }));
    press("tuneHead");
    EXPECT_TRUE(program->head_watch.tuning());
    ASSERT_TRUE(test::wait_for([&] { return !program->head_watch.tuning(); }, 90000));
    EXPECT_LT(session().head.settings().gain, hot.gain - 6);
    EXPECT_TRUE(find("hold")->isVisible());
    press("hold");
    EXPECT_TRUE(notice().contains(QStringLiteral("holds there"))) << notice().toStdString();
    // The picture of the sides goes on meanwhile, in the same trip.
    const auto rows = scan().end();
    EXPECT_TRUE(test::wait_for([&] { return scan().end() > rows + 20; }));
    EXPECT_TRUE(session().trip.keeping());
}

TEST_F(Around, AnOldTripIsPlayedOnTheCircleToo) {
    {
        const test::SounderProcess sounder({QStringLiteral("--device"), QStringLiteral("both"),
                                            QStringLiteral("--head-port"), QStringLiteral("0"),
                                            QStringLiteral("--speed-up"), QStringLiteral("8")});
        session().sources.listenTo(sounder.sources);
        ASSERT_TRUE(test::wait_for([&] { return bow().rays().rays().size() > 500; }, 60000));
    }
    const auto path = session().trip.path();
    session().sources.beginNewTrip();
    session().sources.openTrip(path);
    ASSERT_TRUE(test::wait_for([&] { return session().sources.source() == Sources::Source::trip; }))
        << path.toStdString() << notice().toStdString();
    key(Qt::Key_4);
    ASSERT_TRUE(test::wait_for([&] { return !bow().empty(); })) << "the last turns of the trip";
    const auto last = bow().rays().rays().back().time;
    session().playback.setSpeed(1);
    session().playback.playFrom(scan().end() / 2);
    const auto lag = [&] {
        return seconds_between(bow().rays().rays().back().time, scan().facts(session().shown.newest()).time);
    };
    ASSERT_TRUE(test::wait_for([&] { return !bow().empty() && bow().rays().rays().back().time < last; }));
    EXPECT_GE(lag(), 0) << "nothing of later than what the sides show";
    EXPECT_LT(lag(), 1);
    const auto then = bow().rays().rays().back().time;
    ASSERT_TRUE(test::wait_for([&] { return seconds_between(then, bow().rays().rays().back().time) > 0.5; }));
    EXPECT_LT(std::fabs(lag()), 1);
    EXPECT_TRUE(test::shows_something(circle().grab().toImage()));
}

TEST_F(Around, WhatIsReadIsRungAndAimedAt) {
    record(60);
    ASSERT_TRUE(test::wait_for(
        [&] {
            return std::any_of(program->circle.contacts().begin(), program->circle.contacts().end(),
                               [](const Contact &c) { return c.looks > 1; });
        },
        30000));
    press_on(at(boulder_ahead_m, boulder_right_m));
    ASSERT_TRUE(bow().aim());
    ASSERT_NE(bow().aim()->contact, 0) << bow().aim()->title.toStdString();
    EXPECT_TRUE(bow().aim()->remark.contains(QStringLiteral("in 100"))) << bow().aim()->remark.toStdString();
    EXPECT_TRUE(test::shows_something(circle().grab().toImage()));
    key(Qt::Key_X);
    ASSERT_EQ(marks().all().size(), 1u) << notice().toStdString();
    EXPECT_FALSE(marks().all()[0].note.empty()) << "why it was told";
    EXPECT_TRUE(marks().all()[0].depth_m);
    ASSERT_TRUE(bow().aim());
    EXPECT_EQ(bow().aim()->mark, QString::fromStdString(marks().all()[0].id));
}
