// A PDF that is whole or not there.
#pragma once

#include <QFile>
#include <QPainter>
#include <QPdfWriter>
#include <functional>

namespace heron::app {

/// Writes it beside the file and puts it in place when it is whole; false, and nothing left behind, where
/// that fails. `set_up` chooses page and title before painting begins.
inline bool writePdfFile(const QString &path, const std::function<void(QPdfWriter &)> &set_up,
                         const std::function<void(QPainter &, QPdfWriter &)> &paint) {
    const auto part = path + QStringLiteral(".part");
    bool written = false;
    {
        QPdfWriter pages(part);
        set_up(pages);
        QPainter p;
        if (p.begin(&pages)) {
            paint(p, pages);
            written = p.end();
        }
    }
    if (written) {
        QFile::remove(path);
        written = QFile::rename(part, path);
    }
    if (!written)
        QFile::remove(part);
    return written;
}

} // namespace heron::app
