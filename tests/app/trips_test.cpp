// Trips that were kept: found, opened, played, jumped in, made small; and two windows on one.
#include "stage.hpp"
#include "trips.hpp"
#include "views/trips/trips_view.hpp"

using namespace heron;
using namespace heron::app;

namespace {

class Trips : public test::Stage {
  protected:
    std::string file;
    void SetUp() override {
        Stage::SetUp();
        std::filesystem::create_directories(folder.file("trips"));
        file = folder.file("trips/minute.trip.gpkg");
        test::keep(file);
    }
    TripsView &trips() { return window->view<TripsView>(); }
    void open_it() {
        key(Qt::Key_J);
        ASSERT_TRUE(trips().isVisible());
        ASSERT_TRUE(test::wait_for([&] { return !trips().trips().empty(); }));
        ASSERT_EQ(trips().trips().size(), 1u);
        key(Qt::Key_Return);
        ASSERT_TRUE(test::wait_for([&] { return session().sources.source() == Sources::Source::trip; }));
        ASSERT_EQ(window->rail().current(), place::scan);
    }
};

} // namespace

TEST_F(Trips, IsListedOpenedAndShownWithItsLastRowOnTop) {
    open_it();
    EXPECT_EQ(scan().end(), 400u);
    EXPECT_EQ(picture().topRow(), 399u);
    EXPECT_EQ(session().sources.name(), QStringLiteral("Ellemoor Water"));
    EXPECT_EQ(scan().ping(120).beams[0].code, test::minute().rows[120].ping.beams[0].code);
    EXPECT_EQ(session().sources.flow(), Sources::Flow::ended);
}

TEST_F(Trips, PlaysFromTheTopRowAsIfLiveAndPauses) {
    open_it();
    session().playback.setSpeed(8);
    picture().goTo(100);
    key(Qt::Key_Space);
    EXPECT_EQ(session().sources.flow(), Sources::Flow::flowing);
    ASSERT_TRUE(test::wait_for([&] { return session().shown.end() > 140; }));
    EXPECT_LT(session().shown.end(), 400u);
    EXPECT_EQ(picture().topRow(), session().shown.end() - 1);
    key(Qt::Key_Space);
    EXPECT_EQ(session().sources.flow(), Sources::Flow::paused);
    const auto stands = session().shown.end();
    QTest::qWait(300);
    EXPECT_EQ(session().shown.end(), stands);
    // Everything works as live: the watcher looks, a thing is measured and marked.
    EXPECT_GT(program->tuner.health().rows, 20u);
    QTest::mouseClick(&picture(), Qt::LeftButton, Qt::NoModifier, on_picture(stands - 40, Side::port, 13));
    key(Qt::Key_C);
    ASSERT_EQ(marks().all().size(), 1u);
    EXPECT_TRUE(marks().all()[0].place);
    session().playback.setSpeed(1000);
    key(Qt::Key_Space);
    EXPECT_TRUE(test::wait_for([&] { return session().sources.flow() == Sources::Flow::ended; }));
    EXPECT_EQ(session().shown.end(), 400u);
}

TEST_F(Trips, TheStripJumpsAnywhere) {
    open_it();
    auto *strip = find("trip");
    QTest::mouseClick(strip, Qt::LeftButton, Qt::NoModifier,
                      QPoint(strip->width() / 2, strip->height() * 2 / 3));
    const auto one = picture().topRow();
    EXPECT_LT(one, 399u);
    QTest::mouseClick(strip, Qt::LeftButton, Qt::NoModifier, QPoint(strip->width() / 2, strip->height() / 3));
    EXPECT_NE(picture().topRow(), one);
    EXPECT_TRUE(picture().frozen());
}

