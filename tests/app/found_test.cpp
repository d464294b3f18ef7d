// What was found, told where the guide looks and listens: rings on the live picture, spoken words.
#include "sailed.hpp"

#include "reading/contact_said.hpp"
#include "reading/contact_words.hpp"
#include "speech/speaker.hpp"
#include "views/scan/contact_box.hpp"

using namespace heron;
using namespace heron::app;

namespace {

class Rings : public test::Stage {
  protected:
    void SetUp() override {
        Stage::SetUp();
        play_sample();
        ASSERT_TRUE(test::wait_for([&] { return program->reader.readUntil() >= scan().end(); }, 60000));
        ASSERT_FALSE(program->reader.contacts().empty());
    }
    /// A contact that is ringed in the picture now; the picture goes to it.
    const Contact *ringed() {
        for (const auto &c : program->reader.contacts()) {
            if (c.zone == Zone::track)
                continue;
            picture().goTo(std::min(scan().end() - 1, c.row + 60));
            if (picture().ringOf(c))
                return &c;
        }
        return nullptr;
    }
    QImage seen() {
        QTest::qWait(50);
        return picture().grab().toImage();
    }
};

} // namespace

TEST_F(Rings, RingsStandRoundTheEchoAndOneKeyHidesThem) {
    const auto *c = ringed();
    ASSERT_NE(c, nullptr);
    const auto ring = *picture().ringOf(*c);
    const auto with = seen();
    key(Qt::Key_R);
    EXPECT_FALSE(state().ringsContacts());
    const auto without = seen();
    EXPECT_NE(with, without);
    // Nothing lies on the echo: within the ring the picture is the same.
    const int inside = static_cast<int>(ring.radius) - 5;
    for (int dy = -inside / 2; dy <= inside / 2; ++dy)
        for (int dx = -inside / 2; dx <= inside / 2; ++dx) {
            const QPoint at = ring.at.toPoint() + QPoint(dx, dy);
            if (with.rect().contains(at))
                ASSERT_EQ(with.pixel(at), without.pixel(at)) << dx << " " << dy;
        }
    key(Qt::Key_R);
    EXPECT_EQ(seen(), with);
}

TEST_F(Rings, APressTellsWhatItIsAndOneMoreTakesItToReadOrMarksIt) {
    const auto *c = ringed();
    ASSERT_NE(c, nullptr);
    const auto ring = *picture().ringOf(*c);
    QTest::mouseClick(&picture(), Qt::LeftButton, Qt::NoModifier, ring.glyph.toPoint());
    auto &box = panel().contact();
    ASSERT_TRUE(box.isVisible());
    const auto *pressed = program->reader.find(picture().pressedContact());
    ASSERT_NE(pressed, nullptr);
    box.grab();
    EXPECT_TRUE(box.lines().join(QLatin1Char('\n')).contains(contactTitle(*pressed), Qt::CaseInsensitive));
    EXPECT_TRUE(box.lines().contains(inHundred(pressed->confidence)));
    const auto place = pressed->place;
    const auto kind = pressed->kind_sure && pressed->family != Family::unsure ? pressed->kind : Kind::none;
    key(Qt::Key_M);
    ASSERT_EQ(marks().all().size(), 1u);
    EXPECT_EQ(marks().all()[0].kind, kind);
    ASSERT_TRUE(place && marks().all()[0].place);
    EXPECT_LT(leg_between(*marks().all()[0].place, place->place).distance_m, 0.01);
    EXPECT_FALSE(box.isVisible());
    // A mark says more than a ring: it is no longer pressed there.
    EXPECT_NE(picture().contactAt(ring.glyph), state().selectedContact());
    // Pressed twice it is read.
    key(Qt::Key_U);
    ASSERT_TRUE(marks().all().empty());
    QTest::mouseDClick(&picture(), Qt::LeftButton, Qt::NoModifier, ring.glyph.toPoint());
    EXPECT_EQ(window->current(), place::read);
    ASSERT_NE(window->view<ReadView>().selected(), nullptr);
    EXPECT_NEAR(window->view<ReadView>().selected()->slant_m, c->slant_m, 1e-9);
}

