// What follows a reading: the guide's word, the second look and its steering, fish it or leave it, why it
// looks so, outlines, and the bottom line drawn by hand.
#include "parts/pass_compare.hpp"
#include "stage.hpp"
#include "trips.hpp"
#include "views/read/contact_panel.hpp"
#include "views/read/read_view.hpp"
#include "views/scan/cue_bar.hpp"

using namespace heron;
using namespace heron::app;

namespace {

class Looks : public test::Stage {
  protected:
    void SetUp() override {
        Stage::SetUp();
        session().trip.setWater(QStringLiteral("Ellemoor Water"));
        play_sample();
        ASSERT_TRUE(test::wait_for([&] { return program->reader.readUntil() >= scan().end(); }, 60000));
        key(Qt::Key_3);
        ASSERT_GT(view().shown().size(), 8u);
        view().grab();
    }
    ReadView &view() { return window->view<ReadView>(); }
    ContactPanel &side() { return view().side(); }
    CueBar &cue() { return window->view<ScanView>().cue(); }
    QString said() {
        side().grab();
        return side().said().join(QLatin1Char('\n'));
    }
    /// Takes the first contact for which a second look pays.
    bool doubtful() {
        for (std::size_t i = 0; i < view().shown().size(); ++i) {
            if (side().plan())
                return true;
            key(Qt::Key_Down);
        }
        return side().plan().has_value();
    }
};

} // namespace

TEST_F(Looks, PagesAreKeysAndSayWhatWasComputed) {
    EXPECT_TRUE(said().contains(QStringLiteral("in 100"))) << said().toStdString();
    key(Qt::Key_Y);
    EXPECT_EQ(side().page(), ContactPanel::Page::why);
    EXPECT_TRUE(said().contains(QStringLiteral("mph"))) << said().toStdString();
    key(Qt::Key_W);
    EXPECT_EQ(side().page(), ContactPanel::Page::fish);
    EXPECT_TRUE(said().contains(QStringLiteral("left"))) << said().toStdString();
    key(Qt::Key_H);
    EXPECT_TRUE(side().lastHour());
    key(Qt::Key_Q);
    EXPECT_EQ(side().page(), ContactPanel::Page::what);
}

TEST_F(Looks, TheGuidesWordIsKeptWithTheContactWeighedInAndTakenBack) {
    const auto *c = view().selected();
    ASSERT_NE(c, nullptr);
    const auto row = c->row;
    key(Qt::Key_K);
    press("it_is_log");
    const auto now = [&]() -> const Contact * {
        for (const auto *s : view().shown())
            if (s->row == row)
                return s;
        return nullptr;
    };
    ASSERT_TRUE(test::wait_for([&] { return now() != nullptr && now()->said == Kind::log; }));
    EXPECT_EQ(now()->kind, Kind::log);
    EXPECT_TRUE(said().contains(QStringLiteral("you said so")));
    EXPECT_EQ(program->reader.wordsHere(), 1u);
    EXPECT_TRUE(QFile::exists(QString::fromStdString(folder.file("corrections.json"))));
    // A mark made of it bears the word.
    key(Qt::Key_M);
    ASSERT_EQ(marks().all().size(), 1u);
    EXPECT_EQ(marks().all()[0].kind, Kind::log);
    // As shipped again, and the word stays.
    key(Qt::Key_K);
    press("weighWords");
    EXPECT_FALSE(program->reader.weighs());
    press("weighWords");
    // Taken back.
    press("takeBack");
    EXPECT_TRUE(test::wait_for([&] { return now() != nullptr && !now()->said; }));
    EXPECT_EQ(program->reader.wordsHere(), 0u);
}

// What a diver found at a mark is the guide's word on the contact that the mark was made of.
TEST_F(Looks, WhatAMarkTurnedOutToBeWeighsIntoTheReading) {
    key(Qt::Key_M);
    ASSERT_EQ(marks().all().size(), 1u);
    const auto row = view().selected()->row;
    key(Qt::Key_6);
    press("pageStory");
    const auto choose = [&](const char *name, int value) {
        auto *box = window->findChild<QComboBox *>(QString::fromLatin1(name));
        ASSERT_NE(box, nullptr);
        box->setFocus();
        QTest::keyClick(box, Qt::Key_Home);
        while (box->currentData().toInt() != value && box->currentIndex() + 1 < box->count())
            QTest::keyClick(box, Qt::Key_Down);
        ASSERT_EQ(box->currentData().toInt(), value);
        emit box->activated(box->currentIndex());
    };
    choose("markConfirmed", static_cast<int>(Confirmed::diver));
    EXPECT_EQ(program->reader.wordsHere(), 0u) << "how is not what";
    choose("markTurnedOut", static_cast<int>(Kind::log));
    EXPECT_EQ(program->reader.wordsHere(), 1u) << notice().toStdString();
    EXPECT_TRUE(test::wait_for([&] {
        const auto &all = program->reader.contacts();
        return std::any_of(all.begin(), all.end(),
                           [&](const Contact &c) { return c.row == row && c.said == Kind::log; });
    }));
}

