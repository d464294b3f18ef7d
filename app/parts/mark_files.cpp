#include "parts/mark_files.hpp"

#include "session/free_words.hpp"

#include <QFileDialog>
#include <QStandardPaths>

namespace heron::app {
void askToExportMarks(ViewContext &context, QWidget *over) {
    const auto path = QFileDialog::getSaveFileName(
        over, tr("Export marks"),
        QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation) + QStringLiteral("/marks.gpx"),
        tr("GPX (*.gpx);;KMZ with pictures (*.kmz);;KML (*.kml);;GeoJSON (*.geojson);;Table "
           "(*.csv);;GeoPackage (*.gpkg)"));
    if (!path.isEmpty())
        context.marks.exportMarks(path);
}

void askToImportMarks(ViewContext &context, QWidget *over) {
    const auto path = QFileDialog::getOpenFileName(
        over, tr("Import marks"), QString(), tr("Marks (*.gpx *.kml *.kmz *.geojson *.json *.csv *.gpkg)"));
    if (!path.isEmpty())
        context.marks.importMarks(path);
}

} // namespace heron::app
