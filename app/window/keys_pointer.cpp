#include "window/keys_pointer.hpp"

#include "kit/theme.hpp"

#include <QApplication>
#include <QKeyEvent>
#include <QLineEdit>
#include <QPainter>
#include <QPlainTextEdit>
#include <QStackedWidget>
#include <QWheelEvent>
#include <algorithm>

namespace heron::app {
namespace {

constexpr int cross_high = 48, farthest_step = 72;

// What the cross may be asked for: with Ctrl, and nothing but Shift beside it.
bool isOurs(const QKeyEvent &event) {
    const auto with = event.modifiers() & ~Qt::KeypadModifier;
    if (with != Qt::ControlModifier && with != (Qt::ControlModifier | Qt::ShiftModifier))
        return false;
    switch (event.key()) {
    case Qt::Key_Left:
    case Qt::Key_Right:
    case Qt::Key_Up:
    case Qt::Key_Down:
    case Qt::Key_Return:
    case Qt::Key_Enter:
    case Qt::Key_PageUp:
    case Qt::Key_PageDown:
        return true;
    default:
        return false;
    }
}

// Words are moved through by the same keys where something is written.
bool writesIn(const QObject *watched) {
    return qobject_cast<const QLineEdit *>(watched) != nullptr ||
           qobject_cast<const QPlainTextEdit *>(watched) != nullptr;
}

} // namespace

KeysPointer::KeysPointer(QWidget *window) : QWidget(window), window_(window) {
    setAttribute(Qt::WA_TransparentForMouseEvents);
    setFocusPolicy(Qt::NoFocus);
    hide();
    QApplication::instance()->installEventFilter(this);
}

bool KeysPointer::eventFilter(QObject *watched, QEvent *event) {
    auto *widget = qobject_cast<QWidget *>(watched);
    if (widget == nullptr || widget->window() != window_ || telling_)
        return false;
    switch (event->type()) {
    case QEvent::ShortcutOverride:
        if (isOurs(*static_cast<QKeyEvent *>(event)) && !writesIn(watched))
            event->accept();
        return false;
    case QEvent::KeyPress: {
        const auto &pressed = *static_cast<QKeyEvent *>(event);
        if (pressed.key() == Qt::Key_Escape)
            leave(); // and the place does with it what it does
        return isOurs(pressed) && !writesIn(watched) &&
               takeKey(pressed.key(), pressed.modifiers(), pressed.isAutoRepeat());
    }
    case QEvent::MouseMove:
        // A mouse that lies still is told of too, when something opens beneath it.
        if (isVisible() &&
            (static_cast<QMouseEvent *>(event)->globalPosition().toPoint() - mouse_at_).manhattanLength() > 4)
            leave();
        return false;
    case QEvent::MouseButtonPress:
        leave();
        return false;
    case QEvent::WindowDeactivate:
        leave();
        return false;
    default:
        return false;
    }
}

bool KeysPointer::takeKey(int key, Qt::KeyboardModifiers modifiers, bool repeated) {
    const bool shift = modifiers.testFlag(Qt::ShiftModifier);
    in_a_row_ = repeated ? in_a_row_ + 1 : 0;
    const int far = shift ? 1 : std::min(farthest_step, step + 2 * in_a_row_);
    switch (key) {
    case Qt::Key_Left:
        moveBy({-far, 0});
        return true;
    case Qt::Key_Right:
        moveBy({far, 0});
        return true;
    case Qt::Key_Up:
        moveBy({0, -far});
        return true;
    case Qt::Key_Down:
        moveBy({0, far});
        return true;
    default:
        break;
    }
    if (!isVisible())
        moveBy({0, 0});
    if (key == Qt::Key_PageUp || key == Qt::Key_PageDown) {
        const auto local = over_ ? over_->mapFrom(window_, at_) : at_;
        QWheelEvent wheel(local, window_->mapToGlobal(at_), {}, {0, key == Qt::Key_PageUp ? 120 : -120},
                          held_ ? Qt::LeftButton : Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
        telling_ = true;
        for (QWidget *to = over_; to != nullptr && to != window_; to = to->parentWidget()) {
            wheel.accept();
            if (QApplication::sendEvent(to, &wheel) && wheel.isAccepted())
                break;
        }
        telling_ = false;
    } else if (held_) {
        letGo();
    } else {
        press();
        if (!shift)
            letGo();
    }
    return true;
}

void KeysPointer::moveBy(QPoint by) {
    if (!isVisible()) {
        const auto *shown = window_->findChild<QStackedWidget *>();
        const auto area = shown != nullptr ? shown->geometry() : window_->rect();
        if (at_.isNull() || !area.contains(at_))
            at_ = area.center();
        resize(cross_high, cross_high);
        mouse_at_ = QCursor::pos();
        emit appeared();
    }
    at_ += by;
    at_ = {std::clamp(at_.x(), 0, window_->width() - 1), std::clamp(at_.y(), 0, window_->height() - 1)};
    move(at_ - rect().center());
    raise();
    show();
    auto *under = window_->childAt(at_); // never the cross itself: it is transparent to a mouse
    if (!held_ && under != over_) {
        const QPointer<QWidget> now = under;
        if (over_) {
            QEvent left(QEvent::Leave);
            QApplication::sendEvent(over_, &left);
        }
        over_ = now;
        if (over_) {
            QEnterEvent entered(over_->mapFrom(window_, at_), at_, window_->mapToGlobal(at_));
            QApplication::sendEvent(over_, &entered);
        }
    }
    tell(QEvent::MouseMove, held_ ? held_ : over_, held_ ? Qt::LeftButton : Qt::NoButton);
}

void KeysPointer::press() {
    auto *focused = over_.data();
    while (focused != nullptr && (focused->focusPolicy() & Qt::ClickFocus) == 0)
        focused = focused->isWindow() ? nullptr : focused->parentWidget();
    if (focused != nullptr && focused->isEnabled())
        focused->setFocus(Qt::MouseFocusReason);
    held_ = over_;
    tell(QEvent::MouseButtonPress, held_, Qt::LeftButton);
    update();
}

void KeysPointer::letGo() {
    const auto held = held_;
    held_ = nullptr;
    tell(QEvent::MouseButtonRelease, held, Qt::NoButton);
    update();
}

void KeysPointer::leave() {
    if (!isVisible())
        return;
    if (held_)
        letGo();
    if (over_) {
        QEvent left(QEvent::Leave);
        QApplication::sendEvent(over_, &left);
    }
    over_ = nullptr;
    hide();
}

// As a mouse's: what the widget does not take goes on to what lies around it.
void KeysPointer::tell(QEvent::Type type, QWidget *to, Qt::MouseButtons buttons) {
    if (to == nullptr)
        return;
    telling_ = true;
    const auto button = type == QEvent::MouseMove ? Qt::NoButton : Qt::LeftButton;
    QMouseEvent mouse(type, to->mapFrom(window_, at_), at_, window_->mapToGlobal(at_), button, buttons,
                      Qt::NoModifier);
    QApplication::sendEvent(to, &mouse);
    telling_ = false;
}

void KeysPointer::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QPointF middle = rect().center() + QPointF(0.5, 0.5);
    const double gap = 6, end = cross_high / 2.0 - 3;
    for (const auto &[width, ink] : {std::pair{5.0, colour("page")}, std::pair{2.0, colour("ink")}}) {
        p.setPen(QPen(ink, width, Qt::SolidLine, Qt::RoundCap));
        for (const QPointF way : {QPointF(1, 0), QPointF(-1, 0), QPointF(0, 1), QPointF(0, -1)})
            p.drawLine(middle + way * gap, middle + way * end);
        if (held_)
            p.drawEllipse(middle, gap + 6, gap + 6);
    }
}

} // namespace heron::app
