// Words over several lines in a given room: whole lines only, the last one cut with an ellipsis.
#pragma once

#include <QPainter>
#include <QString>

namespace heron::app {

/// Paints with the painter's font and pen; returns the bottom of what was written.
double paintParagraph(QPainter &painter, const QRectF &room, const QString &words);
/// How high the words stand at a width, whole.
double paragraphHeight(const QFont &font, double width, const QString &words);

} // namespace heron::app
