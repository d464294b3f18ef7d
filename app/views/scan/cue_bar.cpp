#include "views/scan/cue_bar.hpp"

#include "kit/glyphs.hpp"
#include "kit/key_button.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr int narrow = 620; // beside keys of full width the words would not fit

} // namespace

CueBar::CueBar(ViewContext &context, QWidget *parent)
    : QWidget(parent), context_(context), planner_(context.planner) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    setVisible(false);
    do_ = new KeyButton(
        QString(), tr("Set it"), Qt::Key_Comma,
        tr("Asks the sounder for the range and band of this pass; when it is done, opens it in Read"), this);
    do_->setObjectName(QStringLiteral("cueDo"));
    do_->setPrimary(true);
    end_ = new KeyButton(QString(), tr("End"), QKeySequence(), tr("Ends the second look (Escape)"), this);
    end_->setObjectName(QStringLiteral("cueEnd"));
    connect(do_, &KeyButton::clicked, this, [this] {
        if (!waits_) {
            planner_.takeSettings();
        } else if (planner_.last()) {
            const auto last = *planner_.last();
            dismiss();
            emit readAsked(last.look.thing, last.contact.row);
        }
    });
    connect(end_, &KeyButton::clicked, this, &CueBar::dismiss);
    connect(&planner_, &PassPlanner::runChanged, this, &CueBar::refresh);
    connect(&planner_, &PassPlanner::cueChanged, this, &CueBar::refresh);
    connect(&planner_, &PassPlanner::runDone, this, [this] {
        waits_ = true;
        refresh();
    });
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, &CueBar::refresh);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void CueBar::dismiss() {
    waits_ = false;
    planner_.end();
    refresh();
}

QString CueBar::length(double m) const {
    return QString::fromStdString(print_length(m, context_.session.preferences.units(), 0).text());
}

void CueBar::refresh() {
    if (planner_.run())
        waits_ = false;
    const bool shown = planner_.run().has_value() || waits_;
    do_->setText(waits_ ? tr("Read it") : tr("Set it"));
    end_->setText(waits_ ? tr("Later") : tr("End"));
    if (const auto cue = planner_.cue()) {
        const auto &l = planner_.run()->look;
        fine_ = cue->on_line;
        // First onto the heading, then onto the line.
        turn_ = 0;
        if (cue->away && !cue->abeam) {
            const auto heading = context_.session.shown.headingNow().value_or(cue->start_deg);
            const double turn = wrap_180(cue->start_deg - heading);
            turn_ = std::fabs(turn) < 8 ? 0 : turn < 0 ? -1 : 1;
            steering_ = tr("go to %1").arg(QString::fromStdString(print_bearing(cue->start_deg)));
        } else if (std::fabs(cue->turn_deg) > 40) {
            turn_ = cue->turn_deg < 0 ? -1 : 1;
            steering_ = tr("turn to %1").arg(QString::fromStdString(print_bearing(l.heading_deg)));
        } else if (!cue->on_line && std::fabs(cue->off_line_m) > 1) {
            turn_ = cue->off_line_m < 0 ? -1 : 1;
            steering_ = (turn_ < 0 ? tr("%1 to the left") : tr("%1 to the right"))
                            .arg(length(std::fabs(cue->off_line_m)));
        } else {
            steering_ = tr("hold %1").arg(QString::fromStdString(print_bearing(l.heading_deg)));
        }
        distance_ = cue->away && !cue->abeam ? tr("line begins in %1").arg(length(cue->start_m))
                    : cue->abeam             ? tr("in the fan now")
                    : cue->to_go_m > 0       ? tr("%1 to go").arg(length(cue->to_go_m))
                                             : tr("%1 past it").arg(length(-cue->to_go_m));
        thing_ = l.over
                     ? tr("straight over it · now %1 off, %2")
                           .arg(length(cue->thing_m), QString::fromStdString(print_bearing(cue->thing_deg)))
                     : tr("then keep it %1 to the %2 · now %3 off, %4, %5")
                           .arg(length(l.ground_m), l.side == Side::port ? tr("left") : tr("right"),
                                length(cue->thing_m), cue->side == Side::port ? tr("left") : tr("right"),
                                QString::fromStdString(print_bearing(cue->thing_deg)));
    } else if (waits_) {
        turn_ = 0;
        steering_ = tr("Second look done");
        distance_.clear();
        thing_ = tr("both passes side by side, and what they say together, in Read");
    } else {
        turn_ = 0;
        steering_ = tr("no position");
        distance_.clear();
        thing_ = tr("without a position there is nothing to steer by");
    }
    if (shown != isVisible()) {
        setVisible(shown);
        emit shownChanged();
    }
    update();
}

int CueBar::keyWidth() const {
    return width() < narrow ? 78 : 104;
}

void CueBar::resizeEvent(QResizeEvent *) {
    const int w = keyWidth();
    do_->setGeometry(width() - 2 * w - 8, 22, w, 48);
    end_->setGeometry(width() - w - 2, 22, w - 2, 48);
}

void CueBar::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("lift"));
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(QRectF(0, 0, 6, height()), colour(fine_ || waits_ ? "reed" : "accent"));
    const bool close = width() < narrow;
    const double words_end = do_->x() - 12;
    double x = 18;
    if (turn_ != 0) {
        // An arrow the way to steer.
        const QPointF c(x + 18, 34);
        const double s = turn_;
        p.setPen(Qt::NoPen);
        p.setBrush(colour("accent"));
        p.drawPolygon(QPolygonF({c + QPointF(s * 18, 0), c + QPointF(-s * 6, -18), c + QPointF(-s * 6, -7),
                                 c + QPointF(-s * 18, -7), c + QPointF(-s * 18, 7), c + QPointF(-s * 6, 7),
                                 c + QPointF(-s * 6, 18)}));
        x += 48;
    }
    if (close) {
        // One under the other: what to steer, how far yet, where the thing lies.
        wordsWithin(p, x, 30, steering_, words_end - x, 24, true, "ink");
        wordsWithin(p, x, 51, distance_, words_end - x, 17, true, "accent");
    } else {
        x += wordsWithin(p, x, 44, steering_, words_end - x, 30, true, "ink") + 26;
        wordsWithin(p, x, 44, distance_, words_end - x, 22, true, "accent");
    }
    if (!waits_)
        wordsWithin(p, do_->x(), 86, tr("eyes on the water first"), width() - do_->x() - 6, 12, false,
                    "ink2");
    p.setPen(colour("ink"));
    if (close) {
        p.setFont(Theme::instance().font(12));
        paintParagraph(p, {18, 56, words_end - 18, high - 58.0}, thing_);
    } else {
        wordsWithin(p, 18, 76, thing_, words_end - 18, 15, false, "ink");
    }
}

} // namespace heron::app
