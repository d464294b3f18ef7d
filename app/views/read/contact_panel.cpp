#include "views/read/contact_panel.hpp"

#include "kit/counted.hpp"
#include "kit/glyphs.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"
#include "look/why_so.hpp"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr int tabs = 56, margin = 8;
constexpr int plan_height = 412;

QString named(Kind kind) {
    return kind == Kind::none ? ContactPanel::tr("nothing: the ground itself") : wordFor(kind);
}
QString glyphOf(Kind kind) {
    return contactGlyph(Family::none, kind);
}

} // namespace

ContactPanel::ContactPanel(ViewContext &context, QWidget *parent)
    : QWidget(parent), context_(context), reader_(context.reader), planner_(context.planner),
      read_(&context.reader) {
    what_ =
        addKey("pageWhat", QString(), tr("What"), Qt::Key_Q, tr("What it may be, and what would settle it"));
    why_ = addKey("pageWhy", QString(), tr("Why"), Qt::Key_Y, tr("Why does it look like this?"));
    fish_ = addKey("pageFish", QStringLiteral("family-fish"), QString(), Qt::Key_W,
                   tr("Where the fish are now; fish it or leave it"));
    pick_ =
        addKey("pagePick", QString(), tr("It is"), Qt::Key_K, tr("Say what it is: kept, and learnt from"));
    const std::pair<KeyButton *, Page> pages[] = {
        {what_, Page::what}, {why_, Page::why}, {fish_, Page::fish}, {pick_, Page::pick}};
    for (const auto &[key, page] : pages) {
        key->setCheckable(true);
        connect(key, &KeyButton::clicked, this, [this, page = page] { setPage(page); });
    }
    run_ = addKey("runSecondLook", QStringLiteral("act-second_look"), tr("Run the second look"), Qt::Key_R,
                  tr("Steer along this line: the cue stands in Scan"));
    run_->setPrimary(true);
    connect(run_, &KeyButton::clicked, this, [this] {
        if (!contact_ || !plan_)
            return;
        planner_.begin(*contact_, *plan_);
        emit runAsked();
    });
    hour_ =
        addKey("lastHour", QString(), tr("Last hour"), Qt::Key_H, tr("Only what was seen in the last hour"));
    hour_->setCheckable(true);
    connect(hour_, &KeyButton::clicked, this, [this](bool on) {
        last_hour_ = on;
        compute();
    });
    shorter_ = addKey("shorterFish", QString(), QStringLiteral("−"), Qt::Key_Minus, tr("A smaller fish"));
    longer_ = addKey("longerFish", QString(), QStringLiteral("+"), Qt::Key_Equal, tr("A larger fish"));
    const auto size = [this](double by) {
        return [this, by] {
            // In steps that read round: five centimetres, or two inches.
            const double step =
                context_.session.preferences.units() == UnitSystem::feet ? metres_from_feet(1.0 / 6) : 0.05;
            planner_.setFishLength(std::round(planner_.fishLength() / step + by) * step);
            compute();
        };
    };
    connect(shorter_, &KeyButton::clicked, this, size(-1));
    connect(longer_, &KeyButton::clicked, this, size(1));
    take_back_ = addKey("takeBack", QStringLiteral("act-undo"), tr("Take back"), Qt::Key_U,
                        tr("Take your last word back"));
    connect(take_back_, &KeyButton::clicked, this, [this] {
        reader_.takeBack();
        emit corrected();
    });
    weigh_ = addKey("weighWords", QString(), tr("Learn"), Qt::Key_L,
                    tr("Weigh the naming by what you said on this water, or name as shipped"));
    weigh_->setCheckable(true);
    connect(weigh_, &KeyButton::clicked, this, [this](bool on) { reader_.setWeighs(on); });
    for (std::size_t k = 0; k < kind_count; ++k) {
        const auto kind = static_cast<Kind>(k);
        auto *key = new KeyButton(glyphOf(kind), kind == Kind::none ? tr("nothing") : named(kind),
                                  QKeySequence(), tr("It is: %1").arg(named(kind)), this);
        const auto name = name_of(kind);
        key->setObjectName(QStringLiteral("it_is_") +
                           QString::fromUtf8(name.data(), static_cast<qsizetype>(name.size())));
        connect(key, &KeyButton::clicked, this, [this, kind] { say(kind); });
        kinds_.emplace_back(kind, key);
    }
    // "Nothing" stands last.
    std::rotate(kinds_.begin(), kinds_.begin() + 1, kinds_.end());
    connect(&reader_, &ContactReader::contactsChanged, this, [this] {
        if (isVisible())
            compute();
    });
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, &ContactPanel::compute);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
    setPage(Page::what);
}

