// What lies on the circle: rim, rings, boat, reach, marks, contacts, what swims, aims, the rod, ages.
#include "views/around/circle_picture.hpp"

#include "kit/glyphs.hpp"
#include "kit/theme.hpp"

#include <QPainterPath>
#include <algorithm>
#include <array>
#include <cmath>

namespace heron::app {
namespace {

constexpr double mark_px = 28;

void cased(QPainter &p, const QPainterPath &path, const QColor &ink, double width,
           Qt::PenStyle style = Qt::SolidLine) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour("casing"), width + 2.2, Qt::SolidLine, Qt::RoundCap));
    p.drawPath(path);
    p.setPen(QPen(ink, width, style, style == Qt::SolidLine ? Qt::RoundCap : Qt::FlatCap));
    p.drawPath(path);
}

QPainterPath line(QPointF a, QPointF b) {
    QPainterPath path(a);
    path.lineTo(b);
    return path;
}

} // namespace

// The rim thins with the age of what lies within; its end is the newest ray.
void CirclePicture::paintRim(QPainter &p) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour("ink"), 1.5));
    if (up_ != Up::ahead)
        p.drawEllipse(head_px_, radius_px_, radius_px_);
    else
        p.drawArc(
            QRectF(head_px_.x() - radius_px_, head_px_.y() - radius_px_, 2 * radius_px_, 2 * radius_px_), 0,
            180 * 16);
    const auto &rays = context_.bow.rays().rays();
    const auto &last = newest();
    const double turn = std::max(1.0, context_.bow.rays().turn_s().value_or(10));
    const QRectF box(head_px_.x() - radius_px_ + 2, head_px_.y() - radius_px_ + 2, 2 * radius_px_ - 4,
                     2 * radius_px_ - 4);
    const double up = upDeg();
    for (auto i = shownRays(); i-- > 0;) {
        const auto &ray = rays[i];
        const double age = seconds_between(ray.time, last.time) / turn;
        if (age > 1)
            break;
        p.setPen(QPen(colour("accent"), 1 + 5 * (1 - age), Qt::SolidLine, Qt::FlatCap));
        const double from = 90 - (ray.bearing_deg - up) - ray.half_deg;
        p.drawArc(box, static_cast<int>(std::lround(from * 16)),
                  static_cast<int>(std::lround(2 * ray.half_deg * 16)) + 4);
    }
    // The newest ray parts new from old.
    cased(p, line(head_px_, head_px_ + radius_px_ * direction(last.bearing_deg)), colour("pick"), 1.4);
    // Degrees off the bow outside the rim.
    auto &theme = Theme::instance();
    const double heading = pose().heading_deg;
    for (int d = -180; d < 180; d += 10) {
        const bool large = d % 30 == 0;
        if (up_ == Up::ahead && std::abs(d) > 90)
            continue;
        const auto way = direction(heading + d);
        p.setPen(QPen(colour("ink"), large ? 2 : 1));
        p.drawLine(head_px_ + (radius_px_ + 2) * way, head_px_ + (radius_px_ + (large ? 11 : 7)) * way);
        if (!large)
            continue;
        p.setFont(theme.font(13, d == 0));
        const auto words = d == 0 ? tr("ahead") : QStringLiteral("%1°").arg(std::abs(d));
        const auto room = p.fontMetrics().boundingRect(words);
        const auto middle = head_px_ + (radius_px_ + 26) * way;
        p.drawText(middle + QPointF(-room.width() / 2.0, room.height() / 2.0 - 4), words);
    }
}

void CirclePicture::paintRings(QPainter &p) {
    const auto units = context_.session.preferences.units();
    QColor faint = colour("paper");
    faint.setAlphaF(0.75F);
    for (const double r : rings(range_m_, ring_style_, units)) {
        QPainterPath ring;
        ring.addEllipse(head_px_, r * scale_, r * scale_);
        if (r < 0.995 * range_m_) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(faint, 1.2));
            p.drawPath(ring);
        }
        const bool whole = ring_style_ == RingStyle::round || units == UnitSystem::feet;
        const double shown = units == UnitSystem::feet ? feet_from_metres(r) : r;
        const int decimals = whole && std::fabs(shown - std::round(shown)) < 0.01 ? 0 : 1;
        const auto words = QString::fromStdString(print_length(r, units, decimals).text());
        const double a = (up_ == Up::ahead ? 300 : 222) / degrees_per_radian;
        paintCased(p, head_px_ + r * scale_ * QPointF(std::sin(a), -std::cos(a)) + QPointF(4, 4), words,
                   Theme::instance().font(14, true), colour("paper"));
    }
}