TEST_F(Rings, AContactKeepsItsIdWhenItIsReadAgain) {
    const auto id = program->reader.idOf(0);
    const auto first = program->reader.contacts()[0];
    const auto row = first.row;
    session().correctBottom(row > 5 ? row - 5 : 0,
                            std::vector<double>(10, scan().bottom(row).altitude_m + 0.02));
    QSignalSpy again(&program->reader, &ContactReader::contactsChanged);
    ASSERT_TRUE(test::wait_for([&] { return !again.empty(); }));
    ASSERT_NE(program->reader.find(id), nullptr);
    EXPECT_NEAR(program->reader.find(id)->slant_m, first.slant_m, 1);
}

namespace {

/// Says nothing aloud, and is done when the test says so.
struct QuietVoice : Voice {
    QStringList &said;
    bool &busy;
    bool there;
    QuietVoice(QStringList &s, bool &b, bool t) : said(s), busy(b), there(t) {}
    void say(const QString &words) override {
        said << words;
        busy = true;
    }
    bool speaking() const override { return busy; }
    bool available() const override { return there; }
};

class Spoken : public test::Stage {
  protected:
    QStringList said;
    bool busy = false;
    std::function<void()> ended;
    void SetUp() override {
        Stage::SetUp();
        voice(true);
        session().preferences.setSpeaks(true);
    }
    void TearDown() override {
        session().preferences.setSpeaks(false);
        Stage::TearDown();
    }
    void voice(bool there) {
        program->speaker.setVoice([this, there](std::function<void()> when_done) {
            ended = std::move(when_done);
            return std::make_unique<QuietVoice>(said, busy, there);
        });
    }
    void done() {
        busy = false;
        ended();
        QTest::qWait(10);
    }
};

} // namespace

TEST_F(Spoken, OneAtATimeTheUrgentFirstAndNothingTwice) {
    auto &speaker = program->speaker;
    speaker.say(Speaker::Urgency::contact, QStringLiteral("stump, left, 40 feet"));
    speaker.say(Speaker::Urgency::contact, QStringLiteral("log, right, 25 feet"));
    speaker.say(Speaker::Urgency::hazard, QStringLiteral("hazard ahead, 60 feet"));
    speaker.say(Speaker::Urgency::contact, QStringLiteral("log, right, 25 feet"));
    EXPECT_EQ(said.size(), 1) << "never two at once";
    done();
    ASSERT_EQ(said.size(), 2);
    EXPECT_EQ(said[1], QStringLiteral("hazard ahead, 60 feet"));
    done();
    ASSERT_EQ(said.size(), 3);
    done();
    EXPECT_EQ(said.size(), 3) << "the same words are not said twice";
}

TEST_F(Spoken, SilentUnlessWished) {
    session().preferences.setSpeaks(false);
    program->speaker.say(Speaker::Urgency::hazard, QStringLiteral("hazard ahead"));
    EXPECT_TRUE(said.isEmpty());
    // One key turns it on.
    key(Qt::Key_I);
    press("speak");
    EXPECT_TRUE(session().preferences.speaks());
}

TEST_F(Spoken, WithoutAVoiceItIsToldOnce) {
    voice(false);
    program->speaker.say(Speaker::Urgency::lost, QStringLiteral("position lost"));
    ASSERT_TRUE(window->notice().isVisible());
    EXPECT_TRUE(notice().contains(QStringLiteral("no voice"))) << notice().toStdString();
}