KeyButton *ContactPanel::addKey(const char *name, const QString &glyph, const QString &text,
                                const QKeySequence &letter, const QString &tip) {
    auto *key = new KeyButton(glyph, text, letter, tip, this);
    key->setObjectName(QString::fromLatin1(name));
    return key;
}

QString ContactPanel::length(double m, int decimals) const {
    return QString::fromStdString(print_length(m, context_.session.preferences.units(), decimals).text());
}

void ContactPanel::show(const Contact *contact, ReadContacts &read) {
    const bool same = &read == read_ && contact != nullptr && contact_ && contact_->row == contact->row &&
                      contact_->side == contact->side && contact_->chances == contact->chances &&
                      contact_->looks == contact->looks;
    read_ = &read;
    contact_.reset();
    if (contact != nullptr)
        contact_ = *contact;
    if (!same)
        compute();
}

void ContactPanel::setPage(Page page) {
    page_ = page;
    what_->setChecked(page == Page::what);
    why_->setChecked(page == Page::why);
    fish_->setChecked(page == Page::fish);
    pick_->setChecked(page == Page::pick);
    compute();
}

// Only what the page shows is computed.
void ContactPanel::compute() {
    plan_.reset();
    worth_.reset();
    reasons_.clear();
    if (isVisible() && contact_ && read_->stream().scan().holds(contact_->row)) {
        if (page_ == Page::what && !circle())
            plan_ = planner_.plan(*contact_);
        if (page_ == Page::why)
            reasons_ = why_so(read_->stream().scan(), *contact_, planner_.gear(),
                              context_.session.preferences.units());
        if (page_ == Page::fish && contact_->family != Family::fish && !circle())
            worth_ = planner_.fishOrLeave(*contact_);
    }
    if (isVisible() && page_ == Page::fish)
        tally_ = planner_.tally(last_hour_);
    layOut();
    update();
}

void ContactPanel::say(Kind kind) {
    if (!contact_ || !reader_.correct(*contact_, kind))
        return;
    context_.session.notices.say(QStringLiteral("corrected"),
                                 kind == Kind::none
                                     ? tr("Taken out: nothing but the ground. U takes it back.")
                                     : tr("Kept: %1. U takes it back.").arg(named(kind)));
    setPage(Page::what);
    emit corrected();
}

void ContactPanel::resizeEvent(QResizeEvent *) {
    layOut();
}
void ContactPanel::showEvent(QShowEvent *) {
    compute();
}

void ContactPanel::layOut() {
    const int w = width() - 2 * margin;
    const int each = (w - 3 * 4) / 4;
    int x = margin;
    for (auto *k : {what_, why_, fish_, pick_}) {
        k->setGeometry(x, 4, each, 48);
        x += each + 4;
    }
    run_->setVisible(page_ == Page::what && plan_.has_value() && !planner_.run());
    run_->setGeometry(margin, height() - 76, w, 60);
    const bool fish = page_ == Page::fish;
    for (auto *k : {hour_, shorter_, longer_})
        k->setVisible(fish);
    hour_->setChecked(last_hour_);
    hour_->setGeometry(margin + w - 120, tabs + 4, 120, 44);
    shorter_->setGeometry(margin + w - 100, height() - 60, 48, 48);
    longer_->setGeometry(margin + w - 48, height() - 60, 48, 48);
    const bool picking = page_ == Page::pick;
    const int rows = static_cast<int>(kinds_.size() + 1) / 2, half = (w - 6) / 2;
    // In a low window as small as a glove hits, so that what stands under them is there whole.
    constexpr int low_window = 720;
    const int high = height() < low_window ? 44 : 48, step = high + (height() < low_window ? 3 : 4);
    for (int i = 0; i < static_cast<int>(kinds_.size()); ++i) {
        auto *k = kinds_[static_cast<std::size_t>(i)].second;
        k->setVisible(picking);
        k->setEnabled(contact_.has_value() && !circle());
        k->setGeometry(margin + (i % 2) * (half + 6), tabs + 34 + (i / 2) * step, half, high);
    }
    take_back_->setVisible(picking);
    weigh_->setVisible(picking);
    const int y = tabs + 34 + rows * step + 8;
    take_back_->setEnabled(reader_.canTakeBack());
    take_back_->setGeometry(margin, y, half, high);
    weigh_->setChecked(reader_.weighs());
    weigh_->setGeometry(margin + half + 6, y, half, high);
}

