// Texts of functions that belong to no object of Qt's.
#pragma once

#include <QCoreApplication>

namespace heron::app {

/// As QObject::tr; one context for all such functions.
inline QString tr(const char *words) {
    return QCoreApplication::translate("heron::app", words);
}

} // namespace heron::app
