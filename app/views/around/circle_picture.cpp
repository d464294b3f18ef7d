#include "views/around/circle_picture.hpp"

#include "kit/glyphs.hpp"
#include "kit/theme.hpp"

#include <QMouseEvent>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr double margin_px = 46, mark_px = 28;

void cased(QPainter &p, const QPainterPath &path, const QColor &ink, double width,
           Qt::PenStyle style = Qt::SolidLine) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour("casing"), width + 2.2, Qt::SolidLine, Qt::RoundCap));
    p.drawPath(path);
    p.setPen(QPen(ink, width, style, style == Qt::SolidLine ? Qt::RoundCap : Qt::FlatCap));
    p.drawPath(path);
}

QPainterPath line(QPointF a, QPointF b) {
    QPainterPath path(a);
    path.lineTo(b);
    return path;
}

} // namespace

CirclePicture::CirclePicture(ViewContext &context, QWidget *parent)
    : QWidget(parent), context_(context), display_(context.session.around) {
    setMouseTracking(true);
    setAttribute(Qt::WA_OpaquePaintEvent);
    connect(&context_.bow, &Bow::raysChanged, this, [this](std::size_t first) {
        if (!frozen())
            layFrom(first);
        update();
    });
    connect(&context_.bow, &Bow::begun, this, [this] {
        last_row_.reset();
        turns_back_ = 0;
        raster_.clear();
        numbers_.clear();
        update();
        emit frozenChanged();
    });
    connect(&context_.bow, &Bow::aimChanged, this, qOverload<>(&QWidget::update));
    connect(&context_.bow, &Bow::contactsRead, this, qOverload<>(&QWidget::update));
    connect(&context_.window, &WindowState::displayChanged, this, qOverload<>(&QWidget::update));
    connect(&display_, &WindowState::displayChanged, this, &CirclePicture::rebuild);
    connect(&context_.marks, &MarkLibrary::marksChanged, this, qOverload<>(&QWidget::update));
    connect(&context_.window, &WindowState::selectionChanged, this, qOverload<>(&QWidget::update));
    connect(&context_.session.boats, &Boats::changed, this, [this] {
        setSeat(seat_);
        update();
    });
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void CirclePicture::setUp(Up up) {
    up_ = up;
    rebuild();
    emit shapeChanged();
}

void CirclePicture::setAcross(Across across) {
    across_ = across;
    rebuild();
    emit shapeChanged();
}

void CirclePicture::setRingStyle(RingStyle style) {
    ring_style_ = style;
    update();
    emit shapeChanged();
}

void CirclePicture::setRod(bool on) {
    rod_ = on;
    update();
    emit shapeChanged();
}

void CirclePicture::setSeat(std::size_t seat) {
    const auto seats = context_.session.boats.boat().seats.size();
    seat_ = seats > 0 ? std::min(seat, seats - 1) : 0;
    update();
    emit shapeChanged();
}

void CirclePicture::setFrozen(bool frozen) {
    if (frozen == this->frozen() || (frozen && context_.bow.empty()))
        return;
    turns_back_ = 0;
    if (frozen)
        last_row_ = context_.bow.rays().rays().back().row;
    else
        last_row_.reset();
    rebuild();
    emit frozenChanged();
}

void CirclePicture::stepTurn(int turns) {
    const auto &rays = context_.bow.rays().rays();
    if (rays.empty())
        return;
    const auto now = shownRays();
    if (!frozen())
        last_row_ = rays.back().row;
    const auto sweep = static_cast<std::int64_t>(rays[now - 1].sweep) + turns;
    // The last ray of that turn; the newest of all where there is none later.
    std::optional<std::size_t> row;
    for (auto i = rays.size(); i-- > 0;)
        if (static_cast<std::int64_t>(rays[i].sweep) == sweep) {
            row = rays[i].row;
            break;
        }
    if (row) {
        last_row_ = row;
        turns_back_ = static_cast<int>(rays.back().sweep - static_cast<std::size_t>(sweep));
    }
    rebuild();
    emit frozenChanged();
}

std::size_t CirclePicture::shownRays() const {
    const auto &rays = context_.bow.rays().rays();
    if (!last_row_)
        return rays.size();
    return static_cast<std::size_t>(
        std::upper_bound(rays.begin(), rays.end(), *last_row_,
                         [](std::size_t row, const PlacedRay &ray) { return row < ray.row; }) -
        rays.begin());
}

const PlacedRay &CirclePicture::newest() const {
    return context_.bow.rays().rays()[shownRays() - 1];
}

BowPose CirclePicture::pose() const {
    if (!frozen())
        return context_.bow.pose();
    const auto &ray = newest();
    return {ray.at, ray.on_ground ? wrap_360(ray.bearing_deg - ray.off_bow_deg) : 0, ray.on_ground};
}

double CirclePicture::upDeg() const {
    return up_ == Up::north ? 0 : pose().heading_deg;
}

// Where the head stands in the picture, and how many pixels a metre is.
void CirclePicture::place() {
    if (up_ == Up::ahead) {
        radius_px_ = std::min(height() - 2 * margin_px, 0.9 * width());
        head_px_ = {width() / 2.0, height() - margin_px};
    } else {
        radius_px_ = (std::min(width(), height()) - 2 * margin_px) / 2;
        head_px_ = {width() / 2.0, height() / 2.0};
    }
    scale_ = range_m_ > 0 ? radius_px_ / range_m_ : 20;
}

void CirclePicture::resizeEvent(QResizeEvent *) {
    rebuild();
}

void CirclePicture::rebuild() {
    numbers_.clear();
    raster_.clear();
    const auto shown = shownRays();
    if (shown == 0 || width() < 2 * margin_px || height() < 2 * margin_px) {
        update();
        return;
    }
    range_m_ = newest().range_m;
    place();
    if (std::fabs(raster_.cell_m() - 1 / scale_) > 1e-9)
        raster_ = CircleRaster(2048, 1 / scale_);
    // The turn that is shown and the one before it.
    auto first = shown;
    const auto &rays = context_.bow.rays().rays();
    while (first > 0 && rays[first - 1].sweep + 1 >= newest().sweep && shown - first < 1600)
        --first;
    layFrom(first);
    update();
}

void CirclePicture::layFrom(std::size_t first) {
    const auto &rays = context_.bow.rays().rays();
    const auto shown = shownRays();
    if (shown > 0 && std::fabs(newest().range_m - range_m_) > 0.01 * range_m_) {
        range_m_ = newest().range_m;
        rebuild();
        return;
    }
    for (auto i = first; i < shown; ++i)
        lay(rays[i]);
}

void CirclePicture::lay(const PlacedRay &ray) {
    const auto &scan = context_.session.around.scan();
    if (!scan.holds(ray.row))
        return;
    const auto &ping = scan.ping(ray.row);
    const auto *beam = ping.beam(Side::around);
    if (beam == nullptr)
        return;
    row_levels(ping, *beam, scan.bottom(ray.row), display_.filters(), display_.angles(), nullptr, nullptr,
               scan.installation.draught_m(), levels_);
    const auto known = std::lower_bound(numbers_.begin(), numbers_.end(), std::pair{ray.row, 0U});
    if (known != numbers_.end() && known->first == ray.row) {
        raster_.lay_again(known->second, ray, ping, levels_, across_);
        return;
    }
    numbers_.emplace_back(ray.row, raster_.lay(ray, ping, levels_, across_));
    while (numbers_.size() > 4000)
        numbers_.pop_front();
}

QPointF CirclePicture::direction(double bearing) const {
    const double a = (bearing - upDeg()) / degrees_per_radian;
    return {std::sin(a), -std::cos(a)};
}

QPointF CirclePicture::positionOf(const EastNorth &place) const {
    const auto now = pose();
    const double a = upDeg() / degrees_per_radian, de = place.east_m - now.head.east_m,
                 dn = place.north_m - now.head.north_m;
    return head_px_ +
           scale_ * QPointF(de * std::cos(a) - dn * std::sin(a), -(de * std::sin(a) + dn * std::cos(a)));
}

QPointF CirclePicture::at(const FromHead &spot) const {
    return positionOf(pose().from(spot));
}

std::optional<CirclePicture::Spot> CirclePicture::spotAt(QPointF position) const {
    const auto shown = shownRays();
    if (shown == 0)
        return std::nullopt;
    const auto now = pose();
    const auto off = (position - head_px_) / scale_;
    const double a = upDeg() / degrees_per_radian, ahead = -off.y(), right = off.x();
    Spot spot;
    spot.at = {now.head.east_m + ahead * std::sin(a) + right * std::cos(a),
               now.head.north_m + ahead * std::cos(a) - right * std::sin(a)};
    spot.from_head = now.to(spot.at);
    if (std::hypot(off.x(), off.y()) > range_m_)
        return std::nullopt;
    const auto &cell = raster_.at(spot.at);
    const auto &scan = context_.session.around.scan();
    for (auto n = numbers_.rbegin(); cell.ray != 0 && n != numbers_.rend(); ++n) {
        if (n->second != cell.ray || !scan.holds(n->first))
            continue;
        const auto &rays = context_.bow.rays().rays();
        const auto ray = std::lower_bound(rays.begin(), rays.end(), n->first,
                                          [](const PlacedRay &r, std::size_t row) { return r.row < row; });
        if (ray == rays.end() || ray->row != n->first)
            break;
        const double g = std::hypot(spot.at.east_m - ray->at.east_m, spot.at.north_m - ray->at.north_m);
        spot.seen =
            Cursor{n->first, Side::around, across_ == Across::ground ? std::hypot(g, ray->altitude_m) : g};
        break;
    }
    return spot;
}

std::optional<CirclePicture::Spot> CirclePicture::pointed() const {
    return hover_ ? spotAt(*hover_) : std::nullopt;
}

QString CirclePicture::markAt(QPointF position) const {
    QString nearest;
    double least = 26;
    for (const auto &mark : context_.marks.all())
        if (const auto aim = context_.bow.aimOf(mark)) {
            const auto thing = positionOf(aim->at);
            const double d = std::min(QLineF(position, thing).length(),
                                      QLineF(position, thing + QPointF(40, -6)).length());
            if (d < least) {
                least = d;
                nearest = aim->mark;
            }
        }
    return nearest;
}

void CirclePicture::mousePressEvent(QMouseEvent *event) {
    hover_ = event->position();
    emit pressed(event->position());
    emit pointedChanged();
    update();
}

void CirclePicture::mouseMoveEvent(QMouseEvent *event) {
    hover_ = event->position();
    emit pointedChanged();
    update();
}

void CirclePicture::leaveEvent(QEvent *) {
    hover_.reset();
    emit pointedChanged();
    update();
}

void CirclePicture::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    if (shownRays() == 0) {
        p.setFont(Theme::instance().font(17, true));
        p.setPen(colour("ink"));
        p.drawText(rect().adjusted(40, 0, -40, -20), Qt::AlignCenter | Qt::TextWordWrap,
                   tr("No turning head is heard."));
        p.setFont(Theme::instance().font(14));
        p.setPen(colour("ink2"));
        p.drawText(rect().adjusted(60, 60, -60, 40), Qt::AlignCenter | Qt::TextWordWrap,
                   tr("The circle begins with its first ray. Connections (I) shows what is heard; O opens a "
                      "recording of a turning head or a trip that has one."));
        return;
    }
    place();
    p.setRenderHint(QPainter::Antialiasing);
    paintGround(p);
    p.save();
    QPainterPath circle;
    circle.addEllipse(head_px_, radius_px_, radius_px_);
    p.setClipPath(circle & [this] {
        QPainterPath all;
        all.addRect(rect());
        return all;
    }());
    paintRings(p);
    paintReach(p);
    p.restore();
    paintRim(p);
    paintAim(p);
    paintRod(p);
    paintBoat(p);
    paintContacts(p);
    paintSwimmers(p);
    paintMarks(p);
    paintAges(p);
    paintCorners(p);
}

