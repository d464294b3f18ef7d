// What lies on the picture: strikes, labels, marks, the pick, the handles, the loupe.
#include "parts/picture_view.hpp"

#include "kit/counted.hpp"
#include "kit/glyphs.hpp"
#include "kit/kind_words.hpp"
#include "kit/theme.hpp"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

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

void PictureView::paintEmpty(QPainter &p) {
    const auto &theme = Theme::instance();
    p.fillRect(rect(), QColor::fromRgb(theme.map()[0]));
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(theme.font(17, true));
    p.setPen(colour("paper"));
    p.drawText(rect().adjusted(40, 0, -40, -20), Qt::AlignCenter | Qt::TextWordWrap,
               context_.session.sources.source() == Sources::Source::none
                   ? tr("No sounder is set up. Open a recording or a trip with O.")
                   : tr("%1 …").arg(context_.session.sources.stateText()));
    p.setFont(theme.font(14));
    p.drawText(rect().adjusted(40, 60, -40, 40), Qt::AlignCenter | Qt::TextWordWrap,
               tr("The picture begins with the first ping. O opens a recording or an old trip meanwhile; I "
                  "shows what is "
                  "connected."));
}

// Stretches that cannot be measured along the track: turned, stopped, too fast, too slow.
std::vector<PictureView::StruckRun> PictureView::struckRuns() const {
    std::vector<StruckRun> runs;
    std::size_t last = static_cast<std::size_t>(-1);
    Strike strike = Strike::none;
    double turned = 0;
    for (int y = 0; y < height(); ++y) {
        const auto row = rowAtY(y);
        if (!row)
            break;
        if (*row != last) {
            const auto &f = context_.session.shown.scan().facts(*row);
            strike = strike_of(f, limits_);
            turned = 0;
            if (strike == Strike::turning && last != static_cast<std::size_t>(-1) && last > *row) {
                const double dt = seconds_between(f.time, context_.session.shown.scan().facts(last).time);
                turned = static_cast<double>(f.turn_deg_s) * std::min(dt, 2.0);
            }
            last = *row;
        } else {
            turned = 0;
        }
        if (strike == Strike::none)
            continue;
        if (!runs.empty() && runs.back().strike == strike && runs.back().to >= y - 6) {
            runs.back().to = y;
            runs.back().turned_deg += turned;
        } else {
            runs.push_back({y, y, strike, turned});
        }
    }
    return runs;
}

QString PictureView::strikeWords(const StruckRun &r) {
    switch (r.strike) {
    case Strike::turning:
        return tr("Turn, %1° %2")
            .arg(std::lround(std::fabs(r.turned_deg)))
            .arg(r.turned_deg < 0 ? tr("left") : tr("right"));
    case Strike::stopped:
        return tr("Stopped: on time, not to scale");
    case Strike::too_fast:
        return tr("Too fast for the pings");
    case Strike::too_slow:
        return tr("Too slow");
    case Strike::none:
        break;
    }
    return {};
}

void PictureView::paintStrikes(QPainter &p) {
    const auto &theme = Theme::instance();
    constexpr double pitch = 13;
    const double slant = std::tan(38 / 57.29578);
    for (const auto &r : struckRuns()) {
        if (r.to - r.from < 6)
            continue;
        const QRectF band(0, r.from, width(), r.to - r.from + 1);
        QColor shade = colour("casing");
        shade.setAlphaF(0.25F);
        p.fillRect(band, shade);
        QColor line = colour("paper");
        line.setAlphaF(0.7F);
        p.save();
        p.setClipRect(band);
        p.setPen(QPen(line, 1.5));
        const double run = band.height() / slant;
        for (double x = -run; x < width(); x += pitch)
            p.drawLine(QPointF(x, band.bottom()), QPointF(x + run, band.top()));
        p.restore();
        p.setPen(QPen(colour("pick"), 1.5));
        p.drawLine(band.topLeft(), band.topRight());
        p.drawLine(band.bottomLeft(), band.bottomRight());
        const auto words = strikeWords(r);
        if (band.height() < 40 && r.strike != Strike::turning)
            continue;
        const auto bold = theme.font(14, true), plain = theme.font(13);
        const double y = band.center().y();
        const double w1 = QFontMetricsF(bold).horizontalAdvance(words);
        paintCased(p, {width() / 2.0 - w1 / 2, y - 2}, words, bold, colour("paper"));
        const auto second = tr("lengths not measured");
        const double w2 = QFontMetricsF(plain).horizontalAdvance(second);
        if (band.height() > 36)
            paintCased(p, {width() / 2.0 - w2 / 2, y + 16}, second, plain, colour("paper"));
    }
}

