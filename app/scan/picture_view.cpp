#include "picture_view.hpp"

#include "shell/counted.hpp"
#include "shell/glyphs.hpp"
#include "shell/theme.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr std::size_t no_row = static_cast<std::size_t>(-1);
constexpr int grip_size = 44;
constexpr int grip_above = 74; // the handle stands this far above what it measures

QPen cased(const QColor &c, qreal width, Qt::PenStyle style = Qt::SolidLine) {
    return {c, width, style, Qt::RoundCap};
}

void casedLine(QPainter &p, QPointF a, QPointF b, const QColor &ink, qreal width) {
    p.setPen(cased(colour("casing"), width + 2.2));
    p.drawLine(a, b);
    p.setPen(cased(ink, width));
    p.drawLine(a, b);
}

void casedRing(QPainter &p, QPointF at, qreal radius, const QColor &ink) {
    p.setBrush(Qt::NoBrush);
    p.setPen(cased(colour("casing"), 4));
    p.drawEllipse(at, radius, radius);
    p.setPen(cased(ink, 1.8));
    p.drawEllipse(at, radius, radius);
}

} // namespace

PictureView::PictureView(Survey &survey, QWidget *parent) : QWidget(parent), survey_(survey) {
    setMouseTracking(true);
    setAttribute(Qt::WA_OpaquePaintEvent);
    setCursor(Qt::CrossCursor);
    setMinimumSize(300, 200);
    connect(&survey_, &Survey::rowsAdded, this, &PictureView::advance);
    connect(&survey_, &Survey::windowChanged, this, &PictureView::repaintAll);
    connect(&survey_, &Survey::marksChanged, this, qOverload<>(&QWidget::update));
    connect(&survey_, &Survey::selectionChanged, this, qOverload<>(&QWidget::update));
    connect(&survey_, &Survey::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, &PictureView::repaintAll);
    connect(&survey_, &Survey::scanReplaced, this, [this] {
        frozen_ = false;
        top_ = 0;
        pick_.reset();
        handles_.reset();
        repaintAll();
        emit frozenChanged();
        emit handlesChanged();
        emit pointedChanged();
    });
}

void PictureView::repaintAll() {
    std::fill(painted_.begin(), painted_.end(), no_row);
    update();
}

void PictureView::resizeEvent(QResizeEvent *) {
    image_ = QImage(std::max(2, width() & ~1), std::max(1, height()), QImage::Format_RGB32);
    painted_.assign(static_cast<std::size_t>(image_.height()), no_row);
    levels_.resize(static_cast<std::size_t>(image_.width() / 2));
}

void PictureView::advance() {
    const auto &scan = survey_.scan();
    if (scan.empty())
        return;
    if (!frozen_)
        top_ = scan.end() - 1;
    if (const double range = scan.row(std::max(top_, scan.first())).ping.range_m();
        range > 0 && std::fabs(range - range_m_) > 0.01 * range_m_) {
        range_m_ = range;
        repaintAll();
        emit rangeChanged();
    }
    if (!frozen_)
        emit topChanged();
    update();
}

void PictureView::setFrozen(bool frozen) {
    if (frozen == frozen_)
        return;
    frozen_ = frozen;
    if (!frozen_)
        advance();
    emit frozenChanged();
    update();
}

void PictureView::goTo(std::size_t row) {
    const auto &scan = survey_.scan();
    if (scan.empty())
        return;
    const bool was = frozen_;
    top_ = std::clamp(row, scan.first(), scan.end() - 1);
    frozen_ = true;
    advance();
    emit topChanged();
    if (!was)
        emit frozenChanged();
}

std::size_t PictureView::rowsWaiting() const {
    const auto end = survey_.scan().end();
    return frozen_ && end > top_ + 1 ? end - 1 - top_ : 0;
}

