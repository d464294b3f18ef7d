#include "window/notice_bar.hpp"

#include "kit/theme.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <QTimer>
#include <algorithm>

namespace heron::app {
namespace {

QString sentence(const std::string &part) {
    auto text = QString::fromStdString(part);
    if (text.isEmpty())
        return text;
    text[0] = text[0].toUpper();
    return text.endsWith(QLatin1Char('.')) ? text : text + QLatin1Char('.');
}

// What is lost if it is overlooked comes first.
int rank(const QString &topic) {
    return topic == QLatin1String("marks") || topic == QLatin1String("trip") ||
                   topic == QLatin1String("source")
               ? 0
               : 1;
}

} // namespace

NoticeBar::NoticeBar(QWidget *parent) : QWidget(parent) {
    hide();
    setToolTip(tr("Press to put this message away"));
}

void NoticeBar::showFault(const QString &topic, const Fault &fault) {
    std::erase_if(standing_, [&](const Standing &s) { return s.topic == topic; });
    const auto at = std::find_if(standing_.begin(), standing_.end(),
                                 [&](const Standing &s) { return rank(s.topic) >= rank(topic); });
    standing_.insert(at, {topic, fault});
    showFirst();
}

void NoticeBar::showFirst() {
    if (standing_.empty()) {
        fault_ = false;
        hide();
        return;
    }
    const auto &[topic, fault] = standing_.front();
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
    const bool stood = std::erase_if(standing_, [&](const Standing &s) { return s.topic == topic; }) > 0;
    if (stood && fault_)
        showFirst();
    else if (topic == topic_ && !fault_)
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
        p.drawText(QRect(18, y, width() - 170, 20), Qt::AlignVCenter | Qt::AlignLeft,
                   p.fontMetrics().elidedText(text, Qt::ElideRight, width() - 170));
    };
    p.setPen(colour("ink"));
    line(rest_.isEmpty() ? height() / 2 - 10 : 6, head_, true);
    if (!rest_.isEmpty())
        line(26, rest_, false);
    if (fault_ && waiting() > 0) {
        p.setFont(theme.font(13));
        p.drawText(QRect(width() - 160, 0, 104, height()), Qt::AlignVCenter | Qt::AlignRight,
                   tr("%1 more").arg(waiting()));
    }
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
    if (fault_ && !standing_.empty()) {
        standing_.erase(standing_.begin());
        showFirst();
    } else {
        hide();
    }
    emit dismissed();
}

} // namespace heron::app