TEST_F(Looks, NothingButGroundIsTakenOut) {
    const auto n = view().shown().size();
    const auto row = view().selected()->row;
    const auto there = [&] {
        const auto &all = view().shown();
        return std::any_of(all.begin(), all.end(), [&](const Contact *c) { return c->row == row; });
    };
    key(Qt::Key_K);
    press("it_is_none");
    // What is alike on this water may go with it: the word is weighed in.
    ASSERT_TRUE(test::wait_for([&] { return !there(); })) << view().shown().size() << " of " << n;
    EXPECT_LT(view().shown().size(), n);
    EXPECT_GE(view().shown().size() + 3, n);
    EXPECT_TRUE(notice().contains(QStringLiteral("Taken out"))) << notice().toStdString();
    key(Qt::Key_K);
    key(Qt::Key_U);
    EXPECT_TRUE(test::wait_for([&] { return view().shown().size() == n; }))
        << view().shown().size() << " of " << n;
}

TEST_F(Looks, ASecondLookIsPlannedAndSteered) {
    ASSERT_TRUE(doubtful());
    const auto plan = *side().plan();
    EXPECT_GT(plan.sure_then, plan.sure_now);
    EXPECT_TRUE(said().contains(QStringLiteral("heading"))) << said().toStdString();
    key(Qt::Key_R);
    EXPECT_EQ(window->rail().current(), place::scan);
    ASSERT_TRUE(cue().isVisible());
    cue().grab();
    EXPECT_FALSE(cue().steering().isEmpty());
    EXPECT_TRUE(cue().thing().contains(QStringLiteral("off"))) << cue().thing().toStdString();
    key(Qt::Key_Escape);
    EXPECT_FALSE(cue().isVisible());
    EXPECT_FALSE(program->planner.run());
}

TEST_F(Looks, OtherPassesAndTheLookDownAreAKey) {
    key(Qt::Key_E);
    ASSERT_TRUE(view().passes().isVisible());
    EXPECT_GE(view().passes().looks().size(), 1u);
    EXPECT_TRUE(test::shows_something(view().passes().grab().toImage()));
    key(Qt::Key_Escape);
    EXPECT_FALSE(view().passes().isVisible());
}

TEST_F(Looks, FishItOrLeaveItAnswersForAStructureAndAFishSize) {
    key(Qt::Key_X);
    key(Qt::Key_W);
    ASSERT_TRUE(side().fishOrLeave());
    const double chance = side().fishOrLeave()->chance;
    EXPECT_FALSE(side().fishOrLeave()->looks.empty());
    for (int i = 0; i < 12; ++i)
        press("longerFish");
    EXPECT_GE(side().fishOrLeave()->chance, chance);
    for (int i = 0; i < 20; ++i)
        press("shorterFish");
    EXPECT_NEAR(program->planner.fishLength(), 0.1, 0.06);
    EXPECT_LE(side().fishOrLeave()->chance, chance + 1e-9);
}

// Steered while a trip is played as if live: abeam, past, and both passes ready to be read.
TEST_F(Looks, APassThatIsRunIsSeenThrough) {
    std::filesystem::create_directories(folder.file("trips"));
    const auto file = folder.file("trips/minute.trip.gpkg");
    test::keep(file);
    open_trip(file);
    ASSERT_EQ(session().sources.source(), Sources::Source::trip);
    // A thing 8 m to the left of where the boat was half-way, to be passed on the heading that it ran.
    const std::size_t row = scan().end() / 2;
    const auto placed = place_beside(scan(), row, Side::port, {8, 0.3});
    ASSERT_TRUE(placed.at);
    const auto fix = scan().nav.fix_at(scan().facts(row).time);
    Contact c;
    c.place = placed.at;
    c.row = row;
    SecondLook look;
    look.thing = placed.at->place;
    look.heading_deg = fix->pose.heading_deg;
    look.side = Side::port;
    look.ground_m = 8;
    look.setting.range_m = 25;
    const LocalPlane plane(fix->pose.antenna);
    const double h = fix->pose.heading_deg / degrees_per_radian;
    look.start = plane.to_globe({-35 * std::sin(h), -35 * std::cos(h)});
    look.end = plane.to_globe({35 * std::sin(h), 35 * std::cos(h)});
    key(Qt::Key_2);
    session().playback.setSpeed(8);
    session().playback.playFrom(30);
    program->planner.begin(c, look);
    ASSERT_TRUE(cue().isVisible());
    bool was_abeam = false;
    ASSERT_TRUE(test::wait_for(
        [&] {
            was_abeam = was_abeam || cue().distance().contains(QStringLiteral("in the fan"));
            return cue().waits();
        },
        60000));
    EXPECT_TRUE(was_abeam);
    press("cueDo");
    EXPECT_EQ(window->rail().current(), place::read);
    EXPECT_TRUE(view().passes().isVisible());
}