// True to scale at every zoom; the seats bear their numbers.
void CirclePicture::paintBoat(QPainter &p) {
    const auto &boat = context_.session.boats.boat();
    QPainterPath hull;
    bool begun = false;
    for (const auto &spot : boat.outline()) {
        const auto where = at(from_head(boat, spot));
        begun ? hull.lineTo(where) : hull.moveTo(where);
        begun = true;
    }
    hull.closeSubpath();
    QColor deck = colour("page");
    deck.setAlphaF(0.85F);
    p.setPen(QPen(colour("casing"), 4));
    p.setBrush(deck);
    p.drawPath(hull);
    p.setPen(QPen(colour("ink"), 2));
    p.drawPath(hull);
    const double size = std::clamp(0.35 * scale_, 8.0, 13.0);
    for (std::size_t i = 0; i < boat.seats.size(); ++i) {
        const auto where = at(from_head(boat, boat.seats[i].at));
        p.setPen(Qt::NoPen);
        p.setBrush(colour("ink"));
        p.drawEllipse(where, size, size);
        p.setFont(Theme::instance().font(std::max(12, static_cast<int>(1.2 * size)), true));
        p.setPen(colour("page"));
        p.drawText(QRectF(where.x() - size, where.y() - size, 2 * size, 2 * size), Qt::AlignCenter,
                   QString::number(i + 1));
    }
    p.setPen(QPen(colour("casing"), 3));
    p.setBrush(colour("pick"));
    p.drawEllipse(head_px_, 3.5, 3.5);
}

// How far each seat casts, towards what is aimed at, else ahead: an arc and its seat's number.
void CirclePicture::paintReach(QPainter &p) {
    const auto &boat = context_.session.boats.boat();
    const auto now = pose();
    static constexpr std::array styles{Qt::SolidLine, Qt::DashLine, Qt::DotLine, Qt::DashDotLine};
    const auto units = context_.session.preferences.units();
    const auto font = Theme::instance().font(13);
    const QFontMetricsF metrics(font);
    std::vector<QRectF> written;
    for (std::size_t i = 0; i < boat.seats.size(); ++i) {
        const auto &seat = boat.seats[i];
        const auto from = from_head(boat, seat.at);
        double towards = 0;
        if (const auto &aim = context_.bow.aim()) {
            const auto thing = now.to(aim->at);
            towards = polar_of({thing.ahead_m - from.ahead_m, thing.right_m - from.right_m}).off_bow_deg;
        }
        const auto on_arc = [&](double off_deg) {
            const auto reach = of_polar({towards + off_deg, seat.reach_m});
            return at({from.ahead_m + reach.ahead_m, from.right_m + reach.right_m});
        };
        QPainterPath arc(on_arc(-22));
        for (int k = -21; k <= 22; ++k)
            arc.lineTo(on_arc(k));
        cased(p, arc, colour("paper"), 2, styles[i % styles.size()]);
        // At that end of its arc where no other seat's figure stands.
        const auto text =
            tr("%1: %2").arg(i + 1).arg(QString::fromStdString(print_length(seat.reach_m, units, 0).figure));
        QRectF room;
        for (const double off_deg : {-22.0, 22.0, -8.0, 8.0}) {
            room = metrics.boundingRect(text).translated(on_arc(off_deg) + QPointF(-30, -4));
            if (std::none_of(written.begin(), written.end(),
                             [&](const QRectF &r) { return r.adjusted(-6, 0, 6, 0).intersects(room); }))
                break;
        }
        written.push_back(room);
        paintCased(p, room.topLeft() - metrics.boundingRect(text).topLeft(), text, font, colour("paper"));
    }
}

