// What lies on the sheet, layer by layer.
#include "views/chart/chart_sheet_view.hpp"

#include "kit/distance_words.hpp"
#include "kit/glyphs.hpp"
#include "kit/kind_words.hpp"
#include "kit/theme.hpp"

#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr int edge = 14;

void haloed(QPainter &p, QPointF at, const QString &words, const QFont &font, const QColor &ink) {
    paintCased(p, at, words, font, ink, colour("page"));
}

// What to do next, beside the pointer: on a plate, for lines and names lie under it, and within the chart.
void hintAt(QPainter &p, QPointF pointer, const QString &words, int width) {
    constexpr double aside = 14, around_x = 6, around_y = 4;
    p.setFont(Theme::instance().font(14, true));
    const auto metrics = p.fontMetrics();
    const double wide = metrics.horizontalAdvance(words) + 2 * around_x,
                 high = metrics.height() + 2 * around_y;
    const double x = std::clamp(pointer.x() + aside, 1.0 * edge, std::max(1.0 * edge, width - edge - wide));
    const QRectF plate(x, std::max(1.0 * edge, pointer.y() - aside - high), wide, high);
    p.fillRect(plate, colour("page"));
    p.setPen(colour("accent"));
    p.drawText(plate, Qt::AlignCenter, words);
}

} // namespace

// Printed pale under all else: a picture, then its lines and names.
void ChartSheetView::paintBackdrop(QPainter &p) {
    const auto &drawn = context_.backdrops.drawn();
    if (!drawn)
        return;
    if (const auto &picture = context_.backdrops.picture(); !picture.isNull()) {
        const auto &part = context_.backdrops.part();
        const double wide = part.columns * part.cell_m / metres_a_pixel_,
                     high = part.rows * part.cell_m / metres_a_pixel_;
        p.save();
        p.setOpacity(0.6);
        p.setRenderHint(QPainter::SmoothPixmapTransform);
        p.translate(positionOf({part.west_m, part.north_m}));
        p.rotate(-up_deg_);
        p.drawImage(QRectF(0, 0, wide, high), picture);
        p.restore();
    }
    p.setRenderHint(QPainter::Antialiasing);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour("slate"), 1.6));
    for (const auto &line : drawn->lines) {
        QPolygonF on;
        QPointF last(1e9, 1e9);
        for (const auto &at : line.points) {
            const auto here = positionOf(at);
            // A shore of a hundred thousand points is drawn by those that can be told apart.
            if (QLineF(last, here).length() < 1)
                continue;
            on << here;
            last = here;
        }
        if (!on.boundingRect().adjusted(-1, -1, 1, 1).intersects(QRectF(canvas())))
            continue;
        line.closed ? p.drawPolygon(on) : p.drawPolyline(on);
    }
    for (const auto &point : drawn->points) {
        const auto at = positionOf(point.at);
        if (!canvas().contains(at.toPoint()))
            continue;
        p.setPen(QPen(colour("slate"), 1.6));
        p.drawLine(at - QPointF(4, 4), at + QPointF(4, 4));
        p.drawLine(at - QPointF(4, -4), at + QPointF(4, -4));
        if (!point.name.empty())
            haloed(p, at + QPointF(8, 4), QString::fromStdString(point.name), Theme::instance().font(12),
                   colour("ink2"));
    }
}

