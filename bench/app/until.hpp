// Waiting in a running window.
#pragma once

#include <QApplication>
#include <functional>

inline void until(const std::function<bool()> &done) {
    while (!done())
        QApplication::processEvents(QEventLoop::WaitForMoreEvents);
}
