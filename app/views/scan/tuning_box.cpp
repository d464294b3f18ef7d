#include "views/scan/tuning_box.hpp"

#include "kit/key_button.hpp"
#include "kit/theme.hpp"

#include <QDateTime>
#include <QLocale>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <map>

namespace heron::app {
namespace {

constexpr int plot_top = 30, plot_height = 66, bar_height = 10, handle_w = 52, handle_h = 44;

} // namespace

TuningBox::TuningBox(ViewContext &context, QWidget *parent)
    : QWidget(parent), context_(context), tuner_(context.tuner) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    setToolTip(tr("Levels of the water (pale) and of the bottom. Drag floor and top; press twice to let the "
                  "window follow "
                  "the levels again"));
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
    connect(&context_.window, &WindowState::displayChanged, this, qOverload<>(&QWidget::update));
    connect(&context_.session.connections, &Connections::changed, this,
            qOverload<>(&QWidget::update)); // once a second
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, &TuningBox::refresh);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
    refresh();
}

void TuningBox::resizeEvent(QResizeEvent *) {
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

double TuningBox::xOf(double db) const {
    return 16 + (db - low_db_) / (high_db_ - low_db_) * (width() - 32);
}
double TuningBox::dbAt(double x) const {
    return low_db_ + (x - 16) / (width() - 32) * (high_db_ - low_db_);
}

QRectF TuningBox::handleRect(bool top) const {
    const auto &w = context_.window.displayWindow();
    double floor_x = std::clamp(xOf(w.floor_db), 16.0 + handle_w / 2.0, width() - 16.0 - handle_w / 2.0);
    double top_x =
        std::clamp(xOf(w.floor_db + w.span_db), 16.0 + handle_w / 2.0, width() - 16.0 - handle_w / 2.0);
    if (top_x - floor_x < handle_w + 6) {
        const double middle = (floor_x + top_x) / 2;
        floor_x = middle - handle_w / 2.0 - 3;
        top_x = middle + handle_w / 2.0 + 3;
    }
    return {(top ? top_x : floor_x) - handle_w / 2.0, plot_top + plot_height + bar_height + 6.0, handle_w,
            handle_h};
}

void TuningBox::mousePressEvent(QMouseEvent *event) {
    before_ = context_.window.displayWindow();
    for (const bool top : {false, true})
        if (!context_.window.levels().empty() && handleRect(top).contains(event->position()))
            grip_ = top ? Grip::top : Grip::floor;
}

void TuningBox::mouseMoveEvent(QMouseEvent *event) {
    if (grip_ == Grip::none)
        return;
    auto w = context_.window.displayWindow();
    const double db = std::round(dbAt(event->position().x()));
    const double top = w.floor_db + w.span_db;
    if (grip_ == Grip::floor) {
        w.floor_db = std::min(db, top - 6);
        w.span_db = top - w.floor_db;
    } else {
        w.span_db = std::max(6.0, db - w.floor_db);
    }
    context_.window.setDisplayWindow(w);
}

void TuningBox::mouseReleaseEvent(QMouseEvent *) {
    if (grip_ == Grip::none)
        return;
    grip_ = Grip::none;
    const auto say = [](const DisplayWindow &w) {
        return QStringLiteral("%1…%2 dB")
            .arg(std::lround(w.floor_db))
            .arg(std::lround(w.floor_db + w.span_db));
    };
    if (!(before_ == context_.window.displayWindow()))
        tuner_.showedOtherwise(QStringLiteral("window"), say(before_), say(context_.window.displayWindow()));
}

void TuningBox::mouseDoubleClickEvent(QMouseEvent *) {
    context_.window.followLevels();
}

void TuningBox::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    const auto text = wordsOn(p);
    text(16, 18, tr("Tuning"), 17, true, "ink");
    const auto head =
        context_.window.windowFollows() ? tr("levels, dB · follows") : tr("levels, dB · by hand");
    p.setFont(theme.font(12));
    text(width() - 16 - p.fontMetrics().horizontalAdvance(head), 18, head, 12, false, "ink2");

    paintLevels(p);
    paintHandles(p);
    paintOffer(p);
}

