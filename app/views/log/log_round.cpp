// The pages Round and Rules of Log.
#include "views/log/log_view.hpp"

#include "kit/counted.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"

#include <QCoreApplication>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace heron::app {

// What the day is foretold to be, and what there is of hours and fuel.
void LogView::addRoundKeys() {
    const auto choice = [this](const char *name) {
        auto *c = new QComboBox(this);
        c->setObjectName(QString::fromLatin1(name));
        connect(c, &QComboBox::activated, this, [this] {
            makeRound();
            setFocus();
        });
        return c;
    };
    hours_ = choice("roundHours");
    for (const int h : {2, 3, 4, 6, 8, 10})
        hours_->addItem(tr("%1 hours").arg(h), h);
    hours_->setCurrentIndex(2);
    wind_ = choice("roundWind");
    wind_->addItem(tr("wind: any"), -1);
    const QString from[] = {tr("wind from N"), tr("wind from NE"), tr("wind from E"), tr("wind from SE"),
                            tr("wind from S"), tr("wind from SW"), tr("wind from W"), tr("wind from NW")};
    for (int i = 0; i < 8; ++i)
        wind_->addItem(from[i], 45 * i);
    strength_ = choice("roundStrength");
    strength_->addItem(tr("not foretold"), QString());
    // In the words in which conditions are kept.
    for (const auto &word : {QCoreApplication::translate("ConditionsBox", "calm"),
                             QCoreApplication::translate("ConditionsBox", "light"),
                             QCoreApplication::translate("ConditionsBox", "strong")})
        strength_->addItem(word, word);
    fuel_ = choice("roundFuel");
    fuel_->addItem(tr("fuel enough"), 0);
    for (const int litres : {2, 5, 10, 20})
        fuel_->addItem(tr("%1 l of fuel").arg(litres), litres);
    all_marks_ = new KeyButton({}, tr("All again"), Qt::Key_Z,
                               tr("Marks that you pressed out of the round come back"), this);
    all_marks_->setObjectName(QStringLiteral("roundAll"));
    connect(all_marks_, &KeyButton::clicked, this, [this] {
        left_out_.clear();
        makeRound();
    });
}

void LogView::addRuleFields() {
    const auto field = [this](const char *name, const QString &placeholder) {
        auto *f = new QLineEdit(this);
        f->setObjectName(QString::fromLatin1(name));
        f->setPlaceholderText(placeholder);
        f->setMaxLength(300);
        connect(f, &QLineEdit::returnPressed, this, &LogView::addRule);
        return f;
    };
    rule_text_ = field("ruleText", tr("what is not allowed, or asked for"));
    rule_water_ = field("ruleWater", tr("on which water; empty: on any"));
    rule_from_ = field("ruleFrom", tr("from, 03-15"));
    rule_to_ = field("ruleTo", tr("to, 06-15"));
    add_rule_ = new KeyButton({}, tr("Add"), QKeySequence(),
                              tr("Be reminded of it at the beginning of a trip"), this);
    add_rule_->setObjectName(QStringLiteral("addRule"));
    connect(add_rule_, &KeyButton::clicked, this, &LogView::addRule);
    remove_rule_ =
        new KeyButton({}, tr("Remove"), Qt::Key_Delete, tr("Forget the rule that is chosen"), this);
    remove_rule_->setObjectName(QStringLiteral("removeRule"));
    connect(remove_rule_, &KeyButton::clicked, this, [this] {
        auto rules = book_.rules();
        if (!rule_ || *rule_ >= rules.size())
            return;
        rules.erase(rules.begin() + static_cast<std::ptrdiff_t>(*rule_));
        rule_.reset();
        book_.setRules(std::move(rules));
    });
}

void LogView::addRule() {
    LocalRule r;
    r.text = rule_text_->text().trimmed().toStdString();
    r.water = rule_water_->text().trimmed().toStdString();
    const auto from = rule_from_->text().trimmed().toStdString(),
               to = rule_to_->text().trimmed().toStdString();
    const auto say = [this](const QString &words) {
        context_.session.notices.say(QStringLiteral("log"), words);
    };
    if (r.text.empty()) {
        say(tr("Write what the rule says first."));
        return;
    }
    const bool year = from.empty() && to.empty();
    if (!year && (!day_of_year(from, r.from_month, r.from_day) || !day_of_year(to, r.to_month, r.to_day))) {
        say(tr("A season is told by its first and its last day, as month and day: 03-15 and 06-15. Nothing "
               "was kept."));
        return;
    }
    auto rules = book_.rules();
    rules.push_back(std::move(r));
    book_.setRules(std::move(rules));
    for (auto *f : {rule_text_, rule_water_, rule_from_, rule_to_})
        f->clear();
    say(tr("Kept. You are reminded at the beginning of a trip; the authority's own word holds."));
}

