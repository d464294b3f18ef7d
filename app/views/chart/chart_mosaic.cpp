// The mosaic on the sheet: tiles as they are printed, no finer than the window shows.
#include "views/chart/chart_sheet_view.hpp"

#include "kit/theme.hpp"

#include <QPainter>
#include <QTimer>
#include <algorithm>
#include <cmath>

namespace heron::app {

namespace {

int floored(int value, int by) {
    return value >= 0 ? value / by : -((-value + by - 1) / by);
}

} // namespace

GroundMap::Key ChartSheetView::printOf(const GroundMap::Key &tile, int halvings) {
    return {floored(tile.first, 1 << halvings), floored(tile.second, 1 << halvings)};
}

// Printed: the upper two thirds of the map over the page; what was seen once prints palest.
void ChartSheetView::printTile(QImage &on, const PrintKey &key, const GroundMap::Key &tile_key,
                               const ChartTile &tile) const {
    constexpr int n = GroundMap::tile;
    const int halvings = key.first, across = 1 << halvings, side = n >> halvings, block = 1 << halvings;
    const int left = (tile_key.first - key.second.first * across) * side,
              top = (across - 1 - (tile_key.second - key.second.second * across)) * side;
    const bool dusk = Theme::instance().light() == Light::dusk;
    const auto &map = Theme::instance().map();
    for (int y = 0; y < side; ++y) {
        auto *out = reinterpret_cast<QRgb *>(on.scanLine(top + y)) + left;
        for (int x = 0; x < side; ++x) {
            // The mean of what was seen in the block.
            int sum = 0, seen = 0, looks = 0;
            for (int dy = 0; dy < block; ++dy) {
                const auto from = static_cast<std::size_t>((y * block + dy) * n + x * block);
                for (auto i = from; i < from + static_cast<std::size_t>(block); ++i) {
                    if (tile.level[i] == 0)
                        continue;
                    sum += tile.level[i];
                    looks = std::max(looks, static_cast<int>(tile.looks[i]));
                    ++seen;
                }
            }
            if (seen == 0) {
                out[x] = 0;
                continue;
            }
            const int level = sum / seen, printed_level = dusk ? level * 2 / 3 : 85 + level * 2 / 3;
            const auto c = map[static_cast<std::uint8_t>(std::min(255, printed_level))];
            const int alpha = looks >= 2 ? 235 : looks == 1 ? 190 : 140;
            out[x] = qPremultiply(qRgba(qRed(c), qGreen(c), qBlue(c), alpha));
        }
    }
}

// What is not printed yet is, as far as this paint's share of tiles goes; the rest has its turn at the next.
const QImage *ChartSheetView::imageOf(const PrintKey &key, int &tiles_left) {
    const auto &tiles = context_.chart.tiles();
    auto &printed = images_[key];
    printed.painted = paints_;
    if (printed.image.isNull()) {
        if (tiles_left <= 0 && !whole_)
            return nullptr;
        constexpr int n = GroundMap::tile;
        printed.image = QImage(n, n, QImage::Format_ARGB32_Premultiplied);
        printed.image.fill(0);
        printed.stale.clear();
        const int across = 1 << key.first, west = key.second.first * across,
                  south = key.second.second * across;
        for (int column = west; column < west + across; ++column)
            for (auto t = tiles.lower_bound({column, south});
                 t != tiles.end() && t->first.first == column && t->first.second < south + across; ++t) {
                printTile(printed.image, key, t->first, t->second);
                --tiles_left;
            }
    }
    for (const auto &stale : printed.stale)
        if (const auto t = tiles.find(stale); t != tiles.end())
            printTile(printed.image, key, stale, t->second);
    printed.stale.clear();
    return &printed.image;
}

// Of every print that there is only the tiles that changed are printed anew.
void ChartSheetView::tilesChanged() {
    for (const auto &tile : context_.chart.changed())
        for (int halvings = 0; halvings <= most_halvings; ++halvings)
            if (const auto printed = images_.find({halvings, printOf(tile, halvings)});
                printed != images_.end())
                printed->second.stale.insert(tile);
}

// Of a whole day's sheet only what is looked at stays printed.
void ChartSheetView::dropImages() {
    constexpr std::size_t most_images = 1200; // of 64 KiB
    if (images_.size() > most_images)
        std::erase_if(images_, [this](const auto &one) { return one.second.painted + 30 < paints_; });
}

void ChartSheetView::paintMosaic(QPainter &p) {
    const auto &tiles = context_.chart.tiles();
    if (tiles.empty())
        return;
    const double tile_px = GroundMap::tile * context_.chart.cellM() / metres_a_pixel_;
    ++paints_;
    dropImages();
    // No finer than a pixel of the window.
    int halvings = 0;
    while (halvings < most_halvings && tile_px * 2 < (GroundMap::tile >> halvings))
        ++halvings;
    const int across = 1 << halvings;
    const double side = GroundMap::tile * context_.chart.cellM() * across, px = tile_px * across;
    p.setRenderHint(QPainter::SmoothPixmapTransform,
                    metres_a_pixel_ > context_.chart.cellM() || up_deg_ != 0);
    const auto [least, most] = seen();
    // And no more than there is.
    const auto first = printOf(tiles.begin()->first, halvings),
               last = printOf(tiles.rbegin()->first, halvings);
    const int from = std::max(first.first, static_cast<int>(std::floor(least.east_m / side))),
              to = std::min(last.first, static_cast<int>(std::floor(most.east_m / side))),
              low = static_cast<int>(std::floor(least.north_m / side)),
              high = static_cast<int>(std::floor(most.north_m / side));
    constexpr int a_paint = 300; // tiles that are printed, some 10 ms
    int tiles_left = a_paint;
    bool waits = false;
    for (int column = from; column <= to; ++column)
        for (int row = low; row <= high; ++row) {
            const PrintKey key{halvings, {column, row}};
            if (!images_.contains(key) && !anyTile(key))
                continue;
            const auto *image = imageOf(key, tiles_left);
            if (image == nullptr) {
                waits = true;
                continue;
            }
            const auto corner = positionOf({column * side, (row + 1) * side});
            if (up_deg_ == 0) {
                // On whole pixels, as its neighbours: else the page shows between them.
                const auto opposite = positionOf({(column + 1) * side, row * side});
                p.drawImage(QRect(corner.toPoint(), opposite.toPoint() - QPoint(1, 1)), *image);
                continue;
            }
            p.save();
            p.translate(corner);
            p.rotate(-up_deg_);
            p.drawImage(QRectF(0, 0, px, px), *image);
            p.restore();
        }
    waits_ = waits;
    if (waits)
        QTimer::singleShot(0, this, qOverload<>(&QWidget::update));
}

bool ChartSheetView::anyTile(const PrintKey &key) const {
    const auto &tiles = context_.chart.tiles();
    const int across = 1 << key.first, west = key.second.first * across, south = key.second.second * across;
    for (int column = west; column < west + across; ++column)
        if (const auto t = tiles.lower_bound({column, south});
            t != tiles.end() && t->first.first == column && t->first.second < south + across)
            return true;
    return false;
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
