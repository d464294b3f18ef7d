#include "parts/picture_over_section.hpp"

#include "kit/glyphs.hpp"
#include "kit/theme.hpp"
#include "picture/row_levels.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace heron::app {
namespace {

constexpr int grip_side = 44;

} // namespace

PictureOverSection::PictureOverSection(ViewContext &context, QWidget *parent)
    : QWidget(parent), context_(context), stream_(&context.session.shown),
      circle_display_(context.session.around) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    const auto anew = [this] {
        paintPicture();
        update();
    };
    for (const auto *display : {&context_.window, &circle_display_})
        connect(display, &WindowState::displayChanged, this, [this, display, anew] {
            if (&this->display() == display)
                anew();
        });
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, anew);
}

const WindowState &PictureOverSection::display() const {
    return stream_ == &context_.session.around ? circle_display_ : context_.window;
}

void PictureOverSection::show(const Contact *contact, ShownScan &stream) {
    stream_ = &stream;
    if (contact == nullptr) {
        contact_.reset();
        handles_.reset();
        measured_.reset();
    } else {
        contact_ = *contact;
        MeasureHandles h;
        h.row = contact->row;
        h.side = contact->side;
        h.top_m = contact->top_m > 0 ? contact->top_m : contact->slant_m;
        h.floating = contact->placement == Placement::suspended;
        h.end_m = h.floating ? (contact->shadow_start_m + contact->shadow_end_m) / 2 : contact->shadow_end_m;
        handles_.reset();
        if (contact->height_m && h.end_m > h.top_m)
            handles_ = h;
        moved_ = false;
        measureNow();
    }
    scaleTo();
    paintPicture();
    update();
}

QString PictureOverSection::length(double m) const {
    return QString::fromStdString(print_length(m, context_.session.preferences.units()).text());
}

void PictureOverSection::measureNow() {
    measured_.reset();
    if (handles_ && stream_->scan().holds(handles_->row))
        measured_ = measure(stream_->scan(), *handles_, contact_->bottom);
}

// Between the rays about the contact.
double PictureOverSection::rayStepDeg() const {
    const auto &scan = stream_->scan();
    const auto azimuth = [&](std::size_t row) -> std::optional<double> {
        const auto *beam =
            row < stream_->end() && scan.holds(row) ? scan.ping(row).beam(Side::around) : nullptr;
        return beam != nullptr ? std::optional(beam->azimuth_deg) : std::nullopt;
    };
    const auto here = azimuth(contact_->row);
    for (const auto beside : {contact_->row + 1, contact_->row - 1})
        if (const auto there = azimuth(beside); here && there)
            if (const double step = std::fabs(wrap_180(*there - *here)); step > 0.01)
                return step;
    return 1;
}

// One scale for both halves: all that matters fits across, and the water fits below.
void PictureOverSection::scaleTo() {
    if (!contact_ || !stream_->scan().holds(contact_->row))
        return;
    const auto &f = stream_->scan().facts(contact_->row);
    between_rays_m_ = 0;
    if (contact_->side == Side::around)
        between_rays_m_ =
            std::max(0.02, rayStepDeg() / degrees_per_radian * std::max(1.0, contact_->ground_m.value));
    const double far =
        std::max({contact_->echo_end_m, contact_->shadow_end_m, f.bottom.altitude_m}) * 1.25 + 1;
    range_m_ = std::min(static_cast<double>(f.range_m), far);
    per_metre_ = std::min((width() - keel_x - 8) / range_m_,
                          (height() * 0.5 - fold_gap - 40) / (f.bottom.altitude_m * 1.2 + 0.5));
    range_m_ = std::min(static_cast<double>(f.range_m), (width() - keel_x - 8) / per_metre_);
}

