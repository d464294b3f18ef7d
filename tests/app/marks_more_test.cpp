// Many marks at once, what was done yesterday, marks by eye, and what a boat does with marks: hazards ahead,
// the side to come from, the moment to drop a buoy.
#include "stage.hpp"

#include "files/identifier.hpp"
#include "views/marks/many_page.hpp"
#include "views/marks/story_page.hpp"
#include "window/eye_mark.hpp"
#include "window/way_bar.hpp"

#include <QComboBox>
#include <cmath>

using namespace heron;
using namespace heron::app;

namespace {

class MarksAtWork : public test::Stage {
  protected:
    MarksView &view() { return window->view<MarksView>(); }
    Mark mark(const std::string &name, Kind kind, double east = 0) {
        Mark m;
        m.id = new_identifier();
        m.name = name;
        m.family = family_of(kind);
        m.kind = kind;
        m.place = point_along({46.5, -21.25}, 90, east);
        m.place_covariance = {1, 0, 1};
        m.time = 1'800'000'000LL * ns_per_s;
        return m;
    }
    void type(const char *name, const QString &text) {
        auto *field = find<QLineEdit>(name);
        QTest::mouseClick(field, Qt::LeftButton);
        field->clear();
        QTest::keyClicks(field, text);
    }
    /// The demo lake, sailed fast; the boat's place and heading as of the newest row.
    std::unique_ptr<test::SounderProcess> sounder;
    void sail(const QString &speed_up) {
        sounder = std::make_unique<test::SounderProcess>(QStringList{QStringLiteral("--speed-up"), speed_up});
        session().sources.listenTo(sounder->sources);
        ASSERT_TRUE(rows(150));
        skip_conditions();
        ASSERT_TRUE(pose());
    }
    std::optional<BoatPose> pose() {
        const auto fix = scan().nav.fix_at(scan().newest().time);
        return fix ? std::optional(fix->pose) : std::nullopt;
    }
    GeoPoint off(const BoatPose &p, double ahead_m, double right_m) {
        const double h = p.heading_deg / degrees_per_radian;
        return LocalPlane(p.antenna).to_globe(
            {ahead_m * std::sin(h) + right_m * std::cos(h), ahead_m * std::cos(h) - right_m * std::sin(h)});
    }
};

} // namespace

TEST_F(MarksAtWork, AllThatTheWallShowsIsChangedTogetherAndUndoneTogether) {
    for (int i = 0; i < 4; ++i)
        ASSERT_TRUE(marks().add(mark("Stump", Kind::stump, 10.0 * i)));
    ASSERT_TRUE(marks().add(mark("Gate", Kind::built, 100)));
    key(Qt::Key_6);
    type("findMarks", QStringLiteral("stump"));
    view().setFocus();
    press("pageMany");
    ASSERT_EQ(view().page(), MarksView::Page::many);
    type("manyTag", QStringLiteral("autumn"));
    press("manyAddTag");
    const auto tagged = [&] {
        return std::count_if(marks().all().begin(), marks().all().end(), [](const Mark &m) {
            return std::find(m.tags.begin(), m.tags.end(), "autumn") != m.tags.end();
        });
    };
    EXPECT_EQ(tagged(), 4) << "the gate is not on the wall";
    press("manyAddTag");
    EXPECT_TRUE(notice().contains(QStringLiteral("so already"))) << notice().toStdString();
    auto *level = find<QComboBox>("manyLevel");
    level->setCurrentIndex(level->findData(static_cast<int>(Level::me)));
    emit level->activated(level->currentIndex());
    EXPECT_EQ(std::count_if(marks().all().begin(), marks().all().end(),
                            [](const Mark &m) { return m.level == Level::me; }),
              4);
    marks().undo();
    EXPECT_EQ(tagged(), 4);
    EXPECT_EQ(std::count_if(marks().all().begin(), marks().all().end(),
                            [](const Mark &m) { return m.level == Level::me; }),
              0);
    press("manyRemove");
    EXPECT_EQ(marks().all().size(), 5u) << "not at the first press";
    press("manyRemove");
    EXPECT_EQ(marks().all().size(), 1u);
    marks().undo();
    EXPECT_EQ(marks().all().size(), 5u);
}

