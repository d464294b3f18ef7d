#include "window/field_keys.hpp"

#include "kit/key_button.hpp"

#include <QApplication>
#include <QKeyEvent>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QTimer>

namespace heron::app {
namespace {

QString writtenIn(const QWidget *field) {
    if (const auto *line = qobject_cast<const QLineEdit *>(field))
        return line->text();
    if (const auto *text = qobject_cast<const QPlainTextEdit *>(field))
        return text->toPlainText();
    return {};
}
bool isField(const QObject *watched) {
    return qobject_cast<const QLineEdit *>(watched) != nullptr ||
           qobject_cast<const QPlainTextEdit *>(watched) != nullptr;
}

} // namespace

FieldKeys::FieldKeys(QWidget *window) : QObject(window), window_(window) {
    QApplication::instance()->installEventFilter(this);
}

bool FieldKeys::eventFilter(QObject *watched, QEvent *event) {
    if (event->type() != QEvent::FocusIn && event->type() != QEvent::ShortcutOverride &&
        event->type() != QEvent::KeyPress)
        return false;
    auto *field = qobject_cast<QWidget *>(watched);
    const bool is_key = qobject_cast<KeyButton *>(watched) != nullptr;
    if ((!is_key && !isField(watched)) || field->window() != window_ || watched->property("ownKeys").toBool())
        return false;
    if (event->type() == QEvent::FocusIn) {
        if (field != field_) {
            field_ = field;
            before_ = writtenIn(field); // nothing on a key
        }
        return false;
    }
    const auto key = static_cast<QKeyEvent *>(event)->key();
    if (event->type() == QEvent::ShortcutOverride) {
        if (key == Qt::Key_Escape)
            event->accept(); // the field's own, whatever the place does with it
        return false;
    }
    if (key == Qt::Key_Escape) {
        takeBack();
        emit left();
        return true;
    }
    if (is_key)
        return false;
    if ((key == Qt::Key_Return || key == Qt::Key_Enter) && qobject_cast<QLineEdit *>(field) != nullptr)
        // First the field's own answer to it: that may have given the keys to somebody else.
        QTimer::singleShot(0, this, [this, left_field = QPointer<QWidget>(field)] {
            if (left_field && left_field->hasFocus() && !left_field->property("staysOnEnter").toBool())
                emit left();
        });
    return false;
}

void FieldKeys::takeBack() {
    constexpr int most_steps = 1'000;
    auto *line = qobject_cast<QLineEdit *>(field_);
    auto *text = qobject_cast<QPlainTextEdit *>(field_);
    for (int i = 0; i < most_steps && writtenIn(field_) != before_; ++i) {
        if (line != nullptr && line->isUndoAvailable())
            line->undo();
        else if (text != nullptr && text->document()->isUndoAvailable())
            text->undo();
        else
            break;
    }
}

} // namespace heron::app