// Newest above. Nothing was heard before the first row nor after the newest.
std::optional<std::size_t> PictureOverSection::rowAt(int y, std::size_t near) const {
    const auto &scan = stream_->scan();
    const auto &own = scan.facts(contact_->row);
    const double up = height() / 2 / 2.0 - y;
    const bool by_count = own.timed > 0 && own.along_m == 0;
    if (between_rays_m_ > 0 || by_count) {
        const double rows = by_count && between_rays_m_ <= 0 ? up : up / (between_rays_m_ * per_metre_);
        const auto at =
            static_cast<std::ptrdiff_t>(contact_->row) + static_cast<std::ptrdiff_t>(std::lround(rows));
        if (at < static_cast<std::ptrdiff_t>(scan.first()) ||
            at >= static_cast<std::ptrdiff_t>(stream_->end()))
            return std::nullopt;
        return static_cast<std::size_t>(at);
    }
    const double along = own.along_m + up / per_metre_;
    if (along < scan.facts(scan.first()).along_m || along > scan.facts(stream_->end() - 1).along_m)
        return std::nullopt;
    while (near + 1 < stream_->end() && scan.facts(near).along_m < along)
        ++near;
    while (near > scan.first() && scan.facts(near).along_m > along)
        --near;
    return std::fabs(scan.facts(near).along_m - along) > 0.6 ? std::nullopt : std::optional(near);
}

void PictureOverSection::paintPicture() {
    const int h = height() / 2, w = width();
    image_ = QImage(std::max(1, w), std::max(1, h), QImage::Format_RGB32);
    const auto &map = Theme::instance().map();
    image_.fill(QColor::fromRgb(map[0]));
    if (!contact_ || !stream_->scan().holds(contact_->row))
        return;
    const auto &scan = stream_->scan();
    const auto pixels = static_cast<std::size_t>(std::max(1.0, range_m_ * per_metre_));
    std::vector<float> levels;
    std::vector<std::uint8_t> out(pixels);
    auto row = contact_->row;
    std::size_t painted = static_cast<std::size_t>(-1);
    for (int y = 0; y < h; ++y) {
        const auto at = rowAt(y, row);
        if (!at)
            continue;
        row = *at;
        auto *line = reinterpret_cast<QRgb *>(image_.scanLine(y));
        if (row != painted) {
            const auto &ping = scan.ping(row);
            const auto *beam = ping.beam(contact_->side);
            std::fill(out.begin(), out.end(), std::uint8_t{0});
            if (beam != nullptr) {
                row_levels(ping, *beam, scan.bottom(row), display().filters(), display().angles(), nullptr,
                           nullptr, scan.installation.draught_m(), levels, nullptr);
                paint_levels(ping, levels, scan.bottom(row).altitude_m, Across::slant, range_m_,
                             display().displayWindow(), out);
            }
            painted = row;
        }
        for (std::size_t x = 0;
             x < out.size() && x + static_cast<std::size_t>(keel_x) < static_cast<std::size_t>(w); ++x)
            line[x + static_cast<std::size_t>(keel_x)] = map[out[x]];
    }
}

double PictureOverSection::yOf(std::size_t row) const {
    const auto &scan = stream_->scan();
    const auto &own = scan.facts(contact_->row);
    const double h = height() / 2.0;
    if (between_rays_m_ > 0)
        return h / 2 -
               (static_cast<double>(row) - static_cast<double>(contact_->row)) * between_rays_m_ * per_metre_;
    if (own.timed > 0 && own.along_m == 0)
        return h / 2 - (static_cast<double>(row) - static_cast<double>(contact_->row));
    return h / 2 - (scan.facts(row).along_m - own.along_m) * per_metre_;
}

QRectF PictureOverSection::gripRect(Grip grip) const {
    if (!handles_)
        return {};
    double top = xOf(handles_->top_m), end = xOf(handles_->end_m);
    if (end - top < grip_side + 8) {
        const double middle = (top + end) / 2;
        top = middle - grip_side / 2.0 - 4;
        end = middle + grip_side / 2.0 + 4;
    }
    // At the picture's edge they stay whole.
    if (const double over = end + grip_side / 2.0 + 2 - width(); over > 0) {
        end -= over;
        top = std::min(top, end - grip_side - 8);
    }
    return {(grip == Grip::top ? top : end) - grip_side / 2.0, 26, grip_side, grip_side};
}