void PictureView::paintLabels(QPainter &p) {
    const auto &theme = Theme::instance();
    // Range lines at quarters, faint.
    QColor faint = colour("paper");
    faint.setAlphaF(0.35F);
    p.setPen(QPen(faint, 1, Qt::DotLine));
    for (const double share : {0.25, 0.5, 0.75})
        for (const int s : {-1, 1}) {
            if (!shows(s < 0 ? Side::port : Side::starboard))
                continue;
            const double x = keelX() + s * share * halfWidth();
            p.drawLine(QPointF(x, 0), QPointF(x, height()));
        }
    p.setRenderHint(QPainter::Antialiasing);
    paintCased(p, {8, 18}, frozen_ ? tr("frozen") : tr("now"), theme.font(14, true), colour("paper"));
    if (const auto n = rowsWaiting(); n > 0)
        paintCased(p, {8, 38}, tr("%1 came since").arg(counted(n, tr("ping"), tr("pings"))), theme.font(13),
                   colour("paper"));
}

// Whether lengths along the track are to scale, over what marks and rings come there.
void PictureView::paintScaleNote(QPainter &p) {
    const auto top_speed = context_.session.shown.scan().facts(topRow()).speed_m_s;
    const bool timed = !(top_speed >= static_cast<float>(standing_m_s));
    const auto note = along_ == Along::pings ? tr("one ping a line; along the track not to scale")
                      : timed                ? (top_speed == top_speed ? tr("stopped: on time, not to scale")
                                                                       : tr("no speed: on time, not to scale"))
                      : across_ == Across::ground ? tr("equal scale both ways")
                                                  : tr("to scale along the track");
    const auto font = Theme::instance().font(13);
    const QFontMetricsF metrics(font);
    const QPointF at(width() - 8 - metrics.horizontalAdvance(note), height() - 8.0);
    QColor plate = colour("casing");
    plate.setAlphaF(0.72F);
    p.fillRect(metrics.boundingRect(note).translated(at).adjusted(-4, -2, 4, 2), plate);
    paintCased(p, at, note, font, colour("paper"));
}

