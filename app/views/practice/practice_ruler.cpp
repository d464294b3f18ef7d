// What one measures with on a picture of Practice: how far along the sound, by ruler and by pointer.
#include "kit/glyphs.hpp"
#include "kit/theme.hpp"
#include "views/practice/practice_view.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace heron::app {

double PracticeView::slantAt(double x) const {
    const double off = (x - picture_.center().x()) / picture_.width() * image_.width() * metres_a_pixel;
    return trainer_.middle_slant_m() + (trainer_.side() == Side::port ? -off : off);
}

void PracticeView::paintRuler(QPainter &p) {
    const auto units = context_.session.preferences.units();
    const bool feet = units == UnitSystem::feet;
    const auto shown = [&](double m) { return feet ? feet_from_metres(m) : m; };
    const auto metres = [&](double v) { return feet ? metres_from_feet(v) : v; };
    const double ends[] = {slantAt(picture_.left()), slantAt(picture_.right())};
    const double least = shown(std::min(ends[0], ends[1])), most = shown(std::max(ends[0], ends[1]));
    // A figure every seventy pixels or so.
    double step = 1;
    for (const double s : {1.0, 2.0, 5.0, 10.0})
        if ((most - least) / (step = s) * 70 <= picture_.width())
            break;
    const double y = picture_.bottom();
    const auto at = [&](double v) {
        const double share = (metres(v) - ends[0]) / (ends[1] - ends[0]);
        return picture_.left() + share * picture_.width();
    };
    p.setFont(Theme::instance().font(13));
    p.setPen(QPen(colour("ink"), 1));
    for (double v = std::ceil(least / step) * step; v <= most; v += step) {
        p.drawLine(QPointF(at(v), y), QPointF(at(v), y + 5));
        if (at(v) > picture_.left() + 14 && at(v) < picture_.right() - 14)
            p.drawText(QRectF(at(v) - 30, y + 5, 60, 16), Qt::AlignCenter, QString::number(v));
    }
    QString words = feet ? tr("ft along the sound") : tr("m along the sound");
    words += QStringLiteral(" · ") + (trainer_.side() == Side::port ? tr("left side, the boat to the right")
                                                                    : tr("right side, the boat to the left"));
    if (!trainer_.answered())
        words += QStringLiteral(" · ") +
                 tr("the transducer rides %1 over the bottom")
                     .arg(QString::fromStdString(print_length(trainer_.lake().altitude_m(), units).text()));
    wordsWithin(p, picture_.left(), y + 38, words, picture_.width(), 13, false, "ink2");
    if (!pointer_)
        return;
    for (const double wide : {3.0, 1.2}) {
        p.setPen(QPen(colour(wide > 2 ? "casing" : "paper"), wide));
        p.drawLine(QPointF(*pointer_, picture_.top()), QPointF(*pointer_, y));
    }
    const auto figure = QString::fromStdString(print_length(slantAt(*pointer_), units).text());
    const bool left = *pointer_ > picture_.center().x();
    p.setFont(Theme::instance().font(15, true));
    const double room = p.fontMetrics().horizontalAdvance(figure) + 8;
    paintCased(p, QPointF(left ? *pointer_ - room : *pointer_ + 8, picture_.top() + 22), figure, p.font(),
               colour("paper"));
}

void PracticeView::mouseMoveEvent(QMouseEvent *event) {
    const auto was = pointer_;
    pointer_ = picture_.contains(event->position()) ? std::optional(event->position().x()) : std::nullopt;
    if (pointer_ != was)
        update();
}

void PracticeView::leaveEvent(QEvent *) {
    pointer_.reset();
    update();
}

} // namespace heron::app