// In the corners, beside the circle: the depth under the bow, what the boat does, and what pale means.
void CirclePicture::paintCorners(QPainter &p) {
    const auto write = wordsOn(p);
    const auto units = context_.session.preferences.units();
    write(14, 24, tr("Depth under the bow"), 13, false, "ink2");
    if (const auto depth = context_.bow.depthUnderBow()) {
        const auto printed = print_length(*depth, units);
        const double wide = write(14, 66, QString::fromStdString(printed.figure), 44, true, "ink");
        write(20 + wide, 66, QString::fromStdString(printed.unit), 17, false, "ink");
    } else {
        write(14, 60, tr("not known"), 24, true, "ink");
    }
    const auto speed = context_.bow.speed();
    write(14, 90,
          !speed ? tr("speed not known")
          : *speed < standing_m_s
              ? tr("holding still")
              : tr("%1 over ground").arg(QString::fromStdString(print_speed(*speed, units).text())),
          13, false, "ink2");
    const auto now = pose();
    const auto right = [&](double y, const QString &words, bool bold, const char *ink) {
        p.setFont(Theme::instance().font(13, bold));
        p.setPen(colour(ink));
        p.drawText(QRectF(0, y - 14, width() - 14.0, 20), Qt::AlignRight, words);
    };
    right(24,
          now.on_ground ? tr("heading %1").arg(QString::fromStdString(print_bearing(now.heading_deg)))
                        : tr("no heading or no position"),
          !now.on_ground, now.on_ground ? "ink2" : "accent");
    if (!now.on_ground)
        right(42, tr("rays lie about the boat: what moves smears"), false, "accent");
    if (frozen())
        right(now.on_ground ? 44 : 62,
              turns_back_ > 0 ? tr("frozen, %1 turns back").arg(turns_back_) : tr("frozen"), true, "accent");
    if (up_ == Up::ahead)
        return; // the picture fills the lower corners
    const auto &boat = context_.session.boats.boat();
    write(14, height() - 30,
          tr("boat %1,").arg(QString::fromStdString(print_length(boat.length_m, units, 0).text())), 13, false,
          "ink2");
    write(14, height() - 13, tr("drawn to scale"), 13, false, "ink2");
    right(height() - 30, tr("pale = older"), false, "ink2");
    if (const auto turn = context_.bow.rays().turn_s())
        right(height() - 13, tr("one turn %1 s").arg(std::lround(*turn)), false, "ink2");
}

