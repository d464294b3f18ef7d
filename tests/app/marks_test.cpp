// The place Marks in the real window: finding, the story, joining, packs, other screens, and going there.
#include "stage.hpp"

#include "exchange/mark_files.hpp"
#include "files/identifier.hpp"
#include "kit/item_list.hpp"
#include "views/marks/join_page.hpp"
#include "views/marks/pack_page.hpp"
#include "views/marks/story_page.hpp"
#include "window/way_bar.hpp"

#include <QComboBox>
#include <QTcpServer>
#include <gmock/gmock.h>

using namespace heron;
using namespace heron::app;

namespace {

class Marks : public test::Stage {
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
    void add(const Mark &m) { ASSERT_TRUE(marks().add(m)); }
    void select(const Mark &m) { window->state().selectMark(QString::fromStdString(m.id)); }
    const Mark &now(const Mark &m) { return *marks().find(QString::fromStdString(m.id)); }
};

} // namespace

TEST_F(Marks, AreFoundByTheirWordsAndByWhatTheyAre) {
    add(mark("Old gate", Kind::built));
    add(mark("", Kind::stump, 40));
    add(mark("Slate tip", Kind::rock_pile, 80));
    key(Qt::Key_6);
    auto *find = view().findChild<QLineEdit *>(QStringLiteral("findMarks"));
    auto &wall = view().wall();
    const auto shown = [&] {
        int n = 0;
        for (int i = 0; i < wall.model()->rowCount(); ++i)
            n += !wall.model()->data(wall.model()->index(i, 0), header_role).toBool();
        return n;
    };
    EXPECT_EQ(shown(), 3);
    QTest::mouseClick(find, Qt::LeftButton);
    QTest::keyClicks(find, QStringLiteral("gat"));
    EXPECT_EQ(shown(), 1);
    find->clear();
    QTest::keyClicks(find, QStringLiteral("stumps"));
    EXPECT_EQ(shown(), 1);
    find->clear();
    QTest::keyClicks(find, QStringLiteral("zander"));
    EXPECT_EQ(shown(), 0);
    find->clear();
    EXPECT_EQ(shown(), 3);
    view().setFocus();
    press("groupBy");
    EXPECT_EQ(wall.model()->rowCount(), 6) << "three kinds, a head each";
}

TEST_F(Marks, TheStoryIsWrittenWithAFewPresses) {
    const auto m = mark("Larch stump", Kind::stump);
    add(m);
    select(m);
    key(Qt::Key_6);
    press("pageStory");
    ASSERT_EQ(view().page(), MarksView::Page::story);
    auto *tags = view().findChild<QLineEdit *>(QStringLiteral("markTags"));
    QTest::mouseClick(tags, Qt::LeftButton);
    QTest::keyClicks(tags, QStringLiteral("autumn; zander"));
    QTest::keyClick(tags, Qt::Key_Return);
    EXPECT_THAT(now(m).tags, testing::ElementsAre("autumn", "zander"));
    auto *level = view().findChild<QComboBox *>(QStringLiteral("markLevel"));
    level->setFocus();
    QTest::keyClick(level, Qt::Key_Up);
    QTest::keyClick(level, Qt::Key_Return);
    level->setCurrentIndex(level->findData(static_cast<int>(Level::me)));
    emit level->activated(level->currentIndex());
    EXPECT_EQ(now(m).level, Level::me);
    auto *length = view().findChild<QLineEdit *>(QStringLiteral("fishLength"));
    auto *species = view().findChild<QLineEdit *>(QStringLiteral("species"));
    QTest::keyClicks(species, QStringLiteral("zander"));
    QTest::keyClicks(length, QStringLiteral("24"));
    press("landed");
    ASSERT_EQ(now(m).outcomes.size(), 1u);
    EXPECT_EQ(now(m).outcomes[0].species, "zander");
    EXPECT_NEAR(now(m).outcomes[0].length_m.value(), 24 * 0.0254, 1e-9) << "inches, as feet are chosen";
    QTest::qWait(50);
    EXPECT_TRUE(view().story().lines().join(QLatin1Char('|')).contains(QStringLiteral("24.0 in")))
        << view().story().lines().join(QLatin1Char('|')).toStdString();
    marks().undo();
    EXPECT_TRUE(now(m).outcomes.empty());
}