void PictureView::paintLine(std::size_t row) {
    const int line = lineOf(row);
    auto *out = reinterpret_cast<QRgb *>(image_.scanLine(line));
    const auto half = static_cast<std::size_t>(image_.width() / 2);
    const auto &map = Theme::instance().map().table();
    const auto &scan = survey_.scan();
    painted_[static_cast<std::size_t>(line)] = row;
    std::fill(out, out + image_.width(), map[0]);
    if (!scan.holds(row))
        return;
    const auto &ping = scan.row(row).ping;
    for (const auto &beam : ping.beams) {
        const bool alone = ping.beams.size() == 1 && (beam.side == Side::down || beam.side == Side::around);
        if (beam.side != Side::port && beam.side != Side::starboard && !alone)
            continue;
        paint_side(ping, beam, range_m_, survey_.window(), levels_);
        if (beam.side == Side::port)
            for (std::size_t x = 0; x < half; ++x)
                out[half - 1 - x] = map[levels_[x]];
        else
            for (std::size_t x = 0; x < half; ++x)
                out[half + x] = map[levels_[x]];
    }
}

QPointF PictureView::positionOf(std::size_t row, Side side, double slant) const {
    const double x = slant * pixelsPerMetre();
    return {width() / 2.0 + (side == Side::port ? -x : x),
            static_cast<double>(top_) - static_cast<double>(row) + 0.5};
}

bool PictureView::rowVisible(std::size_t row) const {
    return row <= top_ && top_ - row < static_cast<std::size_t>(height());
}

std::optional<Cursor> PictureView::pointAt(QPointF at) const {
    const auto &scan = survey_.scan();
    const auto down = static_cast<std::size_t>(std::max(0.0, at.y()));
    if (scan.empty() || at.y() < 0 || at.y() >= height() || at.x() < 0 || at.x() > width() || down > top_)
        return std::nullopt;
    Cursor c;
    c.row = top_ - down;
    if (!scan.holds(c.row))
        return std::nullopt;
    const double x = at.x() - width() / 2.0;
    c.side = x < 0 ? Side::port : Side::starboard;
    c.slant_m = std::fabs(x) / pixelsPerMetre();
    return c;
}

std::optional<Cursor> PictureView::pointed() const {
    if (pick_ && survey_.scan().holds(pick_->row))
        return pick_;
    return hover_ ? pointAt(*hover_) : std::nullopt;
}

void PictureView::clearPick() {
    pick_.reset();
    emit pointedChanged();
    update();
}

void PictureView::setMeasuring(bool measuring) {
    measuring_ = measuring;
    handles_.reset();
    if (measuring) {
        // From what is already pointed at; the end waits a little behind to be drawn out.
        if (const auto at = pointed())
            handles_ =
                MeasureHandles{at->row, at->side, at->slant_m, at->slant_m + range_m_ * 0.08, 0, false};
        pick_.reset();
    }
    emit handlesChanged();
    emit pointedChanged();
    update();
}

void PictureView::setFloating(bool floating) {
    if (!handles_)
        return;
    handles_->floating = floating;
    emit handlesChanged();
    update();
}

void PictureView::setWide(bool wide) {
    if (!handles_ || wide == (handles_->near_m > 0))
        return;
    handles_->near_m = wide ? std::max(0.1, handles_->top_m - range_m_ * 0.04) : 0;
    emit handlesChanged();
    update();
}

std::vector<PictureView::Grip> PictureView::grips() const {
    if (!handles_)
        return {};
    if (handles_->near_m > 0)
        return {Grip::end, Grip::top, Grip::near_edge};
    return {Grip::end, Grip::top};
}

double PictureView::slantOf(Grip grip) const {
    return grip == Grip::top ? handles_->top_m : grip == Grip::near_edge ? handles_->near_m : handles_->end_m;
}

void PictureView::nudge(int samples) {
    if (!handles_ || !survey_.scan().holds(handles_->row))
        return;
    const double step = samples * survey_.scan().row(handles_->row).ping.metres_per_sample();
    auto &h = *handles_;
    (last_grip_ == Grip::top                         ? h.top_m
     : last_grip_ == Grip::near_edge && h.near_m > 0 ? h.near_m
                                                     : h.end_m) += step;
    emit handlesChanged();
    update();
}

