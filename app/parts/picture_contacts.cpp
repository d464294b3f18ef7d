// What was found, ringed on the live picture: the ring stands round the echo, never on it, and is as closed
// as the program is sure.
#include "parts/picture_view.hpp"

#include "kit/glyphs.hpp"
#include "kit/kind_words.hpp"
#include "kit/theme.hpp"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr double least_radius = 15, most_radius = 44, glyph_side = 22, glyph_disc = 15;

} // namespace

std::optional<PictureView::Ring> PictureView::ringOf(const Contact &c) const {
    if (!context_.window.ringsContacts() || !rowVisible(c.row))
        return std::nullopt;
    auto side = c.side;
    // What was run over shows where the sides first meet the bottom.
    if (side == Side::down || c.zone == Zone::track)
        side = shows(Side::starboard) ? Side::starboard : Side::port;
    if (!shows(side))
        return std::nullopt;
    const double extent = std::max(c.length_m.value_or(0.0), c.width_m.value_or(0.0));
    Ring ring;
    ring.at = positionOf(c.row, side, c.slant_m + (c.zone == Zone::track ? 0 : 0.2));
    ring.radius = std::clamp(extent / 2 * pixelsPerMetre() + 8, least_radius, most_radius);
    // Towards the boat, where no shadow lies.
    const double aside = ring.radius + glyph_disc + 3;
    ring.glyph = ring.at + QPointF(side == Side::port ? aside : -aside, 0);
    return ring;
}

// A mark says more than a ring.
bool PictureView::isMarked(const Contact &c) const {
    return std::any_of(context_.marks.all().begin(), context_.marks.all().end(), [&](const Mark &m) {
        return !m.side.empty() && std::fabs(seconds_between(m.time, c.time)) < 1.5 &&
               std::fabs(m.slant_m - c.slant_m) < 1.5 && m.side == name_of(c.side);
    });
}

int PictureView::contactAt(QPointF at) const {
    int best = 0;
    double nearest = 1e9;
    const auto &contacts = context_.reader.contacts();
    for (std::size_t i = 0; i < contacts.size(); ++i) {
        const auto ring = ringOf(contacts[i]);
        if (!ring || isMarked(contacts[i]))
            continue;
        const auto far = [&](QPointF from) { return std::hypot(at.x() - from.x(), at.y() - from.y()); };
        const double d = std::min(far(ring->at) - ring->radius - 4, far(ring->glyph) - 22);
        if (d < 0 && d < nearest) {
            nearest = d;
            best = context_.reader.idOf(i);
        }
    }
    return best;
}

void PictureView::paintContacts(QPainter &p) {
    if (!context_.window.ringsContacts() || context_.session.shown.empty())
        return;
    const auto &contacts = context_.reader.contacts();
    for (std::size_t i = 0; i < contacts.size(); ++i) {
        const auto &c = contacts[i];
        const auto ring = ringOf(c);
        if (!ring || isMarked(c))
            continue;
        const bool selected = context_.reader.idOf(i) == context_.window.selectedContact();
        const auto ink = colour(selected ? "pick" : "paper");
        const double width = selected ? 2.6 : 1.6;
        const QRectF box(ring->at.x() - ring->radius, ring->at.y() - ring->radius, 2 * ring->radius,
                         2 * ring->radius);
        // From the top, clockwise: closed when sure.
        const int span = static_cast<int>(-16 * 360 * std::clamp(c.confidence, 0.1, 1.0));
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(colour("casing"), width + 2.2, Qt::SolidLine, Qt::FlatCap));
        p.drawArc(box, 90 * 16, span);
        p.setPen(QPen(ink, width, Qt::SolidLine, Qt::FlatCap));
        p.drawArc(box, 90 * 16, span);
        QColor disc = colour("casing");
        disc.setAlphaF(0.72F);
        p.setPen(Qt::NoPen);
        p.setBrush(disc);
        p.drawEllipse(ring->glyph, glyph_disc, glyph_disc);
        paintGlyph(p, contactGlyph(c.family, c.kind),
                   QRectF(ring->glyph.x() - glyph_side / 2, ring->glyph.y() - glyph_side / 2, glyph_side,
                          glyph_side),
                   ink);
    }
}

} // namespace heron::app