TEST_F(Marks, DoubledOnesAreShownSideBySideJoinedAndPartedAgain) {
    auto a = mark("Larch stump", Kind::stump), b = mark("", Kind::stump, 1.2),
         far = mark("Other", Kind::stump, 90);
    b.time += 86'400LL * ns_per_s;
    for (const auto &m : {a, b, far})
        add(m);
    key(Qt::Key_6);
    press("pageJoin");
    ASSERT_EQ(view().joining().waiting(), 1u);
    press("joinThem");
    ASSERT_EQ(marks().all().size(), 2u);
    EXPECT_EQ(now(a).sightings.size(), 2u);
    EXPECT_EQ(view().joining().waiting(), 0u);
    press("pageStory");
    press("splitSighting");
    EXPECT_EQ(marks().all().size(), 3u);
    marks().undo();
    marks().undo();
    EXPECT_EQ(marks().all().size(), 3u);
    EXPECT_TRUE(now(a).sightings.empty());
    // Two things, the guide says: not asked again.
    press("pageJoin");
    ASSERT_EQ(view().joining().waiting(), 1u);
    press("keepApart");
    EXPECT_EQ(view().joining().waiting(), 0u);
    EXPECT_EQ(marks().all().size(), 3u);
}

// Marks are for the crew until somebody says otherwise: a client's pack of them would be empty.
TEST_F(Marks, APackOfNothingIsNotWritten) {
    auto stump = mark("Stump by the sill", Kind::stump);
    add(stump);
    key(Qt::Key_6);
    press("pagePack");
    auto *write = window->findChild<QWidget *>(QStringLiteral("writePack"));
    ASSERT_NE(write, nullptr);
    EXPECT_FALSE(write->isEnabled());
    EXPECT_TRUE(view().packing().told().join(QLatin1Char('|')).contains(QStringLiteral("said in its Story")));
    stump.level = Level::client;
    ASSERT_TRUE(marks().change(stump));
    EXPECT_TRUE(write->isEnabled());
    EXPECT_FALSE(
        view().packing().told().join(QLatin1Char('|')).contains(QStringLiteral("said in its Story")));
}

TEST_F(Marks, APackHoldsWhatIsToldAndNoMore) {
    auto open = mark("CLIENTNAME", Kind::stump), own = mark("SECRETNAME", Kind::stump, 50);
    open.level = Level::client;
    open.note = "SECRETNOTE";
    own.level = Level::me;
    add(open);
    add(own);
    select(open);
    key(Qt::Key_6);
    press("pagePack");
    QTest::qWait(50);
    const auto told = view().packing().told().join(QLatin1Char('|'));
    EXPECT_TRUE(told.contains(QStringLiteral("1 of 2 marks go out"))) << told.toStdString();
    EXPECT_TRUE(told.contains(QStringLiteral("1 stay here"))) << told.toStdString();
    view().packing().write(QString::fromStdString(folder.file("pack.gpx")));
    const auto bytes = test::contents(folder.file("pack.gpx"));
    EXPECT_THAT(bytes, testing::HasSubstr("CLIENTNAME"));
    EXPECT_THAT(bytes, testing::Not(testing::HasSubstr("SECRET")));
    EXPECT_TRUE(test::shows_something(view().packing().grab().toImage())) << "the mark as a code for a phone";
}

TEST_F(Marks, FilesOfManyKindsComeInAndWhatDiffersWaitsToBeAsked) {
    auto m = mark("Old gate", Kind::built);
    add(m);
    auto changed = m;
    changed.note = "changed elsewhere";
    ASSERT_TRUE(write_mark_file(folder.file("in.geojson"), {changed, mark("New one", Kind::log, 30)}));
    marks().importMarks(QString::fromStdString(folder.file("in.geojson")));
    ASSERT_TRUE(test::wait_for([&] { return !marks().importing(); }));
    EXPECT_EQ(marks().all().size(), 2u);
    EXPECT_EQ(now(m).note, "") << "nothing is taken silently";
    EXPECT_EQ(marks().differing().size(), 1u);
    key(Qt::Key_6);
    press("takeDiffering");
    EXPECT_EQ(now(m).note, "changed elsewhere");
    marks().undo();
    EXPECT_EQ(now(m).note, "");
}