double ContactPanel::wrapped(QPainter &p, double x, double y, const QString &words, int px, bool bold,
                             const char *ink, double end) {
    p.setFont(Theme::instance().font(px, bold));
    p.setPen(colour(ink));
    const QRectF room(x, y, width() - margin - x, std::max(0.0, std::min(400.0, end - y)));
    QRectF used;
    p.drawText(room, Qt::TextWordWrap, words, &used);
    said_ << words;
    return std::min(used.bottom(), end);
}

double ContactPanel::paintLikely(QPainter &p, double y) {
    const auto text = wordsOn(p);
    const auto &c = *contact_;
    const int x0 = margin, x1 = width() - margin;
    if (c.said) {
        paintGlyph(p, glyphOf(*c.said), QRectF(x0, y, 28, 28), colour("ink"));
        text(x0 + 38, y + 18, tr("%1: you said so").arg(named(*c.said)), 15, true, "ink");
        said_ << tr("%1: you said so").arg(named(*c.said));
        return y + 44;
    }
    std::vector<std::pair<double, Kind>> likely;
    for (std::size_t k = 0; k < kind_count; ++k)
        likely.emplace_back(c.chances[k], static_cast<Kind>(k));
    std::sort(likely.rbegin(), likely.rend());
    for (int i = 0; i < 3 && likely[static_cast<std::size_t>(i)].first > 0.02; ++i) {
        const auto &[chance, kind] = likely[static_cast<std::size_t>(i)];
        paintGlyph(p, glyphOf(kind), QRectF(x0, y, 28, 28), colour("ink"));
        p.setFont(Theme::instance().font(14, true));
        const auto number = tr("%1 in 100").arg(std::lround(100 * chance));
        const int room = x1 - x0 - 38 - p.fontMetrics().horizontalAdvance(number) - 8;
        wordsWithin(p, x0 + 38, y + 16, named(kind), room, 15, i == 0, "ink");
        p.setFont(Theme::instance().font(14, true));
        p.drawText(QPointF(x1 - p.fontMetrics().horizontalAdvance(number), y + 16), number);
        said_ << named(kind) + QLatin1Char(' ') + number;
        p.setPen(QPen(colour("ink"), 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(x0 + 38.5, y + 22.5, x1 - x0 - 39, 6));
        p.fillRect(QRectF(x0 + 38, y + 22, (x1 - x0 - 38) * chance, 7), colour("ink"));
        y += 40;
    }
    return y;
}

double ContactPanel::paintReasons(QPainter &p, double y, double end) {
    const auto text = wordsOn(p);
    p.setPen(QPen(colour("hair"), 1));
    p.drawLine(QPointF(margin, y), QPointF(width() - margin, y));
    y += 8;
    auto told = *contact_;
    give_reasons(told, context_.session.preferences.units());
    const auto reason = [&](const std::string &words, bool speaks_for) {
        // Whole or not at all.
        if (y + paragraphHeight(Theme::instance().font(14), width() - 2 * margin - 20,
                                QString::fromStdString(words)) >
            end)
            return;
        text(margin, y + 15, speaks_for ? QStringLiteral("+") : QStringLiteral("−"), 17, true,
             speaks_for ? "reed" : "accent");
        y = wrapped(p, margin + 20, y, capital(QString::fromStdString(words)), 14, false, "ink", end) + 5;
    };
    for (const auto &r : told.reasons)
        reason(r, true);
    for (const auto &r : told.doubts)
        reason(r, false);
    // Why the place is good, where the chart reaches there.
    if (const auto facts = context_.spots.of(*contact_)) {
        const auto lines = context_.spots.words(*facts);
        if (!lines.isEmpty() &&
            y + 2 +
                    paragraphHeight(Theme::instance().font(14, true), width() - 2 * margin,
                                    lines.join(QStringLiteral(", "))) <=
                end)
            y = wrapped(p, margin, y + 2, capital(lines.join(QStringLiteral(", "))), 14, true, "ink", end) +
                5;
    }
    return y;
}

// The line to run over the line that was run, north up, and what to set; what each answer would look like.
// The first pass, dashed, and the line to run, about the thing.
void ContactPanel::paintPassMap(QPainter &p, const QRectF &map) const {
    const auto &l = *plan_;
    p.fillRect(map, colour("water"));
    p.save();
    p.setClipRect(map);
    const double scale = 80 / std::max(24.0, 2.4 * std::max(l.ground_m, contact_->ground_m.value));
    const QPointF thing = map.center();
    const LocalPlane plane(l.thing);
    const auto at = [&](const GeoPoint &g) {
        const auto q = plane.to_plane(g);
        return thing + QPointF(q.east_m * scale, -q.north_m * scale);
    };
    const double first = contact_->heading_deg.value_or(0) / degrees_per_radian;
    const QPointF ahead(std::sin(first), -std::cos(first)), right(std::cos(first), std::sin(first));
    const QPointF abeam =
        thing + right * (contact_->ground_m.value * scale * (contact_->side == Side::port ? 1 : -1));
    p.setPen(QPen(colour("ink2"), 1.2, Qt::DashLine));
    p.drawLine(abeam - ahead * 300, abeam + ahead * 300);
    p.setPen(QPen(colour("accent"), 2.5));
    const auto a = at(l.start), b = at(l.end);
    p.drawLine(a, b);
    const QPointF along = (b - a) / std::max(1.0, std::hypot(b.x() - a.x(), b.y() - a.y()));
    const QPointF across(-along.y(), along.x());
    const QPointF tip = (a + b) / 2 + along * 30;
    p.drawPolyline(QPolygonF({tip - along * 10 + across * 6, tip, tip - along * 10 - across * 6}));
    p.setPen(Qt::NoPen);
    p.setBrush(colour("ink"));
    p.drawEllipse(thing, 5, 5);
    p.restore();
    wordsOn(p)(map.left() + 6, map.top() + 16, tr("north up"), 12, false, "ink2");
}

void ContactPanel::paintPlan(QPainter &p, double y) {
    auto &theme = Theme::instance();
    const auto text = wordsOn(p);
    const int x0 = margin, w = width() - 2 * margin;
    p.setPen(QPen(colour("accent"), 1.5));
    p.drawLine(QPointF(x0, y), QPointF(x0 + w, y));
    paintGlyph(p, QStringLiteral("act-second_look"), QRectF(x0, y + 6, 26, 26), colour("ink"));
    const auto title = planner_.run()                   ? tr("The second look is on")
                       : plan_ && plan_->settles < 0.05 ? tr("A second look hardly settles it")
                       : plan_ ? tr("A second look settles it %1 in 10").arg(std::lround(10 * plan_->settles))
                               : tr("No second look");
    wordsWithin(p, x0 + 32, y + 25, title, w - 32, 15, true, "ink");
    said_ << title;
    y += 40;
    if (!plan_) {
        wrapped(p, x0, y,
                circle() ? tr("Each turn of the head is another look; come round it to see its other sides.")
                : planner_.run() ? tr("Scan shows how to steer; Escape there ends it.")
                : contact_->said ? tr("You said what it is.")
                : contact_->zone == Zone::track
                    ? tr("Cross it again beside this track: two crossings tell which way it runs.")
                : !contact_->place
                    ? tr("Its place is not known, so no line can be laid to it.")
                    : tr("No pass would make it surer by two in a hundred, or none keeps off what "
                         "reaches near the surface."),
                14, false, "ink2");
        return;
    }
    const auto &l = *plan_;
    const QRectF map(x0, y, w, 92);
    paintPassMap(p, map);
    y = map.bottom() + 6;
    const auto row = [&](const QString &label, const QString &words) {
        text(x0, y + 14, label, 13, false, "ink2");
        said_ << label;
        y = wrapped(p, x0 + 40, y, words, 14, label == tr("Pass") || label == tr("Set"), "ink") + 4;
    };
    row(tr("Pass"),
        l.over ? tr("straight over it, heading %1").arg(QString::fromStdString(print_bearing(l.heading_deg)))
               : tr("heading %1, %2 off, the thing on the %3")
                     .arg(QString::fromStdString(print_bearing(l.heading_deg)), length(l.ground_m),
                          l.side == Side::port ? tr("left") : tr("right")));
    const auto &bands = planner_.gear().bands;
    row(tr("Set"),
        tr("%1 · %2 kHz · %3")
            .arg(length(l.setting.range_m))
            .arg(std::lround(bands[std::min(l.setting.band, bands.size() - 1)].frequency_hz / 1000))
            .arg(QString::fromStdString(
                print_speed(l.setting.speed_m_s, context_.session.preferences.units()).text())));
    row(tr("Gain"), tr("truth gets %1 in 100, now %2")
                        .arg(std::lround(100 * l.sure_then))
                        .arg(std::lround(100 * l.sure_now)));
    for (const auto &e : l.expected)
        row(tr("If a"), tr("%1: %2").arg(named(e.kind), QString::fromStdString(e.looks)));
    p.setFont(theme.font(13));
    wrapped(p, x0, y + 2, tr("Look out first: nobody sounded this line."), 13, false, "ink2");
}

void ContactPanel::paintWhy(QPainter &p) {
    const auto text = wordsOn(p);
    double y = tabs + 24;
    text(margin, y, tr("Why does it look like this?"), 17, true, "ink");
    y += 14;
    for (const auto &r : reasons_)
        y = wrapped(p, margin, y, capital(QString::fromStdString(r)), 15, false, "ink", height() - 8) + 12;
}

void ContactPanel::paintFish(QPainter &p) {
    const auto text = wordsOn(p);
    double y = tabs + 32;
    text(margin, y, tr("Fish now"), 17, true, "ink");
    y = paintTally(p, y + 24);
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(QPointF(margin, y + 4), QPointF(width() - margin, y + 4));
    y += 30;
    text(margin, y, tr("Fish it or leave it"), 17, true, "ink");
    paintWorth(p, y + 10);
    text(margin, height() - 40, tr("A fish of"), 13, false, "ink2");
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    text(margin, height() - 18,
         feet ? tr("%1 in").arg(std::lround(planner_.fishLength() / metres_per_foot * 12))
              : tr("%1 cm").arg(std::lround(planner_.fishLength() * 100)),
         20, true, "ink");
}

// How many fish, on which side, how far and how deep; where it ends.
double ContactPanel::paintTally(QPainter &p, double y) {
    const auto text = wordsOn(p);
    const int w = width() - 2 * margin;
    // Left and right of the boat, at a glance.
    const int most = std::max({1, tally_.left, tally_.right});
    const double middle = margin + w / 2.0;
    p.setPen(QPen(colour("ink"), 1.5));
    p.drawLine(QPointF(middle, y), QPointF(middle, y + 34));
    p.fillRect(
        QRectF(middle - (w / 2.0 - 30) * tally_.left / most, y + 6, (w / 2.0 - 30) * tally_.left / most, 22),
        colour("reed"));
    p.fillRect(QRectF(middle, y + 6, (w / 2.0 - 30) * tally_.right / most, 22), colour("reed"));
    text(margin, y + 23, QString::number(tally_.left), 17, true, "ink");
    const auto right = QString::number(tally_.right);
    p.setFont(Theme::instance().font(17, true));
    p.drawText(QPointF(width() - margin - p.fontMetrics().horizontalAdvance(right), y + 23), right);
    y += 44;
    y = wrapped(p, margin, y, capital(QString::fromStdString(tally_.counts)), 14, false, "ink") + 8;
    if (tally_.seen >= 4) {
        y = wrapped(p, margin, y,
                    tr("The middle of them %1 to %2 aside, over %3 to %4 of water.")
                        .arg(length(tally_.aside_low_m), length(tally_.aside_high_m),
                             length(tally_.depth_low_m), length(tally_.depth_high_m)),
                    14, false, "ink") +
            8;
        y = wrapped(p, margin, y, capital(QString::fromStdString(tally_.leans)) + QLatin1Char('.'), 15, true,
                    "ink") +
            8;
        if (!tally_.offer.empty())
            y = wrapped(p, margin, y, QString::fromStdString(tally_.offer) + QLatin1Char('.'), 15, true,
                        "accent") +
                8;
    }
    return y;
}

// Whether fish are at the structure asked about, look by look.
void ContactPanel::paintWorth(QPainter &p, double y) {
    const double end = height() - 70;
    if (!contact_ || contact_->family == Family::fish) {
        wrapped(p, margin, y, tr("Pick a structure to ask about."), 14, false, "ink2");
    } else if (worth_) {
        const auto &q = *worth_;
        const auto answer = q.answer == FishThere::yes              ? tr("Fish are there")
                            : q.answer == FishThere::perhaps        ? tr("Perhaps: a grain in it may be one")
                            : q.answer == FishThere::gone           ? tr("Was there before, gone now")
                            : q.answer == FishThere::probably_empty ? tr("Probably empty")
                                                                    : tr("Not looked at well enough");
        y = wrapped(p, margin, y, answer, 20, true, "ink") + 4;
        for (const auto &l : q.looks) {
            const auto look =
                tr("%1 UTC, %2 off")
                    .arg(QString::fromStdString(
                             print_rfc3339(context_.session.shown.scan().facts(l.look.row).time, 0))
                             .mid(11, 5),
                         length(l.look.ground_m));
            y = wrapped(p, margin, y,
                        l.fish        ? tr("%1: fish beside it").arg(look)
                        : l.grain > 0 ? tr("%1: a grain in it, a fish %2 times in 100")
                                            .arg(look)
                                            .arg(std::lround(100 * l.grain))
                                      : tr("%1: none; one would have shown %2 times in 100")
                                            .arg(look)
                                            .arg(std::lround(100 * l.chance)),
                        14, false, "ink", end) +
                4;
        }
        if (q.answer != FishThere::yes && q.answer != FishThere::perhaps)
            y = wrapped(p, margin, y,
                        q.more_looks > 0 ? tr("Together %1 in 100. %2 like the best would tell.")
                                               .arg(std::lround(100 * q.chance))
                                               .arg(counted(static_cast<std::size_t>(q.more_looks),
                                                            tr("more look"), tr("more looks")))
                                         : tr("Together %1 in 100.").arg(std::lround(100 * q.chance)),
                        14, true, "ink", end) +
                4;
        wrapped(p, margin, y,
                q.answer == FishThere::perhaps
                    ? tr("That chance holds where every second tree has fish in it.")
                    : tr("For eyes and program alike; fish in wood hide among its twigs."),
                13, false, "ink2", end);
    }
}

void ContactPanel::paintPick(QPainter &p) {
    const auto text = wordsOn(p);
    text(margin, tabs + 24, tr("It is"), 17, true, "ink");
    double y = take_back_->geometry().bottom() + 12;
    const auto words = reader_.wordsHere();
    auto here = context_.session.trip.water();
    if (here.isEmpty() || context_.session.preferences.inCompany())
        here = tr("this water");
    if (circle())
        wrapped(p, margin, y,
                tr("The naming learns from what the sides showed: say it there, or in the mark's story."), 14,
                false, "ink2");
    else if (words == 0)
        wrapped(p, margin, y,
                tr("What you say is kept with the contact, and the naming on %1 learns from it.").arg(here),
                14, false, "ink2");
    else if (!reader_.weighs())
        wrapped(p, margin, y,
                tr("%1 kept for %2; the naming is as shipped.")
                    .arg(counted(words, tr("word"), tr("words")), here),
                14, false, "ink2");
    else
        wrapped(p, margin, y,
                tr("Weighed by %1 for %2: %3 here named otherwise than as shipped.")
                    .arg(counted(words, tr("word"), tr("words")), here,
                         counted(static_cast<std::size_t>(reader_.namedOtherwise()), tr("contact"),
                                 tr("contacts"))),
                14, false, "ink2");
}

void ContactPanel::paintEvent(QPaintEvent *) {
    QPainter p(this);
    said_.clear();
    p.fillRect(rect(), colour("page"));
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(0, 0, 0, height());
    p.setRenderHint(QPainter::Antialiasing);
    if (page_ == Page::fish) {
        paintFish(p);
        return;
    }
    if (page_ == Page::pick) {
        paintPick(p);
        return;
    }
    if (!contact_)
        return;
    if (page_ == Page::why) {
        paintWhy(p);
        return;
    }
    const double y = paintLikely(p, tabs + 12);
    const double plan_from = height() - (plan_ ? plan_height + 20 : 140);
    paintReasons(p, y + 2, plan_from - 6);
    paintPlan(p, plan_from);
}

} // namespace heron::app
