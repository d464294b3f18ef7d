// The session under the windows: what once went wrong there, and stays mended.
#include "fake_sounder.hpp"
#include "trips.hpp"

#include "kit/day_words.hpp"
#include "kit/id_list_model.hpp"
#include "kit/item_list.hpp"
#include "reading/contact_list.hpp"
#include "trip/thin_trip.hpp"
#include "views/read/read_view.hpp"
#include "views/trips/trips_view.hpp"
#include "window/guarded_application.hpp"

#include <QAbstractItemModelTester>
#include <QItemSelectionModel>
#include <clocale>

using namespace heron;
using namespace heron::app;

namespace {

class SessionTest : public test::Stage {};
class SessionAfloat : public test::Afloat {};

/// The sounder's clock stands a minute behind the receiver's.
class ClocksApart : public test::Stage {
  protected:
    test::FakeSounder fake;
    void sound_with(double off_s) {
        session().sources.listenTo(fake.sources());
        ASSERT_TRUE(test::wait_for([&] { return fake.joined(); }));
        fake.speaks = [](const std::string &s) { return s; };
        fake.greet();
        for (int i = 0; i < 500; ++i) {
            auto p = fake.next_ping();
            p.ping.time += static_cast<UnixNs>(off_s * 1e9);
            fake.send(encode_frame(FrameType::ping, encode_ping(p)));
            QTest::qWait(4);
        }
        ASSERT_TRUE(rows(500));
    }
};

} // namespace

// *Make small* once compared the sounder's raw times with the corrected times of marks, and deleted all pings
// around the mark.
TEST_F(ClocksApart, MakingATripSmallKeepsThePingsAroundItsMark) {
    sound_with(-60);
    ASSERT_TRUE(test::wait_for([&] { return session().connections.clockDifference().has_value(); }));
    EXPECT_NEAR(*session().connections.clockDifference(), 60, 1.5);
    const auto row = scan().end() - 30;
    QTest::mouseClick(&picture(), Qt::LeftButton, Qt::NoModifier, on_picture(row, Side::port, 14));
    key(Qt::Key_X);
    ASSERT_EQ(marks().all().size(), 1u);
    const auto time = marks().all()[0].time;
    const auto file = session().trip.path().toStdString();
    session().trip.journal()->flush();
    // What is kept bears the same time as what is shown: also if the program is killed here.
    EXPECT_EQ(TripFile::open_read_only(file)->fetch(row, 1).at(0).ping.time, scan().facts(row).time);
    close();
    ThinPlan plan;
    plan.around_marks_s = 2;
    const auto saving = thin_trip(file, plan);
    ASSERT_TRUE(saving) << saving.error().line();
    EXPECT_GT(saving->rows_kept, 0u);
    EXPECT_LT(saving->rows_kept, saving->rows_before);
    const auto trip = TripFile::open(file);
    ASSERT_TRUE(trip);
    Scan kept;
    Overview overview;
    auto opened = TripFile::open_read_only(file);
    ASSERT_TRUE(opened);
    ASSERT_TRUE(open_into(*opened, kept, overview));
    EXPECT_FALSE(kept.ping(kept.row_at(time)).beams.empty()) << "the pings at the mark are there";
}

TEST_F(SessionAfloat, OpeningWhatIsNoTripLeavesTheRunningOneRunning) {
    const auto file = session().trip.path();
    ASSERT_FALSE(file.isEmpty());
    std::ofstream(folder.file("letter.trip.gpkg")) << "dear friend";
    session().sources.openTrip(QString::fromStdString(folder.file("letter.trip.gpkg")));
    ASSERT_TRUE(test::wait_for([&] { return window->notice().isVisible(); }));
    EXPECT_TRUE(session().sources.live());
    EXPECT_EQ(session().trip.path(), file);
    ASSERT_TRUE(sound_until([&] { return scan().end() > 100; }));
    // The trip that is being kept is not opened over itself.
    session().sources.openTrip(file);
    EXPECT_TRUE(notice().contains(QStringLiteral("being kept now"))) << notice().toStdString();
    EXPECT_TRUE(session().sources.live());
}