TEST_F(Marks, TheWayToAMarkStandsOverEveryPlace) {
    session().playback.setSpeed(1000);
    session().sources.openRecording(QString::fromStdString(test::sample()));
    ASSERT_TRUE(test::wait_for([&] { return session().sources.flow() == Sources::Flow::ended; }, 60000));
    const auto here = scan().nav.positions().back().place;
    auto m = mark("Larch stump", Kind::stump);
    m.place = point_along(here, 90, 60);
    add(m);
    select(m);
    key(Qt::Key_F2);
    ASSERT_TRUE(program->way.on());
    for (const auto place : {Qt::Key_2, Qt::Key_5, Qt::Key_6}) {
        key(place);
        EXPECT_TRUE(window->wayBar().isVisible());
    }
    const auto cue = program->way.cue();
    ASSERT_TRUE(cue);
    EXPECT_NEAR(cue->distance_m, 60, 3);
    EXPECT_NEAR(cue->bearing_deg, 90, 4);
    EXPECT_TRUE(window->wayBar().text().startsWith(QStringLiteral("Larch stump")))
        << window->wayBar().text().toStdString();
    key(Qt::Key_F9);
    EXPECT_FALSE(window->wayBar().isVisible());
    // Back along the track, and whoever fell in.
    key(Qt::Key_F7);
    ASSERT_TRUE(program->way.on());
    EXPECT_GT(program->way.path().size(), 2u);
    const auto before = marks().all().size();
    key(Qt::Key_F8);
    EXPECT_TRUE(program->way.alarm());
    ASSERT_EQ(marks().all().size(), before + 1);
    EXPECT_EQ(marks().all().back().family, Family::hazard);
    EXPECT_LT(leg_between(*marks().all().back().place, here).distance_m, 5);
    QTest::mouseClick(&window->wayBar(), Qt::LeftButton);
    EXPECT_FALSE(program->way.on());
    // Without a keyboard, from the foot of the rail.
    QTest::mouseClick(&window->rail(), Qt::LeftButton, Qt::NoModifier,
                      window->rail().overboardRect().center());
    EXPECT_TRUE(program->way.alarm());
    EXPECT_EQ(marks().all().size(), before + 2);
}

TEST_F(Marks, AMarkMadeHereStandsOnAnotherScreen) {
    // A broker on a free port of the loopback, for as long as the test runs.
    QTcpServer probe;
    ASSERT_TRUE(probe.listen(QHostAddress::LocalHost));
    const auto port = probe.serverPort();
    probe.close();
    std::ofstream(folder.file("broker.conf"))
        << "listener " << port << " 127.0.0.1\nallow_anonymous true\nlog_dest none\n";
    QProcess broker;
    auto environment = QProcessEnvironment::systemEnvironment();
    environment.insert(QStringLiteral("PATH"),
                       environment.value(QStringLiteral("PATH")) + QStringLiteral(":/usr/sbin"));
    broker.setProcessEnvironment(environment);
    broker.start(QStringLiteral("/usr/sbin/mosquitto"),
                 {QStringLiteral("-c"), QString::fromStdString(folder.file("broker.conf"))});
    ASSERT_TRUE(broker.waitForStarted());
    // The other screen, a program of its own.
    Program bow;
    bow.marks.open(QString::fromStdString(folder.file("bow.gpkg")));
    const auto settings = [&](const char *screen) {
        MarkShare::Settings s;
        s.broker.port = port;
        s.screen = QString::fromLatin1(screen);
        s.service = QStringLiteral("ellemoor");
        return s;
    };
    program->share.begin(settings("console"));
    bow.share.begin(settings("bow"));
    ASSERT_TRUE(test::wait_for([&] { return program->share.connected() && bow.share.connected(); }, 15000))
        << program->share.state().toStdString();
    auto m = mark("Larch stump", Kind::stump), own = mark("Mine", Kind::log, 20);
    own.level = Level::me;
    add(m);
    add(own);
    QElapsedTimer clock;
    clock.start();
    ASSERT_TRUE(
        test::wait_for([&] { return bow.marks.find(QString::fromStdString(m.id)) != nullptr; }, 5000));
    auto there = *bow.marks.find(QString::fromStdString(m.id));
    there.note = "from the bow";
    ASSERT_TRUE(bow.marks.change(there));
    ASSERT_TRUE(test::wait_for([&] { return now(m).note == "from the bow"; }, 5000));
    EXPECT_EQ(bow.marks.all().size(), 1u) << "what is for me alone never leaves";
    ASSERT_TRUE(marks().remove(QString::fromStdString(m.id)));
    ASSERT_TRUE(test::wait_for([&] { return bow.marks.all().empty(); }, 5000));
    // To another machine only with certificates.
    auto open = settings("console");
    open.broker.host = "192.0.2.7";
    program->share.begin(open);
    EXPECT_TRUE(notice().contains(QStringLiteral("encrypted"))) << notice().toStdString();
    bow.share.end();
    broker.kill();
    broker.waitForFinished();
}

