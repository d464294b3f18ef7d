// "1 ping", "2 pings".
#pragma once

#include <QString>

namespace heron::app {

inline QString counted(std::size_t n, const QString &one, const QString &many) {
    return QStringLiteral("%1 %2").arg(n).arg(n == 1 ? one : many);
}

} // namespace heron::app
