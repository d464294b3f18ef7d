#include "window/way_bar.hpp"

#include "kit/theme.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace heron::app {

WayBar::WayBar(Way &way, QWidget *parent) : QWidget(parent), way_(way) {
    setToolTip(tr("Press to end the way"));
    hide();
    connect(&way_, &Way::changed, this, &WayBar::refresh);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void WayBar::refresh() {
    if (way_.on() != isVisibleTo(parentWidget())) {
        setVisible(way_.on());
        emit shownChanged();
    }
    update();
}

// An arrow that turns with where to steer, then the words.
void WayBar::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const bool alarm = way_.alarm();
    p.fillRect(rect(), colour(alarm ? "accent" : "lift"));
    const char *ink = alarm ? "onaccent" : "ink";
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(0, height() - 1, width(), height() - 1);
    const auto cue = way_.cue();
    p.save();
    p.translate(30, height() / 2.0);
    if (cue && cue->arrived) {
        p.setPen(QPen(colour(ink), 3));
        p.drawEllipse(QPointF(0, 0), 13, 13);
        p.drawEllipse(QPointF(0, 0), 4, 4);
    } else if (cue && cue->steer_deg) {
        p.rotate(*cue->steer_deg);
        QPainterPath arrow(QPointF(0, -17));
        arrow.lineTo(10, 13);
        arrow.lineTo(0, 7);
        arrow.lineTo(-10, 13);
        arrow.closeSubpath();
        p.fillPath(arrow, colour(ink));
    }
    p.restore();
    p.setPen(colour(ink));
    p.setFont(Theme::instance().font(20, true));
    p.drawText(QRect(60, 0, width() - 120, height()), Qt::AlignVCenter,
               p.fontMetrics().elidedText(way_.words(), Qt::ElideRight, width() - 120));
    p.drawText(QRect(width() - 52, 0, 44, height()), Qt::AlignCenter, QStringLiteral("×"));
}

void WayBar::mousePressEvent(QMouseEvent *) {
    way_.end();
}

} // namespace heron::app
