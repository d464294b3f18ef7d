#include "gutter.hpp"

#include "picture_view.hpp"
#include "shell/theme.hpp"

#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace heron::app {
namespace {

constexpr int every = 4; // rows between the points of a trace

} // namespace

Gutter::Gutter(Survey &survey, PictureView &picture, QWidget *parent)
    : QWidget(parent), survey_(survey), picture_(picture) {
    setFixedWidth(128);
    setAttribute(Qt::WA_OpaquePaintEvent);
    connect(&picture_, &PictureView::topChanged, this, qOverload<>(&QWidget::update));
    connect(&picture_, &PictureView::handlesChanged, this, qOverload<>(&QWidget::update));
    connect(&survey_, &Survey::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(&survey_, &Survey::scanReplaced, this, [this] {
        known_.clear();
        update();
    });
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

const Gutter::Point &Gutter::pointAt(std::size_t row) {
    const auto &scan = survey_.scan();
    // What is still provisional is looked up anew: the bottom, and the turn for want of what comes after it.
    const bool settled = row + 2 * BottomTracker::lag < scan.end();
    const auto [at, fresh] = known_.try_emplace(row);
    if (fresh || !at->second.settled) {
        at->second = lookUp(row);
        at->second.settled = settled;
    }
    return at->second;
}

Gutter::Point Gutter::lookUp(std::size_t row) const {
    const auto &scan = survey_.scan();
    const auto &r = scan.row(row);
    Point point;
    if (r.bottom.found)
        point.depth_m = r.bottom.altitude_m + scan.installation.draught_m();
    if (const auto v = scan.nav.speed_at(r.ping.time))
        point.speed_m_s = *v;
    const auto a = scan.nav.attitude_at(r.ping.time - ns_per_s),
               b = scan.nav.attitude_at(r.ping.time + ns_per_s);
    if (a && b && b->time > a->time) {
        point.turn_deg_s = wrap_180(b->heading_deg - a->heading_deg) / seconds_between(a->time, b->time);
        point.turn_known = true;
    }
    return point;
}

void Gutter::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setPen(QPen(colour("hair"), 1));
    for (const int x : {64, 100})
        p.drawLine(x, 0, x, height());
    const auto &scan = survey_.scan();
    if (scan.empty())
        return;
    const auto top = picture_.topRow();
    if (known_.size() > 4000)
        known_.clear();

    // The points lie on whole multiples of `every`, so that traces scroll and do not crawl.
    std::vector<std::pair<double, Point>> points;
    double deepest = 0.5, fastest = 0.5;
    for (auto row = top - top % every; row + static_cast<std::size_t>(height()) > top && scan.holds(row);
         row -= every) {
        points.emplace_back(static_cast<double>(top - row), pointAt(row));
        deepest = std::max(deepest, points.back().second.depth_m);
        fastest = std::max(fastest, points.back().second.speed_m_s);
        if (row < every)
            break;
    }
    const bool feet = survey_.units() == UnitSystem::feet;
    const double deep_scale = feet ? metres_from_feet(std::ceil(feet_from_metres(deepest) / 6 + 0.3) * 6)
                                   : std::ceil(deepest / 2 + 0.3) * 2;
    const double fast_scale = std::max(2.0, std::ceil(fastest));
    const auto depth_x = [&](double d) { return 60 * d / deep_scale; };

    QPolygonF depth, speed, turn;
    QPolygonF water;
    water << QPointF(0, 0);
    for (const auto &[y, v] : points) {
        if (v.depth_m > 0)
            depth << QPointF(depth_x(v.depth_m), y);
        if (v.speed_m_s >= 0)
            speed << QPointF(66 + 32 * v.speed_m_s / fast_scale, y);
        if (v.turn_known)
            turn << QPointF(114 + std::clamp(v.turn_deg_s, -12.0, 12.0), y);
    }
    if (!depth.isEmpty()) {
        water << QPointF(depth.first().x(), 0);
        water += depth;
        water << QPointF(0, depth.last().y());
        p.setPen(Qt::NoPen);
        p.setBrush(colour("water"));
        p.drawPolygon(water);
    }
    p.setRenderHint(QPainter::Antialiasing, false);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour("ink"), 2));
    p.drawPolyline(depth);
    p.setPen(QPen(colour("ink"), 1.5));
    p.drawPolyline(speed);
    p.setPen(QPen(colour("reed"), 1.5));
    p.drawPolyline(turn);

    // Where the boat turned the gutter is struck through.
    p.setPen(QPen(colour("accent"), 1.5));
    for (const auto &[y, v] : points)
        if (v.turn_known && std::fabs(v.turn_deg_s) > turning_deg_s && static_cast<int>(y) % 8 < every)
            p.drawLine(QPointF(66, y + 8), QPointF(126, y - 8));

    p.setFont(theme.font(13, true));
    p.setPen(colour("ink"));
    for (std::size_t i = 30; i < points.size(); i += 40) {
        const auto &[y, v] = points[i];
        if (v.depth_m <= 0)
            continue;
        p.drawText(QPointF(4, y + 5),
                   QString::fromStdString(print_length(v.depth_m, survey_.units()).figure));
    }
    if (const auto &h = picture_.handles(); h && picture_.rowVisible(h->row)) {
        // The row in hand runs through the gutter.
        const double y = static_cast<double>(top - h->row) + 0.5;
        p.setPen(QPen(colour("accent"), 1.5));
        p.drawLine(QPointF(0, y), QPointF(width(), y));
        const auto v = pointAt(h->row);
        if (v.depth_m > 0) {
            p.fillRect(QRectF(0, y - 10, 44, 20), colour("accent"));
            p.setPen(colour("onaccent"));
            p.drawText(QRectF(0, y - 10, 44, 20), Qt::AlignCenter,
                       QString::fromStdString(print_length(v.depth_m, survey_.units()).figure));
        }
    }
}

} // namespace heron::app
