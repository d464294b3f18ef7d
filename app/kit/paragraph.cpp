#include "kit/paragraph.hpp"

#include <QFontMetrics>
#include <QTextLayout>

namespace heron::app {

double paintParagraph(QPainter &p, const QRectF &room, const QString &words) {
    const auto metrics = p.fontMetrics();
    const double line_high = metrics.lineSpacing();
    QTextLayout layout(words, p.font());
    layout.beginLayout();
    double y = room.top();
    while (y + line_high <= room.bottom() + 0.5) {
        auto line = layout.createLine();
        if (!line.isValid())
            break;
        line.setLineWidth(room.width());
        const int from = line.textStart(), length = line.textLength();
        const bool last = y + 2 * line_high > room.bottom() + 0.5;
        const bool more = from + length < words.size();
        const auto text =
            last && more ? metrics.elidedText(words.mid(from), Qt::ElideRight, static_cast<int>(room.width()))
                         : words.mid(from, length).trimmed();
        p.drawText(QPointF(room.left(), y + metrics.ascent()), text);
        y += line_high;
    }
    layout.endLayout();
    return y;
}

double paragraphHeight(const QFont &font, double width, const QString &words) {
    QTextLayout layout(words, font);
    layout.beginLayout();
    int lines = 0;
    for (auto line = layout.createLine(); line.isValid(); line = layout.createLine(), ++lines)
        line.setLineWidth(width);
    layout.endLayout();
    return lines * QFontMetrics(font).lineSpacing();
}

} // namespace heron::app
