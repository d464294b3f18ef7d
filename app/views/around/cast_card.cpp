#include "views/around/cast_card.hpp"

#include "around/cast_words.hpp"
#include "kit/glyphs.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"

#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace heron::app {

CastCard::CastCard(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    for (auto signal : {&Bow::aimChanged, &Bow::begun})
        connect(&context_.bow, signal, this, qOverload<>(&QWidget::update));
    connect(&context_.bow, &Bow::raysChanged, this, qOverload<>(&QWidget::update));
    connect(&context_.session.boats, &Boats::changed, this, qOverload<>(&QWidget::update));
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void CastCard::setLarge(bool large) {
    large_ = large;
    update();
}

void CastCard::mousePressEvent(QMouseEvent *) {
    if (large_)
        emit closed();
}

QString CastCard::length(double metres, int decimals) const {
    return castLength(metres, context_.session.preferences.units(), decimals);
}

QString CastCard::lengthUnit() const {
    return castUnit(context_.session.preferences.units());
}

QString CastCard::said(std::size_t seat) const {
    const auto casts = context_.bow.casts();
    return seat < casts.size() ? castSaid(context_.session.boats.boat().seats[seat], casts[seat],
                                          context_.session.preferences.units())
                               : QString();
}

// The circle is centred on the bow; what that does to the seat that sits farthest from it.
QString CastCard::whyTheyDiffer(const std::vector<Cast> &casts) const {
    const auto &aim = context_.bow.aim();
    if (!aim || casts.size() < 2)
        return {};
    const auto head = polar_of(context_.bow.pose().to(aim->at));
    std::size_t far = 0;
    for (std::size_t i = 1; i < casts.size(); ++i)
        if (std::fabs(wrap_180(casts[i].off_bow.degrees - head.off_bow_deg)) >
            std::fabs(wrap_180(casts[far].off_bow.degrees - head.off_bow_deg)))
            far = i;
    const double nearer = std::fabs(head.off_bow_deg) - std::fabs(casts[far].off_bow.degrees),
                 farther = casts[far].distance_m - head.distance_m;
    return tr("why they differ: the circle is centred on the bow. From seat %1 it lies %2° %3 ahead, %4 %5 "
              "%6.")
        .arg(far + 1)
        .arg(std::lround(std::fabs(nearer)))
        .arg(nearer >= 0 ? tr("nearer") : tr("farther from"), length(std::fabs(farther)), lengthUnit(),
             farther >= 0 ? tr("farther") : tr("nearer"));
}

QString CastCard::holdWords() const {
    const auto &bow = context_.bow;
    if (!bow.holdWanted() || !bow.aim())
        return {};
    if (!bow.hold())
        return tr("No spot to hold on: hazards lie too close about it, or the boat has no seats.");
    const auto &spot = *bow.hold();
    const auto seats = context_.session.boats.boat().seats.size();
    QStringList reached;
    for (const auto i : spot.reached_from)
        reached << QString::number(i + 1);
    auto words =
        tr("Hold %1 %2 short of it, bow to %3: ")
            .arg(length(spot.short_m), lengthUnit(), QString::fromStdString(print_bearing(spot.heading_deg)));
    words += reached.isEmpty()                   ? tr("no seat reaches it.")
             : reached.size() == 1               ? tr("seat %1 reaches it.").arg(reached[0])
             : spot.reached_from.size() == seats ? tr("every seat reaches it.")
                                                 : tr("seats %1 reach it.").arg(reached.join(tr(" and ")));
    if (spot.drift_from_deg)
        words += QLatin1Char(' ') +
                 (bow.measuredDrift() ? tr("Drift from %1.") : tr("Wind from %1, as you told it."))
                     .arg(QString::fromStdString(side_word(*spot.drift_from_deg)));
    // From here.
    const auto pose = bow.pose();
    const auto way = pose.to(spot.head);
    const auto there = polar_of(way);
    constexpr double arrived_m = 1.5;
    if (there.distance_m < arrived_m)
        words += QLatin1Char(' ') + tr("You are there.");
    else
        words += QLatin1Char(' ') +
                 tr("From here %1 %2, %3.")
                     .arg(length(there.distance_m), lengthUnit(),
                          QString::fromStdString(OffBow{there.off_bow_deg}.clock()) + tr(" o'clock"));
    const double turn = std::round(wrap_180(spot.heading_deg - pose.heading_deg));
    if (pose.on_ground && std::fabs(turn) >= 10)
        words += QLatin1Char(' ') +
                 (turn < 0 ? tr("Bow %1° to the left.") : tr("Bow %1° to the right.")).arg(std::fabs(turn));
    return words;
}

void CastCard::paintClock(QPainter &p, const QRectF &square, std::size_t seat, const Cast &cast) {
    const auto middle = square.center();
    const double r = square.width() / 2 - 2;
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour("ink"), large_ ? 4 : 2));
    p.drawEllipse(middle, r, r);
    for (int h = 0; h < 12; ++h) {
        const double a = h * 30 / degrees_per_radian;
        const QPointF way(std::sin(a), -std::cos(a));
        p.setPen(QPen(colour("ink"), h % 3 == 0 ? 3 : 1.5));
        p.drawLine(middle + r * way, middle + r * (h % 3 == 0 ? 0.8 : 0.88) * way);
    }
    // The hull, bow up, the hand from the seat's number.
    QPainterPath hull(middle + QPointF(0, -0.42 * r));
    hull.quadTo(middle + QPointF(0.17 * r, -0.2 * r), middle + QPointF(0.17 * r, 0.5 * r));
    hull.lineTo(middle + QPointF(-0.17 * r, 0.5 * r));
    hull.quadTo(middle + QPointF(-0.17 * r, -0.2 * r), middle + QPointF(0, -0.42 * r));
    QColor deck = colour("slate");
    deck.setAlphaF(0.25F);
    p.setPen(Qt::NoPen);
    p.setBrush(deck);
    p.drawPath(hull);
    const double a = cast.off_bow.degrees / degrees_per_radian;
    p.setPen(QPen(colour("accent"), large_ ? 8 : 4, Qt::SolidLine, Qt::RoundCap));
    p.drawLine(middle, middle + 0.8 * r * QPointF(std::sin(a), -std::cos(a)));
    p.setPen(Qt::NoPen);
    p.setBrush(colour("ink"));
    p.drawEllipse(middle, 0.2 * r, 0.2 * r);
    p.setFont(Theme::instance().font(std::max(12, static_cast<int>(0.27 * r)), true));
    p.setPen(colour("page"));
    p.drawText(QRectF(middle.x() - 0.2 * r, middle.y() - 0.2 * r, 0.4 * r, 0.4 * r), Qt::AlignCenter,
               QString::number(seat + 1));
}

