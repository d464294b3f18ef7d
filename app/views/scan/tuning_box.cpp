#include "views/scan/tuning_box.hpp"

#include "kit/key_button.hpp"
#include "kit/theme.hpp"
#include "parts/level_box.hpp"

#include <QDateTime>
#include <QLocale>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace heron::app {
TuningBox::TuningBox(ViewContext &context, QWidget *parent)
    : QWidget(parent), context_(context), tuner_(context.tuner) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    levels_ = new LevelBox(context_.window, tr("Tuning"), this);
    levels_->setObjectName(QStringLiteral("tuningLevels"));
    connect(levels_, &LevelBox::dragged, this,
            [this](const DisplayWindow &before, const DisplayWindow &after) {
                const auto say = [](const DisplayWindow &w) {
                    return QStringLiteral("%1…%2 dB")
                        .arg(std::lround(w.floor_db))
                        .arg(std::lround(w.floor_db + w.span_db));
                };
                tuner_.showedOtherwise(QStringLiteral("window"), say(before), say(after));
            });
    take_ = new KeyButton(QString(), tr("Take it"), Qt::Key_Return, tr("Do what is advised"), this);
    take_->setObjectName(QStringLiteral("takeAdvice"));
    off_ = new KeyButton(QString(), tr("Not now"), Qt::Key_Backspace, tr("Put it off for a minute"), this);
    off_->setObjectName(QStringLiteral("putOff"));
    connect(take_, &KeyButton::clicked, this, &TuningBox::take);
    connect(off_, &KeyButton::clicked, this, &TuningBox::putOff);
    for (auto signal : {&Tuner::adviceChanged, &Tuner::pendingChanged, &Tuner::tuningChanged,
                        &Tuner::checkChanged, &Tuner::lastTimeChanged})
        connect(&tuner_, signal, this, &TuningBox::refresh);
    connect(&tuner_, &Tuner::lastTimeChanged, this, [this] { last_time_put_off_ = false; });
    connect(&context_.session.connections, &Connections::changed, this, [this] {
        levels_->update();
        update();
    }); // once a second
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, &TuningBox::refresh);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
    refresh();
}

void TuningBox::resizeEvent(QResizeEvent *) {
    levels_->setGeometry(0, 0, width(), LevelBox::high);
    const int y = height() - 52, w = (width() - 32 - 8) / 2;
    take_->setGeometry(16, y, w, 48);
    off_->setGeometry(16 + w + 8, y, w, 48);
}

void TuningBox::refresh() {
    words_.clear();
    reason_.clear();
    offer_ = Offer::none;
    QString yes = tr("Take it"), no = tr("Not now");
    if (const auto &check = tuner_.installationCheck()) {
        offer_ = Offer::check;
        words_ = check->enough() ? QString::fromStdString(check->verdict().say())
                                 : tr("Pass the dock or bank, straight, close by: %1 s of 45")
                                       .arg(std::lround(check->seconds()));
        yes = tr("Done");
        no = tr("Stop");
    } else if (tuner_.tuning()) {
        words_ = tr("Tuning the gain: %1 …").arg(context_.session.sounder.settings().gain);
        offer_ = Offer::none;
    } else if (const auto &pending = tuner_.pending()) {
        offer_ = Offer::verdict;
        words_ = pending->words;
        reason_ = tr("Is the picture better for it?");
        yes = tr("Better");
        no = tr("Worse");
    } else if (tuner_.lastTime() && !last_time_put_off_) {
        const auto &l = *tuner_.lastTime();
        offer_ = Offer::last_time;
        const auto day = QLocale().toString(
            QDateTime::fromMSecsSinceEpoch(l.when / 1'000'000, Qt::UTC).date(), QLocale::ShortFormat);
        const auto range = print_length(l.settings.range_m, context_.session.preferences.units(), 0);
        words_ = tr("Last time here: %1, %2 kHz, gain %3")
                     .arg(QString::fromStdString(range.text()))
                     .arg(std::lround(l.settings.frequency_hz / 1000))
                     .arg(l.settings.gain);
        reason_ = day;
        if (l.conditions)
            for (const auto *s : {&l.conditions->clarity, &l.conditions->sky, &l.conditions->wind})
                if (!s->empty())
                    reason_ += QStringLiteral(" · ") + QString::fromStdString(*s);
        if (!l.better.empty())
            reason_ += QStringLiteral(" · ") + tr("%1 changes found better").arg(l.better.size());
    } else if (const auto &advice = tuner_.advice()) {
        offer_ = Offer::advice;
        words_ = QString::fromStdString(advice->text);
        reason_ = QString::fromStdString(advice->why);
        if (!advice->set && !advice->raise_floor_db && !advice->reject_streaks)
            yes = tr("Seen");
    } else {
        const auto h = tuner_.health();
        if (h.rows > 25) {
            words_ = tr("Nothing to mend.");
            reason_ = tr("%1 in 100 full, %2 black; shadow stands %3 times the grain off")
                          .arg(std::lround(100 * h.share_full))
                          .arg(std::lround(100 * h.share_black))
                          .arg(QString::fromStdString(print_number(h.contrast, 1)));
        } else {
            words_ = tr("Watching …");
        }
    }
    take_->setVisible(offer_ != Offer::none);
    off_->setVisible(offer_ != Offer::none);
    take_->setText(yes);
    off_->setText(no);
    take_->setPrimary(offer_ == Offer::advice);
    update();
}

void TuningBox::take() {
    switch (offer_) {
    case Offer::verdict:
        tuner_.judge(true);
        break;
    case Offer::last_time:
        last_time_put_off_ = true;
        tuner_.takeLastTime();
        refresh();
        break;
    case Offer::advice:
        tuner_.takeAdvice(context_.window);
        break;
    case Offer::check:
        tuner_.endInstallationCheck();
        break;
    case Offer::none:
        break;
    }
}

void TuningBox::putOff() {
    switch (offer_) {
    case Offer::verdict:
        tuner_.judge(false);
        break;
    case Offer::last_time:
        last_time_put_off_ = true;
        refresh();
        break;
    case Offer::advice:
        tuner_.putAdviceOff();
        break;
    case Offer::check:
        tuner_.endInstallationCheck();
        break;
    case Offer::none:
        break;
    }
}

void TuningBox::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setRenderHint(QPainter::Antialiasing);
    paintOffer(p);
}

// What the trainer or the advice says now, over its keys.
void TuningBox::paintOffer(QPainter &p) {
    auto &theme = Theme::instance();
    const int n = width() - 32, y = LevelBox::high;
    p.setPen(QPen(colour(offer_ == Offer::advice ? "accent" : "hair"), offer_ == Offer::advice ? 1.5 : 1));
    p.drawLine(16, y, width() - 16, y);
    const int end = take_->isVisibleTo(this) ? height() - 56 : height() - 4;
    p.setFont(theme.font(15, offer_ != Offer::none));
    p.setPen(colour("ink"));
    QRectF used;
    p.drawText(QRectF(16, y + 5, n, end - y - 5), Qt::TextWordWrap, words_, &used);
    if (used.bottom() + 14 < end && !reason_.isEmpty()) {
        p.setFont(theme.font(13));
        p.setPen(colour("ink2"));
        p.drawText(QRectF(16, used.bottom() + 1, n, end - used.bottom() - 1), Qt::TextWordWrap,
                   offer_ == Offer::advice ? tr("why: %1").arg(reason_) : reason_);
    }
}

} // namespace heron::app