// Hatched the denser the more good looks a place has had.
void ChartSheetView::paintLooks(QPainter &p) {
    const double cell = context_.chart.cellM(), side = GroundMap::tile * cell;
    p.setPen(QPen(colour("ink"), 1));
    const auto inside = canvas().adjusted(edge, edge, -edge, -edge);
    for (int y = inside.top(); y <= inside.bottom(); y += 6)
        for (int x = inside.left(); x <= inside.right(); x += 6) {
            const auto at = placeAt(QPointF(x, y));
            const GroundMap::Key key{static_cast<int>(std::floor(at.east_m / side)),
                                     static_cast<int>(std::floor(at.north_m / side))};
            const auto tile = context_.chart.tiles().find(key);
            if (tile == context_.chart.tiles().end())
                continue;
            const auto column = static_cast<std::size_t>((at.east_m - key.first * side) / cell),
                       line = static_cast<std::size_t>(GroundMap::tile - 1 -
                                                       std::floor((at.north_m - key.second * side) / cell));
            const auto i = std::min<std::size_t>(line, GroundMap::tile - 1) * GroundMap::tile +
                           std::min<std::size_t>(column, GroundMap::tile - 1);
            const int looks = tile->second.looks[i];
            if (looks >= 1)
                p.drawLine(x, y + 5, x + 5, y);
            if (looks >= 2)
                p.drawLine(x, y, x + 5, y + 5);
            if (looks >= 3)
                p.fillRect(x + 1, y + 1, 3, 3, colour("ink"));
        }
}

// The box on the ground that holds all that is painted, whichever way is up.
std::pair<EastNorth, EastNorth> ChartSheetView::seen() const {
    const QRectF area(canvas());
    EastNorth from{1e18, 1e18}, to{-1e18, -1e18};
    for (const auto &corner : {QPointF(area.left(), area.top()), QPointF(area.right(), area.top()),
                               QPointF(area.left(), area.bottom()), QPointF(area.right(), area.bottom())}) {
        const auto at = placeAt(corner);
        from = {std::min(from.east_m, at.east_m), std::min(from.north_m, at.north_m)};
        to = {std::max(to.east_m, at.east_m), std::max(to.north_m, at.north_m)};
    }
    return {from, to};
}

// What is shoal today, whatever else is shown: crosses, as hazards are drawn.
void ChartSheetView::paintShoals(QPainter &p) {
    const auto &depth = context_.chart.sheet()->depth;
    const double shoal_m =
                     context_.session.preferences.units() == UnitSystem::feet ? metres_from_feet(4) : 1.2,
                 level = context_.chart.level();
    p.setPen(QPen(colour("accent"), 1.4));
    constexpr int step = 11;
    // Fixed to the ground, so that it does not swim while one pans.
    const double grid = step * metres_a_pixel_;
    const auto [from, to] = seen();
    for (double n = std::floor(from.north_m / grid) * grid; n < to.north_m; n += grid)
        for (double e = std::floor(from.east_m / grid) * grid; e < to.east_m; e += grid) {
            const auto i = depth.raster.cell_at(e, n);
            if (!i || !(static_cast<double>(depth.depth_m[*i]) + level < shoal_m))
                continue;
            const auto at = positionOf({e, n});
            p.drawLine(at + QPointF(-2.5, -2.5), at + QPointF(2.5, 2.5));
            p.drawLine(at + QPointF(-2.5, 2.5), at + QPointF(2.5, -2.5));
        }
}

// Dots are hard, dashes soft, on a grid of the sheet.
void ChartSheetView::paintHardness(QPainter &p) {
    const auto &h = context_.chart.sheet()->hardness;
    constexpr int step = 9;
    constexpr float hard = 0.5F, soft = 0.3F;
    const QPen dot(colour("ink"), 1.8, Qt::SolidLine, Qt::RoundCap), dash(colour("ink2"), 1.1),
        blade(colour("reed"), 1.3);
    // Fixed to the ground, so that it does not swim while one pans.
    const double grid = step * metres_a_pixel_;
    const auto [from, to] = seen();
    int line = static_cast<int>(std::floor(from.north_m / grid));
    for (double n = line * grid; n < to.north_m; n += grid, ++line)
        for (double e = (std::floor(from.east_m / grid) + (line % 2 == 0 ? 0 : 0.5)) * grid; e < to.east_m;
             e += grid) {
            const auto i = h.raster.cell_at(e, n);
            if (!i)
                continue;
            const float v = h.hardness[*i];
            const auto at = positionOf({e, n});
            if (h.ground[*i] == GroundClass::weeds) {
                // Blades.
                p.setPen(blade);
                for (const double lean : {-2.5, 0.0, 2.5})
                    p.drawLine(at + QPointF(lean / 2, 3), at + QPointF(lean, -3));
            } else if (v > hard) {
                p.setPen(dot);
                p.drawPoint(at);
            } else if (v < soft) {
                p.setPen(dash);
                p.drawLine(at - QPointF(2.5, 0), at + QPointF(2.5, 0));
            }
        }
}

