// The ground's layers as one picture, painted anew only where it must be: a hand that pans a day's chart
// wants sixty frames a second, and a boat that moves over it changes none of them.
#include "views/chart/chart_sheet_view.hpp"

#include "kit/theme.hpp"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace heron::app {

ChartSheetView::GroundState ChartSheetView::groundState() const {
    const auto &backdrops = context_.backdrops;
    return {charted_,
            shown_,
            band_from_m_,
            band_to_m_,
            context_.chart.level(),
            context_.session.preferences.units(),
            backdrops.picture().cacheKey(),
            backdrops.drawn().get()};
}

void ChartSheetView::paintGround(QPainter &p) {
    if (shows(Layer::backdrop))
        paintBackdrop(p);
    if (shows(Layer::mosaic))
        paintMosaic(p);
    if (context_.chart.sheet()) {
        if (shows(Layer::band))
            paintBand(p);
        if (shows(Layer::hardness))
            paintHardness(p);
        paintShoals(p);
        if (shows(Layer::contours))
            paintContours(p);
        if (shows(Layer::transitions)) {
            paintForms(p);
            paintTransitions(p);
        }
        if (shows(Layer::track))
            paintTrack(p);
    }
    if (shows(Layer::looks))
        paintLooks(p);
}

// From where one looks now, and while a hand drags a quarter more of it on all sides.
void ChartSheetView::paintGroundPicture() {
    const int aside = dragged_ ? width() / 4 : 0, over = dragged_ ? height() / 4 : 0;
    canvas_ = rect().adjusted(-aside, -over, aside, over);
    const double ratio = devicePixelRatioF();
    const QSize size = (QSizeF(canvas_.size()) * ratio).toSize();
    if (ground_.image.size() != size)
        ground_.image = QImage(size, QImage::Format_RGB32);
    ground_.image.setDevicePixelRatio(ratio);
    ground_.image.fill(colour("page"));
    waits_ = false;
    QPainter p(&ground_.image);
    p.translate(-canvas_.topLeft());
    paintGround(p);
    p.end();
    canvas_ = {};
    ground_.of = groundState();
    ground_.middle = middle_;
    ground_.metres_a_pixel = metres_a_pixel_;
    ground_.up_deg = up_deg_;
    ground_.around = QWidget::size();
}

// While one drags or zooms the last picture is moved and stretched, and painted anew when the hand rests, or
// where it does not reach.
void ChartSheetView::showGround(QPainter &p) {
    const auto rests_on = [&]() -> std::optional<QRectF> {
        if (ground_.image.isNull() || ground_.around != QWidget::size() || ground_.up_deg != up_deg_ ||
            waits_)
            return std::nullopt;
        constexpr double most_stretch = 2;
        const double stretch = ground_.metres_a_pixel / metres_a_pixel_;
        const bool zoomed = std::fabs(stretch - 1) > 1e-9, changed = !(ground_.of == groundState());
        if ((zoomed || changed) && !moving())
            return std::nullopt;
        if (stretch > most_stretch || stretch < 1 / most_stretch)
            return std::nullopt;
        const QSizeF size = ground_.image.deviceIndependentSize() * stretch;
        auto corner = positionOf(ground_.middle) - QPointF(size.width(), size.height()) / 2;
        if (!zoomed) { // by whole pixels it stays as sharp as it is
            constexpr double least_px = 1e-6;
            const QPointF whole = corner.toPoint();
            if (!moving() && (whole - corner).manhattanLength() > least_px)
                return std::nullopt;
            corner = whole;
        }
        const QRectF at(corner, size);
        return zoomed || at.contains(QRectF(rect())) ? std::optional(at) : std::nullopt;
    };
    auto at = rests_on();
    if (!at) {
        paintGroundPicture();
        const QSizeF size = ground_.image.deviceIndependentSize();
        at = QRectF(QPointF(width() - size.width(), height() - size.height()) / 2, size);
    }
    p.setRenderHint(QPainter::SmoothPixmapTransform, false);
    p.drawImage(*at, ground_.image);
    if (moving() && !settle_.isActive())
        settle_.start();
}

} // namespace heron::app