void CirclePicture::paintMarks(QPainter &p) {
    const auto &theme = Theme::instance();
    for (const auto &mark : context_.marks.all()) {
        const auto aim = context_.bow.aimOf(mark);
        if (!aim)
            continue;
        const auto from = pose().to(aim->at);
        if (std::hypot(from.ahead_m, from.right_m) > range_m_)
            continue;
        const auto thing = positionOf(aim->at);
        if (!rect().contains(thing.toPoint()))
            continue;
        const bool aimed = context_.bow.aim() && context_.bow.aim()->mark == aim->mark;
        const bool left = thing.x() > width() - 170;
        const QPointF glyph = thing + QPointF(left ? -44 : 44, -8);
        const auto ink = colour(aimed ? "pick" : "paper");
        cased(p, line(thing + QPointF(left ? -8 : 8, 0), glyph + QPointF(left ? 15 : -15, 0)), ink, 1.4);
        QPainterPath ring;
        ring.addEllipse(thing, 7, 7);
        cased(p, ring, ink, 1.6);
        const double size = aimed ? 34 : mark_px;
        p.setPen(Qt::NoPen);
        p.setBrush(colour("casing"));
        p.drawEllipse(glyph, size / 2 + 2, size / 2 + 2);
        paintGlyph(p, aim->glyph, QRectF(glyph.x() - size / 2, glyph.y() - size / 2, size, size), ink);
        const auto font = theme.font(aimed ? 15 : 13, true);
        const double wide = QFontMetricsF(font).horizontalAdvance(aim->title);
        paintCased(p, glyph + QPointF(left ? -22 - wide : 22, 5), aim->title, font, ink);
    }
}

bool CirclePicture::isMarked(const EastNorth &at) const {
    constexpr double near_m = 1.2;
    return std::any_of(context_.marks.all().begin(), context_.marks.all().end(), [&](const Mark &mark) {
        const auto aim = context_.bow.aimOf(mark);
        return aim && std::hypot(aim->at.east_m - at.east_m, aim->at.north_m - at.north_m) < near_m;
    });
}

int CirclePicture::contactAt(QPointF position) const {
    const auto &read = context_.bow.circle();
    int nearest = 0;
    double least = 20;
    for (std::size_t i = 0; i < read.contacts().size(); ++i)
        if (const auto aim = context_.bow.aimOf(read.contacts()[i], read.idOf(i)))
            if (const double d = QLineF(position, positionOf(aim->at)).length(); d < least) {
                least = d;
                nearest = aim->contact;
            }
    return context_.window.ringsContacts() ? nearest : 0;
}

// Rings beside their glyphs; what bears a mark already needs none.
void CirclePicture::paintContacts(QPainter &p) {
    const auto &read = context_.bow.circle();
    if (!context_.window.ringsContacts() || turns_back_ > 0)
        return;
    for (std::size_t i = 0; i < read.contacts().size(); ++i) {
        const auto &c = read.contacts()[i];
        const auto aim = context_.bow.aimOf(c, read.idOf(i));
        if (!aim)
            continue;
        const auto from = pose().to(aim->at);
        if (std::hypot(from.ahead_m, from.right_m) > range_m_ || isMarked(aim->at))
            continue;
        const auto thing = positionOf(aim->at);
        const double r = std::clamp(c.length_m.value_or(1) / 2 * scale_, 8.0, 40.0);
        QPainterPath ring;
        ring.addEllipse(thing, r, r);
        cased(p, ring, colour("paper"), 1.6, c.confidence < 0.75 ? Qt::DashLine : Qt::SolidLine);
        const bool left = thing.x() > width() - 60;
        const QPointF glyph = thing + QPointF(left ? -r - 14 : r + 14, -10);
        p.setPen(Qt::NoPen);
        p.setBrush(colour("casing"));
        p.drawEllipse(glyph, 12, 12);
        paintGlyph(p, aim->glyph, QRectF(glyph.x() - 10, glyph.y() - 10, 20, 20), colour("paper"));
    }
}

int CirclePicture::swimmerAt(QPointF position) const {
    int nearest = 0;
    double least = 24;
    for (const auto &s : context_.bow.circle().swimmers())
        if (const auto at = context_.bow.placeOf(s))
            if (const double d = QLineF(position, positionOf(*at)).length(); d < least) {
                least = d;
                nearest = s.id;
            }
    return nearest;
}