QPoint PictureOverSection::handleAt(bool end) const {
    return gripRect(end ? Grip::end : Grip::top).center().toPoint();
}

void PictureOverSection::resizeEvent(QResizeEvent *) {
    scaleTo();
    paintPicture();
}

void PictureOverSection::mousePressEvent(QMouseEvent *event) {
    for (const auto g : {Grip::top, Grip::end})
        if (gripRect(g).contains(event->position())) {
            grip_ = last_ = g;
            grip_offset_ = event->position().x() - xOf(g == Grip::top ? handles_->top_m : handles_->end_m);
            return;
        }
    // On the picture: a new measurement, from the echo's top to the shadow's end.
    if (contact_ && event->position().y() < height() / 2.0 && event->position().x() > keel_x) {
        MeasureHandles h;
        h.row = contact_->row;
        h.side = contact_->side;
        h.top_m = (event->position().x() - keel_x) / per_metre_;
        h.end_m = h.top_m + 0.5;
        h.floating = contact_->placement == Placement::suspended;
        handles_ = h;
        grip_ = last_ = Grip::end;
        grip_offset_ = event->position().x() - xOf(h.end_m);
    }
}

void PictureOverSection::mouseMoveEvent(QMouseEvent *event) {
    if (grip_ == Grip::none || !handles_)
        return;
    const double slant =
        std::clamp((event->position().x() - grip_offset_ - keel_x) / per_metre_, 0.3, range_m_);
    if (grip_ == Grip::top)
        handles_->top_m = std::min(slant, handles_->end_m - 0.02);
    else
        handles_->end_m = std::max(slant, handles_->top_m + 0.02);
    moved_ = true;
    measureNow();
    update();
    emit handlesMoved();
}

void PictureOverSection::mouseReleaseEvent(QMouseEvent *) {
    grip_ = Grip::none;
}

void PictureOverSection::nudge(int samples) {
    if (!handles_ || !stream_->scan().holds(handles_->row))
        return;
    const double step = samples * stream_->scan().ping(handles_->row).metres_per_sample();
    if (last_ == Grip::top)
        handles_->top_m = std::min(handles_->top_m + step, handles_->end_m - 0.02);
    else
        handles_->end_m = std::max(handles_->end_m + step, handles_->top_m + 0.02);
    moved_ = true;
    measureNow();
    update();
    emit handlesMoved();
}

PictureOverSection::Frame PictureOverSection::frame() const {
    Frame f;
    f.surface = height() / 2.0 + fold_gap;
    f.keel = f.surface + stream_->scan().installation.draught_m() * per_metre_;
    f.floor = f.keel + contact_->bottom.altitude_m * per_metre_;
    return f;
}

// As it slopes, for as far as that is known.
double PictureOverSection::floorAt(const Frame &f, double ground_m) const {
    return f.keel + contact_->bottom.depth_at(ground_m) * per_metre_;
}

void PictureOverSection::write(QPainter &p, QPointF at, const QString &text, int px, bool bold,
                               const char *ink) {
    p.setFont(Theme::instance().font(px, bold));
    p.setPen(colour(ink));
    p.drawText(at, text);
}

