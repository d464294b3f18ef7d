// Keeps the machine from sleeping and its screen from going dark.
#pragma once

#include <QString>

namespace heron::app {

/// Through the desktop's own services (org.freedesktop.ScreenSaver and login1); without them nothing happens.
void keepAwake(bool awake, const QString &why);
/// What was last asked, for tests.
bool isKeptAwake();

} // namespace heron::app