void CastCard::paintSeat(QPainter &p, const QRectF &room, std::size_t i, const Cast &cast) {
    auto &theme = Theme::instance();
    const auto &seat = context_.session.boats.boat().seats[i];
    const double dial = std::min(room.height() - 20, 0.24 * room.width());
    paintClock(p, {room.left(), room.top() + (room.height() - dial) / 2, dial, dial}, i, cast);
    const double x = room.left() + dial + 0.05 * room.width(), right = room.right();
    const int big = std::min(static_cast<int>(0.46 * room.height()), static_cast<int>(0.112 * room.width())),
              small = std::max(13, big / 3), mid = std::max(15, static_cast<int>(0.48 * big));
    const auto write = wordsOn(p);
    double y = room.top() + 1.15 * small + 4;
    const double name =
        write(x, y, QString::fromStdString(seat.name), static_cast<int>(1.15 * small), true, "ink");
    write(x + name + 10, y, tr("reach %1 %2").arg(length(seat.reach_m), lengthUnit()), small, false, "ink2");
    y += 0.98 * big + 4;
    const double clock = write(x, y, QString::fromStdString(cast.off_bow.clock()), big, true, "ink");
    const double degrees = std::round(cast.off_bow.degrees),
                 column = std::max(x + clock + 0.3 * big, x + 0.36 * (right - x) + 0.3 * big);
    write(column, y - 0.56 * mid, QStringLiteral("%1°").arg(std::abs(degrees)), mid, false, "ink");
    write(column, y + 0.16 * mid,
          degrees < 0   ? tr("left")
          : degrees > 0 ? tr("right")
                        : tr("ahead"),
          small, false, "ink2");
    const auto distance = length(cast.distance_m);
    p.setFont(theme.font(small));
    const double unit = p.fontMetrics().horizontalAdvance(lengthUnit());
    p.setFont(theme.font(big, true));
    const double wide = p.fontMetrics().horizontalAdvance(distance);
    write(right - unit - wide - 6, y, distance, big, true, "ink");
    write(right - unit, y, lengthUnit(), small, false, "ink2");
    p.setFont(theme.font(small, !cast.in_reach()));
    p.setPen(colour(cast.in_reach() ? "ink" : "accent"));
    paintParagraph(p, {x, y + 0.35 * small, right - x, room.bottom() - y - 0.35 * small},
                   castStanding(cast, context_.session.preferences.units()));
}

