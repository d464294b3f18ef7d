#include "views/around/around_view.hpp"

#include "kit/key_row.hpp"
#include "kit/kind_words.hpp"
#include "kit/theme.hpp"
#include "marks/mark.hpp"
#include "parts/down_strip.hpp"
#include "parts/level_box.hpp"
#include "parts/place.hpp"
#include "reading/measure.hpp"
#include "views/around/boat_page.hpp"
#include "views/around/cast_card.hpp"
#include "views/around/circle_picture.hpp"
#include "views/around/head_controls.hpp"

#include <QKeyEvent>
#include <algorithm>
#include <cmath>

namespace heron::app {
AroundView::AroundView(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setFocusPolicy(Qt::StrongFocus);
    picture_ = new CirclePicture(context, this);
    picture_->setObjectName(QStringLiteral("circle"));
    controls_ = new HeadControls(context, picture_->display(), this);
    addKeys();
    boat_ = new BoatPage(context, this);
    boat_->setVisible(false);
    sketch_ = new BoatSketch(context, this);
    sketch_->setVisible(false);
    card_ = new CastCard(context, this);
    card_->setObjectName(QStringLiteral("castCard"));
    levels_ = new LevelBox(picture_->display(), tr("Picture"), this);
    levels_->setObjectName(QStringLiteral("circleLevels"));
    levels_->setVisible(false);
    // The newest row of the sides on top, as in Scan.
    down_ = new DownStrip(
        context,
        [this](int y) -> std::optional<std::size_t> {
            const auto &shown = context_.session.shown;
            const auto back = static_cast<std::size_t>(y);
            return shown.empty() || back > shown.newest() - shown.scan().first()
                       ? std::nullopt
                       : std::optional(shown.newest() - back);
        },
        this);
    down_->setObjectName(QStringLiteral("aroundDown"));
    down_->setVisible(false);
    connect(&context_.session.shown, &ShownScan::rowsAdded, down_, qOverload<>(&QWidget::update));
    context_.head_watch.attend(picture_->display());
    connect(measure_, &KeyButton::clicked, picture_, &CirclePicture::setMeasures);
    connect(loupe_, &KeyButton::clicked, picture_, &CirclePicture::setLoupe);
    connect(guests_, &KeyButton::clicked, picture_, &CirclePicture::setGuests);
    connect(wind_, &KeyButton::clicked, this, &AroundView::nextWind);
    connect(nudge_, &KeyButton::clicked, this, &AroundView::nudge);
    connect(&context_.way, &Way::goalNear, this, &AroundView::holdOffGoal);
    connect(down_key_, &KeyButton::clicked, this, [this](bool on) {
        down_->setVisible(on);
        layOut();
    });
    connect(picture_key_, &KeyButton::clicked, this, [this](bool on) {
        levels_->setVisible(on);
        layOut();
    });
    connect(where_, &KeyButton::clicked, this, [this](bool on) {
        context_.bow.wantHold(on);
        if (on && !context_.bow.aim())
            context_.session.notices.say(QStringLiteral("helm"),
                                         tr("Press on what shall be cast at; the spot to hold on follows."));
    });
    connect(card_, &CastCard::closed, this, [this] { cast_->click(); });
    connect(picture_, &CirclePicture::pressed, this, &AroundView::aimAt);
    connect(picture_, &CirclePicture::frozenChanged, this, &AroundView::refreshKeys);
    connect(picture_, &CirclePicture::shapeChanged, this, &AroundView::refreshKeys);
    connect(freeze_, &KeyButton::clicked, picture_, &CirclePicture::setFrozen);
    connect(back_, &KeyButton::clicked, this, [this] { picture_->stepTurn(-1); });
    connect(up_, &KeyButton::clicked, this, &AroundView::nextUp);
    connect(strip_, &KeyButton::clicked, this,
            [this](bool on) { picture_->setAcross(on ? Across::slant : Across::ground); });
    connect(rings_, &KeyButton::clicked, this, [this] {
        picture_->setRingStyle(picture_->ringStyle() == RingStyle::round ? RingStyle::quarters
                                                                         : RingStyle::round);
    });
    connect(rod_, &KeyButton::clicked, this, [this](bool on) {
        // Pressed again it goes on to the next seat, and then off.
        const auto seats = context_.session.boats.boat().seats.size();
        if (!on && picture_->seat() + 1 < seats) {
            picture_->setSeat(picture_->seat() + 1);
            picture_->setRod(true);
        } else {
            picture_->setSeat(0);
            picture_->setRod(on && seats > 0);
        }
    });
    connect(cast_, &KeyButton::clicked, this, [this](bool on) {
        card_->setLarge(on);
        layOut();
        refreshKeys();
    });
    const auto showBoat = [this](bool on) {
        boat_->setVisible(on);
        sketch_->setVisible(on);
        boat_key_->setChecked(on);
        layOut();
    };
    connect(boat_key_, &KeyButton::clicked, this, showBoat);
    connect(boat_, &BoatPage::closed, this, [showBoat] { showBoat(false); });
    connect(hold_, &KeyButton::clicked, this, [this](bool on) {
        context_.session.head.steer(on ? Helm::hold : Helm::route);
        context_.session.notices.say(QStringLiteral("helm"),
                                     on ? tr("The boat runs to its spot and holds there.")
                                        : tr("The boat goes on along its lanes."));
    });
    connect(&context_.session.head, &Sounder::settingsChanged, this, &AroundView::refreshKeys);
    connect(&context_.session.sources, &Sources::stateChanged, this, &AroundView::refreshKeys);
    connect(&context_.bow, &Bow::aimChanged, this, &AroundView::refreshKeys);
    connect(&context_.bow, &Bow::raysChanged, this, [this] { update(0, 0, picture_->width(), 130); });
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
    refreshKeys();
}

KeyButton *AroundView::addKey(const char *name, const QString &glyph, const QString &text,
                              const QKeySequence &letter, const QString &tip) {
    auto *key = new KeyButton(glyph, text, letter, tip, this);
    key->setObjectName(QString::fromLatin1(name));
    key->setStacked(true);
    return key;
}

void AroundView::addKeys() {
    const std::tuple<Family, const char *, QString, QString, QKeySequence> families[] = {
        {Family::fish, "aroundFish", QStringLiteral("family-fish"), tr("Fish"), Qt::Key_Z},
        {Family::structure, "aroundStructure", QStringLiteral("family-structure"), tr("Structure"),
         Qt::Key_X},
        {Family::bottom, "aroundBottom", QStringLiteral("family-bottom"), tr("Bottom"), Qt::Key_C},
        {Family::hazard, "aroundHazard", QStringLiteral("family-hazard"), tr("Hazard"), Qt::Key_V}};
    for (const auto &[family, name, glyph, word, letter] : families) {
        auto *key =
            addKey(name, glyph, word, letter, tr("Mark what is aimed at or pointed at; name it later"));
        connect(key, &KeyButton::clicked, this, [this, f = family] { mark(f); });
        mark_keys_.push_back(key);
    }
    const auto none = QString();
    freeze_ = addKey("aroundFreeze", QStringLiteral("act-freeze"), tr("Freeze"), Qt::Key_F,
                     tr("Hold the circle still; rays keep coming in behind it"));
    back_ = addKey("turnBack", none, tr("Back"), Qt::Key_Comma,
                   tr("Step back turn by turn; full stop goes forward, F back to now"));
    cast_ = addKey("castLarge", none, tr("Large"), Qt::Key_A, tr("The cast card over the whole window"));
    up_ = addKey("up", none, tr("Bow up"), Qt::Key_E,
                 tr("Bow up, north up, or only what lies ahead, as large as it goes"));
    strip_ =
        addKey("aroundStrip", none, tr("Water"), Qt::Key_W,
               tr("Along the sound with its water, or over ground without: things are then where they lie"));
    rings_ = addKey("aroundRings", none, tr("Rings"), Qt::Key_G,
                    tr("Rings at round distances or at quarters of the range"));
    rod_ = addKey(
        "rod", none, tr("Rod"), Qt::Key_R,
        tr("A line from a seat through the pointer, for whoever aims the rod at the screen; again for the "
           "next seat"));
    boat_key_ =
        addKey("yourBoat", none, tr("Boat"), Qt::Key_B, tr("The hull, the head, the antenna and the seats"));
    hold_ = addKey("hold", none, tr("Hold"), Qt::Key_H,
                   tr("Simulated boats only: run to the spot and hold there"));
    where_ = addKey("whereToHold", none, tr("Where"), Qt::Key_Y,
                    tr("Where to hold so that most seats reach what is aimed at: drift, hazards and snags "
                       "counted in"));
    measure_ = addKey("aroundMeasure", none, tr("Measure"), Qt::Key_D,
                      tr("Press on an echo's top, then on the end of its shadow: its height and distance"));
    loupe_ = addKey("aroundLoupe", none, tr("Loupe"), Qt::Key_L, tr("What lies under the pointer, larger"));
    picture_key_ = addKey("circlePicture", none, tr("Picture"), Qt::Key_P,
                          tr("The levels of the circle and the window on them"));
    down_key_ = addKey("aroundLookDown", none, tr("Down"), Qt::Key_F11,
                       tr("What lies below the boat, beside the circle"));
    guests_ = addKey("guests", none, tr("Guests"), Qt::Key_F12,
                     tr("A large pointer for whoever looks on, with what lies at it in large letters"));
    wind_ = addKey(
        "wind", none, tr("Wind"), Qt::Key_Slash,
        tr("Point at where the wind comes from and press: light, fresh, strong, none. Counts for where to "
           "hold while no drift is measured"));
    nudge_ = addKey(
        "nudge", none, tr("Nudge"), Qt::Key_M,
        tr("The circle shows the mark a little elsewhere: what you point at is another sighting of it"));
    for (auto *k : {freeze_, guests_, down_key_, cast_, strip_, rod_, boat_key_, hold_, where_, measure_,
                    loupe_, picture_key_})
        k->setCheckable(true);
}

void AroundView::nextUp() {
    using Up = CirclePicture::Up;
    picture_->setUp(picture_->up() == Up::bow     ? Up::north
                    : picture_->up() == Up::north ? Up::ahead
                                                  : Up::bow);
}

void AroundView::refreshKeys() {
    using Up = CirclePicture::Up;
    freeze_->setChecked(picture_->frozen());
    strip_->setChecked(picture_->across() == Across::slant);
    rod_->setChecked(picture_->rod());
    cast_->setChecked(card_->large());
    where_->setChecked(context_.bow.holdWanted());
    measure_->setChecked(picture_->measures());
    loupe_->setChecked(picture_->loupe());
    guests_->setChecked(picture_->guests());
    nudge_->setEnabled(context_.bow.aim() && !context_.bow.aim()->mark.isEmpty());
    cast_->setEnabled(context_.bow.aim().has_value() || card_->large());
    up_->setText(picture_->up() == Up::bow     ? tr("Bow up")
                 : picture_->up() == Up::north ? tr("North up")
                                               : tr("Ahead"));
    const auto &head = context_.session.head.hello();
    const bool steers = context_.session.sources.live() && head && head->steers && !card_->large();
    if (hold_->isVisibleTo(this) != steers) {
        hold_->setVisible(steers);
        layOut();
    }
    update(0, 0, picture_->width(), 130);
}

void AroundView::resizeEvent(QResizeEvent *) {
    layOut();
}

void AroundView::layOut() {
    const int panel = std::clamp(width() * 2 / 5, 400, 520), x = width() - panel;
    // Keys under the circle, on how it is shown, in one row or two; a row under the card, on what is aimed
    // at.
    std::vector<KeyButton *> shown{up_,   strip_,       rings_,  rod_,  measure_,  loupe_, freeze_,
                                   back_, picture_key_, guests_, wind_, down_key_, nudge_, boat_key_};
    if (hold_->isVisibleTo(this))
        shown.push_back(hold_);
    const int rows = KeyRow::rows(shown.size(), x - 20), keys_top = height() - KeyRow::height(rows) - 10,
              row_top = height() - KeyRow::high - 10;
    KeyRow::lay(shown, {10, keys_top, x - 20, 0}, rows);
    const int below = down_->isVisibleTo(this) ? DownStrip::wide + 8 : 0;
    picture_->setGeometry(0, 0, x - 1 - below, keys_top - 4);
    down_->setGeometry(x - 1 - DownStrip::wide, 0, DownStrip::wide, keys_top - 4);
    KeyRow::lay({mark_keys_[0], mark_keys_[1], mark_keys_[2], mark_keys_[3], where_, cast_},
                {x + 14, row_top, panel - 30, 0});
    // In a low window the levels stand where the head's keys do: the casts must stay readable.
    constexpr int roomy = 720;
    const bool levels = levels_->isVisibleTo(this), instead = levels && height() < roomy;
    controls_->setVisible(!instead);
    const int controls_top = row_top - (instead ? 0 : HeadControls::high) - 4;
    controls_->setGeometry(x, row_top - HeadControls::high - 4, panel, HeadControls::high);
    const int levels_top = controls_top - (levels ? LevelBox::high : 0);
    levels_->setGeometry(x, levels_top, panel, LevelBox::high);
    if (card_->large()) {
        card_->setGeometry(rect());
        card_->raise();
    } else {
        card_->setGeometry(x, 0, panel, levels_top - 4);
    }
    const int page = std::min(width() - 240, 700);
    boat_->setGeometry(width() - page, 0, page, height());
    sketch_->setGeometry(0, 0, width() - page, height());
    if (boat_->isVisibleTo(this)) {
        sketch_->raise();
        boat_->raise();
    }
    update();
}

void AroundView::aimAt(QPointF position) {
    setFocus();
    if (picture_->pressMeasure(position))
        return;
    const auto id = picture_->markAt(position);
    if (!id.isEmpty()) {
        context_.window.selectMark(id);
        if (const auto *mark = context_.marks.find(id))
            if (const auto aim = context_.bow.aimOf(*mark))
                context_.bow.aimAt(*aim);
        return;
    }
    if (const int swimmer = picture_->swimmerAt(position); swimmer != 0) {
        for (const auto &s : context_.bow.circle().swimmers())
            if (s.id == swimmer)
                if (const auto aim = context_.bow.aimOf(s))
                    context_.bow.aimAt(*aim);
        return;
    }
    if (const int contact = picture_->contactAt(position); contact != 0) {
        if (const auto *c = context_.bow.circle().find(contact))
            if (const auto aim = context_.bow.aimOf(*c, contact))
                context_.bow.aimAt(*aim);
        return;
    }
    const auto spot = picture_->spotAt(position);
    if (!spot) {
        context_.bow.aimAtNothing();
        return;
    }
    Aim aim;
    aim.title = tr("This spot");
    aim.glyph = QStringLiteral("act-mark");
    aim.at = spot->at;
    aim.seen = spot->seen;
    if (spot->seen) {
        const auto reading = read_cursor(context_.session.around.scan(), *spot->seen);
        if (reading.placed.at)
            aim.sd_m = reading.placed.at->covariance.radial_sd_m();
    }
    context_.bow.aimAt(aim);
}

// At a sample of the circle, or at what was read there with its reasons.
Mark AroundView::markSeenAt(const Cursor &at, const Contact *contact, Family family) const {
    const auto &scan = context_.session.around.scan();
    const auto source = context_.session.sources.name().toStdString();
    if (contact == nullptr)
        return mark_at(scan, read_cursor(scan, at), family, source);
    auto m = mark_of(scan, *contact, source);
    // The guide's word on the family stands above the program's.
    if (m.family != family)
        m.kind = Kind::none;
    m.family = family;
    auto told = *contact;
    give_reasons(told, context_.session.preferences.units());
    for (const auto &r : told.reasons)
        m.note += (m.note.empty() ? "" : "; ") + r;
    return m;
}

void AroundView::nudge() {
    const auto say = [this](const QString &text) {
        context_.session.notices.say(QStringLiteral("mark"), text);
    };
    const auto &aim = context_.bow.aim();
    const auto *mark = aim ? context_.marks.find(aim->mark) : nullptr;
    if (mark == nullptr || !mark->place)
        return;
    // What is pointed at; else what was read nearest to the mark.
    std::optional<Cursor> at;
    const Contact *contact = nullptr;
    const auto spot = picture_->pointed();
    const auto apart = [&](const EastNorth &place) {
        return std::hypot(place.east_m - aim->at.east_m, place.north_m - aim->at.north_m);
    };
    const double farthest = std::max(5.0, 3 * aim->sd_m);
    const auto &read = context_.bow.circle();
    double least = farthest;
    for (std::size_t i = 0; i < read.contacts().size(); ++i) {
        const auto &c = read.contacts()[i];
        const auto is = context_.bow.aimOf(c, read.idOf(i));
        if (!is)
            continue;
        const double d = spot ? std::hypot(is->at.east_m - spot->at.east_m, is->at.north_m - spot->at.north_m)
                              : apart(is->at);
        constexpr double pointed_m = 1.5;
        if (d < (spot ? std::min(least, pointed_m) : least)) {
            least = d;
            contact = &c;
        }
    }
    if (contact != nullptr)
        at = Cursor{contact->row, Side::around, contact->slant_m};
    else if (spot)
        at = spot->seen;
    if (!at || !context_.session.around.scan().holds(at->row)) {
        say(tr("Point at where the circle shows it: nothing that was read lies near the mark."));
        return;
    }
    auto seen = markSeenAt(*at, contact, mark->family);
    if (!seen.place) {
        say(QString::fromStdString(seen.place_remark) + QLatin1Char('.'));
        return;
    }
    const auto units = context_.session.preferences.units();
    const auto length = [&](double m) { return QString::fromStdString(print_length(m, units).text()); };
    if (const double off = leg_between(*mark->place, *seen.place).distance_m; off > farthest) {
        say(tr("That lies %1 from the mark, more than it may be in doubt by: mark it as a thing of its own.")
                .arg(length(off)));
        return;
    }
    seen.chip = picture_->chipAt(*at);
    const auto before = *mark->place;
    const auto id = aim->mark;
    if (!context_.marks.addSighting(id, seen))
        return;
    const auto *now = context_.marks.find(id);
    const auto moved = leg_between(before, *now->place);
    say(tr("Nudged %1 towards %2: now the mean of %3 sightings. Undo in Marks.")
            .arg(length(moved.distance_m), QString::fromStdString(print_bearing(moved.bearing_deg)))
            .arg(now->sightings.size()));
}

// Light, fresh, strong from where it is pointed at, and none; from ahead where nothing is pointed at.
void AroundView::nextWind() {
    constexpr double same_deg = 30, light_m_s = 3, fresh_m_s = 6, strong_m_s = 10;
    const auto &was = context_.bow.wind();
    const double from =
        picture_->pointedBearing().value_or(was ? was->from_deg : context_.bow.pose().heading_deg);
    std::optional<Bow::Wind> wind{{from, light_m_s}};
    if (was && std::fabs(wrap_180(was->from_deg - from)) < same_deg) {
        if (was->speed_m_s >= strong_m_s)
            wind.reset();
        else
            wind->speed_m_s = was->speed_m_s < fresh_m_s ? fresh_m_s : strong_m_s;
    }
    context_.bow.setWind(wind);
    if (!wind) {
        context_.session.notices.say(QStringLiteral("wind"), tr("No wind is counted."));
        return;
    }
    const auto side = QString::fromStdString(side_word(from - context_.bow.pose().heading_deg));
    context_.session.notices.say(
        QStringLiteral("wind"),
        (wind->speed_m_s >= strong_m_s  ? tr("Strong wind from %1: counted where no drift is measured.")
         : wind->speed_m_s >= fresh_m_s ? tr("Fresh wind from %1: counted where no drift is measured.")
                                        : tr("Light wind from %1: counted where no drift is measured."))
            .arg(side));
    picture_->update();
}

// The console's way ends here: what it leads to is aimed at, with the spot to hold on.
void AroundView::holdOffGoal(const Way::Goal &goal) {
    if (context_.bow.aim() || context_.bow.empty())
        return;
    const auto *mark = context_.marks.find(goal.mark);
    auto aim = mark != nullptr ? context_.bow.aimOf(*mark) : std::nullopt;
    if (!aim)
        if (const auto at = context_.bow.onPlane(goal.place)) {
            aim.emplace();
            aim->title = goal.name;
            aim->glyph = QStringLiteral("act-mark");
            aim->at = *at;
        }
    if (!aim)
        return;
    context_.bow.aimAt(*aim);
    context_.bow.wantHold(true);
}

void AroundView::mark(Family family) {
    const auto &scan = context_.session.around.scan();
    const auto say = [this](const QString &text) {
        context_.session.notices.say(QStringLiteral("mark"), text);
    };
    std::optional<Cursor> at;
    const Contact *contact = nullptr;
    const auto measured = picture_->measurement();
    const auto &aim = context_.bow.aim();
    if (!measured && aim && aim->contact != 0)
        contact = context_.bow.circle().find(aim->contact);
    if (measured)
        at = Cursor{picture_->handles()->row, Side::around, picture_->handles()->top_m};
    else if (contact != nullptr)
        at = Cursor{contact->row, Side::around, contact->slant_m};
    else if (aim && aim->seen)
        at = aim->seen;
    else if (const auto spot = picture_->pointed())
        at = spot->seen;
    if (!at || !scan.holds(at->row)) {
        say(aim ? tr("Nothing was sounded there yet, so there is nothing to mark: press where there is "
                     "picture.")
                : tr("Press on the circle first: a mark needs a spot that was sounded."));
        return;
    }
    auto m = measured ? mark_measured(scan, *picture_->handles(), *measured, family,
                                      context_.session.sources.name().toStdString())
                      : markSeenAt(*at, contact, family);
    m.chip = picture_->chipAt(*at);
    if (!context_.marks.add(m))
        return;
    context_.window.selectMark(QString::fromStdString(m.id));
    if (const auto marked = context_.bow.aimOf(m))
        context_.bow.aimAt(*marked);
    const auto units = context_.session.preferences.units();
    auto text =
        tr("%1 marked and saved, %2 from the bow.")
            .arg(capital(wordFor(family)),
                 QString::fromStdString(print_length(m.ground_m > 0 ? m.ground_m : m.slant_m, units).text()));
    if (!m.place)
        text += QLatin1Char(' ') + QString::fromStdString(m.place_remark) + QLatin1Char('.');
    say(text);
}

void AroundView::keyPressEvent(QKeyEvent *event) {
    switch (event->key()) {
    case Qt::Key_Escape:
        if (card_->large())
            cast_->click();
        else if (picture_->measures())
            picture_->setMeasures(false);
        else if (picture_->frozen())
            picture_->setFrozen(false);
        else
            context_.bow.aimAtNothing();
        return;
    case Qt::Key_Backspace:
        context_.head_watch.putOff();
        return;
    case Qt::Key_Period:
        if (picture_->frozen() && picture_->turnsBack() <= 1)
            picture_->setFrozen(false);
        else if (picture_->frozen())
            picture_->stepTurn(1);
        return;
    default:
        QWidget::keyPressEvent(event);
    }
}

void AroundView::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(card_->x() - 1, 0, card_->x() - 1, height());
}

} // namespace heron::app