LogBook::RoundWish LogView::wish() const {
    LogBook::RoundWish w;
    if (const auto kind = static_cast<Kind>(kind_->currentData().toInt()); kind != Kind::none)
        w.kind = kind;
    w.limits.hours = hours_->currentData().toInt();
    if (const int from = wind_->currentData().toInt(); from >= 0)
        w.limits.wind_from_deg = from;
    w.wind = strength_->currentData().toString().toStdString();
    // Between places the motor takes more than while it creeps: three times (common practice, no published
    // source).
    w.limits.fuel_l_per_h = 3 * context_.session.boats.boat().fuel_l_per_h;
    if (const int litres = fuel_->currentData().toInt(); litres > 0)
        w.limits.fuel_l = litres;
    w.left_out = left_out_;
    return w;
}

// How many of how many, how surely, and whether it is visited to learn.
QString LogView::promiseWords(const QString &id) const {
    const auto at = round_.promises.find(id);
    if (at == round_.promises.end())
        return {};
    const auto &p = at->second;
    const auto hundred = [](double v) { return std::lround(100 * v); };
    auto words = p.visits < 1 ? tr("hardly a visit speaks of it")
                              : tr("%1 in 100 bite (%2 to %3)")
                                    .arg(hundred(p.share))
                                    .arg(hundred(p.within.low))
                                    .arg(hundred(p.within.high));
    if (id == round_.learns)
        words += tr(", to learn");
    return words;
}

QString LogView::ruleWords(const LocalRule &r) {
    const auto day = [](int month, int d) {
        return QStringLiteral("%1-%2").arg(month, 2, 10, QLatin1Char('0')).arg(d, 2, 10, QLatin1Char('0'));
    };
    return QStringLiteral("%1 · %2 · %3")
        .arg(QString::fromStdString(r.text),
             r.water.empty() ? tr("any water") : QString::fromStdString(r.water),
             r.whole_year() ? tr("the whole year")
                            : tr("%1 to %2").arg(day(r.from_month, r.from_day), day(r.to_month, r.to_day)));
}

// North up, numbered in the order of the round; what is left out stands by, small.
void LogView::paintRound(QPainter &p, QRectF room) {
    const auto write = wordsOn(p);
    room.setTop(room.top() + 52 * roundRows());
    round_spots_.clear();
    std::vector<GeoPoint> places;
    std::vector<QString> ids;
    for (const auto *some : {&round_.marks, &round_.others})
        for (const auto &id : *some)
            if (const auto *m = context_.marks.find(id); m != nullptr && m->place) {
                ids.push_back(id);
                places.push_back(*m->place);
            }
    if (places.empty()) {
        write(room.left(), room.top() + 18, tr("A round"), 20, true, "ink");
        p.setFont(Theme::instance().font(14));
        p.setPen(colour("ink2"));
        paintParagraph(p, {room.left(), room.top() + 30, room.width(), 60},
                       tr("No mark of this kind lies within a mile of the boat."));
        return;
    }
    const auto &positions = context_.session.shown.scan().nav.positions();
    const auto start = positions.empty() ? places.front() : positions.back().place;
    const auto &plan = round_.plan;
    write(room.left(), room.top() + 18,
          round_.marks.empty()
              ? tr("No round fits into that")
              : tr("%1, %2 to run, %3 h")
                        .arg(counted(round_.marks.size(), tr("mark"), tr("marks")), length(plan.run_m))
                        .arg(plan.hours, 0, 'f', 1) +
                    (plan.fuel_l >= 0.05 ? tr(", %1 l").arg(plan.fuel_l, 0, 'f', 1) : QString()),
          20, true, "ink");
    p.setFont(Theme::instance().font(13));
    p.setPen(colour("ink2"));
    const double map_top =
        paintParagraph(p, {room.left(), room.top() + 26, room.width(), 40},
                       (plan.left_out > 0 ? tr("%1 more do not fit. ").arg(plan.left_out) : QString()) +
                           (wish().limits.wind_from_deg ? tr("The sheltered end first. ") : QString()) +
                           tr("Straight ways: land, shallows and rules between are yours to see. Press a "
                              "mark to take it out.")) +
        8;
    const QRectF map(room.left(), map_top, room.width() * 0.5, room.bottom() - map_top);
    p.fillRect(map, colour("water"));
    const LocalPlane plane(start);
    double west = 0, east = 0, south = 0, north = 0;
    std::vector<EastNorth> at;
    for (const auto &g : places) {
        at.push_back(plane.to_plane(g));
        west = std::min(west, at.back().east_m);
        east = std::max(east, at.back().east_m);
        south = std::min(south, at.back().north_m);
        north = std::max(north, at.back().north_m);
    }
    const double scale = std::min((map.width() - 60) / std::max(20.0, east - west),
                                  (map.height() - 60) / std::max(20.0, north - south));
    const auto on = [&](const EastNorth &q) {
        return QPointF(map.center().x() + (q.east_m - (west + east) / 2) * scale,
                       map.center().y() - (q.north_m - (south + north) / 2) * scale);
    };
    p.setRenderHint(QPainter::Antialiasing);
    QPolygonF line;
    line << on({0, 0});
    for (std::size_t i = 0; i < round_.marks.size(); ++i)
        line << on(at[i]);
    p.setPen(QPen(colour("ink"), 1.6, Qt::DashLine));
    p.drawPolyline(line);
    for (std::size_t i = at.size(); i-- > 0;) {
        const auto where = on(at[i]);
        const bool visited = i < round_.marks.size();
        const double r = visited ? 12 : 6;
        const QRectF box(where.x() - r, where.y() - r, 2 * r, 2 * r);
        p.setPen(QPen(colour(visited ? "ink" : "ink2"), 1.5));
        p.setBrush(visited && i == 0 ? colour("accent") : colour("page"));
        p.drawEllipse(box);
        round_spots_.emplace_back(QRectF(where.x() - 22, where.y() - 22, 44, 44), ids[i]);
        if (!visited)
            continue;
        p.setFont(Theme::instance().font(13, true));
        p.setPen(colour(i == 0 ? "onaccent" : "ink"));
        p.drawText(box, Qt::AlignCenter, QString::number(i + 1));
    }
    // What lies on top is what is pressed.
    std::reverse(round_spots_.begin(), round_spots_.end());
    p.setBrush(Qt::NoBrush);
    if (const auto from = wish().limits.wind_from_deg) {
        const double a = *from / degrees_per_radian;
        const QPointF way(std::sin(a), -std::cos(a)), middle = map.topLeft() + QPointF(34, 34),
                                                      tip = middle - 18 * way;
        p.setPen(QPen(colour("ink"), 2));
        p.drawLine(middle + 18 * way, tip);
        for (const double side : {6.0, -6.0})
            p.drawLine(tip, tip + 10 * way + side * QPointF(way.y(), -way.x()));
        write(map.left() + 58, map.top() + 24, tr("wind"), 12, false, "ink2");
    }
    paintRoundList(p, {map.right() + 16, map.top(), room.right() - map.right() - 16, map.height()}, start);
}