// What moved from turn to turn: a lens, and an arrow to where it will be when a lure lies before it.
void CirclePicture::paintSwimmers(QPainter &p) {
    if (!context_.window.ringsContacts() || frozen())
        return;
    const auto units = context_.session.preferences.units();
    for (const auto &s : context_.bow.circle().swimmers()) {
        const auto now = context_.bow.placeOf(s), then = context_.bow.placeOf(s, context_.bow.lureSeconds(s));
        if (!now || !then)
            continue;
        const auto a = positionOf(*now), b = positionOf(*then);
        if (QLineF(a, head_px_).length() > radius_px_)
            continue;
        auto arrow = line(a, b);
        if (const QLineF way(b, a); way.length() > 6)
            for (const double turn : {26.0, -26.0}) {
                auto barb = way;
                barb.setAngle(way.angle() + turn);
                barb.setLength(9);
                arrow.moveTo(b);
                arrow.lineTo(barb.p2());
            }
        const bool aimed = context_.bow.aim() && context_.bow.aim()->swimmer == s.id;
        const auto ink = colour(aimed ? "pick" : "paper");
        cased(p, arrow, ink, 2);
        p.setPen(Qt::NoPen);
        p.setBrush(colour("casing"));
        p.drawEllipse(a, 13, 13);
        paintGlyph(p, s.length_m > 1.2 ? QStringLiteral("kind-fish_group") : QStringLiteral("kind-fish"),
                   QRectF(a.x() - 11, a.y() - 11, 22, 22), ink);
        paintCased(p, a + QPointF(16, 16), QString::fromStdString(print_speed(s.speed_m_s(), units).text()),
                   Theme::instance().font(13), ink);
    }
}

// From each seat to what is aimed at.
void CirclePicture::paintAim(QPainter &p) {
    const auto &aim = context_.bow.aim();
    if (!aim)
        return;
    const auto &boat = context_.session.boats.boat();
    const auto thing = positionOf(aim->at);
    const auto casts = context_.bow.casts();
    for (std::size_t i = 0; i < boat.seats.size() && i < casts.size(); ++i) {
        const auto seat = at(from_head(boat, boat.seats[i].at));
        cased(p, line(seat, thing), colour(casts[i].in_reach() ? "pick" : "paper"), 1.8,
              casts[i].in_reach() ? Qt::SolidLine : Qt::DashLine);
    }
    QPainterPath ring;
    ring.addEllipse(thing, 12, 12);
    cased(p, ring, colour("pick"), 2);
    if (aim->sd_m * scale_ > 14) {
        QPainterPath doubt;
        doubt.addEllipse(thing, aim->sd_m * scale_, aim->sd_m * scale_);
        cased(p, doubt, colour("pick"), 1, Qt::DotLine);
    }
}

// The boat where it would hold, to scale, and the way there.
void CirclePicture::paintHold(QPainter &p) {
    if (!context_.bow.hold() || turns_back_ > 0)
        return;
    const auto &spot = *context_.bow.hold();
    const auto &boat = context_.session.boats.boat();
    const BowPose there{spot.head, spot.heading_deg, true};
    QPainterPath hull;
    bool begun = false;
    for (const auto &of : boat.outline()) {
        const auto where = positionOf(there.from(from_head(boat, of)));
        begun ? hull.lineTo(where) : hull.moveTo(where);
        begun = true;
    }
    hull.closeSubpath();
    cased(p, hull, colour("pick"), 2, Qt::DashLine);
    const auto bow = positionOf(spot.head);
    if (QLineF(bow, head_px_).length() > 12)
        cased(p, line(head_px_, bow), colour("pick"), 1.4, Qt::DotLine);
    paintCased(p, bow + QPointF(10, -6), tr("hold here"), Theme::instance().font(14, true), colour("pick"));
}

