#include "parts/empty_view.hpp"

#include "kit/theme.hpp"

#include <QPainter>

namespace heron::app {

EmptyView::EmptyView(const QString &title, const QString &holds, const QString &first, QWidget *parent)
    : QWidget(parent), title_(title), holds_(holds), first_(first) {
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void EmptyView::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setPen(colour("ink"));
    p.setFont(theme.font(34, true));
    p.drawText(QPointF(48, 96), title_);
    p.setFont(theme.font(17));
    const int wide = std::min(640, width() - 96);
    QRect used;
    p.drawText(QRect(48, 124, wide, height() - 124), Qt::TextWordWrap, holds_, &used);
    p.setPen(colour("ink2"));
    p.setFont(theme.font(15));
    p.drawText(QRect(48, used.bottom() + 24, wide, height() - used.bottom() - 24), Qt::TextWordWrap, first_);
}

} // namespace heron::app