TEST_F(SessionAfloat, AClockThatIsSetIsSaidOnceAndOtherWordsAreHeard) {
    QSignalSpy said(&session().notices, &Notices::said);
    for (int i = 0; i < 60; ++i) {
        auto p = fake.next_ping();
        p.ping.time += 3600 * ns_per_s;
        fake.send(encode_frame(FrameType::ping, encode_ping(p)));
    }
    ASSERT_TRUE(rows(120));
    int clocks = 0;
    for (const auto &s : said)
        clocks += s[0].toString() == QLatin1String("clock") ? 1 : 0;
    EXPECT_EQ(clocks, 1);
    QTest::mouseClick(&picture(), Qt::LeftButton, Qt::NoModifier, on_picture(100, Side::port, 14));
    key(Qt::Key_Z);
    for (int i = 0; i < 10; ++i) {
        auto p = fake.next_ping();
        p.ping.time += 3600 * ns_per_s;
        fake.send(encode_frame(FrameType::ping, encode_ping(p)));
    }
    ASSERT_TRUE(rows(130));
    EXPECT_TRUE(window->status().word().contains(QStringLiteral("saved")))
        << window->status().word().toStdString();
}

TEST_F(SessionTest, AStandingFaultIsNotHiddenByAWordAndWhatRepeatsIsToldOnce) {
    auto &notices = session().notices;
    notices.raise(QStringLiteral("sounder"), {"the connection was lost", "all is kept", "check its power"});
    notices.say(QStringLiteral("sounder"), QStringLiteral("A word about the same."));
    EXPECT_TRUE(window->notice().isVisible());
    EXPECT_TRUE(window->notice().text().contains(QStringLiteral("connection was lost")));
    EXPECT_TRUE(window->status().word().contains(QStringLiteral("A word")));
    QTest::mouseClick(&window->notice(), Qt::LeftButton);
    EXPECT_FALSE(window->notice().isVisible());
    notices.raise(QStringLiteral("sounder"), {"the connection was lost", "all is kept", "check its power"});
    EXPECT_FALSE(window->notice().isVisible()) << "it was read";
    notices.pass(QStringLiteral("sounder"));
    notices.raise(QStringLiteral("sounder"), {"the connection was lost", "all is kept", "check its power"});
    EXPECT_TRUE(window->notice().isVisible()) << "this is another time";
}

// What a slot throws is told, in whichever thread, and the program goes on.
TEST_F(SessionTest, WhatIsThrownInAThreadBecomesAFault) {
    std::atomic<int> told = 0;
    std::string last;
    std::mutex lock;
    auto *application = dynamic_cast<GuardedApplication *>(QApplication::instance());
    ASSERT_NE(application, nullptr);
    application->setOnFault([&](const Fault &fault) {
        const std::scoped_lock hold(lock);
        last = fault.happened;
        ++told;
    });
    QThread thread;
    QObject worker;
    worker.moveToThread(&thread);
    thread.start();
    QMetaObject::invokeMethod(
        &worker, [] { throw std::bad_alloc(); }, Qt::QueuedConnection);
    ASSERT_TRUE(test::wait_for([&] { return told == 1; }));
    EXPECT_NE(last.find("out of memory"), std::string::npos) << last;
    QMetaObject::invokeMethod(
        window.get(), [] { throw std::runtime_error("spoons"); }, Qt::QueuedConnection);
    ASSERT_TRUE(test::wait_for([&] { return told == 2; }));
    EXPECT_NE(last.find("spoons"), std::string::npos) << last;
    // Both threads go on.
    std::atomic<bool> alive = false;
    QMetaObject::invokeMethod(
        &worker, [&] { alive = true; }, Qt::QueuedConnection);
    EXPECT_TRUE(test::wait_for([&] { return alive.load(); }));
    thread.quit();
    thread.wait();
    application->setOnFault({});
}

TEST_F(SessionTest, AJobThatThrowsAnswersWithAFaultAndOthersRun) {
    std::optional<Result<int>> first, second;
    auto &jobs = session().jobs;
    jobs.run<int>(
        QStringLiteral("counting"), window.get(), [](JobControl &) -> Result<int> { throw std::bad_alloc(); },
        [&](Result<int> r) { first = std::move(r); });
    jobs.run<int>(
        QStringLiteral("counting"), window.get(), [](JobControl &) -> Result<int> { return 7; },
        [&](Result<int> r) { second = std::move(r); });
    ASSERT_TRUE(test::wait_for([&] { return first && second; }));
    ASSERT_FALSE(*first);
    EXPECT_NE(first->error().happened.find("counting broke off"), std::string::npos);
    EXPECT_EQ(second->value_or(0), 7);
    EXPECT_EQ(jobs.running(), 0);
}