// What the window shows about the sample, cut from the picture itself.
Chip CirclePicture::chipAt(const Cursor &cursor) const {
    constexpr int width = 124, height = 92;
    const auto &rays = context_.bow.rays().rays();
    const auto ray = std::lower_bound(rays.begin(), rays.end(), cursor.row,
                                      [](const PlacedRay &r, std::size_t row) { return r.row < row; });
    if (ray == rays.end())
        return {};
    const double altitude = across_ == Across::ground ? ray->altitude_m : 0,
                 g = std::sqrt(std::max(0.0, cursor.slant_m * cursor.slant_m - altitude * altitude)),
                 a = ray->bearing_deg / degrees_per_radian, up = upDeg() / degrees_per_radian;
    const EastNorth middle{ray->at.east_m + g * std::sin(a), ray->at.north_m + g * std::cos(a)};
    Chip chip{width, height, std::vector<std::uint8_t>(static_cast<std::size_t>(width) * height)};
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            const double ahead = (height / 2.0 - y) * raster_.cell_m(),
                         right = (x - width / 2.0) * raster_.cell_m();
            const auto &cell = raster_.at({middle.east_m + ahead * std::sin(up) + right * std::cos(up),
                                           middle.north_m + ahead * std::cos(up) - right * std::sin(up)});
            if (cell.ray != 0)
                chip.level[static_cast<std::size_t>(y * width + x)] =
                    display_.displayWindow().level_of(cell.level / 100.0);
        }
    return chip;
}

