// How a day is drawn: conditions, what the boat was at, depth and speed, marks and visits on one line of
// time.
#include "kit/glyphs.hpp"
#include "kit/kind_words.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"
#include "story/sun.hpp"
#include "views/log/day_page.hpp"

#include <QPainter>
#include <algorithm>
#include <cmath>
#include <numeric>

namespace heron::app {

void DayPage::paintConditions(QPainter &p, const QRectF &room) const {
    const auto *d = day();
    const auto units = context_.session.preferences.units();
    std::vector<std::pair<QString, QString>> tiles;
    if (const auto where = place()) {
        const auto midnight = parse_rfc3339(d->date.toStdString() + "T00:00:00Z").value_or(0);
        const auto sun = sun_times(*where, midnight);
        tiles.emplace_back(tr("Sun, UTC"), sun.rises && sun.sets
                                               ? tr("%1 to %2").arg(clockOf(*sun.rises), clockOf(*sun.sets))
                                           : sun_at(*where, midnight).elevation_deg > 0 ? tr("up all day")
                                                                                        : tr("down all day"));
    }
    for (const auto &[name, value] : {std::pair{tr("Wind"), &d->conditions.wind},
                                      {tr("Sky"), &d->conditions.sky},
                                      {tr("Clarity"), &d->conditions.clarity},
                                      {tr("Level"), &d->conditions.level}})
        if (!value->empty())
            tiles.emplace_back(name, QString::fromStdString(*value));
    std::optional<QString> level_figure;
    std::optional<std::size_t> level_at;
    if (d->conditions.level_m) {
        level_figure = QString::fromStdString(print_length(*d->conditions.level_m, units, 1).text());
        if (d->conditions.level.empty())
            tiles.emplace_back(tr("Level"), *level_figure);
        else
            tiles.back().second += QStringLiteral(", ") + *level_figure;
        level_at = tiles.size() - 1;
    }
    if (d->conditions.temperature_c)
        tiles.emplace_back(tr("Water"), QString::fromStdString(
                                            print_temperature(*d->conditions.temperature_c, units).text()));
    if (d->conditions.wind.empty() && d->conditions.sky.empty() && d->conditions.clarity.empty())
        tiles.emplace_back(tr("Conditions"), tr("not written down"));
    // Each as wide as its words ask for, all narrower where there is no room; there the level's figure says
    // what its word does.
    constexpr double apart = 26, usual = 150;
    std::vector<double> wide;
    double all = 0;
    const auto measure = [&] {
        const QFontMetricsF large(Theme::instance().font(17, true)), small(Theme::instance().font(13));
        wide.clear();
        for (const auto &[name, value] : tiles)
            wide.push_back(std::max(large.horizontalAdvance(value), small.horizontalAdvance(name)) + apart);
        all = std::accumulate(wide.begin(), wide.end(), 0.0);
    };
    measure();
    if (all > room.width() && level_at) {
        tiles[*level_at].second = *level_figure;
        measure();
    }
    const double by =
        std::min(room.width() / all, std::max(1.0, usual * static_cast<double>(tiles.size()) / all));
    double x = room.left();
    for (std::size_t i = 0; i < tiles.size(); ++i) {
        const auto &[name, value] = tiles[i];
        const double each = wide[i] * by;
        if (i > 0) {
            p.setPen(QPen(colour("line"), 1));
            p.drawLine(QPointF(x - 10, room.top() + 2), QPointF(x - 10, room.bottom() - 8));
        }
        wordsWithin(p, x, room.top() + 13, name, each - 14, 13, false, "ink2");
        wordsWithin(p, x, room.top() + 34, value, each - 14, 17, true, "ink");
        x += each;
    }
}

void DayPage::paintDoings(QPainter &p, const QRectF &room, const Axis &a, const Inks &ink) const {
    p.setFont(Theme::instance().font(13));
    p.setPen(ink("ink2"));
    p.drawText(QPointF(room.left(), room.top() + 18), tr("doing"));
    const auto *d = day();
    const auto *afloat = book_.afloat(d->date);
    std::vector<DaySpan> spans;
    if (afloat != nullptr)
        spans = afloat->spans;
    for (std::size_t i = 0; i < spans.size(); ++i) {
        const auto &s = spans[i];
        const QRectF box(a.x(s.from), room.top(), std::max(2.0, a.x(s.to) - a.x(s.from)), doing_high);
        const bool full = s.what == Doing::scan;
        p.setPen(s.what == Doing::ashore ? QPen(ink("ink2"), 1, Qt::DashLine) : QPen(ink("ink"), 1));
        p.setBrush(full                      ? ink("ink")
                   : s.what == Doing::run    ? ink("line")
                   : s.what == Doing::ashore ? QBrush(Qt::NoBrush)
                                             : QBrush(ink("lift")));
        p.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5));
        p.setFont(Theme::instance().font(13, s.by_hand));
        const auto word = wordOf(s.what);
        if (p.fontMetrics().horizontalAdvance(word) + 8 < box.width()) {
            p.setPen(ink(full ? "page" : "ink"));
            p.drawText(box, Qt::AlignCenter, word);
        }
    }
    if (chosen_ && *chosen_ < spans.size()) {
        const auto &s = spans[*chosen_];
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(ink("accent"), 3));
        p.drawRect(QRectF(a.x(s.from), room.top(), std::max(4.0, a.x(s.to) - a.x(s.from)), doing_high));
    }
    p.setBrush(Qt::NoBrush);
}

