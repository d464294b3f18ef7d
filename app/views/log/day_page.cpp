#include "views/log/day_page.hpp"

#include "kit/counted.hpp"
#include "kit/day_words.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/paragraph.hpp"
#include "kit/run_words.hpp"
#include "kit/theme.hpp"
#include "story/sun.hpp"
#include "views/log/conditions_form.hpp"

#include <QMouseEvent>
#include <algorithm>
#include <cmath>
#include <utility>

namespace heron::app {

QString DayPage::clockOf(UnixNs time) {
    return QString::fromStdString(print_rfc3339(time, 0)).mid(11, 5);
}

QString DayPage::wordOf(Outcome::What what) {
    switch (what) {
    case Outcome::What::looked:
        return tr("looked");
    case Outcome::What::fished:
        return tr("fished, no bite");
    case Outcome::What::bite:
        return tr("bite");
    case Outcome::What::landed:
        break;
    }
    return tr("fish");
}

QString DayPage::wordOf(Doing doing) {
    switch (doing) {
    case Doing::scan:
        return tr("scan");
    case Doing::fish:
        return tr("fish");
    case Doing::run:
        return tr("run");
    case Doing::ashore:
        break;
    }
    return tr("ashore");
}

UnixNs DayPage::endOf(const TripSummary &trip) {
    return trip.started + static_cast<UnixNs>(trip.seconds * 1e9);
}

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
        if (!date_.isEmpty())
            book_.setAboard(date_, aboard_->text());
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
    conditions_ = key("dayConditions", tr("Conditions"), Qt::Key_D,
                      tr("Write down wind, sky, clarity, level and temperature of this day"));
    conditions_->setCheckable(true);
    form_ = new ConditionsForm(context_, book_, this);
    form_->hide();
    connect(conditions_, &KeyButton::toggled, form_, [this](bool on) {
        form_->setVisible(on);
        parentWidget()->setFocus();
    });
    connect(&book_, &LogBook::changed, this, [this] { show(day_); });
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

const LogDay *DayPage::day() const {
    return day_ < book_.days().size() ? &book_.days()[day_] : nullptr;
}

void DayPage::show(std::size_t day) {
    const auto *d = day < book_.days().size() ? &book_.days()[day] : nullptr;
    const auto date = d != nullptr ? d->date : QString();
    const bool other = date != date_;
    // What was typed belongs to the day before which it was typed.
    const auto typed_of = std::exchange(date_, date);
    day_ = day;
    if (other)
        chosen_.reset();
    if (other && aboard_->hasFocus() && !typed_of.isEmpty())
        book_.setAboard(typed_of, aboard_->text());
    if (d != nullptr && isVisible())
        book_.lookInto(*d);
    if (d != nullptr && (other || !aboard_->hasFocus()))
        aboard_->setText(book_.aboard(date));
    if (d != nullptr)
        form_->show(date, d->conditions);
    layKeys();
    update();
}

void DayPage::layKeys() {
    const auto *d = day();
    const auto *afloat = d != nullptr ? book_.afloat(d->date) : nullptr;
    aboard_->setVisible(d != nullptr);
    conditions_->setVisible(d != nullptr);
    if (d == nullptr)
        conditions_->setChecked(false);
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
        takes(t.started, endOf(t));
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
    conditions_->setGeometry(width() - conditions_wide, head_high + 2, conditions_wide, 46);
    form_->setGeometry(0, head_high + tiles_high, width(), picture_high);
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
    const auto units = context_.session.preferences.units();
    if (d->conditions.level_m)
        conditions << tr("lake at %1")
                          .arg(QString::fromStdString(print_length(*d->conditions.level_m, units, 1).text()));
    if (d->conditions.temperature_c)
        conditions << tr("water %1")
                          .arg(QString::fromStdString(
                              print_temperature(*d->conditions.temperature_c, units).text()));
    lines << (conditions.isEmpty() ? tr("No conditions are written down")
                                   : conditions.join(QStringLiteral(", ")));
    if (const auto who = book_.aboard(d->date); !who.isEmpty())
        lines << tr("Aboard: %1").arg(who);
    if (const auto *afloat = book_.afloat(d->date))
        for (const auto &s : afloat->spans)
            lines << tr("%1 to %2 UTC · %3").arg(clockOf(s.from), clockOf(s.to), wordOf(s.what));
    else
        for (const auto &t : d->trips)
            lines << tr("%1 to %2 UTC · afloat").arg(clockOf(t.started), clockOf(endOf(t)));
    for (const auto &v : d->visits)
        lines << visitWords(v);
    if (!d->marks.empty())
        lines << tr("%1 made").arg(counted(d->marks.size(), tr("mark"), tr("marks")));
    return lines;
}

void DayPage::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    const auto *d = day();
    if (d == nullptr)
        return;
    const auto date = dayInWords(QDate::fromString(d->date, Qt::ISODate));
    const double room = aboard_->x() - 16.0;
    wordsWithin(p, 0, 20, date, room, 20, true, "ink");
    QStringList parts = d->waters;
    const auto *afloat = book_.afloat(d->date);
    if (!d->trips.empty()) {
        const auto first = std::min_element(d->trips.begin(), d->trips.end(),
                                            [](auto &a, auto &b) { return a.started < b.started; });
        const auto last = std::max_element(d->trips.begin(), d->trips.end(),
                                           [](auto &a, auto &b) { return endOf(a) < endOf(b); });
        parts << tr("%1 to %2 UTC").arg(clockOf(first->started), clockOf(endOf(*last)));
    }
    if (afloat != nullptr && afloat->run_m > 0)
        parts << runWords(afloat->run_m, context_.session.preferences.units());
    if (!d->marks.empty())
        parts << counted(d->marks.size(), tr("mark"), tr("marks"));
    wordsWithin(p, 0, 42, parts.join(QStringLiteral(" · ")), room, 14, false, "ink2");
    paintConditions(p, {0, head_high, width() - conditions_wide - 16.0, tiles_high});
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