void PictureOverSection::paintSection(QPainter &p) {
    const auto f = frame();
    p.fillRect(QRectF(0, height() / 2.0, width(), height() / 2.0), colour("page"));
    p.fillRect(QRectF(0, f.surface, width(), height() - f.surface), colour("water"));
    paintBed(p, f);
    // Depth under the boat.
    p.setPen(QPen(colour("ink"), 1));
    p.drawLine(QPointF(keel_x, f.keel + 10), QPointF(keel_x, f.floor));
    const double middle = (f.keel + f.floor) / 2;
    const double draught = stream_->scan().installation.draught_m();
    // Beyond what lies near the boat, where its height stands before it.
    constexpr double needs_px = 190;
    const bool near = handles_ && measured_ && xOf(measured_->shadow.ground_m.value) < keel_x + needs_px;
    const double x =
        near ? std::max(keel_x + needs_px, xOf(measured_->shadow.shadow_ground_m) + 16) : keel_x + 8;
    write(p, {x, middle + 4}, length(contact_->bottom.altitude_m + draught), 17, true, "ink");
    write(p, {x, middle + 22}, tr("under the boat"), 13, false, "ink2");
    if (handles_ && measured_)
        paintRay(p, f);
    else
        paintUnmeasured(p, f);
    // The boat, end on, to scale in height only.
    QPolygonF boat;
    boat << QPointF(keel_x - 34, f.surface - 14) << QPointF(keel_x + 34, f.surface - 14)
         << QPointF(keel_x + 24, f.surface + 5) << QPointF(keel_x - 24, f.surface + 5);
    p.setPen(QPen(colour("ink"), 1.5));
    p.setBrush(colour("lift"));
    p.drawPolygon(boat);
    p.setBrush(colour("accent"));
    p.setPen(Qt::NoPen);
    p.drawEllipse(QPointF(keel_x, f.keel), 4, 4);
}

// Other passes may tell more of it than a plane.
void PictureOverSection::paintBed(QPainter &p, const Frame &f) {
    auto bed = colour("bed");
    bed.setAlphaF(0.55F);
    QPolygonF line;
    line << QPointF(0, floorAt(f, -keel_x / per_metre_));
    for (const auto &[g, off] : contact_->bottom.off)
        if (xOf(g) > 0 && xOf(g) < width())
            line << QPointF(xOf(g), floorAt(f, g));
    line << QPointF(width(), floorAt(f, (width() - keel_x) / per_metre_));
    const auto ground = line + QPolygonF({QPointF(width(), height()), QPointF(0, height())});
    p.setPen(Qt::NoPen);
    for (const auto &paint : {colour("page"), bed}) {
        p.setBrush(paint);
        p.drawPolygon(ground);
    }
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(colour("ink"), 1.5));
    p.drawPolyline(line);
}

// The ray that grazes the top and meets the bottom at the shadow's end, with what follows from it.
void PictureOverSection::paintRay(QPainter &p, const Frame &f) {
    const auto &m = *measured_;
    const double aside = m.shadow.ground_m.value, high = m.shadow.height_m.value,
                 out = m.shadow.shadow_ground_m;
    const QPointF foot(xOf(aside), floorAt(f, aside)), head(foot.x(), foot.y() - high * per_metre_),
        end(xOf(out), floorAt(f, out)), from(keel_x, f.keel);
    QPolygonF shadow;
    shadow << head << end << foot;
    p.setPen(Qt::NoPen);
    p.setBrush(colour("slate"));
    if (!handles_->floating)
        p.drawPolygon(shadow);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour("accent"), 1, Qt::DashLine));
    // From the ruler down to the ray, about the transducer.
    for (const double r : {handles_->top_m, handles_->end_m}) {
        const double deep =
            r == handles_->top_m ? contact_->bottom.depth_at(aside) - high : contact_->bottom.depth_at(out);
        const double a = std::asin(std::clamp(deep / r, 0.0, 1.0)), px = r * per_metre_;
        p.drawArc(QRectF(keel_x - px, f.keel - px, 2 * px, 2 * px), 0, static_cast<int>(-a * 57.29578 * 16));
    }
    p.setPen(QPen(colour("accent"), 2));
    p.drawLine(from, end);
    p.setPen(QPen(colour("ink"), 4));
    if (handles_->floating)
        p.drawPoint(head);
    else
        p.drawLine(head, foot);
    p.setPen(QPen(colour("accent"), 2));
    p.setBrush(colour("page"));
    p.drawEllipse(head, 4.5, 4.5);
    p.drawEllipse(end, 4.5, 4.5);
    write(p, {head.x() - 64, (head.y() + foot.y()) / 2 + 6}, length(high), 17, true, "ink");
    const double y = std::min(std::max(f.floor, foot.y()) + 24, height() - 8.0);
    p.setPen(QPen(colour("ink"), 1));
    p.drawLine(QPointF(keel_x, y - 5), QPointF(head.x(), y - 5));
    p.drawLine(QPointF(keel_x, y - 11), QPointF(keel_x, y + 1));
    p.drawLine(QPointF(head.x(), y - 11), QPointF(head.x(), y + 1));
    const auto text = tr("%1 over ground").arg(length(aside));
    p.setFont(Theme::instance().font(14, true));
    const double w = p.fontMetrics().horizontalAdvance(text);
    p.fillRect(QRectF((keel_x + head.x()) / 2 - w / 2 - 6, y - 16, w + 12, 20), colour("page"));
    write(p, {(keel_x + head.x()) / 2 - w / 2, y}, text, 14, true, "ink");
}

