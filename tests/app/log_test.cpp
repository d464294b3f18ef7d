// The place Log in the real window: days, what the record supports, a round.
#include "stage.hpp"

#include "files/identifier.hpp"
#include "trip/trip_file.hpp"
#include "views/log/day_page.hpp"
#include "views/log/log_view.hpp"

#include <filesystem>
#include <fstream>
#include <gmock/gmock.h>

using namespace heron;
using namespace heron::app;

namespace {

class Log : public test::Stage {
  protected:
    LogView &view() { return window->view<LogView>(); }
    void visited(Kind kind, double east, const char *time, Outcome::What what) {
        Mark m;
        m.id = new_identifier();
        m.family = family_of(kind);
        m.kind = kind;
        m.place = point_along({46.5, -21.25}, 90, east);
        m.time = *parse_rfc3339("2026-05-01T08:00:00Z");
        Outcome o;
        o.what = what;
        o.time = *parse_rfc3339(time);
        o.species = "zander";
        m.outcomes = {o};
        ASSERT_TRUE(marks().add(m));
    }
    // Forty minutes of a lane in 4.5 m and half an hour on one spot, kept as a trip of that morning.
    void kept_morning() {
        const auto seven = *parse_rfc3339("2026-05-14T07:00:00Z");
        std::filesystem::create_directories(folder.file("trips"));
        auto trip = TripFile::create(folder.file("trips") + "/a.trip.gpkg",
                                     {"Ellemoor Water", "a sounder", seven, {{0, 0, 0.5}, {}}});
        ASSERT_TRUE(trip) << trip.error().line();
        TripFile::Batch batch;
        TripFile::Knowledge known;
        GeoPoint place{46.5, -21.25};
        double along = 0;
        for (int s = 0; s < 70 * 60; s += 5) {
            const auto now = seven + s * ns_per_s;
            const double speed = s < 40 * 60 ? 1.4 : 0.05;
            SoundedRow row;
            row.ping.time = now;
            row.ping.sample_interval_s = 1e-4;
            for (const auto side : {Side::port, Side::starboard}) {
                Beam beam;
                beam.side = side;
                beam.code = {10, 20, 30};
                row.ping.beams.push_back(beam);
            }
            batch.rows.push_back(row);
            known.nav.add(PositionSample{.time = now, .place = place});
            RowFacts facts;
            facts.time = now;
            facts.bottom = {.found = true, .altitude_m = 4};
            facts.along_m = along;
            facts.speed_m_s = static_cast<float>(speed);
            known.facts.push_back(facts);
            place = point_along(place, 90, 5 * speed);
            along += 5 * speed;
        }
        known.settings = {{}};
        ASSERT_TRUE(trip->append(batch));
        const auto done = trip->append(known);
        ASSERT_TRUE(done) << done.error().line();
    }
    DayPage &page() { return view().dayPage(); }
    std::string said() { return view().lines().join(QLatin1Char('|')).toStdString(); }
    bool looked_into() {
        return test::wait_for([&] { return view().book().afloat(QStringLiteral("2026-05-14")) != nullptr; });
    }
};

} // namespace

TEST_F(Log, DaysAreToldWithTheirVisits) {
    key(Qt::Key_7);
    EXPECT_TRUE(test::shows_something(view().grab().toImage())) << "words while nothing is written down";
    visited(Kind::stump, 0, "2026-05-14T06:12:00Z", Outcome::What::landed);
    visited(Kind::log, 40, "2026-05-14T18:30:00Z", Outcome::What::fished);
    ASSERT_EQ(view().book().days().size(), 2u);
    EXPECT_EQ(view().book().days()[0].date, QStringLiteral("2026-05-14"));
    const auto said = view().lines().join(QLatin1Char('|'));
    EXPECT_TRUE(said.contains(QStringLiteral("06:12 UTC · Stump · fish · zander"))) << said.toStdString();
    EXPECT_TRUE(said.contains(QStringLiteral("low sun"))) << said.toStdString();
    EXPECT_TRUE(said.contains(QStringLiteral("fished, no bite"))) << said.toStdString();
    key(Qt::Key_Down);
    EXPECT_EQ(view().day(), 1u);
    EXPECT_TRUE(view().lines().join(QLatin1Char('|')).contains(QStringLiteral("2 marks made")));
}

