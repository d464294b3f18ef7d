// What is hatched and outlined on the sheet: the band of depth, ripples, lanes, spawning beds.
#include "views/chart/chart_sheet_view.hpp"

#include "kit/theme.hpp"

#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace heron::app {

void ChartSheetView::paintBand(QPainter &p) {
    const auto &depth = context_.chart.sheet()->depth;
    p.setPen(QPen(colour("reed"), 1.3));
    constexpr int step = 7, margin = 14;
    const auto inside = canvas().adjusted(margin, margin, -margin, -margin);
    for (int y = inside.top(); y <= inside.bottom(); y += step)
        for (int x = inside.left(); x <= inside.right(); x += step) {
            const auto at = placeAt(QPointF(x + step / 2.0, y + step / 2.0));
            const auto i = depth.raster.cell_at(at.east_m, at.north_m);
            if (!i)
                continue;
            const double d = static_cast<double>(depth.depth_m[*i]);
            if (d >= band_from_m_ && d < band_to_m_)
                p.drawLine(x, y + step, x + step, y);
        }
}

// Ripples: their crests as rows of dashes; a sunken lane: both its edges dashed; spawning beds: a ring
// where each was made out, within a dotted edge.
void ChartSheetView::paintForms(QPainter &p) {
    p.setRenderHint(QPainter::Antialiasing);
    for (const auto &form : context_.chart.sheet()->forms) {
        QPolygonF outline;
        for (const auto &at : form.outline)
            outline << positionOf(at);
        if (!outline.boundingRect().intersects(QRectF(canvas())))
            continue;
        p.setBrush(Qt::NoBrush);
        if (form.kind == GroundForm::Kind::lane) {
            p.setPen(QPen(colour("ink"), 1.6, Qt::DashLine));
            p.drawPolygon(outline);
            continue;
        }
        if (form.kind == GroundForm::Kind::beds) {
            p.setPen(QPen(colour("ink"), 1.6, Qt::DotLine));
            p.drawPolygon(outline);
            p.setPen(QPen(colour("ink"), 1.6));
            const double half = std::max(2.5, form.bowl_m / metres_a_pixel_ / 2);
            for (const auto &bowl : form.bowls)
                p.drawEllipse(positionOf(bowl), half, half);
            continue;
        }
        p.save();
        QPainterPath inside;
        inside.addPolygon(outline);
        inside.closeSubpath();
        p.setClipPath(inside, Qt::IntersectClip);
        p.setPen(QPen(colour("ink"), 1.2));
        const auto middle = positionOf(form.middle);
        p.translate(middle);
        p.rotate(form.bearing_deg - up_deg_ - 90); // along a crest
        const double reach = std::hypot(outline.boundingRect().width(), outline.boundingRect().height()) / 2,
                     pitch = std::max(7.0, form.wave_m / metres_a_pixel_);
        for (double y = -std::floor(reach / pitch) * pitch; y < reach; y += pitch)
            for (double x = -reach; x < reach; x += 16)
                p.drawLine(QPointF(x, y), QPointF(x + 9, y));
        p.restore();
    }
}

} // namespace heron::app