TEST_F(Spoken, ContactsOfTheKindsAskedForAndHazardsAheadAreTold) {
    for (const char *kind : {"boulder", "stump", "log", "tree", "built", "fish"})
        session().preferences.setKindSpoken(QString::fromLatin1(kind), true);
    test::SounderProcess sounder({QStringLiteral("--speed-up"), QStringLiteral("6")});
    session().sources.listenTo(sounder.sources);
    ASSERT_TRUE(rows(150));
    // A hazard 30 m ahead of the boat.
    const auto fix = scan().nav.fix_at(scan().newest().time);
    ASSERT_TRUE(fix);
    Mark hazard;
    hazard.id = "hazard-ahead";
    hazard.family = Family::hazard;
    const LocalPlane plane(fix->pose.antenna);
    const double heading = fix->pose.heading_deg * 3.14159265358979 / 180;
    hazard.place = plane.to_globe({45 * std::sin(heading), 45 * std::cos(heading)});
    ASSERT_TRUE(marks().add(hazard));
    const auto told = [&](const char *words) {
        return test::wait_for(
            [&] {
                if (busy)
                    done();
                return said.join(QLatin1Char('\n')).contains(QString::fromLatin1(words));
            },
            60000);
    };
    EXPECT_TRUE(told("hazard ahead")) << said.join(QLatin1Char('|')).toStdString();
    EXPECT_TRUE(told("boulder, ")) << said.join(QLatin1Char('|')).toStdString();
    for (const auto &words : said)
        EXPECT_LT(words.size(), 40) << words.toStdString();
    for (const char *kind : {"boulder", "stump", "log", "tree", "built", "fish"})
        session().preferences.setKindSpoken(QString::fromLatin1(kind), false);
}

TEST(Said, LengthsAreRoundedToWhatAnEarKeeps) {
    EXPECT_EQ(spokenLength(12.2, UnitSystem::feet), QStringLiteral("40 feet"));
    EXPECT_EQ(spokenLength(0.3, UnitSystem::feet), QStringLiteral("5 feet"));
    EXPECT_EQ(spokenLength(12.9, UnitSystem::metres), QStringLiteral("12 metres"));
    Contact c;
    c.family = Family::structure;
    c.kind = Kind::stump;
    c.kind_sure = true;
    c.side = Side::port;
    c.ground_m.value = 12.2;
    EXPECT_EQ(contactSpoken(c, UnitSystem::feet), QStringLiteral("stump, left, 40 feet"));
    c.family = Family::unsure;
    EXPECT_EQ(contactSpoken(c, UnitSystem::feet), QStringLiteral("something, left, 40 feet"));
}

// Two lanes side by side, run in turn: each begins with its number, tells how far off the boat is, and what
// comes.
TEST_F(Spoken, LanesAreSteeredAloud) {
    auto &speaker = program->speaker;
    const auto plan = plan_lanes({{0, 0}, {40, 0}, {40, 100}, {0, 100}}, 20, 0);
    ASSERT_EQ(plan.lanes.size(), 2u);
    const auto hear = [&](const LaneCue &cue) {
        const auto before = said.size();
        speaker.sayLane(plan, cue);
        while (busy)
            done();
        return said.mid(before).join(QLatin1Char('|'));
    };
    EXPECT_EQ(hear({0, 0, 130, true}), QString()) << "on the way to it";
    EXPECT_EQ(hear({0, 0.5, 95, true}), QStringLiteral("lane 1"));
    EXPECT_TRUE(hear({0, 6, 60, true}).contains(QStringLiteral("left"))) << "off to the right";
    EXPECT_EQ(hear({0, 6, 58, true}), QString()) << "not again at once";
    EXPECT_TRUE(hear({0, 0, 18, true}).contains(QStringLiteral("turn right in")));
    EXPECT_EQ(hear({0, 0, 10, true}), QString());
    EXPECT_EQ(hear({1, 0, 90, false}), QStringLiteral("lane 2"));
    EXPECT_TRUE(hear({1, 0, 15, false}).contains(QStringLiteral("last lane ends")));
}