TEST_F(Log, TheRecordSaysHowManyOfHowManyAndWhereItCannot) {
    for (int i = 0; i < 8; ++i)
        visited(Kind::stump, i * 30, "2026-05-14T06:00:00Z",
                i < 6 ? Outcome::What::bite : Outcome::What::fished);
    for (int i = 0; i < 7; ++i)
        visited(Kind::boulder, i * 30 + 15, "2026-05-14T18:00:00Z",
                i < 1 ? Outcome::What::bite : Outcome::What::fished);
    visited(Kind::log, 400, "2026-05-14T18:00:00Z", Outcome::What::bite);
    key(Qt::Key_7);
    press("logRecord");
    const auto said = view().lines().join(QLatin1Char('|'));
    EXPECT_TRUE(said.contains(QStringLiteral("kind stump: 6 of 8"))) << said.toStdString();
    EXPECT_TRUE(said.contains(QStringLiteral("kind log: too few to say (1 of 1)"))) << said.toStdString();
    EXPECT_TRUE(view().book().writeTable(QString::fromStdString(folder.file("v.csv"))));
    EXPECT_THAT(test::contents(folder.file("v.csv")), testing::HasSubstr("mark,time,bitten"));
    EXPECT_FALSE(view().book().writeTable(QStringLiteral("/nowhere/at/all.csv")));
}

TEST_F(Log, ARoundGoesOverTheMarksInASensibleOrder) {
    for (const double east : {300.0, 0.0, 200.0, 100.0})
        visited(Kind::stump, east, "2026-05-14T06:00:00Z", Outcome::What::looked);
    visited(Kind::stump, 5000, "2026-05-14T06:00:00Z", Outcome::What::looked);
    key(Qt::Key_7);
    press("logRound");
    ASSERT_EQ(view().round().size(), 4u) << "what lies farther than a mile is left out";
    press("goRound");
    EXPECT_TRUE(program->way.on());
    program->way.end();
}

// The report opens in a reader of PDF, says the day and the record, and ends with what holds before it.
TEST_F(Log, ADayIsWrittenAsPagesToKeep) {
    for (int i = 0; i < 12; ++i)
        visited(Kind::stump, i * 30, "2026-05-14T06:12:00Z",
                i < 8 ? Outcome::What::landed : Outcome::What::fished);
    for (int i = 0; i < 8; ++i)
        visited(Kind::boulder, i * 30 + 15, "2026-05-14T18:00:00Z",
                i < 1 ? Outcome::What::bite : Outcome::What::fished);
    key(Qt::Key_7);
    ASSERT_EQ(view().book().days()[view().day()].date, QStringLiteral("2026-05-14"));
    const auto file = folder.file("day.pdf");
    view().writeReport(QString::fromStdString(file));
    const auto said = test::run("pdftotext -layout '" + file + "' -").out;
    EXPECT_NE(said.find("06:12 UTC"), std::string::npos) << said;
    EXPECT_NE(said.find("What the whole record supports"), std::string::npos) << said;
    EXPECT_NE(said.find("Not for navigation"), std::string::npos) << said;
    EXPECT_NE(said.find("20 visits, 9 with a bite or a fish"), std::string::npos) << said;
    EXPECT_NE(said.find("8 of 12 ("), std::string::npos) << said;
    EXPECT_NE(said.find("taken as readily as this"), std::string::npos) << "as the window says it";
    view().writeReport(QStringLiteral("/nowhere/at/all.pdf"));
    EXPECT_TRUE(notice().contains(QStringLiteral("could not be written"))) << notice().toStdString();
}