// The day's bottom folded down from the surface, and the speed under it; a gap stays a gap.
void DayPage::paintProfile(QPainter &p, const QRectF &depth, const QRectF &speed, const Axis &a,
                           const Inks &ink) const {
    const auto units = context_.session.preferences.units();
    const auto *afloat = book_.afloat(day()->date);
    const bool feet = units == UnitSystem::feet;
    const auto shown_depth = [&](double m) { return feet ? feet_from_metres(m) : m; };
    double deepest = 0, fastest = 0;
    if (afloat != nullptr)
        for (const auto &s : afloat->steps) {
            deepest = std::max(deepest, std::isnan(s.depth_m) ? 0 : shown_depth(s.depth_m));
            fastest = std::max(fastest, std::isnan(s.speed_m_s) ? 0 : s.speed_m_s);
        }
    const double wanted = std::max(feet ? 5.0 : 2.0, deepest * 1.15);
    double step = 1;
    for (const double s : {1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0})
        if (wanted / (step = s) <= 3.2)
            break;
    const double whole = wanted;
    const auto y = [&](double m) { return depth.top() + shown_depth(m) / whole * depth.height(); };
    const auto shown_speed = [&](double m_s) { return feet ? mph_from_m_s(m_s) : km_h_from_m_s(m_s); };
    double full_speed = 5;
    for (const double top : {5.0, 10.0, 20.0, 40.0, 80.0, 160.0})
        if (shown_speed(fastest) <= (full_speed = top))
            break;
    const auto v = [&](double m_s) {
        return speed.bottom() - std::min(1.0, shown_speed(m_s) / full_speed) * speed.height();
    };
    p.setFont(Theme::instance().font(13));
    p.setPen(ink("ink2"));
    p.drawText(QPointF(depth.left(), depth.top() + 12), feet ? tr("depth, ft") : tr("depth, m"));
    p.drawText(QPointF(speed.left(), speed.top() + 10), tr("speed"));
    p.setFont(Theme::instance().font(12));
    p.drawText(QPointF(speed.left(), speed.bottom()), QString::fromStdString(print_speed(0, units).unit));
    p.drawText(QRectF(speed.left(), speed.top() - 4, label_wide - 8, 16), Qt::AlignRight,
               QString::number(full_speed));
    p.drawText(QRectF(speed.left(), speed.bottom() - 11, label_wide - 8, 16), Qt::AlignRight,
               QStringLiteral("0"));
    p.setPen(QPen(ink("ink2"), 1, Qt::DotLine));
    p.drawLine(QPointF(a.left, speed.top()), QPointF(a.left + a.wide, speed.top()));
    if (afloat != nullptr) {
        const auto step_ns = static_cast<UnixNs>(day_step_s * 1e9);
        const auto &steps = afloat->steps;
        for (std::size_t i = 0; i < steps.size();) {
            // As far as it was heard without a gap.
            QPolygonF bottom, runs;
            std::size_t k = i;
            for (; k < steps.size() && (k == i || steps[k].time - steps[k - 1].time <= 4 * step_ns); ++k) {
                const double at = a.x(steps[k].time + step_ns / 2);
                if (!std::isnan(steps[k].depth_m))
                    bottom << QPointF(at, y(steps[k].depth_m));
                if (!std::isnan(steps[k].speed_m_s))
                    runs << QPointF(at, v(steps[k].speed_m_s));
            }
            if (bottom.size() > 1) {
                QPolygonF water = bottom, ground = bottom;
                water << QPointF(bottom.back().x(), depth.top()) << QPointF(bottom.front().x(), depth.top());
                ground << QPointF(bottom.back().x(), depth.bottom())
                       << QPointF(bottom.front().x(), depth.bottom());
                p.setPen(Qt::NoPen);
                p.setBrush(ink("water"));
                p.drawPolygon(water);
                p.setBrush(ink("hair"));
                p.drawPolygon(ground);
                p.setBrush(Qt::NoBrush);
                p.setPen(QPen(ink("ink"), 1.5));
                p.drawPolyline(bottom);
            }
            if (runs.size() > 1) {
                p.setPen(QPen(ink("ink"), 1.2));
                p.drawPolyline(runs);
            }
            i = k;
        }
    }
    p.setFont(Theme::instance().font(12));
    for (double d = step; d < whole; d += step) {
        const double at = depth.top() + d / whole * depth.height();
        p.setPen(QPen(ink("ink2"), 1, Qt::DotLine));
        p.drawLine(QPointF(a.left, at), QPointF(a.left + a.wide, at));
        p.setPen(ink("ink2"));
        p.drawText(QRectF(depth.left(), at - 8, label_wide - 8, 16), Qt::AlignRight | Qt::AlignVCenter,
                   QString::number(d));
    }
    p.setPen(QPen(ink("ink"), 1.5));
    p.drawLine(QPointF(a.left, depth.top()), QPointF(a.left + a.wide, depth.top()));
    p.setPen(QPen(ink("line"), 1));
    p.drawLine(QPointF(a.left, speed.bottom()), QPointF(a.left + a.wide, speed.bottom()));
}