// A line as it is drawn: no two points nearer than the eye tells apart. A day's track has a hundred thousand.
QPolygonF ChartSheetView::drawn(const std::vector<EastNorth> &line) const {
    constexpr double apart_px = 1.5;
    QPolygonF out;
    for (std::size_t i = 0; i < line.size(); ++i) {
        const auto at = positionOf(line[i]);
        if (out.isEmpty() || i + 1 == line.size() || (at - out.back()).manhattanLength() >= apart_px)
            out << at;
    }
    return out;
}

// Whether a line shows in the window at all, and is long enough to be read.
bool ChartSheetView::worthDrawing(const QPolygonF &line) const {
    constexpr double least_px = 4;
    const auto box = line.boundingRect();
    return std::max(box.width(), box.height()) >= least_px &&
           box.adjusted(-1, -1, 1, 1).intersects(QRectF(canvas()));
}

void ChartSheetView::paintContours(QPainter &p) {
    const auto &sheet = *context_.chart.sheet();
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    p.setRenderHint(QPainter::Antialiasing);
    std::vector<QPointF> labels;
    for (const auto &c : sheet.contours) {
        const double value = feet ? feet_from_metres(c.value) : c.value;
        const bool heavy = std::fabs(std::remainder(value, feet ? 10 : 2)) < 0.01;
        const auto line = drawn(c.line);
        if (!worthDrawing(line))
            continue;
        p.setPen(QPen(colour("ink"), heavy ? 1.6 : 0.8));
        p.drawPolyline(line);
        // One figure where there is room for it.
        for (int i = static_cast<int>(line.size()) / 2; i < line.size(); i += 24) {
            const auto at = line[i];
            if (!canvas().adjusted(30, 30, -30, -30).contains(at.toPoint()) ||
                std::any_of(labels.begin(), labels.end(),
                            [&](const QPointF &o) { return QLineF(o, at).length() < 90; }))
                continue;
            labels.push_back(at);
            haloed(p, at + QPointF(-7, 5), QString::fromStdString(print_number(value, feet ? 0 : 1)),
                   Theme::instance().font(13, heavy), colour("ink"));
            break;
        }
    }
}

// A line with teeth on the hard side.
void ChartSheetView::paintTransitions(QPainter &p) {
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(colour("ink"), 1.8));
    for (const auto &t : context_.chart.sheet()->transitions) {
        const auto line = drawn(t.line);
        if (!worthDrawing(line))
            continue;
        p.setPen(QPen(colour(t.of == Transition::Of::weeds ? "reed" : "ink"), 1.8));
        p.drawPolyline(line);
        double since = 0;
        constexpr double every = 13, tooth = 6;
        for (int i = 1; i < line.size(); ++i) {
            const QLineF piece(line[i - 1], line[i]);
            since += piece.length();
            if (since < every || piece.length() < 1e-3)
                continue;
            since = 0;
            // Left of the way on the ground is left on the sheet: north is up.
            const QPointF way = (line[i] - line[i - 1]) / piece.length(), left(way.y(), -way.x());
            const auto tip = line[i] + (t.hard_on_left ? tooth : -tooth) * left;
            p.drawLine(line[i], tip);
            if (t.of == Transition::Of::weeds) // a tooth of two blades
                p.drawLine(line[i], tip + 3 * way);
        }
    }
}

