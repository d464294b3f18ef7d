#include "parts/empty_view.hpp"

#include "kit/theme.hpp"

#include <QPainter>

namespace heron::app {

EmptyView::EmptyView(Place place, QWidget *parent) : QWidget(parent), place_(place) {
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void EmptyView::paintEvent(QPaintEvent *) {
    QString will;
    switch (place_) {
    case Place::prepare:
        will = tr("Here you will say what water you are on and what you look for, and see what each range, "
                  "band and speed buys.");
        break;
    case Place::read:
        will = tr("Here you will find what the program saw in the picture, measured, with its reasons and "
                  "its doubt.");
        break;
    case Place::around:
        will = tr("Here the circle at the bow will turn, with your boat to scale and a cast from each seat.");
        break;
    case Place::chart:
        will = tr("Here your soundings will lie as a chart, north up: depth, hardness, track and marks.");
        break;
    case Place::log:
        will = tr("Here days will be kept: conditions, what was caught where, and what the record supports.");
        break;
    case Place::practice:
        will = tr("Here you will read made-up pictures and then see the lake drained.");
        break;
    case Place::scan:
    case Place::marks:
        break;
    }
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setPen(colour("ink"));
    p.setFont(theme.font(34, true));
    p.drawText(QPointF(48, 96), PlaceRail::title(place_));
    p.setFont(theme.font(17));
    p.drawText(QRect(48, 124, std::min(640, width() - 96), 120), Qt::TextWordWrap, will);
    p.setPen(colour("ink2"));
    p.setFont(theme.font(15));
    p.drawText(QRect(48, 220, std::min(640, width() - 96), 80), Qt::TextWordWrap,
               tr("Not in this version yet. Press 2 for Scan, 6 for Marks."));
}

} // namespace heron::app
