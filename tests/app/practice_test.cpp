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
        ASSERT_TRUE(test::wait_for([&] { return trainer().asked(); }, 60000)) << notice().toStdString();
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

TEST_F(Practice, AStandInThatIsNotThereIsTold) {
    trainer().setProgram(QStringLiteral("/nowhere/at/all"));
    key(Qt::Key_8);
    press("nextQuestion");
    ASSERT_TRUE(test::wait_for([&] { return notice().contains(QStringLiteral("could not be started")); }));
    EXPECT_FALSE(trainer().making());
}

TEST_F(Practice, TheProgramsOwnReadingStandsBesideTheAnswer) {
    begin();
    // Most things of a plain water are read; some question is about one of them.
    bool read = false;
    for (int i = 0; i < 5 && !read; ++i) {
        trainer().answer(trainer().question()->right);
        read = trainer().reading() != nullptr;
        if (!read)
            trainer().next();
        ASSERT_TRUE(test::wait_for([&] { return trainer().asked(); }, 60000));
    }
    EXPECT_TRUE(read);
    EXPECT_TRUE(test::shows_something(view().grab().toImage()));
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
