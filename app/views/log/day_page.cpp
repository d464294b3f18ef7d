#include "views/log/day_page.hpp"

#include "kit/counted.hpp"
#include "kit/glyphs.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/paragraph.hpp"
#include "kit/run_words.hpp"
#include "kit/theme.hpp"
#include "story/sun.hpp"

#include <QLocale>
#include <QMouseEvent>
#include <algorithm>
#include <array>
#include <cmath>

namespace heron::app {
namespace {

constexpr int head_high = 52, tiles_high = 50, picture_high = 252, keys_high = 56, step_keys_wide = 196;
constexpr double label_wide = 64, doing_high = 26, depth_high = 84, speed_high = 34, events_high = 42;

QString clockOf(UnixNs time) {
    return QString::fromStdString(print_rfc3339(time, 0)).mid(11, 5);
}

QString wordOf(Outcome::What what) {
    switch (what) {
    case Outcome::What::looked:
        return DayPage::tr("looked");
    case Outcome::What::fished:
        return DayPage::tr("fished, no bite");
    case Outcome::What::bite:
        return DayPage::tr("bite");
    case Outcome::What::landed:
        break;
    }
    return DayPage::tr("fish");
}

QString wordOf(Doing doing) {
    switch (doing) {
    case Doing::scan:
        return DayPage::tr("scan");
    case Doing::fish:
        return DayPage::tr("fish");
    case Doing::run:
        return DayPage::tr("run");
    case Doing::ashore:
        break;
    }
    return DayPage::tr("ashore");
}

UnixNs ends(const TripSummary &t) {
    return t.started + static_cast<UnixNs>(t.seconds * 1e9);
}

} // namespace

double DayPage::Axis::x(UnixNs time) const {
    return left +
           std::clamp(static_cast<double>(time - from) / static_cast<double>(to - from), 0.0, 1.0) * wide;
}

DayPage::DayPage(ViewContext &context, LogBook &book, QWidget *parent)
    : QWidget(parent), context_(context), book_(book) {
    aboard_ = new QLineEdit(this);
    aboard_->setObjectName(QStringLiteral("aboard"));
    aboard_->setPlaceholderText(tr("who was aboard?"));
    aboard_->setMaxLength(120);
    connect(aboard_, &QLineEdit::editingFinished, this, [this] {
        if (const auto *d = day())
            book_.setAboard(d->date, aboard_->text());
    });
    connect(aboard_, &QLineEdit::returnPressed, this, [this] { parentWidget()->setFocus(); });
    const auto key = [this](const char *name, const QString &text, Qt::Key letter, const QString &tip) {
        auto *k = new KeyButton({}, text, letter, tip, this);
        k->setObjectName(QString::fromLatin1(name));
        return k;
    };
    before_ = key("doingBefore", tr("before"), Qt::Key_Comma, tr("The stretch before"));
    next_ = key("doingNext", tr("next"), Qt::Key_Period, tr("The stretch after"));
    connect(before_, &KeyButton::clicked, this,
            [this] { choose(chosen_ ? static_cast<std::ptrdiff_t>(*chosen_) - 1 : 0); });
    connect(next_, &KeyButton::clicked, this,
            [this] { choose(chosen_ ? static_cast<std::ptrdiff_t>(*chosen_) + 1 : 0); });
    const std::tuple<const char *, Qt::Key, std::optional<Doing>, QString> doings[] = {
        {"doingScan", Qt::Key_Z, Doing::scan, tr("In this stretch the boat scanned")},
        {"doingFish", Qt::Key_X, Doing::fish, tr("In this stretch somebody fished")},
        {"doingRun", Qt::Key_C, Doing::run, tr("In this stretch the boat ran from one place to another")},
        {"doingAshore", Qt::Key_V, Doing::ashore, tr("In this stretch nobody was afloat")},
        {"doingGuess", Qt::Key_B, std::nullopt, tr("As speed, turns and sonar have it")}};
    for (const auto &[name, letter, what, tip] : doings) {
        auto *k = key(name, what ? wordOf(*what) : tr("guessed"), letter, tip);
        connect(k, &KeyButton::clicked, this, [this, what] { put(what); });
        doing_keys_.push_back(k);
    }
    connect(&book_, &LogBook::changed, this, [this] { show(day_); });
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

const LogDay *DayPage::day() const {
    return day_ < book_.days().size() ? &book_.days()[day_] : nullptr;
}

void DayPage::show(std::size_t day) {
    const auto *before = this->day();
    const auto date = before != nullptr ? before->date : QString();
    if (day != day_)
        chosen_.reset();
    day_ = day;
    const auto *d = this->day();
    if (d != nullptr && isVisible())
        book_.lookInto(*d);
    if (d != nullptr && !aboard_->hasFocus())
        aboard_->setText(book_.aboard(d->date));
    layKeys();
    update();
}

void DayPage::layKeys() {
    const auto *d = day();
    const auto *afloat = d != nullptr ? book_.afloat(d->date) : nullptr;
    aboard_->setVisible(d != nullptr);
    if (afloat == nullptr || (chosen_ && *chosen_ >= afloat->spans.size()))
        chosen_.reset();
    for (auto *k : {before_, next_})
        k->setVisible(afloat != nullptr);
    for (auto *k : doing_keys_)
        k->setVisible(afloat != nullptr && chosen_);
    if (chosen_)
        for (std::size_t i = 0; i < doing_keys_.size(); ++i) {
            const auto &s = afloat->spans[*chosen_];
            doing_keys_[i]->setCheckable(true);
            doing_keys_[i]->setChecked(i < 4 ? s.by_hand && static_cast<std::size_t>(s.what) == i
                                             : !s.by_hand);
        }
}

void DayPage::choose(std::ptrdiff_t span) {
    const auto *d = day();
    const auto *afloat = d != nullptr ? book_.afloat(d->date) : nullptr;
    if (afloat == nullptr || afloat->spans.empty())
        return;
    chosen_ = static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(span, 0, std::ssize(afloat->spans) - 1));
    layKeys();
    update();
}

void DayPage::put(std::optional<Doing> what) {
    const auto *d = day();
    const auto *afloat = d != nullptr ? book_.afloat(d->date) : nullptr;
    if (afloat == nullptr || !chosen_)
        return;
    const auto span = afloat->spans[*chosen_];
    book_.putRight(d->date, span, what);
    // Stretches may have joined: the one that holds this time stays in hand.
    if (const auto *now = book_.afloat(d->date)) {
        const auto at = std::find_if(now->spans.begin(), now->spans.end(), [&](const DaySpan &s) {
            return s.from <= span.from && s.to > span.from;
        });
        if (at != now->spans.end())
            choose(at - now->spans.begin());
    }
}

QRectF DayPage::picture() const {
    return {0, head_high + tiles_high, static_cast<double>(width()), picture_high};
}

std::optional<GeoPoint> DayPage::place() const {
    const auto *d = day();
    std::optional<GeoPoint> place;
    const auto of = [&](const QString &id) {
        if (const auto *m = context_.marks.find(id); m != nullptr && m->place)
            place = m->place;
    };
    for (const auto &v : d->visits)
        of(v.mark);
    for (const auto &id : d->marks)
        of(id);
    return place;
}

// From a while before the first thing that is known to a while after the last, in steps that can be read.
DayPage::Axis DayPage::axis(const QRectF &room) const {
    const auto *d = day();
    UnixNs first = std::numeric_limits<UnixNs>::max(), last = std::numeric_limits<UnixNs>::min();
    const auto takes = [&](UnixNs from, UnixNs to) {
        if (from == 0)
            return;
        first = std::min(first, from);
        last = std::max(last, to);
    };
    for (const auto &t : d->trips)
        takes(t.started, ends(t));
    for (const auto &v : d->visits)
        takes(v.outcome.time, v.outcome.time);
    for (const auto &id : d->marks)
        if (const auto *m = context_.marks.find(id))
            takes(m->time, m->time);
    if (first > last)
        first = last = parse_rfc3339(d->date.toStdString() + "T12:00:00Z").value_or(0);
    constexpr UnixNs minute = 60 * ns_per_s;
    const double fits = std::max(3.0, room.width() / 96);
    UnixNs tick = 5 * minute;
    for (const int m : {5, 10, 15, 30, 60, 120, 180, 360}) {
        tick = m * minute;
        if (static_cast<double>(last - first) / static_cast<double>(tick) <= fits - 2)
            break;
    }
    Axis a;
    a.from = first - ((first % tick) + tick) % tick;
    a.to = last + tick - ((last % tick) + tick) % tick;
    a.tick = tick;
    a.left = room.left() + label_wide;
    a.wide = room.width() - label_wide - 24;
    return a;
}

QRectF DayPage::spanRect(std::size_t span) const {
    const auto *d = day();
    const auto *afloat = d != nullptr ? book_.afloat(d->date) : nullptr;
    if (afloat == nullptr || span >= afloat->spans.size())
        return {};
    const auto a = axis(picture());
    const auto &s = afloat->spans[span];
    return {a.x(s.from), picture().top(), std::max(2.0, a.x(s.to) - a.x(s.from)), doing_high};
}

void DayPage::mousePressEvent(QMouseEvent *event) {
    parentWidget()->setFocus();
    const auto *d = day();
    const auto *afloat = d != nullptr ? book_.afloat(d->date) : nullptr;
    if (afloat == nullptr)
        return;
    // The strip is lower than a glove: a little above and below it counts.
    for (std::size_t i = 0; i < afloat->spans.size(); ++i)
        if (spanRect(i).adjusted(0, -9, 0, 9).contains(event->position())) {
            choose(static_cast<std::ptrdiff_t>(i));
            return;
        }
    chosen_.reset();
    layKeys();
    update();
}

void DayPage::resizeEvent(QResizeEvent *) {
    const int aboard = std::min(280, width() / 3);
    aboard_->setGeometry(width() - aboard, 2, aboard, 44);
    const int y = head_high + tiles_high + picture_high;
    before_->setGeometry(0, y, step_keys_wide / 2 - 6, 46);
    next_->setGeometry(step_keys_wide / 2, y, step_keys_wide / 2 - 6, 46);
    const int each = std::min(132, (width() - step_keys_wide) / static_cast<int>(doing_keys_.size()));
    int x = step_keys_wide + 6;
    for (auto *k : doing_keys_) {
        k->setGeometry(x, y, each - 6, 46);
        x += each;
    }
}

QString DayPage::visitWords(const LogDay::Visit &v) const {
    const auto *m = context_.marks.find(v.mark);
    auto line = QStringLiteral("%1 UTC · %2 · %3")
                    .arg(clockOf(v.outcome.time),
                         m != nullptr ? capital(QString::fromStdString(plain_name(*m))) : tr("a mark"),
                         wordOf(v.outcome.what));
    if (!v.outcome.species.empty())
        line += QStringLiteral(" · ") + QString::fromStdString(v.outcome.species);
    if (v.outcome.length_m)
        line += QStringLiteral(" · ") +
                (context_.session.preferences.units() == UnitSystem::feet
                     ? tr("%1 in").arg(feet_from_metres(*v.outcome.length_m) * 12, 0, 'f', 1)
                     : tr("%1 cm").arg(std::lround(*v.outcome.length_m * 100)));
    if (m != nullptr && m->place && v.outcome.time != 0)
        line += QStringLiteral(" · ") +
                QString::fromLatin1(name_of(daylight_at(*m->place, v.outcome.time)).data());
    return line;
}

QString DayPage::settingsWords(const SettingsTried &t) const {
    const auto range =
        QString::fromStdString(print_length(t.range_m, context_.session.preferences.units(), 0).text());
    return (t.too_few ? tr("%1 each side · %2 kHz: too few to say (%3 of %4)")
                      : tr("%1 each side · %2 kHz: %3 of %4 borne out"))
        .arg(range)
        .arg(std::lround(t.frequency_hz / 1000))
        .arg(t.borne_out)
        .arg(t.looked);
}

// When, what, where; conditions first.
QStringList DayPage::lines() const {
    QStringList lines;
    const auto *d = day();
    if (d == nullptr)
        return lines;
    QStringList conditions;
    for (const auto *c :
         {&d->conditions.wind, &d->conditions.sky, &d->conditions.clarity, &d->conditions.level})
        if (!c->empty())
            conditions << QString::fromStdString(*c);
    lines << (conditions.isEmpty() ? tr("No conditions are written down")
                                   : conditions.join(QStringLiteral(", ")));
    if (const auto who = book_.aboard(d->date); !who.isEmpty())
        lines << tr("Aboard: %1").arg(who);
    if (const auto *afloat = book_.afloat(d->date))
        for (const auto &s : afloat->spans)
            lines << tr("%1 to %2 UTC · %3").arg(clockOf(s.from), clockOf(s.to), wordOf(s.what));
    else
        for (const auto &t : d->trips)
            lines << tr("%1 to %2 UTC · afloat").arg(clockOf(t.started), clockOf(ends(t)));
    for (const auto &v : d->visits)
        lines << visitWords(v);
    if (!d->marks.empty())
        lines << tr("%1 made").arg(counted(d->marks.size(), tr("mark"), tr("marks")));
    return lines;
}

void DayPage::paintConditions(QPainter &p, const QRectF &room) const {
    const auto *d = day();
    const auto units = context_.session.preferences.units();
    std::vector<std::pair<QString, QString>> tiles;
    if (const auto where = place()) {
        // The sun over the horizon, to the minute.
        const auto midnight = parse_rfc3339(d->date.toStdString() + "T00:00:00Z").value_or(0);
        std::optional<UnixNs> up, down;
        bool was = sun_at(*where, midnight).elevation_deg > 0;
        for (int minute = 1; minute <= 1440; ++minute) {
            const auto t = midnight + minute * 60LL * ns_per_s;
            const bool is = sun_at(*where, t).elevation_deg > 0;
            if (is && !was)
                up = t;
            if (!is && was)
                down = t;
            was = is;
        }
        tiles.emplace_back(tr("Sun, UTC"), up && down ? tr("%1 to %2").arg(clockOf(*up), clockOf(*down))
                                           : was      ? tr("up all day")
                                                      : tr("down all day"));
    }
    for (const auto &[name, value] : {std::pair{tr("Wind"), &d->conditions.wind},
                                      {tr("Sky"), &d->conditions.sky},
                                      {tr("Clarity"), &d->conditions.clarity},
                                      {tr("Level"), &d->conditions.level}})
        if (!value->empty())
            tiles.emplace_back(name, QString::fromStdString(*value));
    if (d->temperature_c)
        tiles.emplace_back(tr("Water"),
                           QString::fromStdString(print_temperature(*d->temperature_c, units).text()));
    if (d->conditions.wind.empty() && d->conditions.sky.empty() && d->conditions.clarity.empty())
        tiles.emplace_back(tr("Conditions"), tr("not written down"));
    const double each = std::min(170.0, room.width() / static_cast<double>(tiles.size()));
    double x = room.left();
    for (const auto &[name, value] : tiles) {
        if (x > room.left()) {
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
    const double knots = std::max(2.0, fastest * 1.1);
    const auto v = [&](double m_s) { return speed.bottom() - m_s / knots * speed.height(); };
    p.setFont(Theme::instance().font(13));
    p.setPen(ink("ink2"));
    p.drawText(QPointF(depth.left(), depth.top() + 12), feet ? tr("depth, ft") : tr("depth, m"));
    p.drawText(QPointF(speed.left(), speed.top() + 10), tr("speed"));
    p.setFont(Theme::instance().font(12));
    p.drawText(QRectF(speed.left(), speed.bottom() - 18, label_wide - 8, 16), Qt::AlignRight,
               QString::fromStdString(print_speed(knots, units, 0).text()));
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
    p.setFont(Theme::instance().font(12));
    p.setPen(ink("ink2"));
    p.drawText(QPointF(a.left, room.top() + 36),
               tr("UTC · full lens: a fish, ring: a bite, dash: none · dashed: ashore · bold: said by hand"));
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

void DayPage::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    const auto *d = day();
    if (d == nullptr)
        return;
    const auto date = QLocale().toString(QDate::fromString(d->date, Qt::ISODate), QLocale::LongFormat);
    const double room = aboard_->x() - 16.0;
    wordsWithin(p, 0, 20, date, room, 20, true, "ink");
    QStringList parts = d->waters;
    const auto *afloat = book_.afloat(d->date);
    if (!d->trips.empty()) {
        const auto first = std::min_element(d->trips.begin(), d->trips.end(),
                                            [](auto &a, auto &b) { return a.started < b.started; });
        const auto last = std::max_element(d->trips.begin(), d->trips.end(),
                                           [](auto &a, auto &b) { return ends(a) < ends(b); });
        parts << tr("%1 to %2").arg(clockOf(first->started), clockOf(ends(*last)));
    }
    if (afloat != nullptr && afloat->run_m > 0)
        parts << runWords(afloat->run_m, context_.session.preferences.units());
    if (!d->marks.empty())
        parts << counted(d->marks.size(), tr("mark"), tr("marks"));
    wordsWithin(p, 0, 42, parts.join(QStringLiteral(" · ")), room, 14, false, "ink2");
    paintConditions(p, {0, head_high, static_cast<double>(width()), tiles_high});
    paintAfloat(p, picture(), [](const char *meaning) { return colour(meaning); });
    double y = picture().bottom();
    if (afloat != nullptr) {
        if (!chosen_)
            wordsWithin(p, step_keys_wide + 10, y + 29,
                        tr("Press a stretch of what the boat was at to put it right."),
                        width() - step_keys_wide - 14.0, 14, false, "ink2");
        y += keys_high;
    }
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(QPointF(0, y + 2), QPointF(width(), y + 2));
    y += 10;
    const double half = width() / 2.0 - 12;
    paintVisits(p, {0, y, half, height() - y});
    paintSettings(p, {half + 24, y, half, height() - y});
}

} // namespace heron::app
