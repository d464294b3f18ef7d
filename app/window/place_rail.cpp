#include "window/place_rail.hpp"

#include "kit/glyphs.hpp"
#include "kit/theme.hpp"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <array>
#include <iterator>

namespace heron::app {
namespace {

constexpr int tab = 80;

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
    const int h = std::clamp((height() - 160) / std::max(1, static_cast<int>(places_.size())), 48, tab);
    return {0, i * h, width(), h};
}

QRect PlaceRail::footRect(int i) const {
    return {0, height() - 150 + i * 50, width(), 50};
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
    const std::array<std::pair<QString, QString>, 3> feet{{{tr("File"), QStringLiteral("O")},
                                                           {units_, QStringLiteral("N")},
                                                           {theme.lightTitle(), QStringLiteral("T")}}};
    p.setPen(QPen(colour("slatetx"), 1));
    p.drawLine(14, footRect(0).y(), width() - 14, footRect(0).y());
    for (int i = 0; i < 3; ++i) {
        const auto r = footRect(i);
        p.setPen(colour("slatetx"));
        p.setFont(theme.fontFor(feet[static_cast<std::size_t>(i)].first, r.width() - 6, 13));
        p.drawText(r.adjusted(0, 6, 0, 0), Qt::AlignCenter, feet[static_cast<std::size_t>(i)].first);
        p.setFont(theme.mono(12));
        p.drawText(QRect(r.right() - 16, r.y() + 3, 12, 14), Qt::AlignCenter,
                   feet[static_cast<std::size_t>(i)].second);
    }
}

void PlaceRail::mousePressEvent(QMouseEvent *event) {
    const auto at = event->position().toPoint();
    for (int i = 0; i < 3; ++i) {
        if (!footRect(i).contains(at))
            continue;
        if (i == 0)
            emit fileAsked();
        else if (i == 1)
            emit unitsAsked();
        else
            emit lightAsked();
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
        if (footRect(0).contains(help->pos()))
            tip = tr("Open a recording, or go back to the sounder  [O]");
        if (footRect(1).contains(help->pos()))
            tip = tr("Feet and mph, or metres and km/h  [N]");
        if (footRect(2).contains(help->pos()))
            tip = tr("The light: Mist for day, Noon for sun, Dusk for night  [T]");
        QToolTip::showText(help->globalPos(), tip, this);
        return true;
    }
    return QWidget::event(event);
}

} // namespace heron::app