QRectF PictureView::gripRect(Grip grip) const {
    if (!handles_)
        return {};
    if (grip == Grip::near_edge) {
        // On the other side of the row, out of the way of the two above.
        const auto at = positionOf(handles_->row, handles_->side, handles_->near_m);
        const double y = at.y() - grip_above > 4 ? at.y() + grip_above - grip_size : at.y() - grip_above;
        return {at.x() - grip_size / 2.0, y, grip_size, grip_size};
    }
    const auto top = positionOf(handles_->row, handles_->side, handles_->top_m),
               end = positionOf(handles_->row, handles_->side, handles_->end_m);
    const double y = top.y() - grip_above > 4 ? top.y() - grip_above : top.y() + grip_above - grip_size;
    // Side by side even where both stand close together.
    double xt = top.x(), xe = end.x();
    const double least = grip_size + 6;
    if (std::fabs(xe - xt) < least) {
        const double middle = (xt + xe) / 2, sign = xe >= xt ? 1 : -1;
        xt = middle - sign * least / 2;
        xe = middle + sign * least / 2;
    }
    const double x = grip == Grip::top ? xt : xe;
    return {x - grip_size / 2.0, y, grip_size, grip_size};
}

void PictureView::mousePressEvent(QMouseEvent *event) {
    if (event->button() != Qt::LeftButton)
        return;
    const auto at = event->position();
    if (measuring_ && handles_) {
        for (const auto g : grips()) {
            if (!gripRect(g).contains(at))
                continue;
            grip_ = last_grip_ = g;
            const auto &h = *handles_;
            grip_offset_ = positionOf(h.row, h.side, slantOf(g)).x() - at.x();
            return;
        }
    }
    const auto point = pointAt(at);
    if (!point)
        return;
    if (measuring_) {
        handles_ = MeasureHandles{point->row,     point->side, point->slant_m,
                                  point->slant_m, 0,           handles_ && handles_->floating};
        grip_ = Grip::fresh;
        last_grip_ = Grip::end;
        grip_offset_ = 0;
        emit handlesChanged();
    } else {
        pick_ = point;
        emit pointedChanged();
    }
    update();
}

void PictureView::dragTo(QPointF at) {
    if (!handles_)
        return;
    const double x = at.x() + grip_offset_ - width() / 2.0;
    const double slant =
        std::clamp((handles_->side == Side::port ? -x : x) / pixelsPerMetre(), 0.0, range_m_);
    auto &h = *handles_;
    if (grip_ == Grip::top)
        h.top_m = std::clamp(slant, h.near_m, h.end_m);
    else if (grip_ == Grip::near_edge)
        h.near_m = std::clamp(slant, 0.1, h.top_m);
    else
        h.end_m = std::max(slant, h.top_m);
    emit handlesChanged();
}

void PictureView::mouseMoveEvent(QMouseEvent *event) {
    hover_ = event->position();
    if (grip_ != Grip::none)
        dragTo(event->position());
    emit pointedChanged();
    update();
}

void PictureView::mouseReleaseEvent(QMouseEvent *event) {
    if (event->button() != Qt::LeftButton || grip_ == Grip::none)
        return;
    dragTo(event->position());
    // A press without a drag: the end is put down a little behind, ready to be drawn out.
    if (grip_ == Grip::fresh && handles_ && (handles_->end_m - handles_->top_m) * pixelsPerMetre() < 4) {
        handles_->end_m = std::min(range_m_, handles_->top_m + range_m_ * 0.08);
        emit handlesChanged();
    }
    grip_ = Grip::none;
    update();
}

void PictureView::leaveEvent(QEvent *) {
    hover_.reset();
    emit pointedChanged();
    update();
}

void PictureView::wheelEvent(QWheelEvent *event) {
    const int rows = event->angleDelta().y() / 4;
    const auto end = survey_.scan().end();
    if (end == 0)
        return;
    // Up is towards now.
    if (rows > 0 && top_ + static_cast<std::size_t>(rows) >= end - 1 && frozen_) {
        goTo(end - 1);
        return;
    }
    const auto to = static_cast<std::ptrdiff_t>(top_) + rows;
    goTo(static_cast<std::size_t>(std::max<std::ptrdiff_t>(0, to)));
}

