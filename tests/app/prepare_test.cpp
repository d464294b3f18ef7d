// Prepare: what is asked with keys and handles, what is answered, and what goes to the sounder.
#include "fake_sounder.hpp"
#include "units/units.hpp"
#include "views/prepare/prepare_view.hpp"

#include <QLineEdit>
#include <QSettings>

using namespace heron;
using namespace heron::app;

namespace {

class Prepare : public test::Stage {
  protected:
    void SetUp() override {
        QSettings().clear();
        Stage::SetUp();
        key(Qt::Key_1);
        ASSERT_EQ(window->rail().current(), place::prepare);
        ASSERT_TRUE(answered());
    }
    PrepareView &prepare() { return window->view<PrepareView>(); }
    bool answered() {
        return test::wait_for([&] { return prepare().answer().has_value(); });
    }
    // Presses, and waits for an answer that is another one.
    Advice after(const char *name) {
        const auto before = *prepare().answer();
        press(name);
        EXPECT_TRUE(test::wait_for([&] {
            const auto &now = prepare().answer();
            return now && (now->yield.setting.range_m != before.yield.setting.range_m ||
                           now->yield.worth_m2 != before.yield.worth_m2 || now->purpose != before.purpose);
        })) << name;
        return *prepare().answer();
    }
};

} // namespace

TEST_F(Prepare, TheAnswerIsWhatTheCoreComputesForWhatIsAsked) {
    const auto &p = prepare().preparation();
    const auto mine = advise(p.gear, p.water, p.thing, p.purpose, p.fastest_m_s, p.read_by);
    EXPECT_DOUBLE_EQ(prepare().answer()->yield.setting.range_m, mine.yield.setting.range_m);
    EXPECT_EQ(prepare().answer()->yield.setting.band, mine.yield.setting.band);
    EXPECT_DOUBLE_EQ(prepare().answer()->yield.worth_m2, mine.yield.worth_m2);
    for (const auto &a : prepare().answers())
        EXPECT_TRUE(a);
}

TEST_F(Prepare, MuddyWaterTellsAShorterRange) {
    const auto clear = after("clarity0");
    const auto muddy = after("clarity2");
    EXPECT_EQ(prepare().preparation().water.suspended_db, -56);
    EXPECT_LE(muddy.yield.setting.range_m, clear.yield.setting.range_m);
    EXPECT_LT(muddy.yield.worth_m2, clear.yield.worth_m2);
}

TEST_F(Prepare, PurposesAnswerOtherwise) {
    const auto wide = *prepare().answer();
    const auto inspect = after("purpose3");
    EXPECT_EQ(inspect.purpose, Purpose::inspect);
    EXPECT_LT(inspect.yield.setting.range_m, wide.yield.setting.range_m);
    const auto fine = after("purpose1");
    EXPECT_EQ(fine.yield.setting.band, prepare().preparation().gear.bands.size() - 1);
}

// Both answers stand side by side; the one chosen goes to the sounder and is there at the next start.
TEST_F(Prepare, TheEyeAndTheProgramAreAnsweredApart) {
    EXPECT_EQ(prepare().preparation().read_by, ReadBy::eye);
    const double by_eye = prepare().answer()->yield.setting.range_m;
    press("readBy1");
    const double by_program = prepare().answer()->yield.setting.range_m;
    EXPECT_GT(by_program, 1.1 * by_eye);
    EXPECT_DOUBLE_EQ(prepare().answers(ReadBy::eye)[0]->yield.setting.range_m, by_eye);
    EXPECT_DOUBLE_EQ(program->tuner.advised()->yield.setting.range_m, by_program);
    open();
    key(Qt::Key_1);
    EXPECT_EQ(prepare().preparation().read_by, ReadBy::program);
}

TEST_F(Prepare, SmallerThingsAndKindsAreAskedWithKeys) {
    const double before = prepare().preparation().thing.length_m;
    const auto worth = prepare().answer()->yield.worth_m2;
    const auto smaller = after("smaller");
    EXPECT_LT(prepare().preparation().thing.length_m, before);
    EXPECT_LT(smaller.yield.worth_m2, worth);
    after("thing1");
    EXPECT_EQ(prepare().preparation().thing.kind, SmallestThing::Kind::bush);
    press("warmer");
    press("layered");
    EXPECT_TRUE(prepare().preparation().water.below_c);
}

TEST_F(Prepare, WhatWasAskedIsThereAtTheNextStart) {
    press("clarity2");
    press("bottom3");
    press("purpose2");
    open();
    key(Qt::Key_1);
    EXPECT_EQ(prepare().preparation().water.suspended_db, -56);
    EXPECT_EQ(prepare().preparation().water.bottom, BottomType::rock);
    EXPECT_EQ(prepare().preparation().purpose, Purpose::wide_then_fine);
}

TEST_F(Prepare, TheGearIsDescribedInItsSheet) {
    press("gear");
    auto *band = find<QLineEdit>("band0_0");
    ASSERT_TRUE(band != nullptr && band->isVisible());
    band->setFocus();
    band->selectAll();
    QTest::keyClicks(band, QStringLiteral("500"));
    QTest::keyClick(band, Qt::Key_Return);
    EXPECT_NEAR(prepare().preparation().gear.bands[0].frequency_hz, 500e3, 1);
    // What makes no sense is refused and said; the gear stays.
    band->selectAll();
    QTest::keyClicks(band, QStringLiteral("-4"));
    QTest::keyClick(band, Qt::Key_Return);
    EXPECT_NEAR(prepare().preparation().gear.bands[0].frequency_hz, 500e3, 1);
    press("gearDone");
    EXPECT_FALSE(band->isVisible());
}

TEST_F(Prepare, TheAnswerGoesToTheSounder) {
    test::FakeSounder fake;
    session().sources.listenTo(fake.sources());
    ASSERT_TRUE(test::wait_for([&] { return fake.joined(); }));
    fake.greet();
    fake.ping(5);
    ASSERT_TRUE(rows(5));
    ASSERT_TRUE(test::wait_for([&] { return prepare().answer().has_value(); }));
    // The gear that the sounder told is used: of no other is its gain known.
    ASSERT_TRUE(test::wait_for([&] { return prepare().answer() && prepare().answer()->gain >= 0; }));
    const auto taken = *prepare().answer(); // it is reckoned anew as rows come in
    press("takeToScan");
    EXPECT_EQ(window->rail().current(), place::scan);
    std::optional<SoundingSettings> asked;
    ASSERT_TRUE(test::wait_for([&] { return (asked = fake.asked()).has_value(); }));
    const auto &s = taken.yield.setting;
    EXPECT_NEAR(asked->range_m, s.range_m, 0.01);
    EXPECT_NEAR(asked->frequency_hz, prepare().preparation().gear.bands[s.band].frequency_hz, 1);
    EXPECT_EQ(asked->gain, taken.gain);
}

TEST_F(Prepare, WarningsFollowTheUnits) {
    ASSERT_FALSE(prepare().warnings().isEmpty());
    const auto in = [&](const QString &unit) {
        return prepare()
            .warnings()
            .join(QLatin1Char(' '))
            .contains(QLatin1Char(' ') + unit + QLatin1Char(' '));
    };
    const bool feet = session().preferences.units() == UnitSystem::feet;
    EXPECT_EQ(in(QStringLiteral("ft")), feet);
    EXPECT_EQ(in(QStringLiteral("m")), !feet);
    key(Qt::Key_N);
    EXPECT_EQ(in(QStringLiteral("ft")), !feet);
    EXPECT_EQ(in(QStringLiteral("m")), feet);
}
