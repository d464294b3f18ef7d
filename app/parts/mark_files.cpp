#include "parts/mark_files.hpp"

#include <QCoreApplication>
#include <QFileDialog>
#include <QStandardPaths>

namespace heron::app {
namespace {

QString tr(const char *words) {
    return QCoreApplication::translate("MarkFiles", words);
}

} // namespace

void askToExportMarks(ViewContext &context, QWidget *over) {
    const auto path = QFileDialog::getSaveFileName(
        over, tr("Export marks"),
        QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation) + QStringLiteral("/marks.gpx"),
        tr("GPX (*.gpx)"));
    if (!path.isEmpty())
        context.marks.exportMarks(path);
}

void askToImportMarks(ViewContext &context, QWidget *over) {
    const auto path = QFileDialog::getOpenFileName(over, tr("Import marks"), QString(), tr("GPX (*.gpx)"));
    if (!path.isEmpty())
        context.marks.importMarks(path);
}

} // namespace heron::app