// A source that proves slow to open holds nobody up: the window answers while it is given up.
TEST_F(SessionTest, TheWindowDoesNotWaitForWhatIsBeingOpened) {
    const auto pipe = folder.file("slow.nc");
    std::ofstream(pipe, std::ios::binary) << test::contents(test::sample());
    for (int i = 0; i < 5; ++i)
        session().sources.openRecording(QString::fromStdString(pipe));
    QElapsedTimer clock;
    clock.start();
    session().sources.openRecording(QString::fromStdString(test::sample()));
    EXPECT_LT(clock.elapsed(), 200) << "retired, not waited for";
    EXPECT_TRUE(test::wait_for([&] { return session().sources.source() == Sources::Source::recording; }));
}

// What the guide said of a trip stays with it when its water gets another name.
TEST_F(SessionTest, CorrectionsStayWhenTheWaterIsRenamed) {
    std::filesystem::create_directories(folder.file("trips"));
    const auto file = folder.file("trips/minute.trip.gpkg");
    test::keep(file);
    open_trip(file);
    ASSERT_TRUE(test::wait_for([&] { return program->reader.readUntil() >= scan().end(); }, 60000));
    ASSERT_FALSE(program->reader.contacts().empty());
    const auto id = program->reader.idOf(0);
    ASSERT_TRUE(program->reader.correct(program->reader.contacts()[0], Kind::log));
    ASSERT_TRUE(test::wait_for([&] {
        const auto *c = program->reader.find(id);
        return c != nullptr && c->said == Kind::log;
    }));
    EXPECT_EQ(program->reader.wordsHere(), 1u);
    session().trip.setWater(QStringLiteral("Upper Ellemoor"));
    EXPECT_EQ(program->reader.wordsHere(), 1u) << "they belong to this trip's water";
    ASSERT_TRUE(test::wait_for([&] {
        const auto *c = program->reader.find(id);
        return c != nullptr && c->said == Kind::log;
    }));
    play_sample();
    open_trip(file);
    EXPECT_EQ(session().trip.water(), QStringLiteral("Upper Ellemoor"));
    ASSERT_TRUE(test::wait_for(
        [&] {
            return std::any_of(program->reader.contacts().begin(), program->reader.contacts().end(),
                               [](const Contact &c) { return c.said == Kind::log; });
        },
        60000));
}

TEST_F(SessionTest, ANoteIsOneChangeAndOneUndo) {
    Mark m;
    m.id = "one";
    m.family = Family::structure;
    ASSERT_TRUE(marks().add(m));
    state().selectMark(QStringLiteral("one"));
    key(Qt::Key_6);
    QSignalSpy changes(&marks(), &MarkLibrary::marksChanged);
    auto *note = find<QPlainTextEdit>("markNote");
    QTest::mouseClick(note->viewport(), Qt::LeftButton);
    QTest::keyClicks(note, QStringLiteral("perch in the evening, two rods"));
    EXPECT_EQ(changes.count(), 0) << "the hand still writes";
    key(Qt::Key_1); // another place: typed into the note
    QTest::keyClick(note, Qt::Key_Backspace);
    window->go(place::scan);
    EXPECT_EQ(changes.count(), 1);
    EXPECT_EQ(marks().all()[0].note, "perch in the evening, two rods");
    ASSERT_TRUE(marks().undo());
    EXPECT_EQ(marks().all()[0].note, "");
}

// The library first, then the trip's copy: what the library refuses is in neither.
TEST_F(SessionAfloat, AMarkThatCannotBeSavedIsInNeitherFile) {
    const auto trip = session().trip.path().toStdString();
    {
        auto other = Database::open(folder.file("marks.gpkg"), Database::Mode::write);
        ASSERT_TRUE(other);
        // A second mark without a name is one too many for this.
        ASSERT_TRUE(other->run("CREATE UNIQUE INDEX refuse ON marks (name)"));
    }
    QTest::mouseClick(&picture(), Qt::LeftButton, Qt::NoModifier, on_picture(50, Side::starboard, 15));
    key(Qt::Key_C);
    EXPECT_EQ(marks().all().size(), 1u);
    EXPECT_TRUE(window->notice().isVisible());
    const auto copy = load_marks(TripFile::open_read_only(trip)->database());
    ASSERT_TRUE(copy);
    EXPECT_EQ(copy->size(), 1u);
}