TEST_F(Looks, CornersGiveADistanceAndAnArea) {
    key(Qt::Key_2);
    picture().goTo(400);
    key(Qt::Key_D);
    key(Qt::Key_M);
    ASSERT_EQ(picture().hand(), PictureView::Hand::outline);
    const auto click = [&](std::size_t row, double slant) {
        QTest::mouseClick(&picture(), Qt::LeftButton, Qt::NoModifier, on_picture(row, Side::port, slant));
    };
    click(360, 9);
    click(360, 13);
    EXPECT_TRUE(readout(QStringLiteral("Distance")).contains(QStringLiteral("ft")));
    click(330, 13);
    click(330, 9);
    EXPECT_TRUE(readout(QStringLiteral("Area")).contains(QStringLiteral("ft²")))
        << readout(QStringLiteral("Area")).toStdString();
    key(Qt::Key_U);
    EXPECT_EQ(picture().corners().size(), 3u);
    key(Qt::Key_X);
    ASSERT_EQ(marks().all().size(), 1u);
    EXPECT_NE(marks().all()[0].note.find("outlined"), std::string::npos);
}

TEST_F(Looks, TheBottomDrawnByHandIsFollowedByAllAndTakenBack) {
    key(Qt::Key_2);
    picture().goTo(420);
    key(Qt::Key_D);
    key(Qt::Key_Period);
    ASSERT_EQ(picture().hand(), PictureView::Hand::bottom_line);
    const double before = scan().bottom(380).altitude_m, wanted = before - 1;
    const auto depth_before = read_cursor(scan(), {380, Side::port, 15}).ground_m->value;
    drag(on_picture(400, Side::starboard, wanted), on_picture(350, Side::starboard, wanted));
    EXPECT_EQ(scan().bottom(380).source, BottomSource::hand);
    EXPECT_NEAR(scan().bottom(380).altitude_m, wanted, 0.15);
    EXPECT_GT(read_cursor(scan(), {380, Side::port, 15}).ground_m->value, depth_before);
    // Contacts of those rows are read anew on it.
    EXPECT_TRUE(test::wait_for(
        [&] {
            for (const auto &c : program->reader.contacts())
                if (c.row > 352 && c.row < 398 && std::fabs(c.bottom.altitude_m - wanted) > 0.3)
                    return false;
            return true;
        },
        30000));
    key(Qt::Key_U);
    EXPECT_NEAR(scan().bottom(380).altitude_m, before, 1e-9);
    EXPECT_NE(scan().bottom(380).source, BottomSource::hand);
}

TEST_F(Looks, ATripKeepsTheBottomDrawnByHand) {
    std::filesystem::create_directories(folder.file("trips"));
    const auto file = folder.file("trips/minute.trip.gpkg");
    test::keep(file);
    open_trip(file);
    session().correctBottom(100, std::vector<double>(30, 2.5));
    EXPECT_NEAR(scan().bottom(110).altitude_m, 2.5, 1e-9);
    play_sample();
    open_trip(file);
    EXPECT_NEAR(scan().bottom(110).altitude_m, 2.5, 1e-9);
    EXPECT_EQ(scan().bottom(110).source, BottomSource::hand);
    ASSERT_TRUE(session().shown.canUndoBottom());
    session().undoBottom();
    play_sample();
    open_trip(file);
    EXPECT_NE(scan().bottom(110).source, BottomSource::hand);
}

// The first rows of another scan settle nothing yet: what was read of the one before is no more told then.
TEST_F(Looks, NothingOfTheScanBeforeIsToldOfTheNext) {
    std::filesystem::create_directories(folder.file("trips"));
    const auto file = folder.file("trips/minute.trip.gpkg");
    test::keep(file);
    open_trip(file);
    ASSERT_TRUE(test::wait_for([&] { return program->reader.readUntil() >= scan().end(); }, 60000));
    ASSERT_FALSE(program->reader.contacts().empty());
    int told = 0, beyond = 0;
    QObject::connect(&program->reader, &ContactReader::contactsChanged, window.get(), [&] {
        for (const auto &c : program->reader.contacts()) {
            ++told;
            beyond += c.row >= scan().end();
        }
    });
    session().playback.setSpeed(8);
    session().sources.openRecording(QString::fromStdString(test::sample()));
    ASSERT_TRUE(test::wait_for([&] { return told > 0; }, 30000));
    EXPECT_EQ(beyond, 0);
}
