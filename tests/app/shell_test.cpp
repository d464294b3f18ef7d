// The house around the views: places, units, lights, cautions, sizes.
#include "stage.hpp"

#include "kit/key_button.hpp"

#include <QSettings>

using namespace heron;
using namespace heron::app;

using Shell = test::Stage;

TEST_F(Shell, EachPlaceHasItsKeyAndSaysWhatItHolds) {
    for (int i = 0; i < place_count; ++i) {
        key(Qt::Key_1 + i);
        EXPECT_EQ(static_cast<int>(window->spine().current()), i);
        EXPECT_FALSE(window->grab().isNull());
    }
    QTest::mouseClick(&window->spine(), Qt::LeftButton, Qt::NoModifier, {36, 80 + 40});
    EXPECT_EQ(window->spine().current(), Place::scan);
}

TEST_F(Shell, FirstStartShowsTheCautionAndTheFirstThingToDo) {
    EXPECT_TRUE(notice().contains(QStringLiteral("not")) ||
                notice().contains(QStringLiteral("nothing here is for navigation")));
    EXPECT_TRUE(notice().contains(QStringLiteral("ook out"))) << notice().toStdString();
}

TEST_F(Shell, UnitsAndLightAreKeptUntilTheNextStart) {
    const auto units = survey->units();
    key(Qt::Key_N);
    EXPECT_NE(survey->units(), units);
    const auto light = Theme::instance().light();
    key(Qt::Key_T);
    EXPECT_NE(Theme::instance().light(), light);
    const auto now = Theme::instance().light();
    open();
    EXPECT_NE(survey->units(), units);
    EXPECT_EQ(Theme::instance().light(), now);
    key(Qt::Key_N);
    while (Theme::instance().light() != light)
        key(Qt::Key_T);
}

// 44 px and more for what is used afloat (common practice for touch targets).
TEST_F(Shell, EveryKeyAfloatIsLargeEnoughAndShowsItsLetter) {
    for (const auto *k : window->scanView().findChildren<KeyButton *>()) {
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
    survey->openMarks(QString::fromStdString(path));
    EXPECT_TRUE(notice().contains(QStringLiteral("foreign.gpkg"))) << notice().toStdString();
    EXPECT_EQ(test::contents(path), "this is somebody's letter");
}