void CirclePicture::paintGround(QPainter &p) {
    if (image_.size() != size())
        image_ = QImage(size(), QImage::Format_RGB32);
    const auto now = pose();
    CircleLook look;
    const double a = upDeg() / degrees_per_radian;
    const QPointF middle = (QPointF(width() / 2.0, height() / 2.0) - head_px_) / scale_;
    const double ahead = -middle.y(), right = middle.x();
    look.middle = {now.head.east_m + ahead * std::sin(a) + right * std::cos(a),
                   now.head.north_m + ahead * std::cos(a) - right * std::sin(a)};
    look.up_deg = upDeg();
    look.metres_a_pixel = 1 / scale_;
    look.head = now.head;
    look.radius_m = range_m_;
    look.newest = raster_.newest();
    const auto &rays = context_.bow.rays();
    const double step = std::fabs(rays.step_deg());
    std::uint32_t in_turn = 0;
    const auto &last = newest();
    for (auto i = shownRays(); i-- > 0 && rays.rays()[i].sweep + 1 >= last.sweep;)
        in_turn += rays.rays()[i].sweep + 1 == last.sweep;
    look.turn = in_turn > 8 ? in_turn : static_cast<std::uint32_t>(360 / std::max(0.3, step));
    paint_circle(raster_, look, display_.displayWindow(), Theme::instance().map().table(),
                 colour("page").rgb(), reinterpret_cast<std::uint32_t *>(image_.bits()),
                 static_cast<std::size_t>(image_.width()), static_cast<std::size_t>(image_.height()));
    p.drawImage(0, 0, image_);
}

