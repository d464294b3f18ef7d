#include "window/place_rail.hpp"

#include "kit/glyphs.hpp"
#include "kit/theme.hpp"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <iterator>

namespace heron::app {
namespace {

constexpr int tab = 80, foot = 48, feet_below = 4 * foot;

} // namespace

PlaceRail::PlaceRail(const Places &places, QWidget *parent) : QWidget(parent) {
    std::copy_if(places.begin(), places.end(), std::back_inserter(places_),
                 [](const Place &p) { return p.on_rail; });
    setFixedWidth(72);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void PlaceRail::setCurrent(const QString &id) {
    const bool on_rail =
        std::any_of(places_.begin(), places_.end(), [&](const Place &p) { return p.id == id; });
    current_ = on_rail ? id : QString();
    update();
}

QRect PlaceRail::rectOf(const QString &id) const {
    for (int i = 0; i < static_cast<int>(places_.size()); ++i)
        if (places_[static_cast<std::size_t>(i)].id == id)
            return placeRect(i);
    return {};
}

void PlaceRail::setUnitsLabel(const QString &label) {
    units_ = label;
    update();
}

// Lower windows give each place less height, never less than a finger needs.
QRect PlaceRail::placeRect(int i) const {
    const int h =
        std::clamp((height() - feet_below - 10) / std::max(1, static_cast<int>(places_.size())), 48, tab);
    return {0, i * h, width(), h};
}

QRect PlaceRail::footRect(int i) const {
    return {0, height() - feet_below + i * foot, width(), foot};
}

void PlaceRail::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), colour("slate"));
    for (int i = 0; i < static_cast<int>(places_.size()); ++i) {
        const auto r = placeRect(i);
        const auto &place = places_[static_cast<std::size_t>(i)];
        const bool on = place.id == current_;
        const auto ink = on ? colour("ink") : colour("slatetx");
        if (on) {
            p.fillRect(r, colour("page"));
            p.fillRect(r.x(), r.y(), 5, r.height(), colour("accent"));
        }
        paintGlyph(p, place.glyph, QRectF(24, r.y() + r.height() / 2 - 22, 24, 24), ink);
        p.setPen(ink);
        p.setFont(theme.fontFor(place.title, r.width() - 6, 13, on));
        p.drawText(QRect(r.x(), r.y() + r.height() / 2 + 6, r.width(), 20), Qt::AlignCenter, place.title);
        p.setFont(theme.mono(12));
        p.drawText(QRect(r.right() - 16, r.y() + 3, 12, 14), Qt::AlignCenter,
                   place.key.toString(QKeySequence::NativeText));
    }
    p.setPen(QPen(colour("slatetx"), 1));
    p.drawLine(14, footRect(0).y(), width() - 14, footRect(0).y());
    const auto below = feet();
    for (int i = 0; i < static_cast<int>(below.size()); ++i) {
        const auto &f = below[static_cast<std::size_t>(i)];
        const auto r = footRect(i);
        if (f.alarm)
            p.fillRect(r, colour("accent"));
        const auto ink = colour(f.alarm ? "onaccent" : "slatetx");
        p.setPen(ink);
        p.setFont(theme.fontFor(f.word, r.width() - 6, 13, f.alarm));
        p.drawText(r.adjusted(0, 8, 0, 0), Qt::AlignCenter, f.word);
        p.setFont(theme.mono(12));
        p.drawText(QRect(r.right() - 26, r.y() + 3, 23, 14), Qt::AlignRight | Qt::AlignVCenter, f.letter);
    }
}

std::array<PlaceRail::Foot, 4> PlaceRail::feet() const {
    return {
        {{tr("File"), QStringLiteral("O"), tr("Open a recording, or go back to the sounder  [O or 0]"),
          &PlaceRail::fileAsked, false},
         {units_, QStringLiteral("N"), tr("Feet and mph, or metres and km/h  [N]"), &PlaceRail::unitsAsked,
          false},
         {Theme::instance().lightTitle(), QStringLiteral("T"),
          tr("The light: Mist for day, Noon for sun, Dusk for night  [T]"), &PlaceRail::lightAsked, false},
         {tr("Overboard"), QStringLiteral("F8"),
          tr("Somebody is in the water: keeps this place and shows the way back  [F8]"),
          &PlaceRail::overboardAsked, true}}};
}

void PlaceRail::mousePressEvent(QMouseEvent *event) {
    const auto at = event->position().toPoint();
    const auto below = feet();
    for (int i = 0; i < static_cast<int>(below.size()); ++i)
        if (footRect(i).contains(at)) {
            emit(this->*below[static_cast<std::size_t>(i)].asked)();
            return;
        }
    for (int i = 0; i < static_cast<int>(places_.size()); ++i)
        if (placeRect(i).contains(at))
            emit placeChosen(places_[static_cast<std::size_t>(i)].id);
}

bool PlaceRail::event(QEvent *event) {
    if (event->type() == QEvent::ToolTip) {
        const auto *help = static_cast<QHelpEvent *>(event);
        QString tip;
        for (int i = 0; i < static_cast<int>(places_.size()); ++i)
            if (placeRect(i).contains(help->pos()))
                tip = tr("%1  [%2]")
                          .arg(places_[static_cast<std::size_t>(i)].title,
                               places_[static_cast<std::size_t>(i)].key.toString(QKeySequence::NativeText));
        const auto below = feet();
        for (int i = 0; i < static_cast<int>(below.size()); ++i)
            if (footRect(i).contains(help->pos()))
                tip = below[static_cast<std::size_t>(i)].tip;
        QToolTip::showText(help->globalPos(), tip, this);
        return true;
    }
    return QWidget::event(event);
}

} // namespace heron::app