TEST_F(MarksAtWork, WhatWasDoneBeforeTheProgramWasClosedIsToldAndTakenBack) {
    const auto m = mark("Larch stump", Kind::stump);
    const auto id = QString::fromStdString(m.id);
    ASSERT_TRUE(marks().add(m));
    auto other = m;
    other.name = "The wrong name";
    ASSERT_TRUE(marks().change(other));
    open();
    EXPECT_EQ(marks().find(id)->name, "The wrong name");
    state().selectMark(id);
    key(Qt::Key_6);
    press("pageStory");
    QTest::qWait(50);
    const auto lines = view().story().lines().join(QLatin1Char('\n'));
    EXPECT_TRUE(lines.contains(QStringLiteral("· name"))) << lines.toStdString();
    EXPECT_TRUE(lines.contains(QStringLiteral("· made"))) << lines.toStdString();
    press("pageMark");
    ASSERT_TRUE(find("undoMarks")->isEnabled());
    press("undoMarks");
    EXPECT_EQ(marks().find(id)->name, "Larch stump");
}

TEST_F(MarksAtWork, WhatStandsOutOfTheWaterIsMarkedByEye) {
    key(Qt::Key_F5);
    EXPECT_FALSE(window->eyeMark().isVisible());
    EXPECT_TRUE(notice().contains(QStringLiteral("position and heading"))) << notice().toStdString();
    sail(QStringLiteral("4"));
    key(Qt::Key_F5);
    auto &eye = window->eyeMark();
    ASSERT_TRUE(eye.isVisible());
    EXPECT_TRUE(test::shows_something(eye.grab().toImage()));
    // Two o'clock, forty metres: pressed there, told there.
    const auto spot = eye.positionOf({60, 40});
    QTest::mouseClick(&eye, Qt::LeftButton, Qt::NoModifier, spot.toPoint());
    EXPECT_NEAR(eye.guess().off_bow_deg, 60, 1);
    EXPECT_NEAR(eye.guess().distance_m, 40, 1);
    key(Qt::Key_Right);
    EXPECT_NEAR(eye.guess().off_bow_deg, 65, 1);
    key(Qt::Key_Left);
    // The same letter marks in the place beneath: here it is meant.
    key(Qt::Key_X);
    EXPECT_FALSE(eye.isVisible());
    ASSERT_EQ(marks().all().size(), 1u) << notice().toStdString();
    const auto &m = marks().all()[0];
    EXPECT_EQ(m.confirmed, Confirmed::eye);
    // As the boat lay when it was marked.
    const auto then = scan().nav.fix_at(m.time);
    ASSERT_TRUE(then);
    const auto leg = leg_between(then->pose.antenna, *m.place);
    EXPECT_NEAR(leg.distance_m, 40, 1);
    EXPECT_NEAR(wrap_180(leg.bearing_deg - then->pose.heading_deg), 60, 3);
    // A guess along the line of sight is worse than across it: 6 m and 3.5 m of 40.
    const auto e = ellipse_of(m.place_covariance);
    EXPECT_NEAR(e.semi_major_m, std::hypot(then->pose.position_sd_m, 6), 0.4);
    EXPECT_NEAR(e.semi_minor_m, std::hypot(then->pose.position_sd_m, 3.5), 0.4);
    EXPECT_NEAR(std::fabs(std::remainder(e.bearing_deg - leg.bearing_deg, 180)), 0, 2);
    key(Qt::Key_F5);
    ASSERT_TRUE(eye.isVisible());
    key(Qt::Key_Escape);
    EXPECT_FALSE(eye.isVisible());
    // Another place puts it away, and takes keys again.
    key(Qt::Key_F5);
    ASSERT_TRUE(eye.isVisible());
    key(Qt::Key_4);
    EXPECT_FALSE(eye.isVisible());
    EXPECT_TRUE(window->view<ScanView>().isEnabled());
    EXPECT_EQ(marks().all().size(), 1u);
}