// The rim thins with the age of what lies within; its end is the newest ray.
void CirclePicture::paintRim(QPainter &p) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour("ink"), 1.5));
    if (up_ != Up::ahead)
        p.drawEllipse(head_px_, radius_px_, radius_px_);
    else
        p.drawArc(
            QRectF(head_px_.x() - radius_px_, head_px_.y() - radius_px_, 2 * radius_px_, 2 * radius_px_), 0,
            180 * 16);
    const auto &rays = context_.bow.rays().rays();
    const auto &last = newest();
    const double turn = std::max(1.0, context_.bow.rays().turn_s().value_or(10));
    const QRectF box(head_px_.x() - radius_px_ + 2, head_px_.y() - radius_px_ + 2, 2 * radius_px_ - 4,
                     2 * radius_px_ - 4);
    const double up = upDeg();
    for (auto i = shownRays(); i-- > 0;) {
        const auto &ray = rays[i];
        const double age = seconds_between(ray.time, last.time) / turn;
        if (age > 1)
            break;
        p.setPen(QPen(colour("accent"), 1 + 5 * (1 - age), Qt::SolidLine, Qt::FlatCap));
        const double from = 90 - (ray.bearing_deg - up) - ray.half_deg;
        p.drawArc(box, static_cast<int>(std::lround(from * 16)),
                  static_cast<int>(std::lround(2 * ray.half_deg * 16)) + 4);
    }
    // The newest ray parts new from old.
    cased(p, line(head_px_, head_px_ + radius_px_ * direction(last.bearing_deg)), colour("pick"), 1.4);
    // Degrees off the bow outside the rim.
    auto &theme = Theme::instance();
    const double heading = pose().heading_deg;
    for (int d = -180; d < 180; d += 10) {
        const bool large = d % 30 == 0;
        if (up_ == Up::ahead && std::abs(d) > 90)
            continue;
        const auto way = direction(heading + d);
        p.setPen(QPen(colour("ink"), large ? 2 : 1));
        p.drawLine(head_px_ + (radius_px_ + 2) * way, head_px_ + (radius_px_ + (large ? 11 : 7)) * way);
        if (!large)
            continue;
        p.setFont(theme.font(13, d == 0));
        const auto words = d == 0 ? tr("ahead") : QStringLiteral("%1°").arg(std::abs(d));
        const auto room = p.fontMetrics().boundingRect(words);
        const auto middle = head_px_ + (radius_px_ + 26) * way;
        p.drawText(middle + QPointF(-room.width() / 2.0, room.height() / 2.0 - 4), words);
    }
}

void CirclePicture::paintRings(QPainter &p) {
    const auto units = context_.session.preferences.units();
    QColor faint = colour("paper");
    faint.setAlphaF(0.75F);
    for (const double r : rings(range_m_, ring_style_, units)) {
        QPainterPath ring;
        ring.addEllipse(head_px_, r * scale_, r * scale_);
        if (r < 0.995 * range_m_) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(faint, 1.2));
            p.drawPath(ring);
        }
        const bool whole = ring_style_ == RingStyle::round || units == UnitSystem::feet;
        const double shown = units == UnitSystem::feet ? feet_from_metres(r) : r;
        const int decimals = whole && std::fabs(shown - std::round(shown)) < 0.01 ? 0 : 1;
        const auto words = QString::fromStdString(print_length(r, units, decimals).text());
        const double a = (up_ == Up::ahead ? 300 : 222) / degrees_per_radian;
        paintCased(p, head_px_ + r * scale_ * QPointF(std::sin(a), -std::cos(a)) + QPointF(4, 4), words,
                   Theme::instance().font(14, true), colour("paper"));
    }
}