void CastCard::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), colour("page"));
    const auto write = wordsOn(p);
    const double left = large_ ? 40 : 14, right = width() - (large_ ? 40.0 : 16.0);
    const auto &aim = context_.bow.aim();
    const auto casts = context_.bow.casts();
    if (!aim || casts.empty()) {
        write(left, 40, tr("Nothing is aimed at"), 20, true, "ink");
        p.setFont(theme.font(14));
        p.setPen(colour("ink2"));
        paintParagraph(
            p, {left, 56, right - left, height() - 60.0},
            context_.session.boats.boat().seats.empty()
                ? tr("The boat has no seats yet: B tells the program where each angler stands.")
                : tr("Press on the circle, or on a mark in it. Each seat's clock, degrees and distance "
                     "follow, and stay right while the boat swings."));
        return;
    }
    const int head = large_ ? 44 : 24;
    const double glyph = 1.3 * head;
    paintGlyph(p, aim->glyph, {left, 12, glyph, glyph}, colour("ink"));
    write(left + glyph + 10, 12 + 0.85 * head, aim->title, head, true, "ink");
    const int under = large_ ? 22 : 13;
    write(left + glyph + 10, 16 + 0.9 * head + under,
          aim->remark.isEmpty() ? tr("place ± %1 %2").arg(length(aim->sd_m, 1), lengthUnit()) : aim->remark,
          under, false, "ink2");
    const double top = 28 + 0.9 * head + under;
    const int foot_size = large_ ? 20 : context_.bow.holdWanted() ? 15 : 13;
    const auto hold = holdWords();
    const auto why = hold.isEmpty() ? whyTheyDiffer(casts) : hold;
    const double foot =
        why.isEmpty() ? 0 : paragraphHeight(theme.font(foot_size, !hold.isEmpty()), right - left, why) + 14;
    const double each =
        std::min((height() - top - foot) / static_cast<double>(casts.size()), large_ ? 400.0 : 150.0);
    p.setPen(QPen(colour("line"), 1.5));
    p.drawLine(QPointF(left, top), QPointF(right, top));
    for (std::size_t i = 0; i < casts.size(); ++i) {
        const double y = top + static_cast<double>(i) * each;
        if (i > 0) {
            p.setPen(QPen(colour("hair"), 1));
            p.drawLine(QPointF(left, y), QPointF(right, y));
        }
        paintSeat(p, {left, y + 2, right - left, each - 4}, i, casts[i]);
    }
    const double end = top + static_cast<double>(casts.size()) * each;
    if (!why.isEmpty() && height() - end > 34) {
        p.setPen(QPen(colour("line"), 1.5));
        p.drawLine(QPointF(left, end), QPointF(right, end));
        p.setFont(theme.font(foot_size, !hold.isEmpty()));
        p.setPen(colour(hold.isEmpty() ? "ink2" : "ink"));
        paintParagraph(p, {left, end + 6, right - left, height() - end - 8}, why);
    }
}

} // namespace heron::app