TEST_F(SessionTest, ALargeImportLeavesTheWindowAlive) {
    std::string gpx = "<gpx version=\"1.1\" creator=\"t\" xmlns=\"http://www.topografix.com/GPX/1/1\">";
    for (int i = 0; i < 20000; ++i)
        gpx += "<wpt lat=\"46." + std::to_string(10000 + i) + "\" lon=\"-21.5\"><name>stump " +
               std::to_string(i) + "</name></wpt>";
    const auto file = folder.file("large.gpx");
    std::ofstream(file) << gpx << "</gpx>";
    marks().importMarks(QString::fromStdString(file));
    EXPECT_TRUE(marks().importing());
    EXPECT_TRUE(marks().all().empty()) << "it goes on beside the window";
    int beats = 0;
    QTimer beat;
    QObject::connect(&beat, &QTimer::timeout, [&] { ++beats; });
    beat.start(5);
    ASSERT_TRUE(test::wait_for([&] { return !marks().importing(); }, 60000));
    EXPECT_EQ(marks().all().size(), 20000u);
    EXPECT_GT(beats, 5);
    ASSERT_TRUE(marks().undo());
    EXPECT_TRUE(marks().all().empty());
}

TEST_F(SessionTest, AFirstStartMeasuresAsTheDesktopDoesUntilTheGuideChooses) {
    EXPECT_EQ(Preferences::unitsAtHomeIn(QLocale(QLocale::German, QLocale::Germany)), UnitSystem::metres);
    EXPECT_EQ(Preferences::unitsAtHomeIn(QLocale(QLocale::English, QLocale::UnitedStates)), UnitSystem::feet);
    EXPECT_EQ(Preferences::unitsAtHomeIn(QLocale(QLocale::English, QLocale::UnitedKingdom)),
              UnitSystem::feet);
    EXPECT_EQ(Preferences::unitsAtHomeIn(QLocale::c()), UnitSystem::feet);
    const auto before = session().preferences.units();
    session().preferences.setUnits(UnitSystem::metres);
    EXPECT_EQ(Preferences().units(), UnitSystem::metres) << "kept from start to start";
    session().preferences.setUnits(UnitSystem::feet);
    EXPECT_EQ(Preferences().units(), UnitSystem::feet);
    session().preferences.setUnits(before);
}

// On a desktop of another language the words stay those of the program.
TEST(DayWords, AreInTheLanguageOfTheProgram) {
    const QDate day(2026, 12, 1);
    const QLocale before;
    QLocale::setDefault(QLocale(QLocale::German, QLocale::Germany));
    EXPECT_EQ(dayInWords(day), QStringLiteral("Tuesday, 1 December 2026"));
    QLocale::setDefault(QLocale(QLocale::English, QLocale::UnitedStates));
    EXPECT_EQ(dayInWords(day), QStringLiteral("Tuesday, December 1, 2026"));
    QLocale::setDefault(before);
}

// Files are read and written by the C library's locale in some libraries.
TEST_F(SessionTest, TheDesktopsDecimalCommaStaysOutOfFiles) {
    EXPECT_STREQ(std::setlocale(LC_NUMERIC, nullptr), "C");
}

TEST_F(SessionTest, AFirstStartOffersThreeThingsAndTheDemoLakeIsSailedFromTheWindow) {
    EXPECT_TRUE(find("startDemo")->isVisible());
    EXPECT_TRUE(find("startConnect")->isVisible());
    EXPECT_TRUE(find("startOpen")->isVisible());
    session().demo.setProgram(QString::fromStdString(test::program("heron-sounder")));
    key(Qt::Key_Z);
    ASSERT_TRUE(rows(40));
    EXPECT_EQ(session().sources.name(), QStringLiteral("Ellemoor Water"));
    EXPECT_FALSE(find("startDemo")->isVisible());
    EXPECT_TRUE(find("markFish")->isVisible());
}

TEST_F(SessionTest, ADemoLakeThatCannotBeSailedIsTold) {
    session().demo.setProgram(QStringLiteral("/nowhere/heron-sounder"));
    press("startDemo");
    ASSERT_TRUE(test::wait_for([&] { return window->notice().isVisible(); }));
    EXPECT_TRUE(notice().contains(QStringLiteral("cannot be sailed"))) << notice().toStdString();
    EXPECT_TRUE(find("startDemo")->isVisible());
}

