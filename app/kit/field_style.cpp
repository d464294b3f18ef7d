#include "kit/field_style.hpp"

#include "kit/theme.hpp"

namespace heron::app {

void dressFields(QWidget *widget, int padding) {
    const auto dress = [widget, padding] {
        widget->setStyleSheet(
            QStringLiteral("QLineEdit { background: %1; color: %2; border: 1px solid %3; border-radius: 3px; "
                           "padding: %4px; font-family: Heron; font-size: 15px; }")
                .arg(colour("lift").name(), colour("ink").name(), colour("line").name())
                .arg(padding));
        widget->update();
    };
    QObject::connect(&Theme::instance(), &Theme::changed, widget, dress);
    dress();
}

} // namespace heron::app
