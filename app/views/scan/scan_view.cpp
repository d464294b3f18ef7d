#include "views/scan/scan_view.hpp"

#include "kit/counted.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/theme.hpp"
#include "parts/down_strip.hpp"
#include "parts/pass_compare.hpp"
#include "parts/picture_view.hpp"
#include "parts/place.hpp"
#include "reading/outline.hpp"
#include "views/scan/contact_box.hpp"
#include "views/scan/cue_bar.hpp"
#include "views/scan/first_start.hpp"
#include "views/scan/gutter.hpp"
#include "views/scan/range_ruler.hpp"
#include "views/scan/scan_panel.hpp"
#include "views/scan/trip_strip.hpp"

#include <QKeyEvent>
#include <QPainter>

namespace heron::app {
namespace {

constexpr int header = 40, gap = 5, key_high = 64, least_key = 64; // a word and its letter fit in so much

} // namespace

ScanView::ScanView(ViewContext &context, QWidget *parent)
    : QWidget(parent), context_(context), tuner_(context.tuner) {
    setFocusPolicy(Qt::StrongFocus);
    picture_ = new PictureView(context, this);
    ruler_ = new RangeRuler(context, *picture_, this);
    gutter_ = new Gutter(context, *picture_, this);
    trip_ = new TripStrip(context, *picture_, this);
    down_ = new DownStrip(
        context, [this](int y) { return picture_->rowAtY(y); }, this);
    connect(picture_, &PictureView::topChanged, down_, qOverload<>(&QWidget::update));
    down_->setVisible(false);
    panel_ = new ScanPanel(context, *picture_, this);
    passes_ = new PassCompare(context, this);
    cue_ = new CueBar(context, this);
    connect(cue_, &CueBar::shownChanged, this, &ScanView::layOut);
    connect(cue_, &CueBar::readAsked, &context_.window, &WindowState::askRead);
    connect(&context_.window, &WindowState::rowAsked, this,
            [this](std::size_t row) { picture_->goTo(row + 60); });
    picture_->setObjectName(QStringLiteral("picture"));
    addKeys();
    for (auto *k : {freeze_, measure_, loupe_, strip_, look_down_, rings_})
        k->setCheckable(true);
    connect(freeze_, &KeyButton::clicked, this, [this](bool on) { picture_->setFrozen(on); });
    connect(measure_, &KeyButton::clicked, this, [this](bool on) {
        // Handles on a moving picture are a moving target.
        if (on)
            picture_->setFrozen(true);
        picture_->setMeasuring(on);
    });
    connect(loupe_, &KeyButton::clicked, picture_, &PictureView::setLoupe);
    connect(sides_, &KeyButton::clicked, this, [this] {
        picture_->setSides(picture_->sides() == ShownSides::both   ? ShownSides::left
                           : picture_->sides() == ShownSides::left ? ShownSides::right
                                                                   : ShownSides::both);
    });
    connect(strip_, &KeyButton::clicked, this,
            [this](bool on) { picture_->setAcross(on ? Across::slant : Across::ground); });
    connect(look_down_, &KeyButton::clicked, this, [this](bool on) {
        down_->setVisible(on);
        layOut();
    });
    connect(pass_, &KeyButton::clicked, this, &ScanView::comparePasses);
    connect(rings_, &KeyButton::clicked, &context_.window, &WindowState::setRingsContacts);
    connect(&context_.window, &WindowState::displayChanged, this, &ScanView::refreshKeys);
    connect(&panel_->contact(), &ContactBox::markAsked, this, &ScanView::markContact);
    connect(&panel_->contact(), &ContactBox::readAsked, this,
            [this] { readContact(picture_->pressedContact()); });
    connect(picture_, &PictureView::contactOpened, this, &ScanView::readContact);
    connect(undo_, &KeyButton::clicked, this, [this] {
        // What the hand did last, in the mode that it is in.
        if (picture_->measuring() && picture_->hand() == PictureView::Hand::outline)
            picture_->takeBackCorner();
        else if (picture_->measuring() && picture_->hand() == PictureView::Hand::bottom_line)
            context_.session.undoBottom();
        else
            context_.marks.undo();
    });
    connect(picture_, &PictureView::frozenChanged, this, &ScanView::refreshKeys);
    connect(picture_, &PictureView::handlesChanged, this, &ScanView::refreshKeys);
    connect(picture_, &PictureView::shapeChanged, this, &ScanView::refreshKeys);
    connect(&context_.marks, &MarkLibrary::marksChanged, this, &ScanView::refreshKeys);
    connect(&context_.session.shown, &ShownScan::replaced, this, [this] { update(); });
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
    // What counts as too fast follows the speed band computed for the gear.
    connect(&tuner_, &Tuner::advisedChanged, this, [this] {
        if (!tuner_.advised())
            return;
        SteadyLimits limits;
        limits.fastest_m_s = std::max(1.0, 1.25 * tuner_.advised()->fastest_m_s);
        picture_->setSteadyLimits(limits);
    });
    first_start_ = new FirstStart(context, this);
    const auto begin = [this] {
        const auto &sources = context_.session.sources;
        const bool first = sources.source() == Sources::Source::none && !sources.opening();
        first_start_->setVisible(first);
        panel_->setEnabled(!first); // it is out of sight behind them
        for (auto *k : keys_)
            k->setVisible(!first); // their letters serve the three choices meanwhile
    };
    connect(&context_.session.sources, &Sources::stateChanged, this, begin);
    begin();
    refreshKeys();
}

void ScanView::addKeys() {
    const auto marks = tr("Mark what is measured or pointed at as %1; name it later");
    const std::pair<Family, KeyButton *> families[] = {
        {Family::fish,
         addKey("markFish", QStringLiteral("family-fish"), tr("Fish"), Qt::Key_Z, marks.arg(tr("fish")))},
        {Family::structure, addKey("markStructure", QStringLiteral("family-structure"), tr("Structure"),
                                   Qt::Key_X, marks.arg(tr("structure")))},
        {Family::bottom, addKey("markBottom", QStringLiteral("family-bottom"), tr("Bottom"), Qt::Key_C,
                                marks.arg(tr("bottom")))},
        {Family::hazard, addKey("markHazard", QStringLiteral("family-hazard"), tr("Hazard"), Qt::Key_V,
                                marks.arg(tr("a hazard")))}};
    for (const auto &[family, key] : families)
        connect(key, &KeyButton::clicked, this, [this, f = family] { mark(f); });
    freeze_ = addKey("freeze", QStringLiteral("act-freeze"), tr("Freeze"), Qt::Key_F,
                     tr("Hold the picture still; pings keep coming in behind it"));
    measure_ = addKey("measure", QStringLiteral("act-measure"), tr("Measure"), Qt::Key_D,
                      tr("Measure height and distance from an echo and its shadow"));
    loupe_ = addKey("loupe", QStringLiteral("act-loupe"), tr("Loupe"), Qt::Key_L,
                    tr("The samples themselves under the pointer, three times enlarged"));
    sides_ = addKey("sides", QStringLiteral("act-side_both"), tr("Sides"), Qt::Key_S,
                    tr("Both sides, left only, right only"));
    strip_ = addKey("strip", QStringLiteral("act-column_on"), tr("Strip"), Qt::Key_W,
                    tr("The strip of water: keep it (fish and drops show) or take it out (things lie where "
                       "they are, and round "
                       "things are round)"));
    look_down_ = addKey("down", QStringLiteral("act-down"), tr("Down"), Qt::Key_Y,
                        tr("What lies below beside the picture: a thin fan and a cone"));
    pass_ = addKey("passes", QStringLiteral("act-passes"), tr("Passes"), Qt::Key_E,
                   tr("What is pointed at as another pass saw it, side by side"));
    rings_ = addKey("rings", QStringLiteral("family-unsure"), tr("Found"), Qt::Key_R,
                    tr("Ring what the program found in the picture, or hide the rings"));
    undo_ = addKey("undo", QStringLiteral("act-undo"), tr("Undo"), Qt::Key_U,
                   tr("Take back the last change of the marks"));
}

KeyButton *ScanView::addKey(const char *name, const QString &glyph, const QString &text,
                            const QKeySequence &letter, const QString &tip) {
    auto *key = new KeyButton(glyph, text, letter, tip, this);
    key->setObjectName(QString::fromLatin1(name));
    key->setStacked(true);
    keys_.push_back(key);
    return key;
}

void ScanView::refreshKeys() {
    freeze_->setChecked(picture_->frozen());
    measure_->setChecked(picture_->measuring());
    loupe_->setChecked(picture_->loupe());
    rings_->setChecked(context_.window.ringsContacts());
    strip_->setChecked(picture_->across() == Across::slant);
    strip_->setGlyph(picture_->across() == Across::slant ? QStringLiteral("act-column_on")
                                                         : QStringLiteral("act-column_off"));
    sides_->setGlyph(picture_->sides() == ShownSides::both   ? QStringLiteral("act-side_both")
                     : picture_->sides() == ShownSides::left ? QStringLiteral("act-side_left")
                                                             : QStringLiteral("act-side_right"));
    look_down_->setChecked(down_->isVisibleTo(this));
    const auto hand = picture_->measuring() ? picture_->hand() : PictureView::Hand::shadow;
    undo_->setEnabled(hand == PictureView::Hand::outline       ? !picture_->corners().empty()
                      : hand == PictureView::Hand::bottom_line ? context_.session.shown.canUndoBottom()
                                                               : context_.marks.canUndo());
    update(0, 0, width(), header);
}

void ScanView::resizeEvent(QResizeEvent *) {
    layOut();
}

void ScanView::layOut() {
    const int left = panel_->width() + 12, key_room = width() - 8 - left;
    const int n = static_cast<int>(keys_.size());
    // Narrow windows have two rows of keys, so that every word is whole.
    const int key_rows = (key_room - (n - 1) * gap) / n < least_key ? 2 : 1;
    const int high = key_rows > 1 ? 48 : key_high;
    const int bottom = height() - 12 - key_rows * (high + gap) - 6;
    panel_->setGeometry(0, 0, panel_->width(), height());
    gutter_->setGeometry(left, header, gutter_->width(), bottom - header);
    const bool down = down_->isVisibleTo(this);
    const int x = left + gutter_->width(),
              end = width() - 8 - trip_->width() - 12 - (down ? DownStrip::wide + 8 : 0), w = (end - x) & ~1;
    picture_->setGeometry(x, header, w, bottom - header);
    passes_->setGeometry(x, header, w, bottom - header);
    // Over the oldest rows, so that what comes in stays in sight.
    cue_->setGeometry(x, bottom - CueBar::high, w, CueBar::high);
    cue_->raise();
    ruler_->setGeometry(x, header - ruler_->height(), w, ruler_->height());
    down_->setGeometry(x + w + 8, header, DownStrip::wide, bottom - header);
    trip_->setGeometry(width() - 8 - trip_->width(), header, trip_->width(), bottom - header);
    const int columns = (n + key_rows - 1) / key_rows, each = (key_room - (columns - 1) * gap) / columns;
    for (int i = 0; i < n; ++i)
        keys_[static_cast<std::size_t>(i)]->setGeometry(
            left + (i % columns) * (each + gap), bottom + 8 + (i / columns) * (high + gap), each, high);
    first_start_->setGeometry(rect());
    first_start_->raise();
    update();
}

void ScanView::mark(Family family) {
    const auto &scan = context_.session.shown.scan();
    if (context_.session.shown.empty()) {
        context_.session.notices.raise(
            QStringLiteral("marks"),
            {tr("there is no picture yet, so there is nothing to mark").toStdString(), "",
             tr("wait for the first ping, or open a recording").toStdString()});
        return;
    }
    const auto source = context_.session.sources.name().toStdString();
    Mark m;
    const auto &handles = picture_->handles();
    std::optional<Measurement> measured;
    if (handles)
        measured = measure(scan, *handles);
    auto row = context_.session.shown.newest();
    if (measured) {
        m = mark_measured(scan, *handles, *measured, family, source);
        row = handles->row;
    } else if (Outline o; picture_->measuring() &&
                          measure_outline(scan, picture_->corners(), picture_->steadyLimits(), o) ==
                              OutlineState::measured) {
        // In the middle of what was outlined, its size told in the note.
        m = mark_at(scan, read_cursor(scan, o.middle, context_.session.shown.newest()), family, source);
        m.note = tr("outlined: %1 by %2 over ground")
                     .arg(QString::fromStdString(
                              print_length(o.along_m, context_.session.preferences.units()).text()),
                          QString::fromStdString(
                              print_length(o.across_m, context_.session.preferences.units()).text()))
                     .toStdString();
        row = o.middle.row;
    } else if (const auto at = picture_->pointed()) {
        m = mark_at(scan, read_cursor(scan, *at, context_.session.shown.newest()), family, source);
        row = at->row;
    } else {
        m = mark_at_boat(scan, row, family, source);
    }
    keepMark(std::move(m), row);
}

void ScanView::readContact(int id) {
    picture_->releaseContact();
    context_.window.selectContact(id);
    context_.window.askPlace(place::read);
}

// As the program read it.
void ScanView::markContact() {
    const auto *c = context_.reader.find(picture_->pressedContact());
    if (c == nullptr)
        return;
    const auto row = c->row;
    auto m = mark_of(context_.session.shown.scan(), *c, context_.session.sources.name().toStdString());
    auto told = *c;
    give_reasons(told, context_.session.preferences.units());
    for (const auto &r : told.reasons)
        m.note += (m.note.empty() ? "" : "; ") + r;
    picture_->releaseContact();
    keepMark(std::move(m), row);
}

void ScanView::keepMark(Mark m, std::size_t row) {
    const auto &scan = context_.session.shown.scan();
    const auto side = side_named(m.side).value_or(Side::starboard);
    const double metres_per_pixel = 1 / picture_->pixelsPerMetre();
    m.chip = cut_chip(scan, row, side, m.slant_m + 1.2, context_.window.displayWindow(), 124, 92,
                      metres_per_pixel);
    if (!context_.marks.add(m))
        return;
    context_.window.selectMark(QString::fromStdString(m.id));
    picture_->clearPick();
    auto text =
        tr("%1 marked and saved.")
            .arg(m.side.empty()
                     ? tr("The boat's own place")
                     : tr("%1 at %2 on the %3")
                           .arg(m.kind == Kind::none ? wordFor(m.family) : wordFor(m.kind),
                                QString::fromStdString(print_length(m.ground_m > 0 ? m.ground_m : m.slant_m,
                                                                    context_.session.preferences.units())
                                                           .text()),
                                m.side == "port" ? tr("left") : tr("right")));
    text[0] = text[0].toUpper();
    if (!m.place)
        text += QLatin1Char(' ') + QString::fromStdString(m.place_remark) + QLatin1Char('.');
    context_.session.notices.say(QStringLiteral("mark"), text);
}

void ScanView::comparePasses() {
    if (passes_->isVisible()) {
        passes_->next();
        return;
    }
    const auto at = picture_->pointed();
    const auto say = [this](const QString &text) {
        context_.session.notices.say(QStringLiteral("passes"), text);
    };
    if (!at) {
        say(tr("Point at a thing first, then press Passes."));
        return;
    }
    const auto reading = read_cursor(context_.session.shown.scan(), *at, context_.session.shown.newest());
    if (!reading.placed.at)
        say(QString::fromStdString(heron::say(reading.placed.state)));
    else if (!passes_->show(reading.placed.at->place, at->row))
        say(tr("No other pass of this trip saw that place."));
}

void ScanView::keyPressEvent(QKeyEvent *event) {
    switch (event->key()) {
    case Qt::Key_Escape:
        if (passes_->isVisible())
            passes_->setVisible(false);
        else if (cue_->isVisible())
            cue_->dismiss();
        else if (picture_->measuring())
            picture_->setMeasuring(false);
        else if (picture_->pressedContact() != 0)
            picture_->releaseContact();
        else if (picture_->picked())
            picture_->clearPick();
        else
            picture_->setFrozen(false);
        return;
    case Qt::Key_Left:
    case Qt::Key_Right:
        if (picture_->handles()) {
            const bool outward = (event->key() == Qt::Key_Right) == (picture_->handles()->side != Side::port);
            picture_->nudge(outward ? 1 : -1);
        }
        return;
    case Qt::Key_PageDown:
        picture_->scrollLines(-400);
        return;
    case Qt::Key_PageUp:
        picture_->scrollLines(400);
        return;
    case Qt::Key_Home:
        picture_->setFrozen(false);
        return;
    case Qt::Key_Space:
        if (context_.session.sources.source() == Sources::Source::trip) {
            if (context_.session.sources.flow() == Sources::Flow::flowing) {
                context_.session.playback.pause();
            } else {
                context_.session.playback.playFrom(picture_->topRow());
                picture_->setFrozen(false);
            }
        }
        return;
    case Qt::Key_G:
        if (tuner_.hasLastGood())
            tuner_.backToLastGood();
        else
            context_.session.notices.say(QStringLiteral("good"), tr("No settings were found good yet."));
        return;
    default:
        QWidget::keyPressEvent(event);
    }
}

void ScanView::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    const int left = panel_->width() + 12;
    // Heads of the gutter.
    p.setFont(theme.font(12));
    p.setPen(colour("ink2"));
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    p.drawText(QPointF(left, header - 20), tr("depth"));
    p.drawText(QPointF(left, header - 6), feet ? tr("ft") : tr("m"));
    p.drawText(QRectF(left + Gutter::depth_w - 6, header - 18, Gutter::speed_w + 12, 16), Qt::AlignCenter,
               feet ? tr("mph") : tr("km/h"));
    p.save();
    p.setFont(Theme::instance().fontFor(tr("turn"), Gutter::turn_w + 6, p.font().pixelSize()));
    p.drawText(QRectF(left + Gutter::depth_w + Gutter::speed_w - 4, header - 32, Gutter::turn_w + 8, 16),
               Qt::AlignCenter, tr("turn"));
    p.restore();
    p.drawText(QRectF(left + Gutter::depth_w + Gutter::speed_w + Gutter::turn_w - 8, header - 18,
                      Gutter::pings_w + 12, 16),
               Qt::AlignCenter, tr("pings"));
    p.drawText(QPointF(width() - 34, header - 6), tr("trip"));
    if (down_->isVisibleTo(this))
        p.drawText(QPointF(down_->x(), header - 6), tr("below the boat"));
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(left, header - 1, width() - 8, header - 1);
}

} // namespace heron::app
