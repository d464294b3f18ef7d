// The house around the views: places, units, lights, cautions, sizes.
#include "stage.hpp"

#include "kit/key_button.hpp"
#include "views/prepare/prepare_view.hpp"

#include <QSettings>
#include <QStackedWidget>

using namespace heron;
using namespace heron::app;

using Shell = test::Stage;

TEST_F(Shell, EachPlaceHasItsKeyAndSaysWhatItHolds) {
    for (const auto &p : allPlaces()) {
        if (p.key.isEmpty()) {
            window->go(p.id);
        } else {
            key(p.key[0].key(), p.key[0].keyboardModifiers());
        }
        EXPECT_EQ(window->current(), p.id);
        EXPECT_EQ(window->rail().current(), p.on_rail ? p.id : QString());
        EXPECT_TRUE(test::shows_something(window->grab().toImage())) << p.id.toStdString();
    }
    QTest::mouseClick(&window->rail(), Qt::LeftButton, Qt::NoModifier,
                      window->rail().rectOf(place::scan).center());
    EXPECT_EQ(window->rail().current(), place::scan);
}

TEST_F(Shell, FirstStartShowsTheCautionAndTheFirstThingToDo) {
    EXPECT_TRUE(notice().contains(QStringLiteral("not")) ||
                notice().contains(QStringLiteral("nothing here is for navigation")));
    EXPECT_TRUE(notice().contains(QStringLiteral("ook out"))) << notice().toStdString();
}

TEST_F(Shell, UnitsAndLightAreKeptUntilTheNextStart) {
    const auto units = session().preferences.units();
    key(Qt::Key_N);
    EXPECT_NE(session().preferences.units(), units);
    const auto light = Theme::instance().light();
    key(Qt::Key_T);
    EXPECT_NE(Theme::instance().light(), light);
    const auto now = Theme::instance().light();
    open();
    EXPECT_NE(session().preferences.units(), units);
    EXPECT_EQ(Theme::instance().light(), now);
    key(Qt::Key_N);
    while (Theme::instance().light() != light)
        key(Qt::Key_T);
}

// 44 px and more for what is used afloat (common practice for touch targets).
TEST_F(Shell, EveryKeyAfloatIsLargeEnoughAndShowsItsLetter) {
    for (const auto *k : window->view<ScanView>().findChildren<KeyButton *>()) {
        if (!k->isVisibleTo(window.get()))
            continue;
        EXPECT_GE(k->width(), 44) << k->objectName().toStdString();
        EXPECT_GE(k->height(), 44) << k->objectName().toStdString();
        EXPECT_FALSE(k->toolTip().isEmpty()) << k->objectName().toStdString();
    }
}

TEST_F(Shell, MarksCannotBeLostToAFileOfAnotherKind) {
    const auto path = folder.file("foreign.gpkg");
    std::ofstream(path) << "this is somebody's letter";
    marks().open(QString::fromStdString(path));
    EXPECT_TRUE(notice().contains(QStringLiteral("foreign.gpkg"))) << notice().toStdString();
    EXPECT_EQ(test::contents(path), "this is somebody's letter");
}

// Reached by Tab, a field of writing lets the hand out again: by Escape as it was, by Enter as it is.
TEST_F(Shell, AFieldIsLeftByEscapeAsItWasAndByEnterAsItIs) {
    window->go(place::marks);
    auto *wish = find<QLineEdit>("findMarks");
    ASSERT_NE(wish, nullptr);
    const auto type = [&](const QString &words) {
        wish->setFocus();
        ASSERT_TRUE(test::wait_for([&] { return wish->hasFocus(); }));
        QTest::keyClicks(wish, words);
    };
    type(QStringLiteral("50"));
    EXPECT_EQ(wish->text(), QStringLiteral("50"));
    EXPECT_EQ(window->current(), place::marks) << "digits are written while one writes";
    QTest::keyClick(wish, Qt::Key_Escape);
    EXPECT_EQ(wish->text(), QString());
    EXPECT_FALSE(wish->hasFocus());
    type(QStringLiteral("stump"));
    QTest::keyClick(wish, Qt::Key_Return);
    EXPECT_TRUE(test::wait_for([&] { return !wish->hasFocus(); }));
    EXPECT_EQ(wish->text(), QStringLiteral("stump"));
    key(Qt::Key_5);
    EXPECT_EQ(window->current(), place::chart);
}

// What has no letter is reached by Tab and pressed by Space or Enter; Escape gives the letters back.
TEST_F(Shell, KeysWithoutALetterAreReachedByTab) {
    window->go(place::prepare);
    ASSERT_TRUE(test::wait_for([&] { return window->view<PrepareView>().hasFocus(); }));
    std::set<QString> reached;
    for (int i = 0; i < 80; ++i) {
        key(Qt::Key_Tab);
        if (auto *k = qobject_cast<KeyButton *>(QApplication::focusWidget()))
            reached.insert(k->text());
    }
    for (const auto *k : window->view<PrepareView>().findChildren<KeyButton *>()) {
        if (!k->isVisible() || !k->isEnabled() || !k->shortcut().isEmpty() || k->x() < 0)
            continue;
        EXPECT_TRUE(reached.contains(k->text())) << k->text().toStdString();
    }
    auto *muddy = find<KeyButton>("clarity2");
    muddy->setFocus(Qt::TabFocusReason);
    EXPECT_FALSE(muddy->isChecked());
    key(Qt::Key_Return);
    EXPECT_TRUE(muddy->isChecked());
    key(Qt::Key_Escape);
    EXPECT_TRUE(window->view<PrepareView>().hasFocus());
}

// In every place Tab leads to what can be seen, and nowhere else.
TEST_F(Shell, TabLeadsToNothingThatIsOutOfSight) {
    for (const auto &p : allPlaces()) {
        window->go(p.id);
        for (int i = 0; i < 12; ++i) {
            key(Qt::Key_Tab);
            const auto *at = QApplication::focusWidget();
            ASSERT_NE(at, nullptr) << p.id.toStdString();
            // A place that is full of its own parts shows nothing of itself.
            if (qobject_cast<const QStackedWidget *>(at->parentWidget()) != nullptr)
                continue;
            EXPECT_FALSE(at->visibleRegion().isEmpty())
                << p.id.toStdString() << ": " << at->objectName().toStdString() << " "
                << at->metaObject()->className();
        }
        key(Qt::Key_Escape);
    }
}

// The menu of files is in the colours of the light, and so is every dialog.
TEST_F(Shell, WhatOpensOverTheWindowIsDarkAtNightToo) {
    const auto light = Theme::instance().light();
    Theme::instance().setLight(Light::dusk);
    EXPECT_LT(QApplication::palette().color(QPalette::Window).lightness(), 80);
    EXPECT_GT(QApplication::palette().color(QPalette::WindowText).lightness(), 150);
    Theme::instance().setLight(Light::noon);
    EXPECT_GT(QApplication::palette().color(QPalette::Window).lightness(), 150);
    Theme::instance().setLight(light);
}
