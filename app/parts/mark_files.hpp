// Asking for the files that marks come from and go to.
#pragma once

#include "parts/view_context.hpp"

class QWidget;

namespace heron::app {

/// Asks for a file and writes all marks to it.
void askToExportMarks(ViewContext &context, QWidget *over);
/// Asks for a file and takes its marks in.
void askToImportMarks(ViewContext &context, QWidget *over);

} // namespace heron::app
