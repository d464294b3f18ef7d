#include "window/notice_bar.hpp"

#include "kit/theme.hpp"

#include <QMouseEvent>
#include <QPainter>

namespace heron::app {
namespace {

QString sentence(const std::string &part) {
    auto text = QString::fromStdString(part);
    if (text.isEmpty())
        return text;
    // A file stands as it is named.
    const auto first = text.section(QLatin1Char(' '), 0, 0);
    if (!first.contains(QLatin1Char('.')) && !first.contains(QLatin1Char('/')) &&
        !first.endsWith(QLatin1Char(':')))
        text[0] = text[0].toUpper();
    return text.endsWith(QLatin1Char('.')) ? text : text + QLatin1Char('.');
}

} // namespace

NoticeBar::NoticeBar(Notices &notices, QWidget *parent) : QWidget(parent), notices_(notices) {
    setToolTip(tr("Press to put this message away"));
    hide();
    connect(&notices_, &Notices::standingChanged, this, &NoticeBar::refresh);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
    refresh();
}

QString NoticeBar::text() const {
    return head_ + (rest_.isEmpty() ? QString() : QStringLiteral(" ") + rest_);
}

void NoticeBar::refresh() {
    const auto *first = notices_.first();
    topic_ = first != nullptr ? first->topic : QString();
    head_ = first != nullptr ? sentence(first->fault.happened) : QString();
    rest_ = first != nullptr
                ? (sentence(first->fault.kept) + QLatin1Char(' ') + sentence(first->fault.to_do)).trimmed()
                : QString();
    const bool shown = first != nullptr;
    if (shown != isVisibleTo(parentWidget())) {
        setVisible(shown);
        emit shownChanged();
    }
    update();
}

void NoticeBar::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("lift"));
    p.fillRect(0, 0, 5, height(), colour("accent"));
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(0, height() - 1, width(), height() - 1);
    p.setPen(colour("ink"));
    const auto line = [&](int y, const QString &text, bool bold) {
        p.setFont(theme.font(14, bold));
        p.drawText(QRect(16, y, width() - 32, 20), Qt::AlignVCenter,
                   p.fontMetrics().elidedText(text, Qt::ElideRight, width() - 180));
    };
    line(rest_.isEmpty() ? height() / 2 - 10 : 6, head_, true);
    if (!rest_.isEmpty())
        line(26, rest_, false);
    if (waiting() > 0) {
        p.setFont(theme.font(13));
        p.drawText(QRect(width() - 160, 0, 104, height()), Qt::AlignVCenter | Qt::AlignRight,
                   tr("%1 more").arg(waiting()));
    }
    p.setFont(theme.font(17, true));
    p.drawText(QRect(width() - 52, 0, 44, height()), Qt::AlignCenter, QStringLiteral("×"));
}

void NoticeBar::mousePressEvent(QMouseEvent *) {
    notices_.putAway(topic_);
}

} // namespace heron::app
