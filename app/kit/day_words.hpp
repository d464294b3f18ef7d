// Days in words.
#pragma once

#include <QDate>
#include <QLocale>

namespace heron::app {

/// "Tuesday, 1 December 2026": in the language that the program is shown in, ordered as the desktop's country
/// does.
inline QString dayInWords(const QDate &day) {
    const QLocale desktop;
    const auto shown =
        desktop.language() == QLocale::C ? desktop : QLocale(QLocale::English, desktop.territory());
    return shown.toString(day, QLocale::LongFormat);
}

} // namespace heron::app
