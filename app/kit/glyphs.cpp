#include "kit/glyphs.hpp"

#include "kit/theme.hpp"

#include <QFile>
#include <QFontMetricsF>
#include <QPaintEngine>
#include <QPainterPath>
#include <QPixmapCache>
#include <QSvgRenderer>
#include <cmath>

namespace heron::app {

void paintGlyph(QPainter &painter, const QString &name, const QRectF &square, const QColor &colour) {
    const qreal ratio = painter.device()->devicePixelRatioF();
    const int side = static_cast<int>(std::ceil(square.width() * ratio));
    const auto key = QStringLiteral("glyph/%1/%2/%3").arg(name).arg(side).arg(colour.rgba());
    QPixmap pixmap;
    if (!QPixmapCache::find(key, &pixmap)) {
        QFile file(QStringLiteral(":/glyphs/%1.svg").arg(name));
        if (!file.open(QIODevice::ReadOnly))
            return;
        auto svg = file.readAll();
        svg.replace("currentColor", colour.name().toLatin1());
        QSvgRenderer renderer(svg);
        pixmap = QPixmap(side, side);
        pixmap.fill(Qt::transparent);
        QPainter p(&pixmap);
        renderer.render(&p);
        p.end();
        QPixmapCache::insert(key, pixmap);
    }
    painter.drawPixmap(square, pixmap, QRectF(pixmap.rect()));
}

void paintCased(QPainter &painter, QPointF at, const QString &text, const QFont &font, const QColor &ink) {
    paintCased(painter, at, text, font, ink, colour("casing"));
}

void paintCased(QPainter &painter, QPointF at, const QString &text, const QFont &font, const QColor &ink,
                const QColor &casing) {
    constexpr qreal pad = 4;
    const auto paint = [&](QPainter &p, QPointF where) {
        QPainterPath path;
        path.addText(where, font, text);
        p.strokePath(path, QPen(casing, 4, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        p.fillPath(path, ink);
    };
    // On paper letters stay letters' outlines; on a screen a stroke round each of them is dear, and kept.
    if (painter.paintEngine()->type() != QPaintEngine::Raster)
        return paint(painter, at);
    const QFontMetricsF metrics(font);
    const auto key =
        QStringLiteral("cased/%1/%2/%3/%4").arg(text, font.key()).arg(ink.rgba()).arg(casing.rgba());
    QPixmap pixmap;
    if (!QPixmapCache::find(key, &pixmap)) {
        const qreal ratio = painter.device()->devicePixelRatioF();
        const QSizeF size(metrics.horizontalAdvance(text) + 2 * pad, metrics.height() + 2 * pad);
        pixmap = QPixmap((size * ratio).toSize());
        pixmap.setDevicePixelRatio(ratio);
        pixmap.fill(Qt::transparent);
        QPainter p(&pixmap);
        p.setRenderHint(QPainter::Antialiasing);
        paint(p, {pad, pad + metrics.ascent()});
        p.end();
        QPixmapCache::insert(key, pixmap);
    }
    painter.drawPixmap(QPointF(at.x() - pad, at.y() - pad - metrics.ascent()), pixmap);
}

} // namespace heron::app
