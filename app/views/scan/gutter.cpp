#include "views/scan/gutter.hpp"

#include "kit/theme.hpp"
#include "parts/picture_view.hpp"

#include <QPainter>
#include <cmath>

namespace heron::app {
namespace {

constexpr int every = 3; // pixels between the points of a trace

} // namespace

Gutter::Gutter(ViewContext &context, PictureView &picture, QWidget *parent)
    : QWidget(parent), context_(context), picture_(picture) {
    setFixedWidth(depth_w + speed_w + turn_w + pings_w);
    setAttribute(Qt::WA_OpaquePaintEvent);
    setToolTip(tr("Depth; speed; turn rate, left and right of straight; pings on a thing of half a metre, "
                  "the line is three"));
    connect(&picture_, &PictureView::topChanged, this, qOverload<>(&QWidget::update));
    connect(&picture_, &PictureView::handlesChanged, this, qOverload<>(&QWidget::update));
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(&context_.session.shown, &ShownScan::replaced, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

double Gutter::pingsOnHalfMetre(const Scan &scan, std::size_t row) {
    const auto &f = scan.facts(row);
    if (!(f.speed_m_s >= static_cast<float>(standing_m_s)) || row == scan.first())
        return std::nan("");
    const double dt = seconds_between(scan.facts(row - 1).time, f.time);
    if (dt <= 0 || dt > 2)
        return std::nan("");
    // A degree is the usual width where the samples are not at hand.
    constexpr double width_rad = 1 / degrees_per_radian;
    return (0.5 + static_cast<double>(f.range_m) / 2 * width_rad) / (static_cast<double>(f.speed_m_s) * dt);
}

void Gutter::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setPen(QPen(colour("hair"), 1));
    const int speed_x = depth_w, turn_x = depth_w + speed_w, pings_x = turn_x + turn_w;
    for (const int x : {speed_x, turn_x, pings_x})
        p.drawLine(x, 0, x, height());
    if (context_.session.shown.empty())
        return;
    const auto points = pointsNow();
    paintTraces(p, points);
    paintStrikesAndDepths(p, points);
    paintSelectedRow(p);
}

// Points lie on whole multiples of `every` lines from the newest, so that traces scroll and do not crawl.
std::vector<Gutter::Point> Gutter::pointsNow() const {
    std::vector<Point> points;
    for (int y = 0; y < height(); y += every) {
        const auto row = picture_.rowAtY(y);
        if (!row)
            break;
        points.push_back({y, *row});
    }
    return points;
}

void Gutter::paintTraces(QPainter &p, const std::vector<Point> &points) {
    const auto &scan = context_.session.shown.scan();
    const int speed_x = depth_w, turn_x = depth_w + speed_w, pings_x = turn_x + turn_w;
    double deepest = 0.5, fastest = 0.5;
    for (const auto &[y, row] : points) {
        const auto &f = scan.facts(row);
        if (f.bottom.found)
            deepest = std::max(deepest, f.bottom.altitude_m + scan.installation.draught_m());
        if (f.speed_m_s == f.speed_m_s)
            fastest = std::max(fastest, static_cast<double>(f.speed_m_s));
    }
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    const double deep_scale = feet ? metres_from_feet(std::ceil(feet_from_metres(deepest) / 6 + 0.3) * 6)
                                   : std::ceil(deepest / 2 + 0.3) * 2;
    const double fast_scale = std::max(2.0, std::ceil(fastest));
    QPolygonF depth, speed, turn, water;
    water << QPointF(0, 0);
    for (const auto &[y, row] : points) {
        const auto &f = scan.facts(row);
        if (f.bottom.found)
            depth << QPointF(
                (depth_w - 4) * (f.bottom.altitude_m + scan.installation.draught_m()) / deep_scale, y);
        if (f.speed_m_s == f.speed_m_s)
            speed << QPointF(speed_x + 2 + (speed_w - 4) * static_cast<double>(f.speed_m_s) / fast_scale, y);
        if (f.turn_deg_s == f.turn_deg_s)
            turn << QPointF(
                turn_x + turn_w / 2.0 + std::clamp(static_cast<double>(f.turn_deg_s), -10.0, 10.0), y);
        const double n = pingsOnHalfMetre(scan, row);
        if (n == n)
            p.fillRect(QRectF(pings_x + 2, y, std::min(1.0, n / 16) * (pings_w - 4), every - 1),
                       colour(n < 3 ? "accent" : "mute"));
    }
    if (!depth.isEmpty()) {
        water << QPointF(depth.first().x(), 0);
        water += depth;
        water << QPointF(0, depth.last().y());
        p.setPen(Qt::NoPen);
        p.setBrush(colour("water"));
        p.drawPolygon(water);
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour("ink"), 2));
    p.drawPolyline(depth);
    p.setPen(QPen(colour("ink"), 1));
    p.drawPolyline(speed);
    p.setPen(QPen(colour("reed"), 1));
    p.drawPolyline(turn);
    p.setPen(QPen(colour("line"), 1, Qt::DotLine));
    const double three = pings_x + 2 + 3.0 / 16 * (pings_w - 4);
    p.drawLine(QPointF(three, 0), QPointF(three, height()));
}

void Gutter::paintStrikesAndDepths(QPainter &p, const std::vector<Point> &points) {
    const auto &scan = context_.session.shown.scan();
    const int speed_x = depth_w;
    // What cannot be measured along the track is struck through here too.
    p.setPen(QPen(colour("accent"), 1.5));
    for (const auto &[y, row] : points)
        if (strike_of(scan.facts(row), picture_.steadyLimits()) != Strike::none && y % 9 < every)
            p.drawLine(QPointF(speed_x + 2, y + 7), QPointF(width() - 2, y - 7));

    p.setFont(Theme::instance().font(13, true));
    p.setPen(colour("ink"));
    for (std::size_t i = 40; i < points.size(); i += 53) {
        const auto &f = scan.facts(points[i].row);
        if (f.bottom.found)
            p.drawText(
                QPointF(3, points[i].y + 5),
                QString::fromStdString(print_length(f.bottom.altitude_m + scan.installation.draught_m(),
                                                    context_.session.preferences.units())
                                           .figure));
    }
}

// The row of what is selected runs through the gutter.
void Gutter::paintSelectedRow(QPainter &p) {
    const auto &scan = context_.session.shown.scan();
    p.setFont(Theme::instance().font(13, true));
    if (const auto &h = picture_.handles(); h && picture_.rowVisible(h->row)) {
        const double y = picture_.yOf(h->row);
        p.setPen(QPen(colour("accent"), 1.5));
        p.drawLine(QPointF(0, y), QPointF(width(), y));
        const auto &f = scan.facts(h->row);
        if (f.bottom.found) {
            p.fillRect(QRectF(0, y - 10, 42, 20), colour("accent"));
            p.setPen(colour("onaccent"));
            p.drawText(
                QRectF(0, y - 10, 42, 20), Qt::AlignCenter,
                QString::fromStdString(print_length(f.bottom.altitude_m + scan.installation.draught_m(),
                                                    context_.session.preferences.units())
                                           .figure));
        }
    }
}

} // namespace heron::app
