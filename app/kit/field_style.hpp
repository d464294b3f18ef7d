// How fields for typing look in the light of now.
#pragma once

#include <QWidget>

namespace heron::app {

/// Dresses the fields within a widget, `padding` pixels about their words, and again whenever the light
/// changes.
void dressFields(QWidget *widget, int padding = 6);

} // namespace heron::app