void PictureView::paintMarks(QPainter &p) {
    const auto &scan = survey_.scan();
    if (scan.empty() || survey_.marks().empty())
        return;
    const auto lowest = std::max<std::ptrdiff_t>(static_cast<std::ptrdiff_t>(scan.first()),
                                                 static_cast<std::ptrdiff_t>(top_) - height() + 1);
    const auto newest = scan.row(std::clamp(top_, scan.first(), scan.end() - 1)).ping.time,
               oldest = scan.row(static_cast<std::size_t>(lowest)).ping.time;
    const auto font = Theme::instance().font(14, true);
    for (const auto &m : survey_.marks()) {
        if (m.time > newest || m.time < oldest || m.side.empty())
            continue;
        // Marks know the time of their ping; in the picture that is a row.
        auto low = static_cast<std::size_t>(lowest), high = top_;
        while (low < high) {
            const auto middle = (low + high) / 2;
            if (scan.row(middle).ping.time < m.time)
                low = middle + 1;
            else
                high = middle;
        }
        if (scan.row(low).ping.time != m.time)
            continue;
        const auto side = side_named(m.side).value_or(Side::starboard);
        const auto at = positionOf(low, side, m.slant_m);
        const bool selected = survey_.selectedMark() == QString::fromStdString(m.id);
        const auto ink = colour(selected ? "pick" : "paper");
        const double size = selected ? 34 : 28;
        // Beside the thing, towards the boat, where no shadow lies.
        const double dx = side == Side::port ? 44 : -44 - size,
                     y = at.y() - 34 > 8 ? at.y() - 44 : at.y() + 16;
        const QRectF glyph(at.x() + dx, y, size, size);
        casedLine(p, at,
                  {glyph.center().x() + (side == Side::port ? -size / 2 : size / 2), glyph.center().y()}, ink,
                  1.5);
        casedRing(p, at, 4, ink);
        QColor disc = colour("casing");
        disc.setAlphaF(0.72F);
        p.setPen(Qt::NoPen);
        p.setBrush(disc);
        p.drawEllipse(glyph.center(), size * 0.62, size * 0.62);
        const auto name = m.family == Family::hazard || m.kind.empty()
                              ? QStringLiteral("family-%1")
                                    .arg(QString::fromUtf8(name_of(m.family).data(),
                                                           static_cast<qsizetype>(name_of(m.family).size())))
                              : QStringLiteral("mark-%1").arg(QString::fromStdString(m.kind));
        paintGlyph(p, name, glyph, ink);
        auto text = QString::fromStdString(plain_name(m));
        if (m.height_m) {
            const auto h = print_length(m.height_m->value, survey_.units());
            text += tr(" · %1%2 %3")
                        .arg(m.height_at_least ? QStringLiteral("≥ ") : QString(),
                             QString::fromStdString(h.figure), QString::fromStdString(h.unit));
        }
        const double words = QFontMetricsF(font).horizontalAdvance(text);
        const double x = side == Side::port ? glyph.right() + 8 : glyph.left() - 8 - words;
        paintCased(p, {x, glyph.center().y() + 5}, text, font, ink);
    }
}

void PictureView::paintPick(QPainter &p) {
    if (!pick_ || !rowVisible(pick_->row))
        return;
    const auto at = positionOf(pick_->row, pick_->side, pick_->slant_m);
    const auto ink = colour("pick");
    casedRing(p, at, 7, ink);
    for (const auto &[dx, dy] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}})
        casedLine(p, at + QPointF(dx * 10, dy * 10), at + QPointF(dx * 20, dy * 20), ink, 1.5);
}

void PictureView::paintHandles(QPainter &p) {
    if (!handles_ || !rowVisible(handles_->row))
        return;
    const auto &h = *handles_;
    const auto ink = colour("pick");
    const auto top = positionOf(h.row, h.side, h.top_m), end = positionOf(h.row, h.side, h.end_m);
    casedLine(p, top, end, ink, 1.5);
    const auto font = Theme::instance().font(14, true);
    const QFontMetricsF metrics(font);
    if (h.near_m > 0)
        casedLine(p, positionOf(h.row, h.side, h.near_m), top, ink, 1.5);
    for (const auto g : grips()) {
        const auto at = positionOf(h.row, h.side, slantOf(g));
        const auto box = gripRect(g);
        const double edge = box.center().y() < at.y() ? box.bottom() : box.top();
        casedLine(p, at, {box.center().x(), edge}, ink, 1.5);
        casedLine(p, at - QPointF(0, 6), at + QPointF(0, 6), ink, 1.5);
        p.setPen(QPen(ink, 2));
        p.setBrush(colour("casing"));
        p.drawRoundedRect(box, 3, 3);
        p.setBrush(Qt::NoBrush);
        const auto c = box.center();
        for (const int s : {-1, 1}) {
            const QPointF tip(c.x() + s * 10, c.y());
            p.drawPolyline(QPolygonF({tip + QPointF(-s * 6, -6), tip, tip + QPointF(-s * 6, 6)}));
        }
        const auto text = g == Grip::top ? tr("echo top")
                          : h.floating   ? tr("shadow middle")
                                         : tr("shadow end");
        const double w = metrics.horizontalAdvance(text);
        const bool left = (g != Grip::end) == (h.side != Side::port);
        const double x = left ? box.left() - w - 8 : box.right() + 8;
        // At the picture's edge the word stands over its handle instead of beside it.
        if (x < 2 || x + w > width() - 2)
            paintCased(p, {left ? box.left() : box.right() - w, box.top() - 8}, text, font, ink);
        else
            paintCased(p, {x, box.center().y() + 5}, text, font, ink);
    }
}

