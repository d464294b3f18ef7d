#include "parts/down_strip.hpp"

#include "kit/glyphs.hpp"
#include "kit/theme.hpp"
#include "picture/row_levels.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr std::size_t no_row = static_cast<std::size_t>(-1);

// The fan and the cone of a row, from its own ping or from the look down beside it.
std::pair<const Beam *, const Beam *> beams_of(const SoundedRow &row, const Ping **of) {
    const Beam *fan = nullptr, *cone = nullptr;
    *of = &row.ping;
    for (const auto *p : {&row.ping, row.down ? &*row.down : nullptr}) {
        if (p == nullptr)
            continue;
        for (const auto &b : p->beams) {
            if (b.side != Side::down)
                continue;
            *of = p;
            (b.is_thin() ? fan : cone) = &b;
        }
    }
    return {fan, cone};
}

} // namespace

DownStrip::DownStrip(ViewContext &context, RowAt row_at, QWidget *parent)
    : QWidget(parent), context_(context), row_at_(std::move(row_at)) {
    setFixedWidth(wide);
    setAttribute(Qt::WA_OpaquePaintEvent);
    setToolTip(tr(
        "Left the thin fan, right the cone; depth runs to the right. Press for what each sees and misses"));
    const auto anew = [this] {
        std::fill(shown_.begin(), shown_.end(), no_row);
        update();
    };
    connect(&context_.window, &WindowState::displayChanged, this, anew);
    connect(&context_.session.shown, &ShownScan::replaced, this, anew);
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, anew);
}

void DownStrip::resizeEvent(QResizeEvent *) {
    image_ = QImage(width(), std::max(1, height()), QImage::Format_RGB32);
    shown_.assign(static_cast<std::size_t>(image_.height()), no_row);
}

void DownStrip::mousePressEvent(QMouseEvent *) {
    help_ = !help_;
    update();
}

void DownStrip::paintLine(int y, std::size_t row) {
    const auto &map = Theme::instance().map().table();
    auto *out = reinterpret_cast<QRgb *>(image_.scanLine(y));
    std::fill(out, out + image_.width(), map[0]);
    const Ping *ping = nullptr;
    const auto [fan, cone] = beams_of(context_.session.shown.scan().row(row), &ping);
    const auto half = static_cast<std::size_t>(image_.width() / 2);
    std::vector<std::uint8_t> levels(half - 2);
    std::vector<float> db;
    std::size_t at = 0;
    for (const auto *beam : {fan, cone}) {
        if (beam != nullptr) {
            db.resize(beam->code.size());
            for (std::size_t k = 0; k < db.size(); ++k)
                db[k] = beam->code[k] == missing_code ? std::nanf("")
                                                      : static_cast<float>(beam->level_db(k) - beam->gain_db);
            paint_levels(*ping, db, 0, Across::slant, deepest_m_, window_, levels);
            for (std::size_t x = 0; x < levels.size(); ++x)
                out[at + x] = map[levels[x]];
        }
        at = half + 1;
    }
    shown_[static_cast<std::size_t>(y)] = row;
}

void DownStrip::paintEvent(QPaintEvent *) {
    QPainter p(this);
    const auto &theme = Theme::instance();
    const auto &scan = context_.session.shown.scan();
    if (context_.session.shown.empty()) {
        p.fillRect(rect(), QColor::fromRgb(theme.map()[0]));
        return;
    }
    // As deep as the deepest bottom shown and a fifth, so that nothing but water and bottom fills it.
    double deepest = 1;
    for (int y = 0; y < height(); y += 16)
        if (const auto row = row_at_(y); row && scan.bottom(*row).found)
            deepest = std::max(deepest, scan.bottom(*row).altitude_m);
    deepest = std::ceil(deepest * 1.25 / 1.5) * 1.5;
    // Levels straight down are far stronger than aside: a window of their own, from the rows shown.
    const auto top = row_at_(0).value_or(context_.session.shown.newest());
    const Ping *ping = nullptr;
    const auto [fan, cone] = beams_of(scan.row(top), &ping);
    const Beam *any = fan != nullptr ? fan : cone;
    if (any != nullptr && scan.bottom(top).found) {
        const auto k = static_cast<std::size_t>(std::max(0.0, ping->sample_at(scan.bottom(top).altitude_m)));
        double strongest = -200;
        for (auto i = k > 5 ? k - 5 : 0; i < std::min(any->code.size(), k + 15); ++i)
            strongest = std::max(strongest, any->level_db(i) - any->gain_db);
        if (std::fabs(strongest - (window_.floor_db + window_.span_db)) > 6 || window_.span_db != 46)
            window_ = {strongest - 46, 46};
    }
    if (deepest != deepest_m_) {
        deepest_m_ = deepest;
        std::fill(shown_.begin(), shown_.end(), no_row);
    }
    for (int y = 0; y < image_.height(); ++y) {
        const auto row = row_at_(y);
        if (!row) {
            auto *out = reinterpret_cast<QRgb *>(image_.scanLine(y));
            std::fill(out, out + image_.width(), theme.map()[0]);
            shown_[static_cast<std::size_t>(y)] = no_row;
        } else if (shown_[static_cast<std::size_t>(y)] != *row) {
            paintLine(y, *row);
        }
    }
    p.drawImage(0, 0, image_);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(width() / 2, 0, width() / 2, height());
    const auto font = theme.font(13, true);
    paintCased(p, {6, 18}, tr("fan"), font, colour("paper"));
    paintCased(p, {width() / 2.0 + 6, 18}, tr("cone"), font, colour("paper"));
    const auto deep =
        QString::fromStdString(print_length(deepest_m_, context_.session.preferences.units(), 0).text());
    const double w = QFontMetricsF(theme.font(12)).horizontalAdvance(deep);
    paintCased(p, {width() / 2.0 - w - 6, 18}, deep, theme.font(12), colour("paper"));
    paintCased(p, {width() - w - 6, 18}, deep, theme.font(12), colour("paper"));
    if (fan == nullptr && cone == nullptr)
        paintCased(p, {10, height() / 2.0}, tr("no beam looks down"), theme.font(13), colour("paper"));
    if (help_)
        paintHelp(p);
}

