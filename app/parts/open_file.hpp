// Asking for a recording or a trip to open.
#pragma once

#include "parts/view_context.hpp"

class QWidget;

namespace heron::app {

/// Asks for a file and opens it; Scan shows it when it has proved to be one.
void askToOpen(ViewContext &context, QWidget *over);

} // namespace heron::app