TEST_F(Marks, TheEveningsQueueNamesOneAfterTheOther) {
    auto a = mark("", Kind::rock_pile), b = mark("", Kind::stump, 40), old = mark("", Kind::log, 80);
    a.height_m = Estimate{metres_from_feet(4), 0.1};
    a.depth_m = Estimate{metres_from_feet(17), 0.2};
    old.time -= 3 * 86'400LL * ns_per_s;
    for (const auto &m : {a, b, old})
        add(m);
    key(Qt::Key_6);
    EXPECT_EQ(view().madeName(a), QStringLiteral("Rock pile, 4.0 ft tall, in 17.0 ft"));
    press("evening");
    auto *name = view().findChild<QLineEdit *>(QStringLiteral("markName"));
    ASSERT_TRUE(test::wait_for([&] { return name->hasFocus(); }));
    const auto first = window->state().selectedMark();
    QTest::keyClicks(name, QStringLiteral("Cattle trough"));
    QTest::keyClick(name, Qt::Key_Return);
    EXPECT_EQ(marks().find(first)->name, "Cattle trough");
    const auto second = window->state().selectedMark();
    EXPECT_NE(second, first);
    QTest::qWait(50);
    EXPECT_TRUE(name->hasFocus()) << "the next is named without another press";
    QTest::keyClick(name, Qt::Key_Return);
    EXPECT_FALSE(marks().find(second)->name.empty()) << "Return alone takes the made name";
    EXPECT_TRUE(notice().contains(QStringLiteral("has a name"))) << notice().toStdString();
    EXPECT_TRUE(now(old).name.empty());
}

TEST_F(Marks, BeforeGuestsPlacesAndNamesAreHidden) {
    auto m = mark("SECRETNAME", Kind::stump);
    add(m);
    select(m);
    key(Qt::Key_F2);
    key(Qt::Key_6);
    const auto open = window->grab().toImage();
    key(Qt::Key_F4);
    EXPECT_TRUE(window->covered());
    EXPECT_NE(window->grab().toImage(), open);
    EXPECT_FALSE(window->wayBar().text().contains(QStringLiteral("SECRET")))
        << window->wayBar().text().toStdString();
    key(Qt::Key_2);
    EXPECT_FALSE(window->covered()) << "the picture goes on";
    for (const auto place : {Qt::Key_5, Qt::Key_7}) {
        key(place);
        EXPECT_TRUE(window->covered());
    }
    key(Qt::Key_F4);
    EXPECT_FALSE(window->covered());
    key(Qt::Key_F9);
}

TEST_F(Marks, ASheetForAClientIsAPage) {
    auto m = mark("Old gate", Kind::built);
    m.level = Level::client;
    add(m);
    key(Qt::Key_6);
    press("pagePack");
    view().packing().writeSheet(QString::fromStdString(folder.file("sheet.pdf")));
    EXPECT_EQ(test::contents(folder.file("sheet.pdf")).substr(0, 5), "%PDF-");
    view().packing().writeSheet(QStringLiteral("/nowhere/at/all.pdf"));
    EXPECT_TRUE(notice().contains(QStringLiteral("could not be written"))) << notice().toStdString();
}
