// What goes from the circle to elsewhere: marks put right by it, casts said aloud, the way that ends on it,
// what guests are shown, and the same contacts in Read over their section.
#include "around_stage.hpp"

#include "parts/down_strip.hpp"
#include "parts/picture_over_section.hpp"
#include "speech/voice.hpp"
#include "views/read/contact_panel.hpp"
#include "views/read/read_view.hpp"

#include <cmath>

using namespace heron;
using namespace heron::app;
using test::boulder_ahead_m, test::boulder_right_m;

namespace {

class AroundSeats : public test::AroundStage {
  protected:
    LocalPlane lake{{46.5, -21.25}}; ///< of the scene's origin

    /// A mark as another pass of the sides would have left it, off by so much.
    QString markOff(double east_m, double north_m, double sd_m) {
        Mark m;
        m.id = "stump-1";
        m.name = "The big one";
        m.note = "seen in spring";
        m.family = Family::structure;
        m.place = lake.to_globe({50 + east_m, 58 + north_m});
        m.place_covariance = {sd_m * sd_m, 0, sd_m * sd_m};
        EXPECT_TRUE(marks().add(m));
        return QString::fromStdString(m.id);
    }
    void aimAtMark(const QString &id) {
        const auto aim = bow().aimOf(*marks().find(id));
        ASSERT_TRUE(aim);
        press_on(circle().positionOf(aim->at).toPoint());
        ASSERT_TRUE(bow().aim());
        ASSERT_EQ(bow().aim()->mark, id);
    }
    // The pointer is there when the circle says so.
    void point_at(QPoint spot) {
        // Where the pointer is already, moving it there again makes no event.
        QTest::mouseMove(&circle(), spot + QPoint(9, 9));
        QTest::mouseMove(&circle(), spot);
        ASSERT_TRUE(test::wait_for([&] {
            const auto pointed = circle().pointed();
            return pointed && QLineF(circle().positionOf(pointed->at), spot).length() < 3;
        }));
    }
    bool readTwice() {
        return test::wait_for(
            [&] {
                return std::any_of(program->circle.contacts().begin(), program->circle.contacts().end(),
                                   [](const Contact &c) { return c.looks > 1; });
            },
            30000);
    }
};

struct ListeningVoice : Voice {
    QStringList &said;
    explicit ListeningVoice(QStringList &s) : said(s) {}
    void say(const QString &words) override { said << words; }
    bool speaking() const override { return false; }
    bool available() const override { return true; }
};

} // namespace

TEST_F(AroundSeats, OneKeyNudgesAMarkToWhereTheCircleShowsIt) {
    record();
    const auto id = markOff(-2.5, 1.5, 2.5);
    aimAtMark(id);
    const auto before = leg_between(*marks().find(id)->place, lake.to_globe({50, 58})).distance_m;
    point_at(at(boulder_ahead_m, boulder_right_m));
    key(Qt::Key_M);
    const auto *m = marks().find(id);
    ASSERT_EQ(m->sightings.size(), 2u) << notice().toStdString();
    EXPECT_EQ(m->sightings[1].side, "around");
    EXPECT_EQ(m->name, "The big one");
    EXPECT_EQ(m->note, "seen in spring");
    // The circle is surer than the pass was: the mean lies nearer to the thing than the mark did.
    EXPECT_LT(leg_between(*m->place, lake.to_globe({50, 58})).distance_m, 0.4 * before);
    EXPECT_TRUE(notice().contains(QStringLiteral("Nudged"))) << notice().toStdString();
    ASSERT_TRUE(bow().aim());
    EXPECT_EQ(bow().aim()->mark, id) << "it is still what is aimed at";
    marks().undo();
    EXPECT_TRUE(marks().find(id)->sightings.empty()) << "one step of undo";
}

TEST_F(AroundSeats, WhatLiesTooFarOffIsAThingOfItsOwn) {
    record();
    const auto id = markOff(-8, -3, 0.8);
    aimAtMark(id);
    point_at(at(boulder_ahead_m, boulder_right_m));
    key(Qt::Key_M);
    EXPECT_TRUE(marks().find(id)->sightings.empty());
    EXPECT_TRUE(notice().contains(QStringLiteral("thing of its own"))) << notice().toStdString();
    EXPECT_FALSE(find("nudge")->isEnabled() && !bow().aim());
}

TEST_F(AroundSeats, TheWindIsToldByPointingAndCountsWhereToHold) {
    record();
    press_on(at(boulder_ahead_m, boulder_right_m));
    // From the right, abeam; it gets stronger press by press, and ends.
    point_at(at(0, 9));
    key(Qt::Key_Slash);
    ASSERT_TRUE(bow().wind());
    EXPECT_NEAR(bow().wind()->from_deg, 90, 2);
    const double light = bow().wind()->speed_m_s;
    EXPECT_TRUE(notice().contains(QStringLiteral("wind from the right"))) << notice().toStdString();
    key(Qt::Key_Slash);
    EXPECT_GT(bow().wind()->speed_m_s, light);
    key(Qt::Key_Y);
    ASSERT_TRUE(bow().hold());
    // The boat of this recording lies still for all of it, so a drift was measured, and that one counts.
    ASSERT_TRUE(bow().measuredDrift());
    EXPECT_LT(bow().drift()->speed_m_s(), 0.05);
    key(Qt::Key_Slash);
    key(Qt::Key_Slash);
    EXPECT_FALSE(bow().wind());
    EXPECT_TRUE(test::shows_something(circle().grab().toImage()));
}

