#include "views/around/circle_picture.hpp"

#include "kit/glyphs.hpp"
#include "kit/theme.hpp"

#include <QMouseEvent>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr double margin_px = 46;

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
        handles_.reset();
        end_set_ = false;
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

void CirclePicture::setLoupe(bool on) {
    loupe_ = on;
    update();
    emit shapeChanged();
}

void CirclePicture::setGuests(bool on) {
    guests_ = on;
    update();
    emit shapeChanged();
}

std::optional<double> CirclePicture::pointedBearing() const {
    if (!hover_)
        return std::nullopt;
    const auto way = *hover_ - head_px_;
    if (std::hypot(way.x(), way.y()) < 20)
        return std::nullopt;
    return wrap_360(std::atan2(way.x(), -way.y()) * degrees_per_radian + upDeg());
}

void CirclePicture::setMeasures(bool on) {
    measures_ = on;
    handles_.reset();
    end_set_ = false;
    update();
    emit shapeChanged();
}

bool CirclePicture::pressMeasure(QPointF position) {
    if (!measures_)
        return false;
    const auto spot = spotAt(position);
    if (handles_ && !end_set_) {
        end_set_ = true;
    } else if (spot && spot->seen) {
        handles_ = MeasureHandles{spot->seen->row, Side::around, spot->seen->slant_m, spot->seen->slant_m};
        end_set_ = false;
    }
    emit pointedChanged();
    update();
    return true;
}

std::optional<Measurement> CirclePicture::measurement() const {
    return handles_ ? measure(context_.session.around.scan(), *handles_) : std::nullopt;
}

const PlacedRay *CirclePicture::rayOf(std::size_t row) const {
    const auto &rays = context_.bow.rays().rays();
    const auto ray = std::lower_bound(rays.begin(), rays.end(), row,
                                      [](const PlacedRay &r, std::size_t n) { return r.row < n; });
    return ray == rays.end() || ray->row != row ? nullptr : &*ray;
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
        const auto *ray = rayOf(n->first);
        if (ray == nullptr)
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
    // The shadow's end follows along its ray.
    const auto *ray = handles_ && !end_set_ ? rayOf(handles_->row) : nullptr;
    if (const auto spot = ray != nullptr ? spotAt(*hover_) : std::nullopt) {
        const double g = std::hypot(spot->at.east_m - ray->at.east_m, spot->at.north_m - ray->at.north_m);
        handles_->end_m =
            std::max(handles_->top_m, across_ == Across::ground ? std::hypot(g, ray->altitude_m) : g);
    }
    const auto &rays = context_.bow.rays();
    if (const auto spot =
            rays.plane() && !rays.empty() && rays.rays().back().on_ground ? spotAt(*hover_) : std::nullopt)
        context_.window.lightPlace(rays.plane()->to_globe(spot->at));
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
    paintWind(p);
    paintHold(p);
    paintAim(p);
    paintRod(p);
    paintBoat(p);
    paintContacts(p);
    paintSwimmers(p);
    paintMarks(p);
    paintAges(p);
    paintMeasure(p);
    paintCorners(p);
    paintLoupe(p);
    paintGuests(p);
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
    const auto *ray = rayOf(cursor.row);
    if (ray == nullptr)
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

} // namespace heron::app