// From the top of the echo to the end of its shadow along the ray, and what follows from them.
void CirclePicture::paintMeasure(QPainter &p) {
    if (!measures_)
        return;
    const auto font = Theme::instance().font(15, true);
    const auto *ray = handles_ ? rayOf(handles_->row) : nullptr;
    if (ray == nullptr) {
        if (hover_)
            paintCased(p, *hover_ + QPointF(16, -10), tr("press on the echo's top"), font, colour("pick"));
        return;
    }
    const auto on_ray = [&](double slant) {
        const double g = across_ == Across::ground
                             ? std::sqrt(std::max(0.0, slant * slant - ray->altitude_m * ray->altitude_m))
                             : slant,
                     b = ray->bearing_deg / degrees_per_radian;
        return positionOf({ray->at.east_m + g * std::sin(b), ray->at.north_m + g * std::cos(b)});
    };
    const auto top = on_ray(handles_->top_m), end = on_ray(handles_->end_m);
    cased(p, line(top, end), colour("pick"), 2);
    for (const auto &spot : {top, end}) {
        QPainterPath ring;
        ring.addEllipse(spot, 6, 6);
        cased(p, ring, colour("pick"), 2);
    }
    const auto units = context_.session.preferences.units();
    const auto length = [&](double m) { return QString::fromStdString(print_length(m, units).text()); };
    QStringList lines;
    if (const auto m = measurement()) {
        const auto &s = m->shadow;
        lines << (s.at_least ? tr("at least %1 tall") : tr("%1 tall")).arg(length(s.height_m.value)) +
                     tr(" ± %1").arg(length(s.height_m.sd));
        lines << tr("%1 off, bottom %2 down").arg(length(m->ground_m.value), length(m->water_depth_m.value));
    } else {
        lines << (end_set_ ? tr("nothing can be computed there") : tr("then on its shadow's end"));
    }
    const bool left = end.x() > width() - 260.0;
    double y = end.y() + 5;
    for (const auto &words : lines) {
        const double wide = QFontMetricsF(font).horizontalAdvance(words);
        paintCased(p, {left ? end.x() - 14 - wide : end.x() + 14, y}, words, font, colour("pick"));
        y += 20;
    }
}

// The cells themselves about the pointer, three times as large; nothing is smoothed.
void CirclePicture::paintLoupe(QPainter &p) {
    if (!loupe_ || !hover_)
        return;
    constexpr int wide = 288, high = 192, times = 3;
    const QRect from(static_cast<int>(hover_->x()) - wide / times / 2,
                     static_cast<int>(hover_->y()) - high / times / 2, wide / times, high / times);
    const bool right = hover_->x() < width() / 2.0, below = hover_->y() < height() / 2.0;
    const QRect box(right ? width() - wide - 12 : 12, below ? height() - high - 30 : 12, wide, high);
    p.setRenderHint(QPainter::SmoothPixmapTransform, false);
    p.drawImage(box, image_, from);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour("casing"), 4));
    p.drawRect(box);
    p.setPen(QPen(colour("paper"), 1.8));
    p.drawRect(box);
    p.drawRect(from);
    paintCased(p, QPointF(box.right() - 34, box.top() + 18), tr("%1 ×").arg(times),
               Theme::instance().font(13, true), colour("paper"));
}

// As the guide told it: an arrow on the rim, down the wind.
void CirclePicture::paintWind(QPainter &p) {
    const auto &wind = context_.bow.wind();
    if (!wind)
        return;
    const auto way = direction(wind->from_deg);
    const QPointF from = head_px_ + (radius_px_ + 4) * way, to = head_px_ + (radius_px_ - 34) * way,
                  aside(-way.y(), way.x());
    auto arrow = line(from, to);
    for (const double side : {7.0, -7.0}) {
        arrow.moveTo(to);
        arrow.lineTo(to + 12 * way + side * aside);
    }
    // A feather for each step of strength.
    for (int k = 0; k < (wind->speed_m_s > 8 ? 3 : wind->speed_m_s > 4 ? 2 : 1); ++k) {
        arrow.moveTo(from - 7 * k * way);
        arrow.lineTo(from - 7 * k * way + 5 * way + 11 * aside);
    }
    cased(p, arrow, colour("paper"), 2);
    paintCased(p, to - 14 * way - QPointF(14, -4), tr("wind"), Theme::instance().font(13, true),
               colour("paper"));
}

