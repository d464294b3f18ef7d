// The chart's band of depth in the picture: hatched where the bottom lies in it, as the chart knows it.
#include "parts/picture_view.hpp"

#include "kit/theme.hpp"

#include <QPainter>
#include <cmath>

namespace heron::app {

void PictureView::paintDepthBand(QPainter &p) {
    const auto &band = context_.window.depthBand();
    const auto &sheet = context_.chart.sheet();
    if (!band || !sheet)
        return;
    constexpr int step = 9;
    const auto &scan = context_.session.shown.scan();
    const auto &depth = sheet->depth;
    for (int y = step / 2; y < height(); y += step) {
        const auto row = rowAtY(y);
        if (!row)
            break;
        const auto &bottom = scan.bottom(*row);
        const auto fix = scan.nav.fix_at(scan.facts(*row).time);
        if (!fix || !bottom.found || scan.facts(*row).place_unknown)
            continue;
        const auto keel = to_utm(sheet->zone, transducer_place(fix->pose, scan.installation));
        for (int x = step / 2; x < width(); x += step) {
            const double off = x - keelX();
            const auto side = off < 0 ? Side::port : Side::starboard;
            const double slant = slantAt(*row, std::fabs(off) / pixelsPerMetre());
            if (!shows(side) || slant <= bottom.altitude_m)
                continue;
            const double ground =
                             std::sqrt(slant * slant - bottom.altitude_m * bottom.altitude_m) * keel.scale,
                         bearing =
                             (fix->pose.heading_deg + nominal_azimuth_deg(side) - keel.convergence_deg) /
                             degrees_per_radian;
            const auto cell = depth.raster.cell_at(keel.east_m + ground * std::sin(bearing),
                                                   keel.north_m + ground * std::cos(bearing));
            if (!cell)
                continue;
            const auto d = static_cast<double>(depth.depth_m[*cell]);
            if (!(d >= band->from_m && d < band->to_m))
                continue;
            const QPointF a(x - 3, y + 3), b(x + 3, y - 3);
            p.setPen(QPen(colour("casing"), 2.6));
            p.drawLine(a, b);
            p.setPen(QPen(colour("paper"), 1.2));
            p.drawLine(a, b);
        }
    }
}

} // namespace heron::app