// The first rows stand in the same light as those after them: what is learned late is painted anew.
TEST_F(SessionAfloat, EveryLineOfThePictureStandsInOneLight) {
    ASSERT_TRUE(sound_until([&] { return scan().end() > 300; }));
    key(Qt::Key_F);
    key(Qt::Key_R);
    QTest::qWait(60);
    const auto grown = picture().grab().toImage();
    // All painted anew at once.
    emit state().displayChanged();
    QTest::qWait(60);
    const auto anew = picture().grab().toImage();
    int differing = 0, all = 0;
    for (int y = 30; y < grown.height() - 30; y += 3)
        for (int x = 0; x < grown.width(); x += 5, ++all)
            differing += std::abs(qGray(grown.pixel(x, y)) - qGray(anew.pixel(x, y))) > 3 ? 1 : 0;
    EXPECT_LT(differing, all / 200);
}

// The ring round a chip is round the contact that stands beside it, whatever comes meanwhile.
TEST_F(SessionAfloat, TheChosenContactStaysChosenWhileOthersCome) {
    auto &read = window->view<ReadView>();
    key(Qt::Key_3);
    ASSERT_TRUE(sound_until([&] { return read.shown().size() >= 3; }));
    key(Qt::Key_Down);
    const int chosen = state().selectedContact();
    const auto before = read.shown().size();
    auto *list = find<ItemList>("contacts");
    std::size_t looked = 0;
    ASSERT_TRUE(sound_until([&] {
        EXPECT_EQ(list->currentId(), ContactList::idOf(state().selectedContact()));
        ++looked;
        return read.shown().size() >= before + 3;
    }));
    EXPECT_GT(looked, 10u);
    EXPECT_EQ(state().selectedContact(), chosen);
    ASSERT_NE(read.selected(), nullptr);
}

namespace {

class Names : public IdListModel {
  public:
    using IdListModel::setIds;

  protected:
    QVariant dataOf(const QString &id, int role) const override {
        return role == Qt::DisplayRole ? QVariant(id) : QVariant();
    }
};

std::vector<QString> names(const QString &letters) {
    std::vector<QString> all;
    for (const auto c : letters)
        all.emplace_back(c);
    return all;
}

} // namespace

// Whatever comes, goes and moves: what stays is selected as before, and nobody hears of rows that did not
// change.
TEST(IdListModel, WhatStaysKeepsItsSelection) {
    Names model;
    const QAbstractItemModelTester rules(&model, QAbstractItemModelTester::FailureReportingMode::Fatal);
    QItemSelectionModel selection(&model);
    model.setIds(names(QStringLiteral("abcdef")));
    selection.setCurrentIndex(model.index(2), QItemSelectionModel::ClearAndSelect);
    for (const auto *next :
         {"xabycdzef", "xycz", "zcxy", "czxyab", "fedcba", "c", "abcdefghij", "jihgfedcba"}) {
        const auto ids = names(QString::fromLatin1(next));
        model.setIds(ids);
        EXPECT_EQ(model.ids(), ids);
        EXPECT_EQ(model.idAt(selection.currentIndex().row()), QStringLiteral("c")) << next;
        EXPECT_TRUE(selection.isSelected(selection.currentIndex()));
    }
    // Chance rules the rest.
    std::mt19937 random(7);
    for (int i = 0; i < 300; ++i) {
        auto ids = names(QStringLiteral("abcdefghijklmnopqrstuvwxyz"));
        std::shuffle(ids.begin(), ids.end(), random);
        ids.resize(random() % ids.size());
        if (i % 2 == 0)
            std::sort(ids.begin(), ids.end());
        if (std::find(ids.begin(), ids.end(), QStringLiteral("c")) == ids.end())
            ids.insert(ids.begin() + static_cast<std::ptrdiff_t>(random() % (ids.size() + 1)),
                       QStringLiteral("c"));
        model.setIds(ids);
        ASSERT_EQ(model.ids(), ids);
        ASSERT_EQ(model.idAt(selection.currentIndex().row()), QStringLiteral("c"));
    }
    QSignalSpy came(&model, &QAbstractItemModel::rowsInserted),
        went(&model, &QAbstractItemModel::rowsRemoved);
    model.setIds(names(QStringLiteral("abc")));
    came.clear(), went.clear();
    model.setIds(names(QStringLiteral("abxc")));
    ASSERT_EQ(came.count(), 1);
    EXPECT_EQ(came[0][1].toInt(), 2);
    EXPECT_EQ(went.count(), 0);
    model.setIds(names(QStringLiteral("abxc")));
    EXPECT_EQ(came.count(), 1);
    model.setIds({});
    EXPECT_EQ(went.count(), 1);
    EXPECT_FALSE(selection.currentIndex().isValid());
}