TEST_F(Log, TheRoundFitsIntoTheHoursAndTheShelteredEndComesFirst) {
    for (int i = 0; i < 8; ++i)
        visited(Kind::stump, 100.0 * i, "2026-05-14T06:00:00Z",
                i % 2 == 0 ? Outcome::What::bite : Outcome::What::fished);
    visited(Kind::log, 350, "2026-05-14T06:00:00Z", Outcome::What::looked);
    key(Qt::Key_7);
    press("logRound");
    const auto choose = [&](const char *name, const QVariant &data) {
        auto *box = find<QComboBox>(name);
        box->setCurrentIndex(box->findData(data));
        emit box->activated(box->currentIndex());
    };
    choose("roundHours", 2);
    // Two hours of twenty minutes and the way between: five at most.
    const auto few = view().round();
    EXPECT_EQ(few.size(), 5u);
    EXPECT_LE(view().planned().plan.hours, 2);
    EXPECT_EQ(view().planned().others.size(), 4u);
    // What nobody fished is visited to learn.
    EXPECT_FALSE(view().planned().learns.isEmpty());
    EXPECT_EQ(marks().find(view().planned().learns)->kind, Kind::log);
    EXPECT_TRUE(view().lines().join(QLatin1Char('|')).contains(QStringLiteral("to learn")));
    choose("roundHours", 10);
    EXPECT_EQ(view().round().size(), 9u);
    const auto east_of = [&](const QString &id) {
        return LocalPlane({46.5, -21.25}).to_plane(*marks().find(id)->place).east_m;
    };
    choose("roundWind", 90);
    EXPECT_GT(east_of(view().round().front()), 600) << "the east is the lee of an easterly";
    choose("roundWind", 270);
    EXPECT_LT(east_of(view().round().front()), 100);
    EXPECT_TRUE(test::shows_something(view().grab().toImage()));
    // One is pressed out, and all come back.
    const auto first = view().round().front();
    view().grab();
    const auto before = view().round().size();
    QTest::mouseClick(&view(), Qt::LeftButton, Qt::NoModifier, view().spotOf(first).toPoint());
    EXPECT_EQ(view().round().size(), before - 1);
    press("roundAll");
    EXPECT_EQ(view().round().size(), before);
}

TEST_F(Log, LocalRulesAreEnteredKeptAndRemindedOf) {
    key(Qt::Key_7);
    press("logRules");
    const auto type = [&](const char *name, const QString &text) {
        auto *f = find<QLineEdit>(name);
        QTest::mouseClick(f, Qt::LeftButton);
        f->clear();
        QTest::keyClicks(f, text);
    };
    press("addRule");
    EXPECT_TRUE(view().book().rules().empty());
    type("ruleText", QStringLiteral("zander under 50 cm go back"));
    type("ruleFrom", QStringLiteral("15 March"));
    press("addRule");
    EXPECT_TRUE(view().book().rules().empty());
    EXPECT_TRUE(notice().contains(QStringLiteral("03-15"))) << notice().toStdString();
    type("ruleFrom", QString());
    press("addRule");
    ASSERT_EQ(view().book().rules().size(), 1u) << notice().toStdString();
    type("ruleText", QStringLiteral("reed bed closed"));
    type("ruleWater", QStringLiteral("Another Water"));
    press("addRule");
    ASSERT_EQ(view().book().rules().size(), 2u);
    EXPECT_TRUE(test::shows_something(view().grab().toImage()));
    // They are there at the next start, and stand when a trip begins.
    open();
    key(Qt::Key_7);
    ASSERT_EQ(view().book().rules().size(), 2u);
    const test::SounderProcess sounder({QStringLiteral("--speed-up"), QStringLiteral("4")});
    session().sources.listenTo(sounder.sources);
    ASSERT_TRUE(rows(20));
    EXPECT_TRUE(test::wait_for([&] { return notice().contains(QStringLiteral("zander under 50 cm")); }))
        << notice().toStdString();
    EXPECT_FALSE(notice().contains(QStringLiteral("reed bed"))) << "of another water";
    EXPECT_TRUE(notice().contains(QStringLiteral("authority"))) << notice().toStdString();
}

