#include "parts/pass_compare.hpp"

#include "kit/glyphs.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"
#include "picture/row_levels.hpp"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace heron::app {

PassCompare::PassCompare(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    setVisible(false);
    connect(&context_.session.shown, &ShownScan::replaced, this, [this] { setVisible(false); });
    connect(&context_.window, &WindowState::displayChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void PassCompare::find(const GeoPoint &place, std::size_t row) {
    place_ = place;
    looks_ = passes_at(context_.session.shown.scan(), place, context_.session.shown.end());
    const auto nearest = std::min_element(looks_.begin(), looks_.end(), [row](const Pass &a, const Pass &b) {
        const auto off = [row](const Pass &l) { return l.row > row ? l.row - row : row - l.row; };
        return off(a) < off(b);
    });
    here_ = other_ = static_cast<std::size_t>(nearest - looks_.begin());
    if (looks_.size() > 1)
        other_ = here_ == looks_.size() - 1 ? here_ - 1 : looks_.size() - 1;
    // A cone of 19° sees a third of the depth across; the positions wander by a metre or two.
    over_.reset();
    for (const auto &l : looks_)
        if (l.ground_m < 1.5 + context_.session.shown.scan().bottom(l.row).altitude_m * 0.17 &&
            (!over_ || l.ground_m < over_->ground_m))
            over_ = l;
}

bool PassCompare::show(const GeoPoint &place, std::size_t row) {
    find(place, row);
    if (looks_.size() < 2)
        return false;
    setVisible(true);
    raise();
    update();
    return true;
}

void PassCompare::showAny(const GeoPoint &place, std::size_t row) {
    find(place, row);
    setVisible(true);
    raise();
    update();
}

void PassCompare::next() {
    if (looks_.size() < 2)
        return;
    do
        other_ = (other_ + 1) % looks_.size();
    while (other_ == here_);
    update();
}

QString PassCompare::words(const Pass &look) const {
    const auto &f = context_.session.shown.scan().facts(look.row);
    return tr("%1 UTC · %2 on the %3 · heading %4")
        .arg(QString::fromStdString(print_rfc3339(f.time, 0)).mid(11, 8),
             QString::fromStdString(
                 print_length(look.ground_m, context_.session.preferences.units(), 0).text()),
             look.side == Side::port ? tr("left") : tr("right"),
             QString::fromStdString(print_bearing(look.heading_deg)));
}

void PassCompare::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    const int gap = 8, head = 44, w = (width() - gap) / 2;
    const int side = std::min(w, height() - head - 150);
    p.setFont(theme.font(15, true));
    p.setPen(colour("ink"));
    p.drawText(QPointF(0, 18),
               looks_.size() > 1 ? tr("The same place, two passes") : tr("The place, seen from above"));
    p.setFont(theme.font(13));
    p.setPen(colour("ink2"));
    p.drawText(QPointF(0, 36),
               looks_.size() > 2 ? tr("%1 passes saw it; E shows the next, press to close").arg(looks_.size())
               : looks_.size() == 2 ? tr("press to close")
               : looks_.size() == 1 ? tr("only one pass saw it so far; press to close")
                                    : tr("its place is not known well enough; press to close"));
    if (looks_.size() == 1) {
        // One pass alone has the page: from above at its full height, and beside it what was seen looking
        // down.
        const double large = std::min(height() - head - 8.0, width() * 0.75);
        paintPass(p, QRectF(0, head, large, large), looks_.front());
        paintBelow(p, QRectF(large + 16, head, width() - large - 16, large));
        return;
    }
    paintBelow(p, QRectF(0, head + side + 10, width(), height() - head - side - 12));
    if (looks_.empty())
        return;
    paintPass(p, QRectF(0, head, side, side), looks_[here_]);
    paintPass(p, QRectF(w + gap, head, side, side), looks_[other_]);
}

void PassCompare::paintPass(QPainter &p, const QRectF &box, const Pass &pass) const {
    auto &theme = Theme::instance();
    const double side = box.width();
    constexpr int samples = 256;
    const auto chip =
        plan_patch(context_.session.shown.scan(), pass, place_, size_m_, samples,
                   context_.window.displayWindow(), context_.window.filters(), context_.window.angles());
    QImage image(samples, samples, QImage::Format_RGB32);
    for (int y = 0; y < samples; ++y)
        for (int x = 0; x < samples; ++x)
            image.setPixel(x, y, theme.map()[chip.level[static_cast<std::size_t>(y * samples + x)]]);
    p.drawImage(box, image);
    p.setRenderHint(QPainter::Antialiasing);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour("casing"), 4));
    p.drawEllipse(box.center(), 9, 9);
    p.setPen(QPen(colour("pick"), 1.8));
    p.drawEllipse(box.center(), 9, 9);
    // The way the sound came: shadows point away from it.
    const double from = (pass.heading_deg + (pass.side == Side::port ? 90 : -90)) / degrees_per_radian;
    const QPointF toward(std::sin(from), -std::cos(from));
    const QPointF tip = box.center() + toward * (side * 0.30), tail = box.center() + toward * (side * 0.41);
    for (const auto &[ink, width_px] : {std::pair{colour("casing"), 4.0}, {colour("paper"), 1.8}}) {
        p.setPen(QPen(ink, width_px));
        p.drawLine(tail, tip);
        const QPointF across(-toward.y(), toward.x());
        p.drawLine(tip, tip + toward * 8 + across * 5);
        p.drawLine(tip, tip + toward * 8 - across * 5);
    }
    paintCased(p, box.topLeft() + QPointF(8, 20), words(pass), theme.font(13, true), colour("paper"));
    const auto units = context_.session.preferences.units();
    const double bar_m = units == UnitSystem::feet ? metres_from_feet(10) : 3, bar = bar_m / size_m_ * side;
    p.setPen(QPen(colour("paper"), 2));
    p.drawLine(QPointF(box.left() + 10, box.bottom() - 12),
               QPointF(box.left() + 10 + bar, box.bottom() - 12));
    paintCased(p, {box.left() + 10, box.bottom() - 18},
               QString::fromStdString(print_length(bar_m, units, 0).text()), theme.font(13), colour("paper"));
    paintCased(p, {box.right() - 60, box.bottom() - 12}, tr("north up"), theme.font(12), colour("paper"));
}