// Marks by their glyph; what came of visits above them: a full lens is a fish, a ring a bite.
void DayPage::paintEvents(QPainter &p, const QRectF &room, const Axis &a, const Inks &ink) const {
    const auto *d = day();
    p.setFont(Theme::instance().font(13));
    p.setPen(ink("ink2"));
    p.drawText(QPointF(room.left(), room.top() + 30), tr("marks"));
    p.drawText(QPointF(room.left(), room.top() + 13), tr("fish"));
    constexpr double glyph = 18;
    double free_from = -1;
    std::vector<const Mark *> marks;
    for (const auto &id : d->marks)
        if (const auto *m = context_.marks.find(id))
            marks.push_back(m);
    std::sort(marks.begin(), marks.end(), [](const Mark *x, const Mark *y) { return x->time < y->time; });
    for (const auto *m : marks) {
        const double x = a.x(m->time);
        p.setPen(QPen(ink("ink2"), 1));
        p.drawLine(QPointF(x, room.bottom()), QPointF(x, room.bottom() - 4));
        if (x < free_from)
            continue; // its tick alone
        paintGlyph(p, markGlyph(m->family, m->kind), {x - glyph / 2, room.bottom() - 5 - glyph, glyph, glyph},
                   ink("ink"));
        free_from = x + glyph;
    }
    for (const auto &v : d->visits) {
        const QPointF at(a.x(v.outcome.time), room.top() + 9);
        p.setPen(QPen(ink("ink"), 1.5));
        p.setBrush(v.outcome.what == Outcome::What::landed ? ink("ink") : ink("page"));
        if (v.outcome.what == Outcome::What::landed)
            p.drawEllipse(at, 8, 5);
        else if (v.outcome.what == Outcome::What::bite)
            p.drawEllipse(at, 4, 4);
        else
            p.drawLine(at - QPointF(4, 0), at + QPointF(4, 0));
    }
    p.setBrush(Qt::NoBrush);
}

