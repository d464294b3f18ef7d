// The glyphs drawn for this program, in any colour and size.
#pragma once

#include <QColor>
#include <QPainter>
#include <QPixmap>
#include <QString>

namespace heron::app {

/// Paints data/glyphs/`name`.svg into a square with the given colour; nothing for an unknown name.
void paintGlyph(QPainter &painter, const QString &name, const QRectF &square, const QColor &colour);

/// Paints words on a sonar picture: `text` in `ink` over a dark casing, the baseline starting at `at`.
/// Rendered once and kept, since stroked text is slow.
void paintCased(QPainter &painter, QPointF at, const QString &text, const QFont &font, const QColor &ink);
/// On a casing of another colour than a picture's.
void paintCased(QPainter &painter, QPointF at, const QString &text, const QFont &font, const QColor &ink,
                const QColor &casing);

} // namespace heron::app
