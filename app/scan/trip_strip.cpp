#include "trip_strip.hpp"

#include "picture_view.hpp"
#include "shell/theme.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>

namespace heron::app {

TripStrip::TripStrip(Survey &survey, PictureView &picture, QWidget *parent)
    : QWidget(parent), survey_(survey), picture_(picture) {
    setFixedWidth(44);
    setAttribute(Qt::WA_OpaquePaintEvent);
    setObjectName(QStringLiteral("trip"));
    setToolTip(tr("All that is held of this trip, newest at the top; press to go there"));
    // It changes slowly: once a second is enough.
    connect(&timer_, &QTimer::timeout, this, &TripStrip::redraw);
    timer_.start(1000);
    connect(&picture_, &PictureView::frozenChanged, this, &TripStrip::redraw);
    connect(&survey_, &Survey::scanReplaced, this, &TripStrip::redraw);
    connect(&Theme::instance(), &Theme::changed, this, &TripStrip::redraw);
}

void TripStrip::resizeEvent(QResizeEvent *) {
    redraw();
}

void TripStrip::redraw() {
    const auto &scan = survey_.scan();
    const auto &map = Theme::instance().map().table();
    image_ = QImage(width(), std::max(1, height()), QImage::Format_RGB32);
    image_.fill(map[0]);
    if (!scan.empty()) {
        const auto rows = scan.end() - scan.first();
        const auto lines = std::min<std::size_t>(rows, static_cast<std::size_t>(image_.height()));
        const auto half = static_cast<std::size_t>(width() / 2);
        std::vector<std::uint8_t> levels(half);
        for (std::size_t y = 0; y < lines; ++y) {
            const auto row = scan.end() - 1 - y * rows / lines;
            const auto &ping = scan.row(row).ping;
            auto *out = reinterpret_cast<QRgb *>(image_.scanLine(static_cast<int>(y)));
            for (const auto &beam : ping.beams) {
                if (beam.side != Side::port && beam.side != Side::starboard)
                    continue;
                paint_side(ping, beam, ping.range_m(), survey_.window(), levels);
                for (std::size_t x = 0; x < half; ++x)
                    out[beam.side == Side::port ? half - 1 - x : half + x] = map[levels[x]];
            }
        }
    }
    update();
}

void TripStrip::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.drawImage(0, 0, image_);
    const auto &scan = survey_.scan();
    if (scan.empty())
        return;
    const auto rows = static_cast<double>(scan.end() - scan.first());
    const double lines = std::min(rows, static_cast<double>(height()));
    const double y =
        (static_cast<double>(scan.end() - 1) - static_cast<double>(picture_.topRow())) / rows * lines;
    const double h = std::max(6.0, std::min<double>(picture_.height(), rows) / rows * lines);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(colour("pick"), 2));
    p.drawRect(QRectF(1, y + 1, width() - 2, h - 2));
}

void TripStrip::jump(double y) {
    const auto &scan = survey_.scan();
    if (scan.empty())
        return;
    const auto rows = static_cast<double>(scan.end() - scan.first());
    const double lines = std::min(rows, static_cast<double>(height()));
    const double back = std::clamp(y / lines, 0.0, 1.0) * rows;
    picture_.goTo(static_cast<std::size_t>(
        std::max(static_cast<double>(scan.first()),
                 static_cast<double>(scan.end() - 1) - back + picture_.height() / 2.0)));
    update();
}

void TripStrip::mousePressEvent(QMouseEvent *event) {
    jump(event->position().y());
}
void TripStrip::mouseMoveEvent(QMouseEvent *event) {
    if (event->buttons() & Qt::LeftButton)
        jump(event->position().y());
}

} // namespace heron::app