TEST_F(Log, ADayTellsWhatTheBoatWasAtAndTheGuidePutsItRight) {
    kept_morning();
    visited(Kind::stump, 0, "2026-05-14T07:50:00Z", Outcome::What::landed);
    key(Qt::Key_7);
    ASSERT_TRUE(looked_into());
    EXPECT_THAT(said(), testing::HasSubstr("07:00 to 07:40 UTC · scan"));
    EXPECT_THAT(said(), testing::HasSubstr("07:40 to 08:10 UTC · fish"));
    const auto &afloat = *view().book().afloat(QStringLiteral("2026-05-14"));
    EXPECT_NEAR(afloat.steps[10].depth_m, 4.5, 1e-6) << "from the surface";
    EXPECT_NEAR(afloat.run_m, 40 * 60 * 1.4, 100);
    EXPECT_TRUE(test::shows_something(page().grab().toImage()));
    EXPECT_FALSE(find("doingAshore")->isVisible()) << "nothing is in hand yet";

    QTest::mouseClick(&page(), Qt::LeftButton, Qt::NoModifier, page().spanRect(1).center().toPoint());
    ASSERT_TRUE(find("doingAshore")->isVisible());
    press("doingAshore");
    EXPECT_THAT(said(), testing::HasSubstr("07:40 to 08:10 UTC · ashore"));
    // By keys: the stretch before, and back to what was guessed.
    key(Qt::Key_Comma);
    key(Qt::Key_C);
    EXPECT_THAT(said(), testing::HasSubstr("07:00 to 07:40 UTC · run"));

    // It stands when the program starts anew; another window sees it at once.
    open();
    key(Qt::Key_7);
    ASSERT_TRUE(looked_into());
    EXPECT_THAT(said(), testing::HasSubstr("07:00 to 07:40 UTC · run"));
    EXPECT_THAT(said(), testing::HasSubstr("07:40 to 08:10 UTC · ashore"));
    QTest::mouseClick(&page(), Qt::LeftButton, Qt::NoModifier, page().spanRect(0).center().toPoint());
    press("doingGuess");
    EXPECT_THAT(said(), testing::HasSubstr("07:00 to 07:40 UTC · scan"));
}

TEST_F(Log, WhoWasAboardIsKeptWithTheDayAndWrittenInTheReport) {
    kept_morning();
    key(Qt::Key_7);
    ASSERT_TRUE(looked_into());
    auto *aboard = find<QLineEdit>("aboard");
    QTest::mouseClick(aboard, Qt::LeftButton);
    QTest::keyClicks(aboard, QStringLiteral("Ida and Bram, 2 xzcv"));
    QTest::keyClick(aboard, Qt::Key_Return);
    EXPECT_EQ(view().book().aboard(QStringLiteral("2026-05-14")), QStringLiteral("Ida and Bram, 2 xzcv"));
    EXPECT_FALSE(aboard->hasFocus()) << "keys are the view's again";
    EXPECT_THAT(test::contents(folder.file("days.json")), testing::HasSubstr("Ida and Bram"));
    // Typed, and another day looked at without leaving the field: it stays that day's.
    visited(Kind::stump, 0, "2026-05-20T07:50:00Z", Outcome::What::looked);
    key(Qt::Key_Down);
    ASSERT_EQ(view().book().days()[view().day()].date, QStringLiteral("2026-05-14"));
    ASSERT_TRUE(looked_into());
    QTest::mouseClick(aboard, Qt::LeftButton);
    QTest::keyClick(aboard, Qt::Key_End);
    QTest::keyClicks(aboard, QStringLiteral("!"));
    QTest::keyClick(aboard, Qt::Key_Up);
    EXPECT_EQ(view().book().aboard(QStringLiteral("2026-05-14")), QStringLiteral("Ida and Bram, 2 xzcv!"));
    EXPECT_EQ(view().book().aboard(QStringLiteral("2026-05-20")), QString());
    EXPECT_NE(aboard->text(), QStringLiteral("Ida and Bram, 2 xzcv!"));
    QTest::keyClick(aboard, Qt::Key_Return);
    key(Qt::Key_Down);
    ASSERT_TRUE(looked_into());
    const auto file = folder.file("day.pdf");
    view().writeReport(QString::fromStdString(file));
    const auto words = test::run("pdftotext -layout '" + file + "' -").out;
    EXPECT_THAT(words, testing::HasSubstr("Aboard: Ida and Bram"));
    EXPECT_THAT(words, testing::HasSubstr("scan"));
    EXPECT_THAT(words, testing::HasSubstr("depth"));
}

