// A PDF that is whole or not there.
#pragma once

#include "fault/fault.hpp"

#include <QCoreApplication>
#include <QFile>
#include <QPainter>
#include <QPdfWriter>
#include <filesystem>
#include <functional>

namespace heron::app {

/// Writes it beside the file and puts it in place when it is whole; a fault in words, nothing left behind and
/// an older file untouched where that fails. `set_up` chooses page and title before painting begins.
inline Result<void> writePdfFile(const QString &path, const std::function<void(QPdfWriter &)> &set_up,
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
    std::error_code failed;
    if (written)
        std::filesystem::rename(part.toStdString(), path.toStdString(), failed);
    if (written && !failed)
        return {};
    QFile::remove(part);
    const auto tr = [](const char *words) { return QCoreApplication::translate("Pdf", words); };
    return fail(tr("%1 could not be written").arg(path).toStdString(),
                tr("nothing was left behind").toStdString(),
                tr("choose another folder, or make room on the disk").toStdString());
}

} // namespace heron::app
