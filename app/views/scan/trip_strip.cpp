#include "views/scan/trip_strip.hpp"

#include "kit/theme.hpp"
#include "parts/picture_view.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>

namespace heron::app {

TripStrip::TripStrip(ViewContext &context, PictureView &picture, QWidget *parent)
    : QWidget(parent), context_(context), picture_(picture) {
    setFixedWidth(44);
    setObjectName(QStringLiteral("trip"));
    setAttribute(Qt::WA_OpaquePaintEvent);
    setToolTip(tr("The whole trip, newest at the top; press to go there"));
    // It changes slowly: once a second is enough.
    connect(&timer_, &QTimer::timeout, this, &TripStrip::redraw);
    timer_.start(1000);
    connect(&picture_, &PictureView::frozenChanged, this, &TripStrip::redraw);
    connect(&context_.session.shown, &ShownScan::replaced, this, &TripStrip::redraw);
    connect(&context_.session.trip, &TripKeeper::began, this, &TripStrip::redraw);
    connect(&context_.window, &WindowState::displayChanged, this, &TripStrip::redraw);
    connect(&Theme::instance(), &Theme::changed, this, &TripStrip::redraw);
}

void TripStrip::resizeEvent(QResizeEvent *) {
    redraw();
}

// From the overview, so that an hour costs no more than a minute. What is newer than its last line is read
// row by row.
void TripStrip::redraw() {
    const auto &scan = context_.session.shown.scan();
    const auto &map = Theme::instance().map().table();
    image_ = QImage(width(), std::max(1, height()), QImage::Format_RGB32);
    image_.fill(map[0]);
    const auto &overview = context_.session.shown.overview();
    if (!scan.empty()) {
        const auto rows = scan.end();
        const auto lines = std::min<std::size_t>(rows, static_cast<std::size_t>(image_.height()));
        const auto level = overview.level_for(2 * lines);
        const auto &small = overview.lines(level);
        const auto each = Overview::rows_a_line(level);
        for (std::size_t y = 0; y < lines; ++y) {
            const auto row = rows - 1 - y * rows / lines;
            if (small.empty())
                break;
            const auto &line = small[std::min(row / each, small.size() - 1)];
            auto *out = reinterpret_cast<QRgb *>(image_.scanLine(static_cast<int>(y)));
            for (int x = 0; x < image_.width(); ++x) {
                const auto c =
                    static_cast<std::size_t>(x) * line.size() / static_cast<std::size_t>(image_.width());
                if (line[c] > 0)
                    out[x] = map[context_.window.displayWindow().level_of(line[c] + overview_zero_db)];
            }
        }
    }
    update();
}

void TripStrip::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.drawImage(0, 0, image_);
    const auto &scan = context_.session.shown.scan();
    if (context_.session.shown.empty())
        return;
    const auto rows = static_cast<double>(scan.end());
    const double lines = std::min(rows, static_cast<double>(height()));
    const auto bottom = picture_.rowAtY(picture_.height() - 1).value_or(scan.first());
    const auto yOf = [&](std::size_t row) { return (rows - 1 - static_cast<double>(row)) / rows * lines; };
    const double y = yOf(picture_.topRow()), h = std::max(6.0, yOf(bottom) - y);
    p.setRenderHint(QPainter::Antialiasing);
    // In a trip that is played: where now is.
    if (context_.session.sources.source() == Sources::Source::trip &&
        context_.session.shown.end() < scan.end()) {
        p.setPen(QPen(colour("casing"), 4));
        p.drawLine(QPointF(0, yOf(context_.session.shown.newest())),
                   QPointF(width(), yOf(context_.session.shown.newest())));
        p.setPen(QPen(colour("paper"), 1.5));
        p.drawLine(QPointF(0, yOf(context_.session.shown.newest())),
                   QPointF(width(), yOf(context_.session.shown.newest())));
    }
    p.setPen(QPen(colour("pick"), 2));
    p.drawRect(QRectF(1, std::min(y + 1, lines - 7), width() - 2, h - 2));
}

void TripStrip::jump(double y) {
    const auto &scan = context_.session.shown.scan();
    if (scan.empty())
        return;
    const auto rows = static_cast<double>(scan.end());
    const double lines = std::min(rows, static_cast<double>(height()));
    const auto row = static_cast<std::size_t>(std::clamp((1 - y / lines) * rows, 0.0, rows - 1));
    context_.session.playback.showUpTo(row); // a trip that is played shows what was pressed, also beyond now
    picture_.goTo(row);
    picture_.scrollLines(picture_.height() / 2);
    context_.window.levelAt(row);
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