void PictureView::paintMarks(QPainter &p) {
    const auto &scan = context_.session.shown.scan();
    if (context_.session.shown.empty() || context_.marks.all().empty())
        return;
    const auto bottom = rowAtY(height() - 1).value_or(scan.first());
    const auto newest = scan.facts(topRow()).time, oldest = scan.facts(bottom).time;
    const auto font = Theme::instance().font(14, true);
    std::vector<QRectF> written; // so that no words stand on others
    for (const auto &m : context_.marks.all()) {
        if (m.time > newest || m.time < oldest || m.side.empty() || m.side == name_of(Side::around))
            continue;
        // Marks know the time of their ping; in the picture that is a row.
        const auto low = scan.row_at(m.time);
        if (scan.facts(low).time != m.time)
            continue;
        auto side = side_named(m.side).value_or(Side::starboard);
        // What was run over shows where the sides first meet the bottom.
        if (side == Side::down && !shows(side))
            side = Side::starboard;
        if (!shows(side))
            continue;
        const auto at = positionOf(low, side, m.slant_m);
        const bool selected = context_.window.selectedMark() == QString::fromStdString(m.id);
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
        paintGlyph(p, markGlyph(m.family, m.kind), glyph, ink);
        // Before guests a mark says what it is, not what the guide calls it.
        auto text = context_.session.preferences.inCompany()
                        ? (m.kind == Kind::none ? wordFor(m.family) : wordFor(m.kind))
                        : QString::fromStdString(plain_name(m));
        if (m.height_m) {
            const auto h = print_length(m.height_m->value, context_.session.preferences.units());
            text += tr(" · %1%2 %3")
                        .arg(m.height_at_least ? QStringLiteral("≥ ") : QString(),
                             QString::fromStdString(h.figure), QString::fromStdString(h.unit));
        }
        const double words = QFontMetricsF(font).horizontalAdvance(text);
        const double x = side == Side::port ? glyph.right() + 8 : glyph.left() - 8 - words;
        QRectF box(x, glyph.center().y() - 9, words, 18);
        const auto taken = [&] {
            return std::any_of(written.begin(), written.end(),
                               [&](const QRectF &w) { return w.intersects(box); });
        };
        while (taken() && box.bottom() < height())
            box.translate(0, 19);
        written.push_back(box);
        paintCased(p, {x, box.top() + 14}, text, font, ink);
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

void PictureView::paintCorners(QPainter &p) {
    const auto ink = colour("pick");
    std::vector<QPointF> at;
    for (const auto &c : corners_)
        at.push_back(positionOf(c.row, c.side, c.slant_m));
    for (std::size_t i = 1; i < at.size(); ++i)
        casedLine(p, at[i - 1], at[i], ink, 1.8);
    if (at.size() > 2)
        casedLine(p, at.back(), at.front(), ink, 1);
    for (const auto &q : at)
        casedRing(p, q, 6, ink);
}

// The line as it is taken, both sides; over it what is being drawn.
void PictureView::paintBottomLine(QPainter &p) {
    if (!measuring_ || hand_ != Hand::bottom_line)
        return;
    const auto &scan = context_.session.shown.scan();
    for (const auto side : {Side::port, Side::starboard}) {
        if (!shows(side))
            continue;
        QPolygonF found, by_hand, drawn;
        std::optional<std::size_t> before;
        for (int y = 0; y < height(); y += 2) {
            const auto row = rowAtY(y);
            if (!row || row == before)
                continue;
            before = row;
            const auto &b = scan.bottom(*row);
            if (b.found)
                (b.source == BottomSource::hand ? by_hand : found)
                    << QPointF(positionOf(*row, side, b.altitude_m).x(), y);
            if (const auto d = drawn_.find(*row); d != drawn_.end())
                drawn << QPointF(positionOf(*row, side, d->second).x(), y);
        }
        const auto line = [&](const QPolygonF &points, const QColor &ink, double width) {
            // Parts with a gap between them are not joined.
            for (qsizetype i = 1; i < points.size(); ++i)
                if (points[i].y() - points[i - 1].y() < 12)
                    casedLine(p, points[i - 1], points[i], ink, width);
        };
        line(found, colour("paper"), 1.2);
        line(by_hand, colour("pick"), 2.2);
        line(drawn, colour("pick"), 2.2);
    }
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

// The samples themselves around what is pointed at, a square or more each; nothing is smoothed.
void PictureView::paintLoupe(QPainter &p) {
    const auto at = pointed();
    if (!at || !context_.session.shown.scan().holds(at->row))
        return;
    const auto &scan = context_.session.shown.scan();
    const auto &ping = scan.ping(at->row);
    const auto *beam = ping.beam(at->side);
    if (beam == nullptr || beam->code.empty())
        return;
    constexpr int inset_w = 288, inset_h = 192, times = 3;
    // Three times the picture's scale both ways.
    const double metres = inset_w / times / pixelsPerMetre();
    const auto k0 = static_cast<std::ptrdiff_t>(ping.sample_at(at->slant_m - metres / 2)),
               k1 = static_cast<std::ptrdiff_t>(ping.sample_at(at->slant_m + metres / 2));
    const auto n = std::max<std::ptrdiff_t>(2, k1 - k0);
    const int half_lines = inset_h / times / 2;
    const auto line = lines_.line_of(scan, at->row);
    QImage image(static_cast<int>(n), 2 * half_lines, QImage::Format_RGB32);
    image.fill(QColor::fromRgb(Theme::instance().map()[0]));
    std::vector<float> levels;
    for (int y = 0; y < 2 * half_lines; ++y) {
        const auto [from, to] = lines_.rows_of(scan, line + half_lines - y);
        if (from >= context_.session.shown.end() || line + half_lines - y < 0)
            continue;
        const auto row = std::min(to, context_.session.shown.end()) - 1;
        const auto *b = scan.ping(row).beam(at->side);
        if (b == nullptr)
            continue;
        levelsOf(row, *b, levels);
        auto *out = reinterpret_cast<QRgb *>(image.scanLine(y));
        for (std::ptrdiff_t x = 0; x < n; ++x) {
            const auto k = at->side == Side::port ? k1 - 1 - x : k0 + x;
            if (k >= 0 && k < std::ssize(levels) &&
                levels[static_cast<std::size_t>(k)] == levels[static_cast<std::size_t>(k)])
                out[x] = Theme::instance().map()[context_.window.displayWindow().level_of(
                    static_cast<double>(levels[static_cast<std::size_t>(k)]))];
        }
    }
    const auto point = positionOf(at->row, at->side, at->slant_m);
    const bool right = point.x() < width() / 2.0, below = point.y() < height() / 2.0;
    const QRectF box(right ? width() - inset_w - 12 : 12, below ? height() - inset_h - 30 : 12, inset_w,
                     inset_h);
    p.drawImage(box, image);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour("casing"), 4));
    p.drawRect(box);
    p.setPen(QPen(colour("paper"), 1.8));
    p.drawRect(box);
    const double w = metres * pixelsPerMetre();
    p.drawRect(QRectF(point.x() - w / 2, point.y() - half_lines, w, 2 * half_lines));
    const auto font = Theme::instance().font(13, true);
    paintCased(p, {box.right() - 34, box.top() + 18}, tr("%1 ×").arg(times), font, colour("paper"));
    // A bar of a round length.
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    const double bar_m = feet ? metres_from_feet(metres > 6 ? 5 : 2) : metres > 4 ? 2 : 0.5;
    const double bar = bar_m * pixelsPerMetre() * times;
    p.setPen(QPen(colour("paper"), 2));
    p.drawLine(QPointF(box.left() + 10, box.bottom() - 10),
               QPointF(box.left() + 10 + bar, box.bottom() - 10));
    paintCased(
        p, {box.left() + 10, box.bottom() - 16},
        QString::fromStdString(
            print_length(bar_m, context_.session.preferences.units(), feet || bar_m >= 1 ? 0 : 1).text()),
        font, colour("paper"));
}

} // namespace heron::app