void LogView::paintRoundList(QPainter &p, const QRectF &room, const GeoPoint &start) {
    double y = room.top() + 16;
    const auto *before = &start;
    const int wide = static_cast<int>(room.width());
    for (std::size_t i = 0; i < round_.marks.size() && y + 20 < room.bottom(); ++i, y += 44) {
        const auto *m = context_.marks.find(round_.marks[i]);
        if (m == nullptr || !m->place)
            continue;
        const auto leg = leg_between(*before, *m->place);
        before = &*m->place;
        p.setFont(Theme::instance().font(14, true));
        p.setPen(colour("ink"));
        p.drawText(QPointF(room.left(), y),
                   p.fontMetrics().elidedText(
                       tr("%1  %2").arg(i + 1).arg(capital(QString::fromStdString(plain_name(*m)))),
                       Qt::ElideRight, wide));
        p.setFont(Theme::instance().font(13));
        p.setPen(colour("ink2"));
        p.drawText(QPointF(room.left(), y + 18),
                   p.fontMetrics().elidedText(
                       tr("%1 · %2").arg(
                           leg.distance_m < 1
                               ? tr("begins here")
                               : tr("%1, %2").arg(length(leg.distance_m),
                                                  QString::fromStdString(print_bearing(leg.bearing_deg))),
                           promiseWords(round_.marks[i])),
                       Qt::ElideRight, wide));
    }
    p.setFont(Theme::instance().font(13, true));
    p.setPen(colour("accent"));
    for (const auto &r : book_.rulesToday())
        if (y + 20 < room.bottom())
            y = paintParagraph(p, {room.left(), y, room.width(), 40}, QString::fromStdString(r.text)) + 4;
}

QPointF LogView::spotOf(const QString &mark) const {
    for (const auto &[spot, id] : round_spots_)
        if (id == mark)
            return spot.center();
    return {};
}

QRectF LogView::ruleRect(std::size_t rule) const {
    return {panel + 20.0, top + key_high + 130.0 + static_cast<double>(rule) * 48, width() - panel - 44.0,
            44};
}

void LogView::paintRules(QPainter &p, QRectF room) {
    const auto write = wordsOn(p);
    const auto today = book_.rulesToday();
    for (std::size_t i = 0; i < book_.rules().size(); ++i) {
        const auto &r = book_.rules()[i];
        const auto row = ruleRect(i);
        if (row.bottom() > room.bottom() - 40)
            break;
        if (rule_ == i)
            p.fillRect(row, colour("sunk"));
        const bool now = std::find(today.begin(), today.end(), r) != today.end();
        p.setFont(Theme::instance().font(15, now));
        p.setPen(colour(now ? "accent" : "ink"));
        p.drawText(
            row.adjusted(8, 0, -8, 0), Qt::AlignVCenter,
            p.fontMetrics().elidedText(ruleWords(r), Qt::ElideRight, static_cast<int>(row.width()) - 16));
        p.setPen(QPen(colour("hair"), 1));
        p.drawLine(row.bottomLeft(), row.bottomRight());
    }
    if (book_.rules().empty())
        write(room.left(), ruleRect(0).top() + 26, tr("No rule is entered yet."), 15, false, "ink2");
    write(room.left(), room.bottom() - 10,
          tr("Reminders as you entered them. Seasons and limits change: the authority's own word holds."), 13,
          false, "ink2");
}

} // namespace heron::app