TEST_F(AroundSeats, CastsAreSaidOnceToEverySeatWhenSomethingIsAimedAt) {
    QStringList said;
    program->speaker.setVoice([&](std::function<void()>) { return std::make_unique<ListeningVoice>(said); });
    session().preferences.setSpeaks(true);
    record();
    said.clear();
    press_on(at(boulder_ahead_m, boulder_right_m));
    ASSERT_EQ(said.size(), 1);
    for (const auto &seat : session().boats.boat().seats)
        EXPECT_TRUE(said[0].contains(QString::fromStdString(seat.name))) << said[0].toStdString();
    EXPECT_TRUE(said[0].contains(QStringLiteral("12 45"))) << said[0].toStdString();
    EXPECT_TRUE(said[0].contains(QStringLiteral("out of reach"))) << said[0].toStdString();
    session().preferences.setSpeaks(false);
}

TEST_F(AroundSeats, GuestsAreShownWhatLiesThereInLargeLetters) {
    record();
    const auto id = markOff(0, 0, 0.5);
    key(Qt::Key_F12);
    EXPECT_TRUE(circle().guests());
    point_at(at(boulder_ahead_m, boulder_right_m));
    EXPECT_TRUE(circle().guestWords().contains(QStringLiteral("The big one")))
        << circle().guestWords().toStdString();
    point_at(at(3, -4));
    EXPECT_FALSE(circle().guestWords().contains(QStringLiteral("The big one")));
    EXPECT_FALSE(circle().guestWords().isEmpty()) << "how far and where it is";
    // In company its name stays with the guide.
    session().preferences.setInCompany(true);
    point_at(at(boulder_ahead_m, boulder_right_m));
    EXPECT_FALSE(circle().guestWords().contains(QStringLiteral("The big one")));
    session().preferences.setInCompany(false);
    key(Qt::Key_F12);
    EXPECT_FALSE(circle().guests());
}

TEST_F(AroundSeats, TheWayToAMarkEndsOnTheCircleWithTheSpotToHoldOn) {
    record();
    const auto id = markOff(0, 0, 0.5);
    state().selectMark(id);
    EXPECT_FALSE(bow().aim());
    key(Qt::Key_F2);
    ASSERT_TRUE(test::wait_for([&] { return bow().aim().has_value(); }))
        << program->way.words().toStdString();
    EXPECT_EQ(bow().aim()->mark, id);
    EXPECT_TRUE(bow().holdWanted());
    EXPECT_TRUE(card().holdWords().contains(QStringLiteral("Hold "))) << card().holdWords().toStdString();
    key(Qt::Key_F9);
}

// What the head hears is read over the same section as what the sides hear.
TEST_F(AroundSeats, ReadShowsWhatTheCircleToldOverItsSection) {
    record(60);
    ASSERT_TRUE(readTwice());
    key(Qt::Key_3);
    auto &read = window->view<ReadView>();
    EXPECT_TRUE(read.shown().empty()) << "of the sides nothing was heard";
    ASSERT_TRUE(test::wait_for([&] { return find("readCircle")->isVisible(); }));
    key(Qt::Key_D);
    ASSERT_FALSE(read.shown().empty());
    const Contact *boulder = nullptr;
    for (const auto *c : read.shown())
        if (c->place) {
            const auto p = lake.to_plane(c->place->place);
            if (std::hypot(p.east_m - 50, p.north_m - 58) < 1.2)
                boulder = c;
        }
    ASSERT_NE(boulder, nullptr);
    while (read.selected() != boulder && read.selected() != read.shown().back())
        key(Qt::Key_Down);
    ASSERT_EQ(read.selected(), boulder);
    EXPECT_TRUE(test::shows_something(read.fold().grab().toImage()));
    // The picture lies about its own ray: the row in its middle is the contact's.
    EXPECT_NEAR(read.fold().pointOf(boulder->row, boulder->slant_m).y(), read.fold().height() / 4.0, 1.5);
    if (boulder->height_m) {
        ASSERT_TRUE(read.fold().measured());
        EXPECT_NEAR(read.fold().measured()->shadow.height_m.value, boulder->height_m->value, 0.5);
    }
    key(Qt::Key_M);
    ASSERT_EQ(marks().all().size(), 1u) << notice().toStdString();
    EXPECT_EQ(marks().all()[0].side, "around");
    const auto p = lake.to_plane(*marks().all()[0].place);
    EXPECT_LT(std::hypot(p.east_m - 50, p.north_m - 58), 1.2);
    // Back to Around with it aimed at.
    key(Qt::Key_G);
    EXPECT_EQ(window->current(), QStringLiteral("around"));
    ASSERT_TRUE(bow().aim());
    EXPECT_NEAR(
        std::hypot(bow().pose().to(bow().aim()->at).ahead_m, bow().pose().to(bow().aim()->at).right_m),
        std::hypot(boulder_ahead_m, boulder_right_m), 1.2);
}

TEST_F(AroundSeats, WhatLiesBelowStandsBesideTheCircle) {
    const test::SounderProcess sounder({QStringLiteral("--device"), QStringLiteral("both"),
                                        QStringLiteral("--head-port"), QStringLiteral("0"),
                                        QStringLiteral("--speed-up"), QStringLiteral("4")});
    session().sources.listenTo(sounder.sources);
    ASSERT_TRUE(rows(40));
    skip_conditions();
    key(Qt::Key_4);
    const int wide = circle().width();
    key(Qt::Key_F11);
    auto *down = find<DownStrip>("aroundDown");
    ASSERT_TRUE(down->isVisible());
    EXPECT_LE(circle().width(), wide - DownStrip::wide);
    EXPECT_TRUE(test::shows_something(down->grab().toImage()));
    key(Qt::Key_F11);
    EXPECT_FALSE(down->isVisible());
}
