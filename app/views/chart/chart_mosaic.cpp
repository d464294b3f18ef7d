// The mosaic on the sheet: tiles as they are printed, no finer than the window shows.
#include "views/chart/chart_sheet_view.hpp"

#include "kit/theme.hpp"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace heron::app {

// Printed: the upper two thirds of the map over the page; what was seen once prints palest.
const QImage &ChartSheetView::imageOf(const GroundMap::Key &key, const ChartTile &tile, int halvings) {
    auto &printed = images_[{key, halvings}];
    printed.painted = paints_;
    if (printed.holds)
        return printed.image;
    constexpr int n = GroundMap::tile;
    const int side = n >> halvings, block = 1 << halvings;
    auto &image = printed.image;
    image = QImage(side, side, QImage::Format_ARGB32);
    const bool dusk = Theme::instance().light() == Light::dusk;
    const auto &map = Theme::instance().map();
    for (int y = 0; y < side; ++y) {
        auto *out = reinterpret_cast<QRgb *>(image.scanLine(y));
        for (int x = 0; x < side; ++x) {
            // The mean of what was seen in the block.
            int sum = 0, seen = 0, looks = 0;
            for (int dy = 0; dy < block; ++dy)
                for (int dx = 0; dx < block; ++dx) {
                    const auto i = static_cast<std::size_t>((y * block + dy) * n + x * block + dx);
                    if (tile.level[i] == 0)
                        continue;
                    sum += tile.level[i];
                    looks = std::max(looks, static_cast<int>(tile.looks[i]));
                    ++seen;
                }
            if (seen == 0) {
                out[x] = 0;
                continue;
            }
            const int level = sum / seen, printed_level = dusk ? level * 2 / 3 : 85 + level * 2 / 3;
            const auto c = map[static_cast<std::uint8_t>(std::min(255, printed_level))];
            const int alpha = looks >= 2 ? 235 : looks == 1 ? 190 : 140;
            out[x] = qRgba(qRed(c), qGreen(c), qBlue(c), alpha);
        }
    }
    printed.holds = true;
    return image;
}

// Of a whole day's sheet only what is looked at stays printed.
void ChartSheetView::dropImages() {
    constexpr std::size_t most_bytes = 160u << 20;
    std::size_t bytes = 0;
    for (const auto &[key, printed] : images_)
        bytes += static_cast<std::size_t>(printed.image.sizeInBytes());
    if (bytes > most_bytes)
        std::erase_if(images_, [this](const auto &one) { return one.second.painted + 30 < paints_; });
}

void ChartSheetView::paintMosaic(QPainter &p) {
    const double side = GroundMap::tile * context_.chart.cellM(), px = side / metres_a_pixel_;
    ++paints_;
    dropImages();
    // No finer than a pixel of the window.
    int halvings = 0;
    while (halvings < 5 && px * 2 < (GroundMap::tile >> halvings))
        ++halvings;
    p.setRenderHint(QPainter::SmoothPixmapTransform,
                    metres_a_pixel_ > context_.chart.cellM() || up_deg_ != 0);
    for (const auto &[key, tile] : context_.chart.tiles()) {
        const auto corner = positionOf({key.first * side, (key.second + 1) * side});
        const QPointF middle = positionOf({(key.first + 0.5) * side, (key.second + 0.5) * side});
        if (!QRectF(rect()).adjusted(-px, -px, px, px).contains(middle))
            continue;
        if (up_deg_ == 0) {
            p.drawImage(QRectF(corner, positionOf({(key.first + 1) * side, key.second * side})),
                        imageOf(key, tile, halvings));
            continue;
        }
        p.save();
        p.translate(corner);
        p.rotate(-up_deg_);
        p.drawImage(QRectF(0, 0, px, px), imageOf(key, tile, halvings));
        p.restore();
    }
}

// The part that is seen, a little more of it about, no finer than the window shows.
void ChartSheetView::askBackdrop() {
    const auto &drawn = context_.backdrops.drawn();
    if (!drawn || !drawn->has_picture || !isVisible())
        return;
    const double across = std::hypot(width(), height()) * metres_a_pixel_ * 1.1;
    const int cells = static_cast<int>(std::min(2000.0, across / metres_a_pixel_));
    context_.backdrops.ask(
        {middle_.east_m - across / 2, middle_.north_m + across / 2, across / cells, cells, cells});
}

} // namespace heron::app