void PictureOverSection::paintUnmeasured(QPainter &p, const Frame &f) {
    if (contact_->zone == Zone::water) {
        // Before the first return it may be anywhere on the arc.
        const double px = contact_->slant_m * per_metre_;
        p.setPen(QPen(colour("accent"), 2, Qt::DashLine));
        p.setBrush(Qt::NoBrush);
        p.drawArc(QRectF(keel_x - px, f.keel - px, 2 * px, 2 * px), 0, -90 * 16);
        write(p, {keel_x + 30, f.floor + 24}, tr("anywhere on the arc: its side distance is not known"), 14,
              false, "ink");
        return;
    }
    const double x = xOf(contact_->ground_m.value);
    p.setPen(QPen(colour("accent"), 2));
    p.setBrush(colour("page"));
    p.drawEllipse(QPointF(x, floorAt(f, contact_->ground_m.value) -
                                 (contact_->height_m ? contact_->height_m->value * per_metre_ : 0)),
                  5, 5);
    const auto text = contact_->zone == Zone::track
                          ? tr("the boat ran over it: its height is the step of the depths")
                          : tr("no shadow to measure; drag over the picture to try");
    const double wide = QFontMetricsF(Theme::instance().font(14)).horizontalAdvance(text);
    write(p, {std::min(std::max(keel_x + 14, x - 120), width() - wide - 8.0), f.floor + 24}, text, 14, false,
          "ink");
}

void PictureOverSection::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    if (!contact_ || !stream_->scan().holds(contact_->row))
        return;
    p.drawImage(0, 0, image_);
    const double h = height() / 2.0;
    const QColor paper = colour("paper");
    const auto &bottom = stream_->scan().bottom(contact_->row);
    const double edge = contact_->side == Side::port     ? bottom.port_m
                        : contact_->side == Side::around ? bottom.altitude_m
                                                         : bottom.starboard_m;
    paintCased(p, {keel_x + 6, 16}, tr("water"), theme.font(13), paper);
    if (edge > 0)
        paintCased(p, {xOf(edge) + 4, 16}, tr("first return"), theme.font(13), paper);
    // The selected ping.
    p.setPen(QPen(paper, 1, Qt::DotLine));
    p.drawLine(QPointF(keel_x, h / 2), QPointF(xOf(contact_->slant_m) - 14, h / 2));
    paintRings(p);
    if (handles_)
        paintHandles(p);
    paintSection(p);
    paintRuler(p);
}