// True to scale at every zoom; the seats bear their numbers.
void CirclePicture::paintBoat(QPainter &p) {
    const auto &boat = context_.session.boats.boat();
    QPainterPath hull;
    bool begun = false;
    for (const auto &spot : boat.outline()) {
        const auto where = at(from_head(boat, spot));
        begun ? hull.lineTo(where) : hull.moveTo(where);
        begun = true;
    }
    hull.closeSubpath();
    QColor deck = colour("page");
    deck.setAlphaF(0.85F);
    p.setPen(QPen(colour("casing"), 4));
    p.setBrush(deck);
    p.drawPath(hull);
    p.setPen(QPen(colour("ink"), 2));
    p.drawPath(hull);
    const double size = std::clamp(0.35 * scale_, 8.0, 13.0);
    for (std::size_t i = 0; i < boat.seats.size(); ++i) {
        const auto where = at(from_head(boat, boat.seats[i].at));
        p.setPen(Qt::NoPen);
        p.setBrush(colour("ink"));
        p.drawEllipse(where, size, size);
        p.setFont(Theme::instance().font(std::max(12, static_cast<int>(1.2 * size)), true));
        p.setPen(colour("page"));
        p.drawText(QRectF(where.x() - size, where.y() - size, 2 * size, 2 * size), Qt::AlignCenter,
                   QString::number(i + 1));
    }
    p.setPen(QPen(colour("casing"), 3));
    p.setBrush(colour("pick"));
    p.drawEllipse(head_px_, 3.5, 3.5);
}

// How far each seat casts, towards what is aimed at, else ahead: an arc and its seat's number.
void CirclePicture::paintReach(QPainter &p) {
    const auto &boat = context_.session.boats.boat();
    const auto now = pose();
    static constexpr std::array styles{Qt::SolidLine, Qt::DashLine, Qt::DotLine, Qt::DashDotLine};
    const auto units = context_.session.preferences.units();
    for (std::size_t i = 0; i < boat.seats.size(); ++i) {
        const auto &seat = boat.seats[i];
        const auto from = from_head(boat, seat.at);
        double towards = 0;
        if (const auto &aim = context_.bow.aim()) {
            const auto thing = now.to(aim->at);
            towards = polar_of({thing.ahead_m - from.ahead_m, thing.right_m - from.right_m}).off_bow_deg;
        }
        QPainterPath arc;
        QPointF first;
        for (int k = -22; k <= 22; ++k) {
            const auto reach = of_polar({towards + k, seat.reach_m});
            const auto where = at({from.ahead_m + reach.ahead_m, from.right_m + reach.right_m});
            k == -22 ? arc.moveTo(where) : arc.lineTo(where);
            if (k == -22)
                first = where;
        }
        cased(p, arc, colour("paper"), 2, styles[i % styles.size()]);
        paintCased(
            p, first + QPointF(-30, -4),
            tr("%1: %2").arg(i + 1).arg(QString::fromStdString(print_length(seat.reach_m, units, 0).figure)),
            Theme::instance().font(13), colour("paper"));
    }
}

void CirclePicture::paintMarks(QPainter &p) {
    const auto &theme = Theme::instance();
    for (const auto &mark : context_.marks.all()) {
        const auto aim = context_.bow.aimOf(mark);
        if (!aim)
            continue;
        const auto from = pose().to(aim->at);
        if (std::hypot(from.ahead_m, from.right_m) > range_m_)
            continue;
        const auto thing = positionOf(aim->at);
        if (!rect().contains(thing.toPoint()))
            continue;
        const bool aimed = context_.bow.aim() && context_.bow.aim()->mark == aim->mark;
        const bool left = thing.x() > width() - 170;
        const QPointF glyph = thing + QPointF(left ? -44 : 44, -8);
        const auto ink = colour(aimed ? "pick" : "paper");
        cased(p, line(thing + QPointF(left ? -8 : 8, 0), glyph + QPointF(left ? 15 : -15, 0)), ink, 1.4);
        QPainterPath ring;
        ring.addEllipse(thing, 7, 7);
        cased(p, ring, ink, 1.6);
        const double size = aimed ? 34 : mark_px;
        p.setPen(Qt::NoPen);
        p.setBrush(colour("casing"));
        p.drawEllipse(glyph, size / 2 + 2, size / 2 + 2);
        paintGlyph(p, aim->glyph, QRectF(glyph.x() - size / 2, glyph.y() - size / 2, size, size), ink);
        const auto font = theme.font(aimed ? 15 : 13, true);
        const double wide = QFontMetricsF(font).horizontalAdvance(aim->title);
        paintCased(p, glyph + QPointF(left ? -22 - wide : 22, 5), aim->title, font, ink);
    }
}