void ChartSheetView::paintTrack(QPainter &p) {
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(colour("ink2"), 1.2, Qt::DashLine));
    for (const auto &line : context_.chart.sheet()->track)
        p.drawPolyline(drawn(line));
}

void ChartSheetView::paintContacts(QPainter &p) {
    p.setRenderHint(QPainter::Antialiasing);
    for (const auto &c : context_.reader.contacts()) {
        const auto at = c.place ? onSheet(c.place->place) : std::nullopt;
        if (!at || c.confidence < 0.5)
            continue;
        const auto where = positionOf(*at);
        if (!rect().contains(where.toPoint()))
            continue;
        if (!wish_.empty() && !context_.spots.meets(wish_, c)) {
            p.setPen(Qt::NoPen);
            p.setBrush(colour("ink2"));
            p.drawEllipse(where, 2.5, 2.5);
            continue;
        }
        const bool chosen = context_.reader.find(context_.window.selectedContact()) == &c;
        if (!wish_.empty() || chosen) {
            p.setPen(QPen(colour(chosen ? "accent" : "ink"), chosen ? 2.4 : 1.6));
            p.setBrush(colour("page"));
            p.drawEllipse(where, 12, 12);
        }
        if (rect().contains(where.toPoint()))
            paintGlyph(p, contactGlyph(c.family, c.kind), QRectF(where.x() - 9, where.y() - 9, 18, 18),
                       colour("ink"));
    }
}

// Beside the thing, with a leader and a ring on it.
void ChartSheetView::paintMarks(QPainter &p) {
    p.setRenderHint(QPainter::Antialiasing);
    for (const auto &mark : context_.marks.all()) {
        const bool hazard = mark.family == Family::hazard;
        const auto at = mark.place ? onSheet(*mark.place) : std::nullopt;
        // Hazards cannot be turned off.
        if (!at || (!shows(Layer::marks) && !hazard))
            continue;
        const auto thing = positionOf(*at);
        if (!rect().adjusted(-40, -40, 40, 40).contains(thing.toPoint()))
            continue;
        const bool selected = context_.window.selectedMark() == QString::fromStdString(mark.id);
        if (!wish_.empty() && !hazard && !selected && !context_.spots.meets(wish_, mark)) {
            p.setPen(Qt::NoPen);
            p.setBrush(colour("ink2"));
            p.drawEllipse(thing, 3, 3);
            continue;
        }
        const auto ink = colour(selected || hazard ? "accent" : "ink");
        if (hazard) {
            QPainterPath ring;
            constexpr double keep_off_m = 8;
            ring.addEllipse(thing, keep_off_m / metres_a_pixel_, keep_off_m / metres_a_pixel_);
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(ink, 2, Qt::DotLine));
            p.drawPath(ring);
        }
        // Its line or its outline.
        if (mark.shape.size() > 1) {
            const LocalPlane plane(*mark.place);
            QPolygonF shape;
            for (const auto &corner : mark.shape)
                if (const auto there = onSheet(plane.to_globe(corner)))
                    shape << positionOf(*there);
            p.setBrush(Qt::NoBrush);
            for (const double wide : {4.5, 2.0}) {
                p.setPen(QPen(wide > 3 ? colour("page") : ink, wide));
                mark.closed ? p.drawPolygon(shape) : p.drawPolyline(shape);
            }
        }
        const QPointF glyph = thing + QPointF(30, -16);
        p.setPen(QPen(ink, 1.3));
        p.setBrush(colour("page"));
        p.drawLine(thing, glyph);
        p.drawEllipse(thing, 4.5, 4.5);
        const double size = selected ? 34 : 28;
        p.setPen(Qt::NoPen);
        p.setBrush(selected ? colour("accent") : colour("casing"));
        p.drawEllipse(glyph, size / 2, size / 2);
        paintGlyph(p, markGlyph(mark.family, mark.kind),
                   QRectF(glyph.x() - size / 2 + 3, glyph.y() - size / 2 + 3, size - 6, size - 6),
                   colour("paper"));
        const auto name = mark.name.empty()
                              ? capital(mark.kind == Kind::none ? wordFor(mark.family) : wordFor(mark.kind))
                              : QString::fromStdString(mark.name);
        haloed(p, glyph + QPointF(size / 2 + 5, 5), name, Theme::instance().font(13, true), ink);
    }
}