TEST_F(Trips, MakingSmallTellsTheSavingFirst) {
    key(Qt::Key_J);
    const auto before = std::filesystem::file_size(file);
    ASSERT_TRUE(test::wait_for([&] { return find("thinTrip")->isEnabled(); }));
    press("thinTrip");
    ASSERT_TRUE(test::wait_for([&] { return trips().told().contains(QStringLiteral("would go")); }));
    EXPECT_EQ(std::filesystem::file_size(file), before) << "told, not done";
    press("thinTrip");
    ASSERT_TRUE(test::wait_for([&] { return notice().contains(QStringLiteral("freed")); }))
        << notice().toStdString();
    EXPECT_LT(std::filesystem::file_size(file), before / 3);
    ASSERT_TRUE(test::wait_for([&] { return find("openTrip")->isEnabled(); }));
    key(Qt::Key_Return);
    ASSERT_TRUE(test::wait_for([&] { return !scan().empty(); }));
    EXPECT_EQ(scan().end(), 400u) << "rows keep their numbers, depths and places";
    EXPECT_TRUE(scan().ping(200).beams.empty());
}

TEST_F(Trips, ATripThatIsKeptElsewhereIsLookedAtOrRefusedInWords) {
    const auto held = TripFile::open(file);
    ASSERT_TRUE(held);
    key(Qt::Key_J);
    ASSERT_TRUE(test::wait_for([&] { return find("openTrip")->isEnabled(); }));
    key(Qt::Key_Return);
    ASSERT_TRUE(test::wait_for([&] { return window->notice().isVisible(); }));
    EXPECT_EQ(session().sources.source(), Sources::Source::none);
    EXPECT_TRUE(notice().contains(QStringLiteral("open"))) << notice().toStdString();
}

TEST_F(Trips, WhatIsNoTripIsRefusedAndWhatRunsGoesOn) {
    std::ofstream(folder.file("trips/broken.trip.gpkg")) << "no database";
    session().sources.openTrip(QString::fromStdString(folder.file("trips/broken.trip.gpkg")));
    ASSERT_TRUE(test::wait_for([&] { return window->notice().isVisible(); }));
    EXPECT_EQ(session().sources.source(), Sources::Source::none);
    EXPECT_TRUE(notice().contains(QStringLiteral("broken.trip.gpkg"))) << notice().toStdString();
    open_trip(file);
    EXPECT_EQ(session().sources.source(), Sources::Source::trip);
}

// A guide who changes their mind is shown what was asked for last, and told nothing of the other.
TEST_F(Trips, WhatMakesNoSenseInATripIsToldAndTheRestIsShown) {
    {
        auto db = Database::open(file, Database::Mode::write);
        ASSERT_TRUE(db);
        ASSERT_TRUE(
            db->run("UPDATE heron_block SET rows = 1000000000 WHERE id = (SELECT max(id) FROM heron_block)"));
    }
    open_trip(file);
    EXPECT_TRUE(notice().contains(QStringLiteral("1 part of what it keeps"))) << notice().toStdString();
    EXPECT_TRUE(notice().contains(QStringLiteral("ll the rest is shown"))) << notice().toStdString();
    EXPECT_GT(scan().end(), 300u);
    EXPECT_LT(scan().end(), 400u);
}

TEST_F(Trips, TheLastOneAskedForIsShown) {
    const auto second = folder.file("trips/other.trip.gpkg");
    test::keep(second);
    session().sources.openTrip(QString::fromStdString(file));
    session().sources.openTrip(QString::fromStdString(second));
    ASSERT_TRUE(session().sources.opening());
    ASSERT_TRUE(test::wait_for([&] { return session().sources.source() == Sources::Source::trip; }));
    EXPECT_EQ(session().trip.path(), QString::fromStdString(second));
    EXPECT_FALSE(session().sources.opening());
    EXPECT_FALSE(window->notice().isVisible()) << notice().toStdString();
    // A recording asked for while a trip opens is not taken away by it.
    session().sources.openTrip(QString::fromStdString(file));
    session().sources.openRecording(QString::fromStdString(test::sample()));
    ASSERT_TRUE(test::wait_for([&] { return session().sources.source() == Sources::Source::recording; }));
    QTest::qWait(400);
    EXPECT_EQ(session().sources.source(), Sources::Source::recording);
}