bool CirclePicture::isMarked(const EastNorth &at) const {
    constexpr double near_m = 1.2;
    return std::any_of(context_.marks.all().begin(), context_.marks.all().end(), [&](const Mark &mark) {
        const auto aim = context_.bow.aimOf(mark);
        return aim && std::hypot(aim->at.east_m - at.east_m, aim->at.north_m - at.north_m) < near_m;
    });
}

int CirclePicture::contactAt(QPointF position) const {
    const auto &read = context_.bow.circle();
    int nearest = 0;
    double least = 20;
    for (std::size_t i = 0; i < read.contacts().size(); ++i)
        if (const auto aim = context_.bow.aimOf(read.contacts()[i], read.idOf(i)))
            if (const double d = QLineF(position, positionOf(aim->at)).length(); d < least) {
                least = d;
                nearest = aim->contact;
            }
    return context_.window.ringsContacts() ? nearest : 0;
}

// Rings beside their glyphs; what bears a mark already needs none.
void CirclePicture::paintContacts(QPainter &p) {
    const auto &read = context_.bow.circle();
    if (!context_.window.ringsContacts() || turns_back_ > 0)
        return;
    for (std::size_t i = 0; i < read.contacts().size(); ++i) {
        const auto &c = read.contacts()[i];
        const auto aim = context_.bow.aimOf(c, read.idOf(i));
        if (!aim)
            continue;
        const auto from = pose().to(aim->at);
        if (std::hypot(from.ahead_m, from.right_m) > range_m_ || isMarked(aim->at))
            continue;
        const auto thing = positionOf(aim->at);
        const double r = std::clamp(c.length_m.value_or(1) / 2 * scale_, 8.0, 40.0);
        QPainterPath ring;
        ring.addEllipse(thing, r, r);
        cased(p, ring, colour("paper"), 1.6, c.confidence < 0.75 ? Qt::DashLine : Qt::SolidLine);
        const bool left = thing.x() > width() - 60;
        const QPointF glyph = thing + QPointF(left ? -r - 14 : r + 14, -10);
        p.setPen(Qt::NoPen);
        p.setBrush(colour("casing"));
        p.drawEllipse(glyph, 12, 12);
        paintGlyph(p, aim->glyph, QRectF(glyph.x() - 10, glyph.y() - 10, 20, 20), colour("paper"));
    }
}

int CirclePicture::swimmerAt(QPointF position) const {
    int nearest = 0;
    double least = 24;
    for (const auto &s : context_.bow.circle().swimmers())
        if (const auto at = context_.bow.placeOf(s))
            if (const double d = QLineF(position, positionOf(*at)).length(); d < least) {
                least = d;
                nearest = s.id;
            }
    return nearest;
}

// What moved from turn to turn: a lens, and an arrow to where it will be when a lure lies before it.
void CirclePicture::paintSwimmers(QPainter &p) {
    if (!context_.window.ringsContacts() || frozen())
        return;
    const auto units = context_.session.preferences.units();
    for (const auto &s : context_.bow.circle().swimmers()) {
        const auto now = context_.bow.placeOf(s), then = context_.bow.placeOf(s, context_.bow.lureSeconds(s));
        if (!now || !then)
            continue;
        const auto a = positionOf(*now), b = positionOf(*then);
        if (QLineF(a, head_px_).length() > radius_px_)
            continue;
        auto arrow = line(a, b);
        if (const QLineF way(b, a); way.length() > 6)
            for (const double turn : {26.0, -26.0}) {
                auto barb = way;
                barb.setAngle(way.angle() + turn);
                barb.setLength(9);
                arrow.moveTo(b);
                arrow.lineTo(barb.p2());
            }
        const bool aimed = context_.bow.aim() && context_.bow.aim()->swimmer == s.id;
        const auto ink = colour(aimed ? "pick" : "paper");
        cased(p, arrow, ink, 2);
        p.setPen(Qt::NoPen);
        p.setBrush(colour("casing"));
        p.drawEllipse(a, 13, 13);
        paintGlyph(p, s.length_m > 1.2 ? QStringLiteral("kind-fish_group") : QStringLiteral("kind-fish"),
                   QRectF(a.x() - 11, a.y() - 11, 22, 22), ink);
        paintCased(p, a + QPointF(16, 16), QString::fromStdString(print_speed(s.speed_m_s(), units).text()),
                   Theme::instance().font(13), ink);
    }
}

