// The pointer that the keyboard moves: everything that is done by pointing is done without a mouse.
#include "stage.hpp"
#include "window/keys_pointer.hpp"

using namespace heron;
using namespace heron::app;

namespace {

class Keyboard : public test::Stage {
  protected:
    const KeysPointer &cross() { return *window->findChild<KeysPointer *>(); }
    // Over the picture, by keys alone: strides first, then pixels.
    void go_to(QPoint on_picture) {
        const auto there = picture().mapTo(window.get(), on_picture);
        if (!cross().isVisible())
            key(Qt::Key_Left, Qt::ControlModifier);
        const auto towards = [&](int missing, Qt::Key back, Qt::Key forth) {
            for (int i = 0; i < std::abs(missing) / KeysPointer::step; ++i)
                key(missing < 0 ? back : forth, Qt::ControlModifier);
            for (int i = 0; i < std::abs(missing) % KeysPointer::step; ++i)
                key(missing < 0 ? back : forth, Qt::ControlModifier | Qt::ShiftModifier);
        };
        towards(there.x() - cross().at().x(), Qt::Key_Left, Qt::Key_Right);
        towards(there.y() - cross().at().y(), Qt::Key_Up, Qt::Key_Down);
        ASSERT_EQ(cross().at(), there);
    }
};

} // namespace

TEST_F(Keyboard, WhatLiesUnderTheCrossIsReadAndMarked) {
    play_sample();
    const auto row = picture().topRow() - 60;
    go_to(on_picture(row, Side::port, 15));
    EXPECT_TRUE(notice().contains(QStringLiteral("Ctrl+Enter"))) << notice().toStdString();
    const auto pointed = picture().pointed();
    ASSERT_TRUE(pointed);
    EXPECT_EQ(pointed->side, Side::port);
    EXPECT_NEAR(pointed->slant_m, 15, 0.2);
    const auto before = marks().all().size();
    key(Qt::Key_X);
    ASSERT_EQ(marks().all().size(), before + 1);
    EXPECT_TRUE(marks().all().back().place);
    // Pressed, it is picked; nothing more.
    key(Qt::Key_Return, Qt::ControlModifier);
    EXPECT_TRUE(picture().picked());
    EXPECT_FALSE(cross().holds());
    key(Qt::Key_Escape);
    EXPECT_FALSE(cross().isVisible());
    EXPECT_FALSE(picture().pointed()) << "nothing lies under a cross that has gone";
}

TEST_F(Keyboard, AShadowIsMeasuredByTakingHoldAndLettingGo) {
    play_sample();
    key(Qt::Key_F);
    key(Qt::Key_D);
    const auto row = picture().topRow() - 50;
    go_to(on_picture(row, Side::starboard, 12));
    key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_TRUE(cross().holds());
    go_to(on_picture(row, Side::starboard, 15));
    key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_FALSE(cross().holds());
    ASSERT_TRUE(picture().handles());
    EXPECT_NEAR(picture().handles()->end_m, 15, 0.3);
}

TEST_F(Keyboard, AKeyUnderTheCrossIsPressedAndAFieldTakesTheWords) {
    key(Qt::Key_6);
    auto *wish = find<QLineEdit>("findMarks");
    const auto there = wish->mapTo(window.get(), wish->rect().center());
    key(Qt::Key_Left, Qt::ControlModifier);
    // Far off a held key runs faster; here each press is one stride.
    for (int i = 0; i < 400 && cross().at() != there; ++i) {
        const auto miss = there - cross().at();
        const bool fine = std::abs(miss.x()) < KeysPointer::step && std::abs(miss.y()) < KeysPointer::step;
        const bool wide = std::abs(miss.x()) >= std::abs(miss.y());
        const auto code =
            wide ? (miss.x() < 0 ? Qt::Key_Left : Qt::Key_Right) : (miss.y() < 0 ? Qt::Key_Up : Qt::Key_Down);
        key(code,
            fine ? Qt::ControlModifier | Qt::ShiftModifier : Qt::KeyboardModifiers(Qt::ControlModifier));
    }
    ASSERT_EQ(cross().at(), there);
    key(Qt::Key_Return, Qt::ControlModifier);
    EXPECT_TRUE(test::wait_for([&] { return wish->hasFocus(); }));
    // In a field these keys go from word to word.
    const auto at = cross().at();
    QTest::keyClicks(wish, QStringLiteral("old wall"));
    QTest::keyClick(wish, Qt::Key_Left, Qt::ControlModifier);
    EXPECT_EQ(wish->cursorPosition(), 4);
    EXPECT_EQ(cross().at(), at);
}

TEST_F(Keyboard, TheCrossTurnsTheWheelAndGoesWhenAMouseMoves) {
    play_sample();
    go_to(on_picture(picture().topRow() - 60, Side::port, 15));
    const auto top = picture().topRow();
    for (int i = 0; i < 5; ++i)
        key(Qt::Key_PageDown, Qt::ControlModifier);
    EXPECT_NE(picture().topRow(), top);
    EXPECT_EQ(window->current(), place::scan);
    QTest::mouseMove(&picture(), QPoint(40, 40));
    QTest::mouseMove(&picture(), QPoint(80, 60));
    EXPECT_TRUE(test::wait_for([&] { return !cross().isVisible(); }));
}