// To scale, but never too small to be seen.
void ChartSheetView::paintBoat(QPainter &p) {
    const auto at = boat();
    if (!at)
        return;
    const auto &shown = context_.session.shown;
    const auto heading = shown.headingNow().value_or(0);
    const auto &own = context_.session.boats.boat();
    const double scale = std::max(1 / metres_a_pixel_, 26 / own.length_m);
    QPainterPath hull;
    bool begun = false;
    for (const auto &spot : own.outline()) {
        const QPointF where((spot.right_m - own.antenna.right_m) * scale,
                            (spot.behind_bow_m - own.antenna.behind_bow_m) * scale);
        begun ? hull.lineTo(where) : hull.moveTo(where);
        begun = true;
    }
    hull.closeSubpath();
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    p.translate(positionOf(*at));
    p.rotate(heading - up_deg_);
    p.setPen(QPen(colour("ink"), 2));
    p.setBrush(colour("page"));
    p.drawPath(hull);
    p.restore();
}

// The area dotted, lanes to run dashed, those that are run solid, each with its number where it begins; the
// one that is next in the accent.
void ChartSheetView::paintLanes(QPainter &p) {
    p.setRenderHint(QPainter::Antialiasing);
    QPolygonF area;
    for (const auto &c : corners_)
        area << positionOf(c);
    if (plans_ && hover_)
        area << *hover_;
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour("ink"), 1.6, Qt::DotLine));
    area.size() > 2 ? p.drawPolygon(area) : p.drawPolyline(area);
    if (plans_) {
        for (const auto &c : corners_) {
            p.setBrush(colour("page"));
            p.drawEllipse(positionOf(c), 5, 5);
        }
        if (hover_)
            hintAt(p, *hover_,
                   corners_.size() < 2   ? tr("press the corners of the area, or along a line")
                   : corners_.size() < 3 ? tr("Z X C V keep it as a line")
                                         : tr("S plans lanes; Z X C V keep the line or, closed, the outline"),
                   width());
        return;
    }
    const auto &plan = lanes_.plan();
    const auto at = boat();
    const auto found = at ? lanes_.cue(*at) : std::nullopt;
    const bool steers = found.has_value();
    const auto cue = found.value_or(LaneCue());
    for (std::size_t i = 0; i < plan.lanes.size(); ++i) {
        const auto a = positionOf(plan.lanes[i].from), b = positionOf(plan.lanes[i].to);
        const bool next = steers && cue.lane == i, run = lanes_.is_run(i);
        p.setPen(QPen(colour(next ? "accent" : "ink"), next ? 2.6 : 1.6, run ? Qt::SolidLine : Qt::DashLine));
        p.drawLine(a, b);
        const QRectF box(a.x() - 10, a.y() - 10, 20, 20);
        p.setPen(QPen(colour(next ? "accent" : "ink"), 1.4));
        p.setBrush(run ? colour("ink") : colour("page"));
        p.drawRect(box);
        p.setFont(Theme::instance().font(13, true));
        p.setPen(colour(run ? "page" : "ink"));
        p.drawText(box, Qt::AlignCenter, QString::number(i + 1));
    }
    if (!steers)
        return;
    const auto units = context_.session.preferences.units();
    const auto length = [&](double m) { return QString::fromStdString(print_length(m, units, 0).text()); };
    QString words = tr("lane %1 of %2").arg(cue.lane + 1).arg(plan.lanes.size());
    constexpr double on_it_m = 1;
    if (cue.left_m > plan.lanes[cue.lane].length_m())
        words += tr(", begins in %1").arg(length(cue.left_m - plan.lanes[cue.lane].length_m()));
    else
        words += std::fabs(cue.off_m) < on_it_m ? tr(", on it")
                 : cue.off_m > 0                ? tr(", steer %1 left").arg(length(cue.off_m))
                                                : tr(", steer %1 right").arg(length(-cue.off_m));
    if (cue.lane + 1 < plan.lanes.size() && cue.left_m > 0 && cue.left_m <= plan.lanes[cue.lane].length_m())
        words +=
            (cue.turn_right ? tr(", turn right in %1") : tr(", turn left in %1")).arg(length(cue.left_m));
    const auto font = Theme::instance().font(20, true);
    // Beside the title, or beneath it where there is no room.
    const double wide = QFontMetricsF(font).horizontalAdvance(words);
    constexpr double title_wide = 330;
    if (width() - wide - 26 > title_wide)
        haloed(p, {width() - wide - 26, 40}, words, font, colour("accent"));
    else
        haloed(p, {(width() - wide) / 2, 112}, words, font, colour("accent"));
}