// What cannot be read is kept aside and said; what is written then goes into a file of its own.
TEST_F(Log, NotesOfDaysThatCannotBeReadAreKeptAside) {
    std::ofstream(folder.file("days.json")) << "{\"2026-05-14\": 7}";
    kept_morning();
    key(Qt::Key_7);
    ASSERT_TRUE(looked_into());
    EXPECT_TRUE(notice().contains(QStringLiteral("2026-05-14"))) << notice().toStdString();
    EXPECT_TRUE(notice().contains(QStringLiteral("unread"))) << notice().toStdString();
    view().book().setAboard(QStringLiteral("2026-05-14"), QStringLiteral("Bram"));
    EXPECT_THAT(test::contents(folder.file("days.json")), testing::HasSubstr("Bram"));
    std::size_t aside = 0;
    for (const auto &e : std::filesystem::directory_iterator(folder.file("")))
        aside += e.path().string().find("days.json.unread-") != std::string::npos;
    EXPECT_EQ(aside, 1u);
}

TEST_F(Log, SettingsAreJudgedByWhatWasFoundOut) {
    for (int i = 0; i < 6; ++i) {
        Mark m;
        m.id = new_identifier();
        m.family = Family::structure;
        m.lake = "Ellemoor Water";
        m.time = *parse_rfc3339("2026-05-14T07:00:00Z");
        m.range_setting_m = 25;
        m.frequency_hz = 770e3;
        m.depth_m = Estimate{4, 0.1};
        m.confirmed = Confirmed::camera;
        m.turned_out = i == 0 ? Kind::fish : Kind::stump;
        ASSERT_TRUE(marks().add(m));
    }
    key(Qt::Key_7);
    ASSERT_EQ(view().book().settingsTried().size(), 1u);
    EXPECT_EQ(view().book().settingsTried()[0].borne_out, 5u);
    EXPECT_TRUE(test::shows_something(page().grab().toImage()));
}

TEST_F(Log, ConditionsOfADayAreWrittenDownPutRightAndCountInTheRecord) {
    visited(Kind::stump, 10, "2026-05-14T08:00:00Z", Outcome::What::bite);
    window->go(place::log);
    auto press_key = [&](const char *name) { press(name); };
    EXPECT_THAT(said(), testing::HasSubstr("No conditions"));
    key(Qt::Key_D);
    press_key("day_wind1");
    press_key("day_sky2");
    EXPECT_THAT(said(), testing::HasSubstr("light, rain"));
    press_key("day_wind2");
    EXPECT_THAT(said(), testing::HasSubstr("strong, rain"));
    press_key("day_wind2");
    EXPECT_THAT(said(), testing::Not(testing::HasSubstr("strong"))) << "pressed again it is taken back";
    const auto type = [&](const char *name, const char *words) {
        auto *field = page().findChild<QLineEdit *>(QLatin1String(name));
        ASSERT_NE(field, nullptr);
        QTest::mouseClick(field, Qt::LeftButton);
        field->selectAll();
        QTest::keyClicks(field, QLatin1String(words));
        QTest::keyClick(field, Qt::Key_Return);
    };
    type("dayTemperature", "12.5 C");
    type("dayLevelFigure", "-1.2 m");
    const auto &kept = view().book().days().front().conditions;
    ASSERT_TRUE(kept.temperature_c && kept.level_m);
    EXPECT_NEAR(*kept.temperature_c, 12.5, 1e-9);
    EXPECT_NEAR(*kept.level_m, -1.2, 1e-9);
    type("dayTemperature", "warm");
    EXPECT_THAT(notice().toStdString(), testing::HasSubstr("no temperature of a water"));
    EXPECT_NEAR(*view().book().days().front().conditions.temperature_c, 12.5, 1e-9);
    EXPECT_TRUE(test::shows_something(page().grab().toImage()));
    const auto file = folder.file("visits.csv");
    ASSERT_TRUE(view().book().writeTable(QString::fromStdString(file)));
    const auto table = test::contents(file);
    EXPECT_THAT(table, testing::HasSubstr("water temperature"));
    EXPECT_THAT(table, testing::HasSubstr("lake level"));
    // And the next window finds them.
    open();
    window->go(place::log);
    ASSERT_TRUE(test::wait_for([&] {
        return !view().book().days().empty() && view().book().days().front().conditions.level_m.has_value();
    }));
    EXPECT_EQ(view().book().days().front().conditions.sky, "rain");
}