void DayPage::paintAxis(QPainter &p, const QRectF &room, const Axis &a, const Inks &ink) const {
    p.setPen(QPen(ink("ink"), 1.5));
    p.drawLine(QPointF(a.left, room.top()), QPointF(a.left + a.wide, room.top()));
    p.setFont(Theme::instance().font(13));
    for (auto t = a.from; t <= a.to; t += a.tick) {
        const double x = a.x(t);
        p.drawLine(QPointF(x, room.top()), QPointF(x, room.top() + 5));
        p.drawText(QRectF(x - 40, room.top() + 6, 80, 16), Qt::AlignCenter, clockOf(t));
    }
    const auto legend = tr("UTC · lens: a fish, ring: a bite, dash: none · dashed: ashore · bold: by hand");
    p.setFont(Theme::instance().fontFor(legend, a.wide, 12));
    p.setPen(ink("ink2"));
    p.drawText(QPointF(a.left, room.top() + 36), legend);
}

void DayPage::paintAfloat(QPainter &p, const QRectF &room, const Inks &ink) const {
    if (day() == nullptr)
        return;
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    const auto a = axis(room);
    double y = room.top();
    paintDoings(p, {room.left(), y, room.width(), doing_high}, a, ink);
    y += doing_high + 10;
    const QRectF depth(room.left(), y, room.width(), depth_high);
    y += depth_high + 8;
    paintProfile(p, depth, {room.left(), y, room.width(), speed_high}, a, ink);
    y += speed_high + 2;
    paintEvents(p, {room.left(), y, room.width(), events_high}, a, ink);
    y += events_high + 2;
    paintAxis(p, {room.left(), y, room.width(), 40}, a, ink);
    p.restore();
}

double DayPage::paintVisits(QPainter &p, const QRectF &room) const {
    const auto *d = day();
    const auto write = wordsOn(p);
    write(room.left(), room.top() + 18, tr("At the marks"), 17, true, "ink");
    double y = room.top() + 28;
    p.setFont(Theme::instance().font(15));
    p.setPen(colour("ink"));
    if (d->visits.empty()) {
        p.setPen(colour("ink2"));
        return paintParagraph(p, {room.left(), y, room.width(), room.bottom() - y},
                              tr("No visit is told of this day. Marks, page Story, tells one with a press."));
    }
    for (const auto &v : d->visits) {
        if (y + 22 > room.bottom())
            break;
        y = paintParagraph(p, {room.left(), y, room.width(), room.bottom() - y}, visitWords(v)) + 5;
    }
    return y;
}

// Of all days, since few marks of one are ever looked at again.
void DayPage::paintSettings(QPainter &p, const QRectF &room) const {
    const auto write = wordsOn(p);
    write(room.left(), room.top() + 18, tr("Settings that worked"), 17, true, "ink");
    double y = room.top() + 28;
    p.setFont(Theme::instance().font(13));
    p.setPen(colour("ink2"));
    const auto &tried = book_.settingsTried();
    y = paintParagraph(p, {room.left(), y, room.width(), room.bottom() - y},
                       tried.empty() ? tr("Nothing was looked at twice yet, or found out by camera, diver or "
                                          "rod: only that can say which settings showed things as they are.")
                                     : tr("On all days: how many marks a second look or what was found out "
                                          "bore out, not how the picture looked.")) +
        8;
    for (const auto &t : tried) {
        if (y + 44 > room.bottom())
            break;
        QStringList where;
        if (!t.water.empty())
            where << QString::fromStdString(t.water);
        if (!t.depth.empty())
            where << QString::fromStdString(t.depth);
        wordsWithin(p, room.left(), y + 14, where.isEmpty() ? tr("water not told") : where.join(tr(", ")),
                    room.width(), 15, true, "ink");
        wordsWithin(p, room.left(), y + 34, settingsWords(t), room.width(), 14, false,
                    t.too_few ? "ink2" : "ink");
        y += 46;
    }
}

} // namespace heron::app
