#include "window/status_line.hpp"

#include "kit/counted.hpp"
#include "kit/paragraph.hpp"
#include "kit/run_words.hpp"
#include "kit/theme.hpp"

#include <QPainter>

namespace heron::app {
namespace {

constexpr int stands_ms = 6000;

QString clockText(UnixNs time, int length) {
    return QString::fromStdString(print_rfc3339(time, 0)).mid(11, length);
}

} // namespace

StatusLine::StatusLine(Session &session, QWidget *parent) : QWidget(parent), session_(session) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    gone_.setSingleShot(true);
    connect(&gone_, &QTimer::timeout, this, [this] {
        word_.clear();
        update();
    });
    connect(&session_.notices, &Notices::said, this,
            [this](const QString &, const QString &text) { say(text); });
    const auto again = qOverload<>(&QWidget::update);
    connect(&session_.sources, &Sources::stateChanged, this, again);
    connect(&session_.trip, &TripKeeper::began, this, again);
    connect(&session_.preferences, &Preferences::unitsChanged, this, again);
    connect(&session_.shown, &ShownScan::replaced, this, again);
    connect(&session_.preferences, &Preferences::companyChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, again);
    connect(&tick_, &QTimer::timeout, this, again);
    tick_.start(1000);
}

void StatusLine::setFrozen(bool frozen) {
    frozen_ = frozen;
    update();
}

void StatusLine::say(const QString &text) {
    word_ = text;
    gone_.start(stands_ms);
    update();
}

void StatusLine::mousePressEvent(QMouseEvent *) {
    word_.clear();
    update();
}

// "kept since 07:12 · 1 h 46 · 4.9 mi"
QString StatusLine::kept() const {
    const auto &shown = session_.shown;
    if (shown.empty() || !session_.sources.live())
        return {};
    if (!session_.trip.keeping())
        return tr("not kept");
    const auto &scan = shown.scan();
    const auto first = scan.facts(scan.first()).time, last = scan.facts(shown.newest()).time;
    const auto minutes = static_cast<int>(seconds_between(first, last) / 60);
    const auto far = runWords(scan.facts(shown.newest()).along_m, session_.preferences.units());
    return tr("kept since %1 · %2 · %3")
        .arg(clockText(first, 5),
             minutes < 60 ? tr("%1 min").arg(minutes)
                          : tr("%1 h %2").arg(minutes / 60).arg(minutes % 60, 2, 10, QLatin1Char('0')),
             far);
}

QString StatusLine::state() const {
    auto state = session_.sources.stateText();
    if (frozen_)
        state = tr("frozen · %1").arg(state);
    if (const auto trip = kept(); !trip.isEmpty())
        state += QStringLiteral(" · ") + trip;
    if (const auto lost = session_.shown.lostPings(); lost > 0)
        state += tr(" · %1 lost").arg(counted(lost, tr("ping"), tr("pings")));
    return state;
}

void StatusLine::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setPen(QPen(colour("hair"), 1));
    p.drawLine(0, height() - 1, width(), height() - 1);
    p.setRenderHint(QPainter::Antialiasing);
    const int middle = height() / 2, base = middle + 5;
    if (!word_.isEmpty()) {
        p.fillRect(0, 0, 5, height() - 1, colour("reed"));
        p.setPen(colour("ink"));
        p.setFont(theme.fontFor(word_, width() - 32, 15, true, 13));
        if (p.fontMetrics().horizontalAdvance(word_) <= width() - 32)
            p.drawText(QPointF(16, base), word_);
        else { // on two lines
            p.setFont(theme.font(12, true));
            const double tall = paragraphHeight(p.font(), width() - 32, word_);
            paintParagraph(p, QRectF(16, std::max(0.0, (height() - tall) / 2), width() - 32, height()),
                           word_);
        }
        return;
    }
    p.setFont(theme.font(15, true));
    p.setPen(colour("ink"));
    const auto name = p.fontMetrics().elidedText(session_.preferences.inCompany() ? tr("Guests look on")
                                                                                  : session_.sources.name(),
                                                 Qt::ElideRight, width() / 3);
    p.drawText(QPointF(16, base), name);
    int x = 16 + p.fontMetrics().horizontalAdvance(name) + (name.isEmpty() ? 0 : 24);

    p.setFont(theme.font(14));
    const auto &shown = session_.shown;
    const auto clock =
        shown.empty() ? QString() : tr("%1 UTC").arg(clockText(shown.scan().facts(shown.newest()).time, 8));
    const int clock_width = p.fontMetrics().horizontalAdvance(clock);
    p.setPen(colour("ink"));
    p.drawText(QPointF(width() - 12 - clock_width, base), clock);
    // A dot that is full when pings flow.
    const bool flows = session_.sources.flow() == Sources::Flow::flowing;
    const bool looks_back = session_.sources.source() == Sources::Source::trip ||
                            session_.sources.source() == Sources::Source::recording;
    const auto *ink = flows || looks_back ? "reed" : "accent";
    p.setPen(QPen(colour(ink), 2));
    p.setBrush(flows ? QBrush(colour(ink)) : QBrush(Qt::NoBrush));
    p.drawEllipse(QPointF(x + 4, middle), 4, 4);
    x += 16;
    p.setPen(colour(flows || looks_back ? "ink2" : "accent"));
    p.drawText(QPointF(x, base),
               p.fontMetrics().elidedText(state(), Qt::ElideRight, width() - 24 - clock_width - x));
}

} // namespace heron::app