// A small ring on what no handle points at, and on grains that may be fish; what it rings stays visible.
void PictureOverSection::paintRings(QPainter &p) {
    auto &theme = Theme::instance();
    const double h = height() / 2.0;
    const QColor pick = colour("pick");
    const auto ring = [&](QPointF at, double radius) {
        p.setRenderHint(QPainter::Antialiasing);
        p.setBrush(Qt::NoBrush);
        for (const auto &[ink, w] : {std::pair{colour("casing"), 4.2}, {pick, 2.0}}) {
            p.setPen(QPen(ink, w));
            p.drawEllipse(at, radius, radius);
        }
    };
    if (!handles_ && contact_->zone != Zone::track) {
        const double end = std::max(contact_->echo_end_m, contact_->slant_m);
        const QPointF middle(xOf((contact_->slant_m + end) / 2), h / 2);
        const double radius = std::clamp(
            std::max(end - contact_->slant_m, contact_->along_m) / 2 * per_metre_ + 6, 12.0, h / 2 - 20);
        ring(middle, radius);
    }
    for (const auto &grain : contact_->maybe_fish) {
        if (!contact_->crowned() || !stream_->scan().holds(grain.row))
            continue;
        const QPointF at(xOf(grain.slant_m), yOf(grain.row));
        if (at.y() < 20 || at.y() > h - 8)
            continue;
        ring(at, 9);
        paintCased(p, at + QPointF(-16, 27), tr("fish?"), theme.font(14, true), pick);
    }
}

void PictureOverSection::paintHandles(QPainter &p) {
    auto &theme = Theme::instance();
    const double h = height() / 2.0;
    const QColor pick = colour("pick");
    for (const auto g : {Grip::top, Grip::end}) {
        const double x = xOf(g == Grip::top ? handles_->top_m : handles_->end_m);
        const auto box = gripRect(g);
        for (const auto &[ink, w] : {std::pair{colour("casing"), 4.2}, {pick, 2.0}}) {
            p.setPen(QPen(ink, w));
            p.drawLine(QPointF(box.center().x(), box.bottom()), QPointF(x, box.bottom() + 14));
            p.drawLine(QPointF(x, box.bottom() + 14), QPointF(x, h));
        }
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(pick, 2));
        p.setBrush(colour("casing"));
        p.drawRoundedRect(box, 4, 4);
        p.drawPolyline(QPolygonF() << box.center() + QPointF(-5, -7) << box.center() + QPointF(-11, 0)
                                   << box.center() + QPointF(-5, 7));
        p.drawPolyline(QPolygonF() << box.center() + QPointF(5, -7) << box.center() + QPointF(11, 0)
                                   << box.center() + QPointF(5, 7));
    }
    const auto left = gripRect(Grip::top), right = gripRect(Grip::end);
    const auto top_word = handles_->floating ? tr("echo") : tr("echo top"),
               end_word = handles_->floating ? tr("shadow's middle") : tr("shadow end");
    p.setFont(theme.font(14, true));
    paintCased(p, {left.left() - 8 - p.fontMetrics().horizontalAdvance(top_word), left.center().y() + 5},
               top_word, theme.font(14, true), pick);
    // Beside its grip, or over it where the picture ends.
    const double wide = p.fontMetrics().horizontalAdvance(end_word);
    paintCased(p,
               right.right() + 8 + wide < width() ? QPointF(right.right() + 8, right.center().y() + 5)
                                                  : QPointF(width() - wide - 4, right.top() - 6),
               end_word, theme.font(14, true), pick);
}

// The ruler is the fold.
void PictureOverSection::paintRuler(QPainter &p) {
    const double h = height() / 2.0;
    p.setPen(QPen(colour("ink"), 1));
    p.drawLine(QPointF(keel_x, h), QPointF(width(), h));
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    const double unit = feet ? metres_from_feet(1) : 1;
    const double step = feet ? (range_m_ / unit > 80 ? 20 : 10) : (range_m_ > 25 ? 5 : 2);
    p.setFont(Theme::instance().font(13, true));
    for (double v = step; v * unit < range_m_; v += step) {
        const double x = xOf(v * unit);
        p.drawLine(QPointF(x, h), QPointF(x, h + 6));
        const auto text = QString::number(static_cast<int>(v));
        p.drawText(QPointF(x - p.fontMetrics().horizontalAdvance(text) / 2.0, h + 20), text);
    }
}

} // namespace heron::app