void PictureView::paintEvent(QPaintEvent *) {
    QPainter p(this);
    const auto &theme = Theme::instance();
    const auto &scan = survey_.scan();
    const int h = image_.height();
    if (scan.empty()) {
        p.fillRect(rect(), QColor::fromRgb(theme.map()[0]));
        p.setRenderHint(QPainter::Antialiasing);
        p.setFont(theme.font(17, true));
        p.setPen(colour("paper"));
        p.drawText(rect().adjusted(40, 0, -40, -20), Qt::AlignCenter | Qt::TextWordWrap,
                   survey_.source() == Survey::Source::none
                       ? tr("No sounder is set up. Open a recording with O.")
                       : tr("%1 …").arg(survey_.stateText()));
        p.setFont(theme.font(14));
        p.drawText(rect().adjusted(40, 60, -40, 40), Qt::AlignCenter | Qt::TextWordWrap,
                   tr("The picture begins with the first ping. O opens a recording meanwhile."));
        return;
    }
    // Only rows that are new to the ring, or whose place another row took, are painted.
    for (int y = 0; y < h; ++y) {
        if (static_cast<std::size_t>(y) > top_)
            break;
        const auto row = top_ - static_cast<std::size_t>(y);
        if (painted_[static_cast<std::size_t>(lineOf(row))] != row)
            paintLine(row);
    }
    const int first = lineOf(top_);
    const int upper = h - first; // lines from the top row down to the end of the ring
    p.drawImage(QPoint(0, 0), image_, QRect(0, first, image_.width(), upper));
    if (upper < h)
        p.drawImage(QPoint(0, upper), image_, QRect(0, 0, image_.width(), h - upper));
    const auto rows = static_cast<int>(
        std::min<std::size_t>(top_ - std::min(top_, scan.first()) + 1, static_cast<std::size_t>(h)));
    if (rows < h)
        p.fillRect(0, rows, width(), h - rows, QColor::fromRgb(theme.map()[0]));

    p.setRenderHint(QPainter::Antialiasing);
    // Range lines at quarters, faint, and the keel line.
    QColor faint = colour("paper");
    faint.setAlphaF(0.35F);
    p.setPen(QPen(faint, 1, Qt::DotLine));
    for (const double share : {0.25, 0.5, 0.75})
        for (const int s : {-1, 1})
            p.drawLine(QPointF(width() / 2.0 * (1 + s * share), 0),
                       QPointF(width() / 2.0 * (1 + s * share), height()));
    paintCased(p, {8, 18}, frozen_ ? tr("frozen") : tr("now"), theme.font(14, true), colour("paper"));
    if (const auto n = rowsWaiting(); n > 0) {
        const auto text = tr("%1 came since").arg(counted(n, tr("ping"), tr("pings")));
        paintCased(p, {8, 38}, text, theme.font(13), colour("paper"));
    }
    const auto note = tr("one ping a row; along the track not to scale");
    paintCased(p, {width() - 8 - QFontMetricsF(theme.font(13)).horizontalAdvance(note), height() - 8.0}, note,
               theme.font(13), colour("paper"));
    paintMarks(p);
    paintPick(p);
    paintHandles(p);
    emit painted();
}

} // namespace heron::app