// From each seat to what is aimed at.
void CirclePicture::paintAim(QPainter &p) {
    const auto &aim = context_.bow.aim();
    if (!aim)
        return;
    const auto &boat = context_.session.boats.boat();
    const auto thing = positionOf(aim->at);
    const auto casts = context_.bow.casts();
    for (std::size_t i = 0; i < boat.seats.size() && i < casts.size(); ++i) {
        const auto seat = at(from_head(boat, boat.seats[i].at));
        cased(p, line(seat, thing), colour(casts[i].in_reach() ? "pick" : "paper"), 1.8,
              casts[i].in_reach() ? Qt::SolidLine : Qt::DashLine);
    }
    QPainterPath ring;
    ring.addEllipse(thing, 12, 12);
    cased(p, ring, colour("pick"), 2);
    if (aim->sd_m * scale_ > 14) {
        QPainterPath doubt;
        doubt.addEllipse(thing, aim->sd_m * scale_, aim->sd_m * scale_);
        cased(p, doubt, colour("pick"), 1, Qt::DotLine);
    }
}

// For whoever aims the rod at the screen: from the seat through the pointer to the end of its reach.
void CirclePicture::paintRod(QPainter &p) {
    const auto &boat = context_.session.boats.boat();
    if (!rod_ || !hover_ || boat.seats.empty())
        return;
    const auto spot = spotAt(*hover_);
    if (!spot)
        return;
    const auto &seat = boat.seats[seat_];
    const auto cast = cast_from(boat, seat, spot->from_head);
    const auto from = from_head(boat, seat.at), whole = of_polar({cast.off_bow.degrees, seat.reach_m});
    cased(p, line(at(from), at({from.ahead_m + whole.ahead_m, from.right_m + whole.right_m})), colour("pick"),
          2.4);
    const auto units = context_.session.preferences.units();
    const double degrees = std::round(cast.off_bow.degrees);
    const auto words =
        tr("%1: %2, %3° %4, %5")
            .arg(QString::fromStdString(seat.name), QString::fromStdString(cast.off_bow.clock()))
            .arg(std::abs(degrees))
            .arg(degrees < 0 ? tr("left") : tr("right"),
                 QString::fromStdString(print_length(cast.distance_m, units, 0).text()));
    const auto font = Theme::instance().font(17, true);
    const double wide = QFontMetricsF(font).horizontalAdvance(words);
    const QPointF where(std::clamp(hover_->x() + 18, 8.0, width() - wide - 8.0),
                        std::max(24.0, hover_->y() - 16));
    paintCased(p, where, words, font, colour("pick"));
}

void CirclePicture::paintAges(QPainter &p) {
    const auto &rays = context_.bow.rays().rays();
    const auto &last = newest();
    const double turn = context_.bow.rays().turn_s().value_or(0);
    if (turn < 3)
        return;
    // Three words on the way round, just within the rim.
    double next = 0.3;
    for (auto i = shownRays(); i-- > 0;) {
        const double age = seconds_between(rays[i].time, last.time);
        if (age > 0.95 * turn)
            break;
        if (age < next * turn)
            continue;
        next += 0.3;
        const auto words = tr("%1 s old").arg(std::lround(age));
        const auto way = direction(rays[i].bearing_deg);
        const auto font = Theme::instance().font(13);
        const double wide = QFontMetricsF(font).horizontalAdvance(words);
        const auto where = head_px_ + (radius_px_ - 34) * way - QPointF(wide / 2, -4);
        if (rect().contains(where.toPoint()))
            paintCased(p, where, words, font, colour("paper"));
    }
}

} // namespace heron::app
