#include "parts/open_file.hpp"

#include "parts/place.hpp"
#include "session/free_words.hpp"

#include <QFileDialog>

namespace heron::app {
void askToOpen(ViewContext &context, QWidget *over) {
    const auto path =
        QFileDialog::getOpenFileName(over, tr("Open a recording or a trip"), QString(),
                                     tr("Recordings and trips (*.nc *.trip.gpkg);;All files (*)"));
    if (path.isEmpty())
        return;
    context.window.askPlace(place::scan);
    context.session.sources.open(path);
}

} // namespace heron::app
