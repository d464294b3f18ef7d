// A short walk through the program, by its own keys and pointer, that writes a picture of each view.
#pragma once

#include <QString>

namespace heron::app {

class MainWindow;

/// Starts the walk; the program ends after it, with exit code 0 when every step did what it should.
void startTour(MainWindow &window, const QString &folder);

} // namespace heron::app