// What guests are shown: a ring that nobody overlooks, and what lies in it.
QString CirclePicture::guestWords() const {
    if (!hover_)
        return {};
    const auto spot = spotAt(*hover_);
    if (!spot)
        return {};
    std::optional<Aim> aim;
    if (const int id = contactAt(*hover_))
        if (const auto *c = context_.bow.circle().find(id))
            aim = context_.bow.aimOf(*c, id);
    if (const auto id = markAt(*hover_); !id.isEmpty())
        if (const auto *mark = context_.marks.find(id))
            aim = context_.bow.aimOf(*mark);
    const int swimming = swimmerAt(*hover_);
    for (const auto &s : context_.bow.circle().swimmers())
        if (swimming != 0 && s.id == swimming)
            aim = context_.bow.aimOf(s);
    const auto from = polar_of(aim ? pose().to(aim->at) : spot->from_head);
    const auto where = QString::fromStdString(
                           print_length(from.distance_m, context_.session.preferences.units(), 0).text()) +
                       QStringLiteral(", ") + QString::fromStdString(OffBow{from.off_bow_deg}.clock());
    return aim ? aim->title + QStringLiteral(", ") + where : where;
}

void CirclePicture::paintGuests(QPainter &p) {
    if (!guests_ || !hover_ || !spotAt(*hover_))
        return;
    QPainterPath ring;
    ring.addEllipse(*hover_, 44, 44);
    cased(p, ring, colour("pick"), 5);
    const auto words = guestWords();
    if (words.isEmpty())
        return;
    const auto font = Theme::instance().font(30, true);
    const double wide = QFontMetricsF(font).horizontalAdvance(words);
    const bool above = hover_->y() > 110;
    paintCased(p,
               {std::clamp(hover_->x() - wide / 2, 8.0, std::max(8.0, width() - wide - 8)),
                hover_->y() + (above ? -58.0 : 84.0)},
               words, font, colour("pick"));
}

// For whoever aims the rod at the screen: from the seat through the pointer to the end of its reach.
void CirclePicture::paintRod(QPainter &p) {
    const auto &boat = context_.session.boats.boat();
    if (!rod_ || !hover_ || boat.seats.empty())
        return;
    const auto spot = spotAt(*hover_);
    if (!spot)
        return;
    const auto &seat = boat.seats[seat_];
    const auto cast = cast_from(boat, seat, spot->from_head);
    const auto from = from_head(boat, seat.at), whole = of_polar({cast.off_bow.degrees, seat.reach_m});
    cased(p, line(at(from), at({from.ahead_m + whole.ahead_m, from.right_m + whole.right_m})), colour("pick"),
          2.4);
    const auto units = context_.session.preferences.units();
    const double degrees = std::round(cast.off_bow.degrees);
    const auto words =
        tr("%1: %2, %3° %4, %5")
            .arg(QString::fromStdString(seat.name), QString::fromStdString(cast.off_bow.clock()))
            .arg(std::abs(degrees))
            .arg(degrees < 0 ? tr("left") : tr("right"),
                 QString::fromStdString(print_length(cast.distance_m, units, 0).text()));
    const auto font = Theme::instance().font(17, true);
    const double wide = QFontMetricsF(font).horizontalAdvance(words);
    const QPointF where(std::clamp(hover_->x() + 18, 8.0, width() - wide - 8.0),
                        std::max(24.0, hover_->y() - 16));
    paintCased(p, where, words, font, colour("pick"));
}

void CirclePicture::paintAges(QPainter &p) {
    const auto &rays = context_.bow.rays().rays();
    const auto &last = newest();
    const double turn = context_.bow.rays().turn_s().value_or(0);
    if (turn < 3)
        return;
    // Three words on the way round, just within the rim.
    double next = 0.3;
    for (auto i = shownRays(); i-- > 0;) {
        const double age = seconds_between(rays[i].time, last.time);
        if (age > 0.95 * turn)
            break;
        if (age < next * turn)
            continue;
        next += 0.3;
        const auto words = tr("%1 s old").arg(std::lround(age));
        const auto way = direction(rays[i].bearing_deg);
        const auto font = Theme::instance().font(13);
        const double wide = QFontMetricsF(font).horizontalAdvance(words);
        const auto where = head_px_ + (radius_px_ - 34) * way - QPointF(wide / 2, -4);
        // No word on ground that the boat has left, or that was never sounded.
        const auto spot = spotAt(head_px_ + (radius_px_ - 34) * way);
        if (rect().contains(where.toPoint()) && spot && spot->seen && spot->seen->row + 2 >= rays[i].row)
            paintCased(p, where, words, font, colour("paper"));
    }
}

} // namespace heron::app