// What each sees, to scale: the fan a line across, the cone a circle a third of the depth wide.
void DownStrip::paintHelp(QPainter &p) {
    const auto &theme = Theme::instance();
    const auto &scan = context_.session.shown.scan();
    const double deep = context_.session.shown.empty() || !scan.bottom(context_.session.shown.newest()).found
                            ? 5
                            : scan.bottom(context_.session.shown.newest()).altitude_m;
    const QRectF box(8, 36, width() - 16, 330);
    p.setPen(QPen(colour("line"), 1));
    p.setBrush(colour("page"));
    p.drawRect(box);
    const double scale = 110 / deep, x = box.center().x(), y = box.top() + 26;
    const auto &ping = scan.ping(context_.session.shown.newest());
    double cone_deg = 18.9, fan_deg = 0.8;
    for (const auto &b : ping.beams)
        if (b.side == Side::down)
            (b.is_thin() ? fan_deg : cone_deg) = b.width_along_deg;
    const double circle = 2 * deep * std::tan(cone_deg / 2 / degrees_per_radian);
    const double line = 2 * deep * std::tan(fan_deg / 2 / degrees_per_radian);
    p.setBrush(colour("water"));
    p.setPen(Qt::NoPen);
    p.drawRect(QRectF(box.left() + 1, y, box.width() - 2, deep * scale));
    QPainterPath cone;
    cone.moveTo(x, y);
    cone.lineTo(x - circle / 2 * scale, y + deep * scale);
    cone.lineTo(x + circle / 2 * scale, y + deep * scale);
    cone.closeSubpath();
    p.fillPath(cone, colour("lift"));
    p.setPen(QPen(colour("accent"), std::max(1.5, line * scale)));
    p.drawLine(QPointF(x, y), QPointF(x, y + deep * scale));
    p.setPen(QPen(colour("bedln"), 2));
    p.drawLine(QPointF(box.left() + 1, y + deep * scale), QPointF(box.right() - 1, y + deep * scale));
    p.setFont(theme.font(12));
    p.setPen(colour("ink"));
    const auto text = [&](double m, int d) {
        return QString::fromStdString(print_length(m, context_.session.preferences.units(), d).text());
    };
    p.drawText(QRectF(box.left() + 6, box.top() + 4, box.width() - 12, 20), Qt::AlignCenter,
               tr("from the side, %1 deep").arg(text(deep, 0)));
    p.drawText(QRectF(box.left() + 6, y + deep * scale + 4, box.width() - 12, 18), Qt::AlignCenter,
               tr("cone %1, fan %2").arg(text(circle, 1), text(line, 1)));
    p.setFont(theme.font(13));
    p.drawText(
        QRectF(box.left() + 8, y + deep * scale + 26, box.width() - 16, box.bottom() - y - deep * scale - 28),
        Qt::TextWordWrap,
        tr("Fan: thin along the track, so each twig, stone and fish is a grain of its own; it misses what "
           "lies "
           "before and behind. Cone: a circle a third of the depth across; fish pass through it slowly and "
           "draw "
           "arches; stones side by side run into one."));
}

} // namespace heron::app
