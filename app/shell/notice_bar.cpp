#include "notice_bar.hpp"

#include "theme.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <QTimer>

namespace heron::app {
namespace {

QString sentence(const std::string &part) {
    auto text = QString::fromStdString(part);
    if (text.isEmpty())
        return text;
    text[0] = text[0].toUpper();
    return text.endsWith(QLatin1Char('.')) ? text : text + QLatin1Char('.');
}

} // namespace

NoticeBar::NoticeBar(QWidget *parent) : QWidget(parent) {
    hide();
    setToolTip(tr("Press to put this message away"));
}

void NoticeBar::showFault(const QString &topic, const Fault &fault) {
    topic_ = topic;
    head_ = sentence(fault.happened);
    rest_ = (sentence(fault.kept) + QLatin1Char(' ') + sentence(fault.to_do)).trimmed();
    fault_ = true;
    ++serial_;
    show();
    emit shapeChanged();
    update();
}

void NoticeBar::showWord(const QString &topic, const QString &text) {
    if (fault_ && isVisible() && topic != topic_)
        return; // a fault is not talked over
    topic_ = topic;
    head_ = text;
    rest_.clear();
    fault_ = false;
    show();
    emit shapeChanged();
    update();
    QTimer::singleShot(5000, this, [this, serial = ++serial_] {
        if (serial == serial_)
            hide();
    });
}

void NoticeBar::withdraw(const QString &topic) {
    if (topic == topic_)
        hide();
}

void NoticeBar::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("lift"));
    p.fillRect(0, 0, 6, height(), fault_ ? colour("accent") : colour("reed"));
    p.setPen(colour("hair"));
    p.drawLine(0, height() - 1, width(), height() - 1);
    const auto line = [&](int y, const QString &text, bool bold) {
        p.setFont(theme.font(14, bold));
        p.drawText(QRect(18, y, width() - 80, 20), Qt::AlignVCenter | Qt::AlignLeft,
                   p.fontMetrics().elidedText(text, Qt::ElideRight, width() - 80));
    };
    p.setPen(colour("ink"));
    line(rest_.isEmpty() ? height() / 2 - 10 : 6, head_, true);
    if (!rest_.isEmpty())
        line(26, rest_, false);
    p.setFont(theme.font(17, true));
    p.drawText(QRect(width() - 52, 0, 44, height()), Qt::AlignCenter, QStringLiteral("×"));
}

void NoticeBar::showEvent(QShowEvent *) {
    emit shapeChanged();
}
void NoticeBar::hideEvent(QHideEvent *) {
    emit shapeChanged();
}

void NoticeBar::mousePressEvent(QMouseEvent *) {
    hide();
    emit dismissed();
}

} // namespace heron::app
