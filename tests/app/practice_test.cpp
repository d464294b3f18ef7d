// The place Practice in the real window: a made-up water is sounded, a question asked, the answer explained
// and kept.
#include "stage.hpp"

#include "views/practice/practice_view.hpp"

using namespace heron;
using namespace heron::app;

namespace {

class Practice : public test::Stage {
  protected:
    PracticeView &view() { return window->view<PracticeView>(); }
    Trainer &trainer() { return view().trainer(); }
    void begin() {
        trainer().setProgram(QString::fromStdString(test::program("heron-sounder")));
        key(Qt::Key_8);
        press("nextQuestion");
        ASSERT_TRUE(test::wait_for([&] { return trainer().asked(); }, 150000)) << notice().toStdString();
        QTest::qWait(50);
    }
};

} // namespace

TEST_F(Practice, AQuestionIsAskedAnsweredAndExplained) {
    begin();
    const auto asked = view().grab().toImage();
    EXPECT_TRUE(test::shows_something(asked));
    const auto right = trainer().question()->right;
    const auto skill = trainer().question()->skill;
    const Qt::Key letters[] = {Qt::Key_Z, Qt::Key_X, Qt::Key_C, Qt::Key_V};
    key(letters[right]);
    ASSERT_TRUE(trainer().answered());
    EXPECT_NE(view().grab().toImage(), asked) << "the lake is drained";
    EXPECT_EQ(trainer().progress().skills[static_cast<std::size_t>(skill)].right, 1u);
    // The next comes of the same water at once, and of another skill.
    key(Qt::Key_Return);
    ASSERT_TRUE(trainer().asked());
    EXPECT_FALSE(trainer().answered());
    EXPECT_NE(trainer().question()->skill, skill);
    const auto wrong = (trainer().question()->right + 1) % trainer().question()->choices.size();
    key(letters[wrong]);
    EXPECT_EQ(trainer().progress().questions, 2u);
    EXPECT_TRUE(test::shows_something(view().grab().toImage()));
    // Each who practises has numbers of his own.
    trainer().setPerson(QStringLiteral("Runa"));
    EXPECT_EQ(trainer().progress().questions, 0u);
    trainer().setPerson(QStringLiteral("Guide"));
    EXPECT_EQ(trainer().progress().questions, 2u);
}

TEST_F(Practice, AWaterThatIsSoundedTellsHowFarItIsAndCanBeStopped) {
    trainer().setProgram(QString::fromStdString(test::program("heron-sounder")));
    key(Qt::Key_8);
    press("nextQuestion");
    ASSERT_TRUE(trainer().making());
    ASSERT_TRUE(test::wait_for([&] { return trainer().made() > 0; }, 150000));
    const auto early = trainer().made();
    EXPECT_TRUE(test::wait_for([&] { return trainer().made() > early; }, 150000));
    press("nextQuestion");
    EXPECT_FALSE(trainer().making());
    EXPECT_FALSE(trainer().asked());
    QTest::qWait(300);
    EXPECT_FALSE(trainer().asked()) << "what was stopped asks nothing later";
    EXPECT_FALSE(notice().contains(QStringLiteral("could not"))) << notice().toStdString();
}

TEST_F(Practice, AStandInThatIsNotThereIsTold) {
    trainer().setProgram(QStringLiteral("/nowhere/at/all"));
    key(Qt::Key_8);
    press("nextQuestion");
    ASSERT_TRUE(test::wait_for([&] { return notice().contains(QStringLiteral("could not be started")); }));
    EXPECT_FALSE(trainer().making());
}

TEST_F(Practice, TheProgramsOwnReadingStandsBesideTheAnswer) {
    begin();
    // On plain water what hardly shows is not asked: the program itself sees it, and surely.
    int seen = 0;
    for (int i = 0; i < 4 && seen < 2; ++i) {
        if (!trainer().question()->riddle) {
            ASSERT_NE(trainer().reading(), nullptr);
            EXPECT_GE(trainer().reading()->confidence, 0.5);
            ++seen;
        }
        trainer().answer(trainer().question()->right);
        trainer().next();
        ASSERT_TRUE(test::wait_for([&] { return trainer().asked(); }, 150000));
    }
    EXPECT_GT(seen, 0);
    // The pointer measures along the sound: it stands on the picture where it is moved to, and goes with it.
    while (trainer().question()->riddle || trainer().question()->skill == Skill::uphill) {
        trainer().answer(0);
        trainer().next();
        ASSERT_TRUE(test::wait_for([&] { return trainer().asked(); }, 150000));
    }
    const auto plain = view().grab().toImage();
    const QPoint on(view().width() * 3 / 4, 200);
    QTest::mouseMove(&view(), on);
    EXPECT_TRUE(test::wait_for([&] { return view().grab().toImage() != plain; }));
    QTest::mouseMove(&view(), QPoint(20, 20));
    EXPECT_TRUE(test::wait_for([&] { return view().grab().toImage() == plain; }));
}

