#include "window/way_bar.hpp"

#include "kit/theme.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace heron::app {

WayBar::WayBar(Way &way, const Boats &boats, QWidget *parent) : QWidget(parent), way_(way), boats_(boats) {
    side_ = new KeyButton(QString(), tr("Its side"), Qt::Key_F10, tr("Come from the side that shows it best"),
                          this);
    side_->setObjectName(QStringLiteral("wayBestSide"));
    side_->setCheckable(true);
    buoy_ = new KeyButton(QString(), tr("No buoy"), Qt::Key_F6,
                          tr("The seat from which a buoy is dropped: told when it is over the place"), this);
    buoy_->setObjectName(QStringLiteral("wayBuoy"));
    buoy_->setCheckable(true);
    connect(side_, &KeyButton::clicked, &way_, &Way::setFromBestSide);
    connect(buoy_, &KeyButton::clicked, this, &WayBar::nextSeat);
    setToolTip(tr("Press to end the way"));
    hide();
    connect(&way_, &Way::changed, this, &WayBar::refresh);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

// No seat, each in turn from the stern on, and none again.
void WayBar::nextSeat() {
    const auto seats = boats_.boat().seats.size();
    const auto &now = way_.buoySeat();
    if (seats == 0)
        way_.setBuoySeat(std::nullopt);
    else if (!now)
        way_.setBuoySeat(seats - 1);
    else
        way_.setBuoySeat(*now > 0 ? std::optional(std::min(*now, seats) - 1) : std::nullopt);
}

void WayBar::resizeEvent(QResizeEvent *) {
    buoy_->setGeometry(width() - 60 - 150, 2, 150, height() - 5);
    side_->setGeometry(width() - 60 - 150 - 8 - 130, 2, 130, height() - 5);
}

void WayBar::refresh() {
    side_->setEnabled(way_.knowsBestSide() && !way_.alarm());
    side_->setChecked(way_.fromBestSide());
    const auto &seats = boats_.boat().seats;
    const auto &seat = way_.buoySeat();
    buoy_->setChecked(seat.has_value());
    buoy_->setText(seat && *seat < seats.size()
                       ? tr("Buoy: %1").arg(QString::fromStdString(seats[*seat].name))
                       : tr("No buoy"));
    side_->setVisible(!way_.alarm());
    buoy_->setVisible(!way_.alarm());
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
    const int room = (alarm ? width() - 60 : side_->x()) - 70;
    p.drawText(QRect(60, 0, room, height()), Qt::AlignVCenter,
               p.fontMetrics().elidedText(way_.words(), Qt::ElideRight, room));
    p.drawText(QRect(width() - 52, 0, 44, height()), Qt::AlignCenter, QStringLiteral("×"));
}

void WayBar::mousePressEvent(QMouseEvent *) {
    way_.end();
}

} // namespace heron::app