// Deep in spring; today the lake has fallen: told in every place, with a sound, once.
TEST_F(MarksAtWork, AStumpThatTheFallenLakeBringsNearTheSurfaceIsAHazardAhead) {
    int rung = 0;
    program->hazards.setBell([&rung] { ++rung; });
    sail(QStringLiteral("2"));
    auto m = mark("Old larch", Kind::stump);
    m.depth_m = Estimate{4, 0.1};
    m.height_m = Estimate{1.2, 0.1};
    m.lake_level_m = 0;
    m.place = off(*pose(), 50, 0);
    ASSERT_TRUE(marks().add(m));
    QTest::qWait(1200);
    EXPECT_EQ(rung, 0) << "2.8 m down";
    session().trip.setLevelToday(-2.3);
    m.place = off(*pose(), 50, 0);
    ASSERT_TRUE(marks().change(m));
    ASSERT_TRUE(test::wait_for([&] { return program->hazards.ahead().has_value(); }, 5000));
    EXPECT_EQ(rung, 1);
    key(Qt::Key_6);
    EXPECT_TRUE(notice().contains(QStringLiteral("Hazard ahead"))) << notice().toStdString();
    EXPECT_TRUE(notice().contains(QStringLiteral("Old larch"))) << notice().toStdString();
    EXPECT_TRUE(notice().contains(QStringLiteral("down today"))) << notice().toStdString();
    // It is passed: the warning goes.
    m.place = off(*pose(), -120, 0);
    ASSERT_TRUE(marks().change(m));
    ASSERT_TRUE(test::wait_for([&] { return !program->hazards.ahead(); }, 5000));
    EXPECT_FALSE(notice().contains(QStringLiteral("Hazard ahead"))) << notice().toStdString();
    EXPECT_EQ(rung, 1);
}

TEST_F(MarksAtWork, TheWayGoesRoundToTheSideThatShowsIt) {
    sail(QStringLiteral("2"));
    auto m = mark("Gate", Kind::built);
    m.place = off(*pose(), 80, 0);
    m.seen_from_deg = wrap_360(pose()->heading_deg + 90); // it shows from the right
    ASSERT_TRUE(marks().add(m));
    state().selectMark(QString::fromStdString(m.id));
    key(Qt::Key_F2);
    ASSERT_EQ(program->way.path().size(), 1u);
    ASSERT_TRUE(find("wayBestSide")->isVisible());
    press("wayBestSide");
    ASSERT_EQ(program->way.path().size(), 2u);
    const auto leg = leg_between(*m.place, program->way.path()[0]);
    EXPECT_NEAR(leg.distance_m, 20, 0.1);
    EXPECT_NEAR(wrap_180(leg.bearing_deg - *m.seen_from_deg), 0, 0.5);
    EXPECT_TRUE(program->way.words().contains(QStringLiteral("round to its")))
        << program->way.words().toStdString();
    press("wayBestSide");
    EXPECT_EQ(program->way.path().size(), 1u);
    key(Qt::Key_F9);
}

TEST_F(MarksAtWork, TheBuoyIsDroppedWhenItsSeatIsOverThePlace) {
    sail(QStringLiteral("3"));
    // The stern passes over what lies a little ahead on the boat's own line.
    auto m = mark("Drop here", Kind::hump);
    m.place = off(*pose(), 12, 0);
    ASSERT_TRUE(marks().add(m));
    state().selectMark(QString::fromStdString(m.id));
    key(Qt::Key_F2);
    press("wayBuoy");
    ASSERT_TRUE(program->way.buoySeat());
    EXPECT_EQ(*program->way.buoySeat(), session().boats.boat().seats.size() - 1) << "the stern first";
    bool now = false;
    double bow_off = 0;
    ASSERT_TRUE(test::wait_for(
        [&] {
            const auto cue = program->way.cue();
            now = cue && cue->drop_now;
            if (now)
                bow_off = leg_between(pose()->antenna, *m.place).distance_m;
            return now;
        },
        60000))
        << program->way.words().toStdString();
    EXPECT_LT(bow_off, 9) << "the antenna is within a boat's length then";
    EXPECT_TRUE(window->wayBar().text().contains(QStringLiteral("NOW")) ||
                window->wayBar().text().contains(QStringLiteral("yet to")))
        << window->wayBar().text().toStdString();
    for (std::size_t i = 0; i < session().boats.boat().seats.size(); ++i)
        press("wayBuoy");
    EXPECT_FALSE(program->way.buoySeat());
    key(Qt::Key_F9);
}
