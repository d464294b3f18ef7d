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
    TripsView &trips() { return window->tripsView(); }
    void open_it() {
        key(Qt::Key_J);
        ASSERT_TRUE(trips().isVisible());
        ASSERT_EQ(trips().trips().size(), 1u);
        key(Qt::Key_Return);
        ASSERT_EQ(survey->source(), Survey::Source::trip);
        ASSERT_EQ(window->spine().current(), Place::scan);
    }
};

} // namespace

TEST_F(Trips, IsListedOpenedAndShownWithItsLastRowOnTop) {
    open_it();
    EXPECT_EQ(scan().end(), 400u);
    EXPECT_EQ(picture().topRow(), 399u);
    EXPECT_EQ(survey->sourceName(), QStringLiteral("Ellemoor Water"));
    EXPECT_EQ(scan().ping(120).beams[0].code, test::minute().rows[120].ping.beams[0].code);
    EXPECT_EQ(survey->flow(), Survey::Flow::ended);
}

TEST_F(Trips, PlaysFromTheTopRowAsIfLiveAndPauses) {
    open_it();
    survey->setPlaySpeed(8);
    picture().goTo(100);
    key(Qt::Key_Space);
    EXPECT_EQ(survey->flow(), Survey::Flow::flowing);
    ASSERT_TRUE(test::wait_for([&] { return survey->end() > 140; }));
    EXPECT_LT(survey->end(), 400u);
    EXPECT_EQ(picture().topRow(), survey->end() - 1);
    key(Qt::Key_Space);
    EXPECT_EQ(survey->flow(), Survey::Flow::paused);
    const auto stands = survey->end();
    QTest::qWait(300);
    EXPECT_EQ(survey->end(), stands);
    // Everything works as live: the watcher looks, a thing is measured and marked.
    EXPECT_GT(desk->health().rows, 20u);
    QTest::mouseClick(&picture(), Qt::LeftButton, Qt::NoModifier, on_picture(stands - 40, Side::port, 13));
    key(Qt::Key_C);
    ASSERT_EQ(survey->marks().size(), 1u);
    EXPECT_TRUE(survey->marks()[0].place);
    survey->setPlaySpeed(1000);
    key(Qt::Key_Space);
    EXPECT_TRUE(test::wait_for([&] { return survey->flow() == Survey::Flow::ended; }));
    EXPECT_EQ(survey->end(), 400u);
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
    press("thinTrip");
    EXPECT_EQ(std::filesystem::file_size(file), before) << "told, not done";
    press("thinTrip");
    ASSERT_TRUE(test::wait_for([&] { return notice().contains(QStringLiteral("freed")); }))
        << notice().toStdString();
    EXPECT_LT(std::filesystem::file_size(file), before / 3);
    key(Qt::Key_Return);
    EXPECT_EQ(scan().end(), 400u) << "rows keep their numbers, depths and places";
    EXPECT_TRUE(scan().ping(200).beams.empty());
}

TEST_F(Trips, ATripThatIsKeptElsewhereIsLookedAtOrRefusedInWords) {
    const auto held = TripFile::open(file);
    ASSERT_TRUE(held);
    key(Qt::Key_J);
    key(Qt::Key_Return);
    EXPECT_EQ(survey->source(), Survey::Source::none);
    ASSERT_TRUE(test::wait_for([&] { return !notice().isEmpty(); }));
    EXPECT_TRUE(notice().contains(QStringLiteral("open"))) << notice().toStdString();
}

TEST_F(Trips, WhatIsNoTripIsRefusedAndWhatRunsGoesOn) {
    std::ofstream(folder.file("trips/broken.trip.gpkg")) << "no database";
    survey->openTrip(QString::fromStdString(folder.file("trips/broken.trip.gpkg")));
    EXPECT_EQ(survey->source(), Survey::Source::none);
    EXPECT_TRUE(notice().contains(QStringLiteral("broken.trip.gpkg"))) << notice().toStdString();
    survey->openTrip(QString::fromStdString(file));
    EXPECT_EQ(survey->source(), Survey::Source::trip);
}