TEST_F(Practice, OnesOwnMarksAreAskedWithoutTheirPlaces) {
    key(Qt::Key_8);
    press("practiceOwn");
    EXPECT_FALSE(trainer().own());
    EXPECT_TRUE(notice().contains(QStringLiteral("turned out"))) << notice().toStdString();
    Mark m;
    m.id = "gate-1";
    m.name = "The secret gate";
    m.family = Family::structure;
    m.kind = Kind::boulder;
    m.turned_out = Kind::built;
    m.confirmed = Confirmed::diver;
    std::vector<std::uint8_t> level(1200, 90);
    for (std::size_t i = 0; i < 600; ++i)
        level[i] = static_cast<std::uint8_t>(i % 255);
    m.chip = {40, 30, std::move(level)};
    ASSERT_TRUE(marks().add(m));
    press("practiceOwn");
    ASSERT_TRUE(trainer().own());
    press("nextQuestion");
    ASSERT_TRUE(trainer().asked());
    const auto &q = *trainer().question();
    EXPECT_EQ(q.choices[q.right], "built");
    EXPECT_TRUE(test::shows_something(view().grab().toImage()));
    trainer().answer(q.right);
    EXPECT_TRUE(test::shows_something(view().grab().toImage()));
    press("practiceOwn");
    EXPECT_FALSE(trainer().own());
}

TEST_F(Practice, WhichLookIsUphillIsAskedOnASlopeOfItsOwn) {
    // Everything else was asked just now: uphill is what is due.
    PracticeProgress p;
    for (std::size_t i = 0; i + 1 < skill_count; ++i)
        p.answer(static_cast<Skill>(i), true);
    QSettings().setValue(QStringLiteral("practice/progress/Ardis"), QString::fromStdString(p.text()));
    trainer().setPerson(QStringLiteral("Ardis"));
    begin();
    EXPECT_EQ(trainer().question()->skill, Skill::uphill);
    const auto picture = trainer().picture(300, 200, 0.035);
    EXPECT_EQ(picture.width, 300);
    const auto bright = [&](int from) {
        int n = 0;
        for (int y = 0; y < picture.height; ++y)
            for (int x = from; x < from + 150; ++x)
                n += picture.level[static_cast<std::size_t>(y * picture.width + x)] > 60;
        return n;
    };
    EXPECT_GT(bright(0), 1000) << "the first look is in it";
    EXPECT_GT(bright(150), 1000) << "and the one back";
    trainer().answer(trainer().question()->right);
    EXPECT_TRUE(test::shows_something(view().grab().toImage()));
    key(Qt::Key_Return);
    ASSERT_TRUE(test::wait_for([&] { return trainer().asked(); }, 150000));
    EXPECT_NE(trainer().question()->skill, Skill::uphill) << "then a level water again";
    EXPECT_EQ(trainer().lake().passes_off_m, 0);
}

TEST_F(Practice, ASetForGuestsIsWrittenAndAskedElsewhere) {
    Mark m;
    m.id = "gate-1";
    m.name = "The secret gate";
    m.place = GeoPoint{46.5, -21.25};
    m.family = Family::structure;
    m.kind = m.turned_out = Kind::boulder;
    m.confirmed = Confirmed::diver;
    std::vector<std::uint8_t> level(1200, 90);
    m.chip = {40, 30, std::move(level)};
    ASSERT_TRUE(marks().add(m));
    key(Qt::Key_8);
    EXPECT_FALSE(find("writeSet")->isEnabled()) << "nothing to write yet";
    press("practiceOwn");
    ASSERT_TRUE(find("writeSet")->isEnabled());
    const auto file = QString::fromStdString(folder.file("guests.practice.json"));
    trainer().writeSet(file, QStringLiteral("Ellemoor"));
    EXPECT_TRUE(notice().contains(QStringLiteral("no place"))) << notice().toStdString();
    EXPECT_EQ(test::contents(file.toStdString()).find("gate"), std::string::npos);
    press("practiceOwn");
    ASSERT_FALSE(trainer().own());
    trainer().openSet(file);
    ASSERT_TRUE(trainer().set());
    press("nextQuestion");
    ASSERT_TRUE(trainer().asked());
    EXPECT_EQ(trainer().question()->choices[trainer().question()->right], "boulder");
    EXPECT_TRUE(test::shows_something(view().grab().toImage()));
    // Another file is refused in words, and the set goes on.
    trainer().openSet(QString::fromStdString(test::sample()));
    EXPECT_TRUE(notice().contains(QStringLiteral("no set"))) << notice().toStdString();
    EXPECT_TRUE(trainer().set());
    press("practiceOwn");
    EXPECT_FALSE(trainer().set());
}