// The look down about the moment that the boat was over it: time runs to the right, depth down.
void PassCompare::paintBelow(QPainter &p, const QRectF &box) const {
    auto &theme = Theme::instance();
    p.setFont(theme.font(13));
    p.setPen(colour("ink2"));
    if (!over_) {
        paintParagraph(
            p, box,
            tr("No pass ran over it: nothing was seen of it looking down. A second look in Read plans "
               "the pass that tells most."));
        return;
    }
    const auto &scan = context_.session.shown.scan();
    const auto &f = scan.facts(over_->row);
    const auto head =
        tr("Below, as the boat passed %1 beside it at %2 UTC")
            .arg(QString::fromStdString(
                     print_length(over_->ground_m, context_.session.preferences.units(), 0).text()),
                 QString::fromStdString(print_rfc3339(f.time, 0)).mid(11, 8));
    const double under = paintParagraph(p, QRectF(box.left(), box.top(), box.width(), 40), head) + 4;
    const QRectF picture(box.left(), under, box.width(), box.bottom() - under - 2);
    const int w = std::max(1, static_cast<int>(picture.width())),
              h = std::max(8, static_cast<int>(picture.height()));
    const double deep = f.bottom.altitude_m * 1.2 + 0.5;
    QImage image(w, h, QImage::Format_RGB32);
    const auto &map = theme.map().table();
    image.fill(QColor::fromRgb(map[0]));
    const auto half = static_cast<std::ptrdiff_t>(std::min(200, w / 4));
    std::vector<std::uint8_t> levels(static_cast<std::size_t>(h));
    std::vector<float> db;
    std::optional<DisplayWindow> window;
    bool any = false;
    for (std::ptrdiff_t x = 0; x < w; ++x) {
        const auto row = static_cast<std::ptrdiff_t>(over_->row) + (x - w / 2) * half / (w / 2);
        if (row < static_cast<std::ptrdiff_t>(scan.first()) ||
            row >= static_cast<std::ptrdiff_t>(context_.session.shown.end()))
            continue;
        const auto &sounded = scan.row(static_cast<std::size_t>(row));
        const Ping *ping = sounded.down ? &*sounded.down : &sounded.ping;
        const Beam *beam = nullptr;
        for (const auto &b : ping->beams)
            if (b.side == Side::down && (beam == nullptr || b.is_thin()))
                beam = &b;
        if (beam == nullptr)
            continue;
        any = true;
        db.resize(beam->code.size());
        double strongest = -200;
        for (std::size_t k = 0; k < db.size(); ++k) {
            db[k] = beam->code[k] == missing_code ? std::nanf("")
                                                  : static_cast<float>(beam->level_db(k) - beam->gain_db);
            if (db[k] == db[k] && ping->slant_m(static_cast<double>(k)) > 0.8 * f.bottom.altitude_m)
                strongest = std::max(strongest, static_cast<double>(db[k]));
        }
        if (!window)
            window = DisplayWindow{strongest - 46, 46};
        paint_levels(*ping, db, 0, Across::slant, deep, *window, levels);
        for (int y = 0; y < h; ++y)
            reinterpret_cast<QRgb *>(image.scanLine(y))[x] = map[levels[static_cast<std::size_t>(y)]];
    }
    p.drawImage(picture.topLeft(), image);
    if (!any)
        paintCased(p, picture.topLeft() + QPointF(10, 24), tr("no beam looked down then"),
                   theme.font(13, true), colour("paper"));
    p.setPen(QPen(colour("pick"), 1.5, Qt::DashLine));
    p.drawLine(QPointF(picture.center().x(), picture.top()), QPointF(picture.center().x(), picture.bottom()));
}

void PassCompare::mousePressEvent(QMouseEvent *) {
    setVisible(false);
    emit closed();
}

} // namespace heron::app