void ChartSheetView::paintPick(QPainter &p) {
    p.setRenderHint(QPainter::Antialiasing);
    // What the guide said of the ground.
    for (const auto &k : context_.chart.known())
        if (const auto there = onSheet(k.place)) {
            const auto at = positionOf(*there);
            if (!rect().contains(at.toPoint()))
                continue;
            p.setPen(QPen(colour("ink"), 2));
            p.setBrush(k.hard ? colour("ink") : colour("page"));
            p.drawRect(QRectF(at.x() - 5, at.y() - 5, 10, 10));
            haloed(p, at + QPointF(9, 5), k.hard ? tr("hard, you said") : tr("soft, you said"),
                   Theme::instance().font(13, true), colour("ink"));
        }
    // Where the pointer was in another place.
    if (const auto &lit = context_.window.litPlace(); lit && !hover_)
        if (const auto there = onSheet(*lit)) {
            const auto at = positionOf(*there);
            p.setBrush(Qt::NoBrush);
            for (const double wide : {4.5, 2.0}) {
                p.setPen(QPen(colour(wide > 3 ? "page" : "accent"), wide));
                p.drawEllipse(at, 9, 9);
            }
        }
    if (picked_) {
        const auto at = positionOf(*picked_);
        for (const double wide : {4.5, 2.0}) {
            p.setPen(QPen(colour(wide > 3 ? "page" : "accent"), wide));
            for (const auto &way : {QPointF(1, 0), QPointF(-1, 0), QPointF(0, 1), QPointF(0, -1)})
                p.drawLine(at + 6 * way, at + 20 * way);
        }
    }
    if (!measures_)
        return;
    const auto end = to_ ? to_ : pointed();
    if (!from_ || !end) {
        if (hover_)
            hintAt(p, *hover_, tr("press where it begins"), width());
        return;
    }
    const auto a = positionOf(*from_), b = positionOf(*end);
    p.setPen(QPen(colour("accent"), 2));
    p.drawLine(a, b);
    const auto length = measured();
    const auto one = onGlobe(*from_), two = onGlobe(*end);
    if (length && one && two)
        haloed(p, b + QPointF(12, -8),
               tr("%1, %2").arg(distanceWords(*length, context_.session.preferences.units()),
                                QString::fromStdString(print_bearing(leg_between(*one, *two).bearing_deg))),
               Theme::instance().font(16, true), colour("accent"));
}