// The levels of the water and of the bottom, over what the window makes of them.
void TuningBox::paintLevels(QPainter &p) {
    // The axis holds nearly all of the levels and the window.
    const auto &levels = context_.window.levels();
    const auto &w = context_.window.displayWindow();
    if (!levels.empty()) {
        low_db_ = std::min(levels.bottom_quantile_db(0.001) - 6, w.floor_db - 2);
        high_db_ = std::max(levels.bottom_quantile_db(0.9995) + 4, w.floor_db + w.span_db + 2);
    }
    const int n = width() - 32;
    // A bar holds a whole number of the histogram's steps, so that no bar gets one more than its neighbour.
    const double per_bar =
        std::ceil((high_db_ - low_db_) / (n / 3.0) / LevelHistogram::step_db) * LevelHistogram::step_db;
    low_db_ = std::floor(low_db_ / per_bar) * per_bar;
    const auto drawn = [&](const LevelHistogram::Counts &counts, auto ink) {
        std::map<long, double> bars;
        double most = 1e-9;
        for (std::size_t i = 0; i < counts.size(); ++i) {
            const double db =
                LevelHistogram::lowest_db + (static_cast<double>(i) + 0.5) * LevelHistogram::step_db;
            if (db > low_db_ && db < high_db_)
                most = std::max(most, bars[std::lround(std::floor((db - low_db_) / per_bar))] += counts[i]);
        }
        for (const auto &[bar, count] : bars) {
            const double db = low_db_ + static_cast<double>(bar) * per_bar;
            const double h = count / most * (plot_height - 4);
            p.fillRect(QRectF(xOf(db), plot_top + plot_height - h,
                              std::max(1.0, xOf(db + per_bar) - xOf(db) - 1), h),
                       ink(db));
        }
    };
    if (!levels.empty()) {
        drawn(levels.water(), [](double) { return colour("hair"); });
        drawn(levels.bottom(), [&](double db) {
            return colour(db >= w.floor_db && db <= w.floor_db + w.span_db ? "ink" : "mute");
        });
    }
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(16, plot_top + plot_height, width() - 16, plot_top + plot_height);
    for (int x = 0; x < n; ++x)
        p.fillRect(QRectF(16 + x, plot_top + plot_height + 3, 1, bar_height - 3),
                   QColor::fromRgb(Theme::instance().map()[w.level_of(dbAt(16 + x))]));
    p.setRenderHint(QPainter::Antialiasing);
}

// Handles hold a value; without levels there is none.
void TuningBox::paintHandles(QPainter &p) {
    if (context_.window.levels().empty())
        return;
    auto &theme = Theme::instance();
    const auto &w = context_.window.displayWindow();
    for (const bool top : {false, true}) {
        const double db = top ? w.floor_db + w.span_db : w.floor_db;
        const auto box = handleRect(top);
        const auto ink = grip_ == (top ? Grip::top : Grip::floor) ? colour("accent") : colour("ink");
        p.setPen(QPen(ink, 1.5));
        p.drawLine(QPointF(xOf(db), plot_top), QPointF(xOf(db), plot_top + plot_height + bar_height));
        p.drawLine(QPointF(xOf(db), plot_top + plot_height + bar_height), {box.center().x(), box.top()});
        p.setBrush(colour("page"));
        p.drawRoundedRect(box, 3, 3);
        p.setFont(theme.font(12));
        p.setPen(colour("ink2"));
        p.drawText(box.adjusted(0, 3, 0, -handle_h / 2.0), Qt::AlignCenter, top ? tr("top") : tr("floor"));
        p.setFont(theme.font(14, true));
        p.setPen(ink);
        p.drawText(box.adjusted(0, handle_h / 2.0 - 2, 0, -2), Qt::AlignCenter,
                   QString::fromStdString(print_number(db, 0)));
    }
    const auto between = handleRect(false).right(), beyond = handleRect(true).left();
    if (beyond - between > 44) {
        p.setFont(theme.font(12));
        p.setPen(colour("ink2"));
        p.drawText(QRectF(between, handleRect(false).top() + 2, beyond - between, 18), Qt::AlignCenter,
                   tr("span"));
        p.setFont(theme.font(14, true));
        p.setPen(colour("ink"));
        p.drawText(QRectF(between, handleRect(false).top() + 20, beyond - between, 20), Qt::AlignCenter,
                   QString::number(std::lround(w.span_db)));
    }
}

// What the trainer or the advice says now, over its keys.
void TuningBox::paintOffer(QPainter &p) {
    auto &theme = Theme::instance();
    const int n = width() - 32, y = plot_top + plot_height + bar_height + handle_h + 14;
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