// The border steps every so many feet or metres, ink and page by turns.
void ChartSheetView::paintNeatline(QPainter &p) {
    p.setRenderHint(QPainter::Antialiasing, false);
    const QRect frame = rect().adjusted(2, 2, -3, -3);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour("ink"), 1));
    p.drawRect(frame);
    p.drawRect(frame.adjusted(6, 6, -6, -6));
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    const double unit = feet ? metres_per_foot : 1;
    double step = 10;
    while (step * unit / metres_a_pixel_ < 40)
        step *= step / std::pow(10, std::floor(std::log10(step))) < 1.5 ? 5 : 2;
    const double px = step * unit / metres_a_pixel_;
    for (double x = frame.left(), n = 0; x < frame.right(); x += px, ++n)
        if (static_cast<int>(n) % 2 == 0)
            for (const int y : {frame.top() + 1, frame.bottom() - 5})
                p.fillRect(QRectF(x, y, std::min(px, frame.right() - x), 5), colour("ink"));
    for (double y = frame.top(), n = 0; y < frame.bottom(); y += px, ++n)
        if (static_cast<int>(n) % 2 == 0)
            for (const int x : {frame.left() + 1, frame.right() - 5})
                p.fillRect(QRectF(x, y, 5, std::min(px, frame.bottom() - y)), colour("ink"));
}

void ChartSheetView::paintTitle(QPainter &p) {
    const auto write = [&](double y, const QString &words, int px, bool bold) {
        haloed(p, {26, y}, words, Theme::instance().font(px, bold), colour("ink"));
    };
    const auto name = context_.session.sources.name();
    write(38, name.isEmpty() ? tr("Your water") : name, 19, true);
    write(58, tr("Not for navigation"), 14, true);
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    const bool datum = context_.chart.level() != 0;
    write(78,
          datum ? (feet ? tr("depths in feet, under the datum") : tr("depths in metres, under the datum"))
                : (feet ? tr("depths in feet, as the water stands")
                        : tr("depths in metres, as the water stands")),
          13, false);
    // North, wherever it is.
    p.save();
    p.translate(46, 124);
    p.rotate(-up_deg_);
    p.setPen(QPen(colour("page"), 5));
    p.drawLine(QPointF(0, 22), QPointF(0, -22));
    p.setPen(QPen(colour("ink"), 1.6));
    p.drawLine(QPointF(0, 22), QPointF(0, -22));
    QPainterPath head(QPointF(0, -30));
    head.lineTo(-6, -14);
    head.lineTo(6, -14);
    head.closeSubpath();
    p.fillPath(head, colour("ink"));
    p.restore();
    const double north = -up_deg_ / degrees_per_radian;
    haloed(p, QPointF(46 - 34 * std::sin(north) - 5, 124 + 34 * std::cos(north) + 5), tr("N"),
           Theme::instance().font(14, true), colour("ink"));
}

void ChartSheetView::paintScale(QPainter &p) {
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    const double unit = feet ? metres_per_foot : 1;
    double length = 1;
    constexpr std::array steps{2.0, 2.5, 2.0};
    for (std::size_t i = 0; length * steps[i % 3] * unit / metres_a_pixel_ < 150; ++i)
        length *= steps[i % 3];
    const double px = length * unit / metres_a_pixel_;
    const QRectF bar(width() - 34 - px, height() - 34, px, 6);
    p.fillRect(bar.adjusted(-8, -22, 8, 10), colour("page"));
    p.setPen(QPen(colour("ink"), 1.2));
    p.drawRect(bar);
    p.fillRect(QRectF(bar.left(), bar.top(), px / 2, 6), colour("ink"));
    const auto write = wordsOn(p);
    write(bar.left() - 3, bar.top() - 6, QStringLiteral("0"), 13, false, "ink");
    const auto end = QStringLiteral("%1 %2").arg(length).arg(feet ? tr("ft") : tr("m"));
    p.setFont(Theme::instance().font(13));
    write(bar.right() - p.fontMetrics().horizontalAdvance(end) + 4, bar.top() - 6, end, 13, false, "ink");
}

} // namespace heron::app
