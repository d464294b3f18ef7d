// What Prepare draws: the water to scale, what the setting buys at each distance, the answer beside the rule.
#include "views/prepare/prepare_view.hpp"

#include "kit/key_button.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"
#include "water/water.hpp"

#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr double why_top = 119, figure_gap = 18; // in the box of a figure; between two
constexpr double section_top = 50;               // under the keys at the right
constexpr double least_rows = 76, least_section = 62, warning_high = 17;

class Pen {
  public:
    explicit Pen(QPainter &p) : p_(p) {}
    double text(double x, double y, const QString &words, int px, bool bold, const char *ink) {
        p_.setFont(Theme::instance().font(px, bold));
        p_.setPen(colour(ink));
        p_.drawText(QPointF(x, y), words);
        return p_.fontMetrics().horizontalAdvance(words);
    }
    void centred(double x, double y, const QString &words, int px, bool bold, const char *ink) {
        p_.setFont(Theme::instance().font(px, bold));
        text(x - p_.fontMetrics().horizontalAdvance(words) / 2.0, y, words, px, bold, ink);
    }
    void rule(double x0, double x1, double y, const char *ink, qreal w = 1) {
        p_.setPen(QPen(colour(ink), w));
        p_.drawLine(QPointF(x0, y), QPointF(x1, y));
    }

  private:
    QPainter &p_;
};

} // namespace

QString PrepareView::length(double m, int decimals) const {
    return QString::fromStdString(print_length(m, context_.session.preferences.units(), decimals).text());
}
QString PrepareView::figure(double m, int decimals) const {
    return QString::fromStdString(print_length(m, context_.session.preferences.units(), decimals).figure);
}

void PrepareView::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(285, 0, 285, height());
    paintAsked(p);
    const double x = 300, w = width() - x - 16;
    Pen pen(p);
    if (!answer()) {
        pen.text(x, 40, tr("Computing …"), 17, true, "ink");
        return;
    }
    double n = pen.text(x, 26, tr("What these settings buy"), 17, true, "ink");
    const auto scale_words = context_.session.preferences.units() == UnitSystem::feet
                                 ? tr("to scale, looking along the boat; feet over the ground")
                                 : tr("to scale, looking along the boat; metres over the ground");
    // Where there is no room the drawing speaks for itself.
    const double scale_room = w - n - 10 - 310;
    if (QFontMetricsF(Theme::instance().font(11)).horizontalAdvance(scale_words) <= scale_room)
        wordsWithin(p, x + n + 10, 26, scale_words, scale_room, 13, false, "ink2");
    // What is drawn gives way first, then the curves; figures and their reasons stay, whole.
    double why = 0;
    const auto all = figures();
    for (const auto &f : all)
        why = std::max(why, paragraphHeight(Theme::instance().font(12), w / 4 - figure_gap, f.whyWords()));
    // Two warnings always have room, more where the drawing can spare it.
    const double spare = height() - section_top - 224 - (why_top + why + 6) - least_rows - 10 - least_section;
    const auto more = std::clamp<double>(std::floor(spare / warning_high), 0,
                                         std::max(0.0, static_cast<double>(warnings_.size()) - 2)) *
                      warning_high;
    const double below = 224 + more, room = height() - section_top - below - (why_top + why + 6);
    const bool curves = room >= 260;
    const double rows = curves ? 150 : least_rows,
                 section = std::clamp(room - rows - 10, least_section, 170.0);
    paintSection(p, {x, section_top, w, section});
    paintRows(p, {x, section_top + 4 + section, w, rows}, curves);
    const double top = section_top + 10 + section + rows;
    const QRectF answers(x, top, w, height() - top - below);
    words_fit_ = why_top + why <= answers.height() + 0.5;
    paintFigures(p, answers, all);
    paintPurposes(p, {x, double(height()) - 220 - more, w, 148 + more});
    paintArea(p, {x, double(height()) - 70, w, 64});
}

void PrepareView::paintAsked(QPainter &p) {
    Pen pen(p);
    const auto &w = asked_.water;
    pen.text(16, 26, tr("Water"), 17, true, "ink");
    pen.text(16, 50, tr("Depth"), 13, false, "ink2");
    const auto depths = tr("%1 to %2").arg(figure(w.shallowest_m), length(w.deepest_m));
    p.setFont(Theme::instance().font(17, true));
    pen.text(285 - 16 - p.fontMetrics().horizontalAdvance(depths), 50, depths, 17, true, "ink");
    p.setPen(QPen(colour("line"), 1.5));
    p.drawLine(QPointF(sliderX(0), 80), QPointF(sliderX(16), 80));
    p.setPen(QPen(colour("ink"), 5));
    p.drawLine(QPointF(depthHandle(false).center().x(), 80), QPointF(depthHandle(true).center().x(), 80));
    for (const bool deep : {false, true}) {
        const auto box = depthHandle(deep);
        p.setPen(QPen(colour("ink"), 1.5));
        p.setBrush(colour("page"));
        p.drawRoundedRect(box, 3, 3);
        p.setFont(Theme::instance().font(15, true));
        p.drawText(box, Qt::AlignCenter, figure(deep ? w.deepest_m : w.shallowest_m));
    }
    p.setBrush(Qt::NoBrush);
    for (const auto &[depth, at] : {std::pair{0.0, sliderX(0)}, {16.0, sliderX(16)}})
        pen.centred(at, 118, figure(depth), 12, false, "ink2");
    pen.text(16, 144, clarity_.label, 13, false, "ink2");
    pen.text(16, 214, bottom_.label, 13, false, "ink2");
    const auto t = print_temperature(w.temperature_c, context_.session.preferences.units());
    pen.text(16, 288, tr("Water is"), 13, false, "ink2");
    pen.text(16, 312, QString::fromStdString(t.text()), 17, true, "ink");
    const auto c = column();
    pen.rule(16, 269, c.gear_rule, "line", 1.5);
    const auto &g = asked_.gear;
    pen.text(16, c.gear_title, tr("Gear"), 17, true, "ink");
    const auto name = QString::fromStdString(g.name);
    const double name_room = c.gear_facts ? 180 : c.gear_key.left() - 24;
    const QFontMetricsF name_font(Theme::instance().fontFor(name, name_room, 13));
    wordsWithin(p, c.gear_facts ? 285 - 16 - std::min(name_room, name_font.horizontalAdvance(name)) : 16,
                c.gear_title + (c.gear_facts ? 0 : 18), name, name_room, 13, false, "ink2");
    QStringList khz, beams;
    for (const auto &b : g.bands) {
        khz << QString::number(std::lround(b.frequency_hz / 1000));
        beams << QString::number(b.along_deg, 'g', 2);
    }
    const auto fact = [&](double y, const QString &label, const QString &value) {
        pen.text(16, y, label, 13, false, "ink2");
        p.setFont(Theme::instance().font(13, true));
        pen.text(285 - 16 - p.fontMetrics().horizontalAdvance(value), y, value, 13, true, "ink");
    };
    if (c.gear_facts) {
        fact(c.gear_title + 22, tr("Bands, kHz"), khz.join(QStringLiteral(" · ")));
        fact(c.gear_title + 42, tr("Fan along, °"), beams.join(QStringLiteral(" · ")));
        fact(c.gear_title + 62, tr("Pings a second, most"), QString::number(g.most_pings_a_second, 'g', 3));
    }
    pen.rule(16, 269, c.purpose_rule, "line", 1.5);
    pen.text(16, c.purpose_rule + 19, tr("Purpose"), 17, true, "ink");
    const auto &thing = asked_.thing;
    const bool fish = thing.kind == SmallestThing::Kind::fish;
    const auto size = fish && context_.session.preferences.units() == UnitSystem::metres
                          ? tr("%1 cm").arg(std::lround(thing.length_m * 100))
                          : length(thing.length_m, 1);
    const double n = pen.text(16, c.thing_keys - 6, tr("Smallest thing: "), 13, false, "ink2");
    pen.text(16 + n, c.thing_keys - 6, fish ? tr("%1 long").arg(size) : tr("%1 wide and tall").arg(size), 13,
             true, "ink");
}

void PrepareView::paintThings(QPainter &p, const std::function<double(double)> &depth,
                              const std::function<QPointF(double, double)> &at, double scale) const {
    const auto &y = answer()->yield;
    // Things to scale with the dark behind them.
    for (const int s : {-1, 1})
        for (const double share : {0.3, 0.6, 0.9}) {
            const double g = share * y.farthest_m;
            if (g < y.blind_m || y.farthest_m <= 0)
                continue;
            const double d = depth(s * g), h = asked_.thing.height_m, altitude = d - asked_.gear.draught_m;
            if (h >= altitude)
                continue;
            const double end = g * altitude / (altitude - h);
            if (asked_.thing.kind == SmallestThing::Kind::bush) {
                QPolygonF shadow;
                shadow << at(s * g, d - h) << at(s * g, d) << at(s * end, depth(s * end));
                p.setPen(Qt::NoPen);
                p.setBrush(colour("ink2"));
                p.drawPolygon(shadow);
                p.setPen(QPen(colour("ink"), std::max(2.0, asked_.thing.length_m * scale / 2)));
                p.drawLine(at(s * g, d), at(s * g, d - h));
            } else {
                p.setPen(QPen(colour("ink"), 2.5));
                const double half = std::max(3.0, asked_.thing.length_m * scale / 2);
                p.drawLine(at(s * g, d - h) - QPointF(half, 0), at(s * g, d - h) + QPointF(half, 0));
                p.setPen(QPen(colour("ink2"), 3));
                p.drawLine(at(s * end, depth(s * end)) - QPointF(half, 0),
                           at(s * end, depth(s * end)) + QPointF(half, 0));
            }
        }
}

void PrepareView::paintGroundRuler(QPainter &p, const QRectF &box, double far, double scale) const {
    Pen pen(p);
    const double middle = box.center().x();
    // Ruler over the ground.
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    const double unit = feet ? metres_per_foot : 1;
    double step = feet ? 20 : 5;
    while (2 * far / unit / step > 14)
        step *= 2;
    pen.rule(box.left(), box.right(), box.bottom() - 18, "line");
    for (double v = 0; v * unit <= far; v += step)
        for (const int s : {-1, 1}) {
            const double x = middle + s * v * unit * scale;
            if (x < box.left() + 8 || x > box.right() - 8)
                continue;
            p.setPen(QPen(colour("line"), 1));
            p.drawLine(QPointF(x, box.bottom() - 18), QPointF(x, box.bottom() - 13));
            pen.centred(x, box.bottom() - 1, QString::number(v), 12, true, "ink");
        }
}

// The vertical plane abeam, to scale: fan, blind strip, things with their shadows.
void PrepareView::paintSection(QPainter &p, const QRectF &box) {
    Pen pen(p);
    const auto &y = answer()->yield;
    const auto &w = asked_.water;
    const double far = std::max(5.0, y.setting.range_m * 1.12), scale = box.width() / 2 / far;
    const double middle = box.center().x(), surface = box.top() + 26;
    const double bottom_room = box.bottom() - 22;
    // Left as shallow as it gets, right as deep; the bottom falls evenly between.
    const auto depth = [&](double g) {
        const double share = std::clamp((g / far + 1) / 2, 0.0, 1.0);
        return w.shallowest_m + share * (w.deepest_m - w.shallowest_m);
    };
    const auto at = [&](double g, double z) {
        return QPointF(middle + g * scale, std::min(bottom_room, surface + z * scale));
    };
    p.save();
    p.setClipRect(box);
    p.fillRect(QRectF(box.left(), surface, box.width(), box.bottom() - surface), colour("water"));
    QPolygonF bed;
    bed << QPointF(box.left(), box.bottom());
    for (double g = -far; g <= far; g += far / 100)
        bed << at(g, depth(g));
    bed << QPointF(box.right(), box.bottom());
    // Lit water: as far as the bottom still stands out.
    const QPointF head = at(0, asked_.gear.draught_m);
    for (const int s : {-1, 1}) {
        const double altitude = depth(s * y.farthest_m) - asked_.gear.draught_m;
        const double edge =
            std::sqrt(std::max(0.0, y.setting.range_m * y.setting.range_m - altitude * altitude));
        QPolygonF lit;
        lit << head << at(s * y.blind_m, depth(s * y.blind_m));
        for (double g = y.blind_m; g <= std::max(y.blind_m, y.farthest_m); g += far / 60)
            lit << at(s * g, depth(s * g));
        lit << at(s * y.farthest_m, depth(s * y.farthest_m));
        p.setPen(Qt::NoPen);
        p.setBrush(colour("lift"));
        p.drawPolygon(lit);
        p.setPen(QPen(colour("accent"), 1.8));
        p.drawLine(head, at(s * edge, depth(s * edge)));
        if (y.farthest_m < 0.92 * edge) {
            p.setPen(QPen(colour("line"), 1, Qt::DashLine));
            p.drawLine(head, at(s * y.farthest_m, depth(s * y.farthest_m)));
        }
    }
    QPolygonF blind;
    blind << head << at(-y.blind_m, depth(-y.blind_m)) << at(y.blind_m, depth(y.blind_m));
    p.setPen(QPen(colour("ink2"), 1));
    p.setBrush(QBrush(colour("ink2"), Qt::BDiagPattern));
    p.drawPolygon(blind);
    auto bed_ink = colour("bed");
    bed_ink.setAlphaF(0.55F);
    p.setPen(Qt::NoPen);
    p.setBrush(colour("page"));
    p.drawPolygon(bed);
    p.setBrush(bed_ink);
    p.drawPolygon(bed);
    bed.removeFirst();
    bed.removeLast();
    p.setPen(QPen(colour("bedln"), 2));
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(bed);
    paintThings(p, depth, at, scale);
    p.restore();
    p.setPen(QPen(colour("ink"), 1.5));
    p.setBrush(colour("page"));
    p.drawLine(QPointF(box.left(), surface), QPointF(box.right(), surface));
    QPolygonF boat;
    boat << QPointF(middle - 18, surface - 11) << QPointF(middle + 18, surface - 11)
         << QPointF(middle + 13, surface + 2) << QPointF(middle - 13, surface + 2);
    p.drawPolygon(boat);
    p.setPen(Qt::NoPen);
    p.setBrush(colour("accent"));
    p.drawEllipse(head, 4, 4);
    p.setBrush(Qt::NoBrush);
    pen.text(box.left() + 4, surface - 6, length(w.shallowest_m) + QStringLiteral(" ") + tr("deep"), 13, true,
             "ink");
    const auto deep = length(w.deepest_m) + QStringLiteral(" ") + tr("deep");
    p.setFont(Theme::instance().font(13, true));
    pen.text(box.right() - 4 - p.fontMetrics().horizontalAdvance(deep), surface - 6, deep, 13, true, "ink");
    pen.text(middle + 26, surface - 6, tr("%1 along the sound").arg(length(y.setting.range_m)), 13, true,
             "accent");
    const auto blind_words = tr("blind strip, %1").arg(length(2 * y.blind_m));
    p.setFont(Theme::instance().font(13, true));
    pen.text(middle - 26 - p.fontMetrics().horizontalAdvance(blind_words), surface - 6, blind_words, 13, true,
             "ink");
    paintGroundRuler(p, box, far, scale);
}

// At seven distances: the cell, pings on the thing, its shadow, and how well it tells itself apart.
void PrepareView::paintRows(QPainter &p, const QRectF &box, bool curves) {
    Pen pen(p);
    const auto &y = answer()->yield;
    const auto depth = asked_.water.depth_m();
    const double far = std::max(5.0, y.setting.range_m * 1.12), scale = box.width() / 2 / far,
                 middle = box.center().x();
    const double ys[] = {box.top() + 14, box.top() + 57, box.top() + 98};
    pen.rule(box.left(), box.right(), box.top(), "hair");
    pen.rule(box.left(), box.right(), ys[1] - 14, "hair");
    if (curves)
        pen.rule(box.left(), box.right(), ys[2] - 14, "hair");
    constexpr int n = 6;
    for (int i = 1; i <= n; ++i) {
        const double g = y.edge_m * i / n;
        const auto b = budget_at(asked_.gear, asked_.water, asked_.thing, y.setting, depth, g);
        for (const int s : {-1, 1}) {
            const double x = middle + s * g * scale;
            if (x < box.left() + 20 || x > box.right() - 20)
                continue;
            if (s < 0) {
                // One cell on the bottom, eight times enlarged.
                p.setPen(QPen(colour("ink"), 1.5));
                p.setBrush(Qt::NoBrush);
                const double w = std::clamp(8 * scale * b.across_m, 2.0, 44.0),
                             h = std::clamp(8 * scale * b.along_m, 3.0, 20.0);
                p.drawRect(QRectF(x - w / 2, ys[0] + 15 - h / 2, w, h));
            } else {
                pen.centred(
                    x, ys[0] + 14,
                    QString::fromStdString(print_number(b.pings_on_thing, b.pings_on_thing < 10 ? 1 : 0)), 13,
                    true, b.pings_on_thing >= least_pings ? "ink" : "accent");
            }
            if (s < 0) {
                pen.centred(x, ys[1] + 18, figure(b.shadow_m, 1), 13, b.shadow_m >= 2 * b.across_m,
                            b.shadow_m >= 2 * b.across_m ? "ink" : "ink2");
            } else {
                pen.centred(x, ys[1] + 18, QString::fromStdString(print_number(b.bottom_over_noise_db, 0)),
                            13, true, b.bottom_over_noise_db >= 3 ? "ink" : "accent");
            }
        }
    }
    pen.centred(middle, ys[0] - 1, tr("a cell on the bottom, 8 ×  |  pings on the thing"), 12, false, "ink2");
    pen.centred(middle, ys[1] - 1,
                context_.session.preferences.units() == UnitSystem::feet
                    ? tr("its shadow, ft  |  bottom over noise, dB")
                    : tr("its shadow, m  |  bottom over noise, dB"),
                12, false, "ink2");
    if (!curves)
        return;
    pen.centred(middle, ys[2] - 1,
                tr("of 100 samples, how many tell the thing (solid) and its shadow (dotted) from bottom"), 12,
                false, "ink2");
    // Half is chance.
    const double top = ys[2] + 6, bottom = box.bottom() - 4;
    pen.rule(box.left(), box.right(), bottom, "line");
    pen.text(box.left(), bottom - 2, QStringLiteral("50"), 12, false, "ink2");
    pen.text(box.left(), top + 10, QStringLiteral("100"), 12, false, "ink2");
    for (const int s : {-1, 1}) {
        QPolygonF echo, shadow;
        for (int i = 1; i <= 60; ++i) {
            const double g = y.edge_m * i / 60;
            const auto b = budget_at(asked_.gear, asked_.water, asked_.thing, y.setting, depth, g);
            const auto yOf = [&](double v) { return bottom - (v - 0.5) * 2 * (bottom - top); };
            echo << QPointF(middle + s * g * scale, yOf(b.echo_separation));
            shadow << QPointF(middle + s * g * scale, yOf(b.shadow_separation));
        }
        p.setPen(QPen(colour("ink"), 2));
        p.drawPolyline(echo);
        p.setPen(QPen(colour("ink"), 1.5, Qt::DotLine));
        p.drawPolyline(shadow);
    }
}

// The answer in four figures, the rule of the trade on the same small scale, and why.
QString PrepareView::Figure::whyWords() const {
    return tr("why: %1").arg(QString::fromStdString(why));
}

PrepareView::Figures PrepareView::figures() const {
    const auto &a = *answer();
    const auto &y = a.yield;
    const auto rule = rules_of_thumb(asked_.gear, asked_.water, asked_.purpose);
    const auto reasons = reasons_for(a, asked_.gear, asked_.water, asked_.thing,
                                     context_.session.preferences.units() == UnitSystem::feet);
    const auto units = context_.session.preferences.units();
    const auto speed = [&](double v) { return QString::fromStdString(print_speed(v, units).figure); };
    const auto apart = [&](double v, double low, double high, auto say) {
        return v < low * 0.98    ? tr("%1 under rule").arg(say(low - v))
               : v > high * 1.02 ? tr("%1 past rule").arg(say(v - high))
                                 : tr("agrees");
    };
    const auto &bands = asked_.gear.bands;
    const double khz = bands[y.setting.band].frequency_hz / 1000,
                 rule_khz = bands[rule.band].frequency_hz / 1000;
    const auto say_length = [&](double m) { return length(m); };
    return {Figure{tr("Range, each side"), figure(y.setting.range_m),
                   QString::fromStdString(print_length(1, units).unit),
                   tr("3 × depth: %1–%2").arg(figure(rule.range_low_m), length(rule.range_high_m)),
                   apart(y.setting.range_m, rule.range_low_m, rule.range_high_m, say_length),
                   y.setting.range_m, rule.range_low_m, rule.range_high_m, asked_.gear.longest_range_m,
                   reasons.range},
            Figure{tr("Band"), QString::number(std::lround(khz)), tr("kHz"),
                   asked_.purpose == Purpose::inspect || asked_.purpose == Purpose::finest_always
                       ? tr("the finest, %1").arg(std::lround(rule_khz))
                       : tr("the widest, %1").arg(std::lround(rule_khz)),
                   y.setting.band == rule.band ? tr("agrees")
                   : khz > rule_khz            ? tr("finer than the rule")
                                               : tr("wider than the rule"),
                   khz, rule_khz - 12, rule_khz + 12, bands.back().frequency_hz / 1000 * 1.08, reasons.band},
            Figure{tr("Speed"), tr("%1–%2").arg(speed(a.slowest_m_s), speed(a.fastest_m_s)),
                   QString::fromStdString(print_speed(1, units).unit),
                   tr("%1 to %2 %3")
                       .arg(speed(rule.speed_low_m_s), speed(rule.speed_high_m_s),
                            QString::fromStdString(print_speed(1, units).unit)),
                   apart(y.setting.speed_m_s, rule.speed_low_m_s, rule.speed_high_m_s,
                         [&](double v) { return QString::fromStdString(print_speed(v, units).text()); }),
                   y.setting.speed_m_s, rule.speed_low_m_s, rule.speed_high_m_s, 4, reasons.speed},
            Figure{tr("Lane to lane"), figure(y.lane_m), QString::fromStdString(print_length(1, units).unit),
                   tr("1.6 × range: %1").arg(length(rule.lane_m)),
                   apart(y.lane_m, rule.lane_m, rule.lane_m, say_length), y.lane_m, rule.lane_m * 0.97,
                   rule.lane_m * 1.03, std::max(2 * rule.lane_m, 1.5 * y.lane_m), reasons.lane}};
}

void PrepareView::paintFigures(QPainter &p, const QRectF &box, const Figures &figures) {
    Pen pen(p);
    pen.rule(box.left(), box.right(), box.top(), "line", 1.5);
    const double w = box.width() / 4;
    for (std::size_t i = 0; i < figures.size(); ++i) {
        const double x = box.left() + static_cast<double>(i) * w;
        if (i > 0) {
            p.setPen(QPen(colour("hair"), 1));
            p.drawLine(QPointF(x - 9, box.top() + 8), QPointF(x - 9, box.bottom()));
        }
        paintFigure(p, figures[i], {x, box.top(), w - figure_gap, box.height()});
    }
}

void PrepareView::paintFitted(QPainter &p, QPointF at, const QString &words, int size, bool bold, double room,
                              const char *ink) {
    const QFontMetricsF as_large(Theme::instance().font(size, bold));
    words_fit_ = words_fit_ && as_large.horizontalAdvance(words) <= room;
    wordsWithin(p, at.x(), at.y(), words, room, size, bold, ink);
}

void PrepareView::paintFigure(QPainter &p, const Figure &f, const QRectF &box) {
    Pen pen(p);
    const double x = box.left(), in = box.width();
    wordsWithin(p, x, box.top() + 18, f.label, in, 13, false, "ink2");
    int px = f.big.size() > 6 ? 34 : 44;
    const auto wide = [&](int size) {
        return QFontMetricsF(Theme::instance().font(size, true)).horizontalAdvance(f.big) + 6 +
               QFontMetricsF(Theme::instance().font(15)).horizontalAdvance(f.unit);
    };
    while (px > 20 && wide(px) > in)
        px -= 2;
    const double n = pen.text(x, box.top() + 56, f.big, px, true, "ink");
    pen.text(x + n + 6, box.top() + 56, f.unit, 15, false, "ink2");
    // The small scale: our pointer, and the rule as an open box.
    const auto at = [&](double v) { return x + std::clamp(v / f.most, 0.0, 1.0) * in; };
    pen.rule(x, x + in, box.top() + 74, "line");
    p.setPen(QPen(colour("ink"), 1.5));
    p.setBrush(colour("page"));
    p.drawRect(QRectF(at(f.low), box.top() + 69, std::max(5.0, at(f.high) - at(f.low)), 10));
    p.setPen(Qt::NoPen);
    p.setBrush(colour("accent"));
    QPolygonF pointer;
    pointer << QPointF(at(f.value) - 7, box.top() + 62) << QPointF(at(f.value) + 7, box.top() + 62)
            << QPointF(at(f.value), box.top() + 72);
    p.drawPolygon(pointer);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour("ink"), 1.2));
    p.drawRect(QRectF(x, box.top() + 89, 10, 7));
    paintFitted(p, {x + 15, box.top() + 97}, f.rule, 12, false, in - 15, "ink2");
    paintFitted(p, {x, box.top() + 114}, f.differs, 13, true, in, "ink");
    p.setFont(Theme::instance().font(12));
    p.setPen(colour("ink"));
    paintParagraph(p, QRectF(x, box.top() + why_top, in, box.height() - why_top), f.whyWords());
}

void PrepareView::paintPurposes(QPainter &p, const QRectF &box) {
    Pen pen(p);
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    pen.rule(box.left(), box.right(), box.top(), "line", 1.5);
    const QStringList heads{tr("Purposes"),
                            tr("by eye"),
                            tr("program"),
                            tr("kHz"),
                            tr("speed"),
                            feet ? tr("acres/h") : tr("ha/h"),
                            tr("told/100"),
                            tr("seen/100"),
                            tr("cells"),
                            tr("pings"),
                            feet ? tr("min/acre") : tr("min/ha")};
    const double xs[] = {0, 0.165, 0.245, 0.335, 0.4, 0.5, 0.585, 0.68, 0.775, 0.845, 0.91};
    const auto room = [&](int i) {
        return ((i + 1 < heads.size() ? xs[i + 1] : 1.0) - xs[i]) * box.width() - 2;
    };
    for (int i = 0; i < heads.size(); ++i)
        wordsWithin(p, box.left() + xs[i] * box.width(), box.top() + 17, heads[i], room(i), i == 0 ? 13 : 12,
                    i == 0, i == 0 ? "ink" : "ink2");
    double yy = box.top() + 38;
    for (const auto purpose : all_purposes) {
        const auto &a = answers()[static_cast<std::size_t>(purpose)];
        if (!a)
            continue;
        const auto range_by = [&](ReadBy by) {
            const auto &one = answers(by)[static_cast<std::size_t>(purpose)];
            return one ? length(one->yield.setting.range_m) : QString();
        };
        const bool on = purpose == asked_.purpose;
        if (on)
            p.fillRect(QRectF(box.left() - 4, yy - 16, box.width() + 8, 21), colour("sunk"));
        const auto &y = a->yield;
        const double area = feet ? 4046.856 : 1e4;
        const QStringList cells{
            titleOf(purpose),
            range_by(ReadBy::eye),
            range_by(ReadBy::program),
            QString::number(std::lround(asked_.gear.bands[y.setting.band].frequency_hz / 1000)),
            QString::fromStdString(
                print_speed(y.setting.speed_m_s, context_.session.preferences.units()).text()),
            QString::fromStdString(print_number(y.ground_per_minute_m2 * 60 / area, 1)),
            QString::number(std::lround(100 * y.separation)),
            QString::number(std::lround(100 * y.eye_sees)),
            QString::fromStdString(print_number(y.cells_on_thing, 0)),
            QString::fromStdString(print_number(y.pings_on_thing, 1)),
            QString::fromStdString(print_number(purpose == Purpose::wide_then_fine
                                                    ? minutes_for(y, 1e4) * area / 1e4 + 7.5 * area / 1e4
                                                    : minutes_for(y, 1e4) * area / 1e4,
                                                1))};
        // The two ranges: the one that is taken stands out.
        const int taken = asked_.read_by == ReadBy::eye ? 1 : 2;
        for (int i = 0; i < cells.size(); ++i)
            wordsWithin(p, box.left() + xs[i] * box.width(), yy, cells[i], room(i), 13,
                        i == 0 || (on && i != 3 - taken), i == 3 - taken ? "ink2" : "ink");
        yy += 22;
    }
    if (const auto &a = answers()[static_cast<std::size_t>(Purpose::wide_then_fine)];
        a && asked_.purpose == Purpose::wide_then_fine) {
        const auto &y = a->second;
        pen.text(box.left(), yy,
                 tr("Over a find: %1, %2 kHz, %3")
                     .arg(length(y.setting.range_m))
                     .arg(std::lround(asked_.gear.bands[y.setting.band].frequency_hz / 1000))
                     .arg(QString::fromStdString(
                         print_speed(y.setting.speed_m_s, context_.session.preferences.units()).text())),
                 12, true, "ink");
    }
    // Beside what is said of the second pass.
    const double beside = asked_.purpose == Purpose::wide_then_fine ? 0.32 * box.width() : 0;
    for (const auto &w : warnings_) {
        if (yy > box.bottom() + 4)
            break;
        paintFitted(p, {box.left() + beside, yy}, w, 12, false, box.width() - beside, "ink");
        yy += warning_high;
    }
}

void PrepareView::paintArea(QPainter &p, const QRectF &box) {
    Pen pen(p);
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    const auto &y = answer()->yield;
    pen.rule(box.left(), box.right(), box.top(), "line", 1.5);
    pen.text(box.left(), box.top() + 20, tr("To cover"), 13, false, "ink2");
    pen.text(box.left(), box.top() + 48,
             feet ? tr("%1 acres").arg(asked_.area_m2 / 4046.856, 0, 'f', asked_.area_m2 < 40000 ? 1 : 0)
                  : tr("%1 ha").arg(asked_.area_m2 / 1e4, 0, 'f', asked_.area_m2 < 1e5 ? 1 : 0),
             24, true, "ink");
    const double side = std::sqrt(asked_.area_m2);
    const int lanes = lanes_for(y, asked_.area_m2);
    const auto hours = [](double minutes) {
        return minutes < 60 ? tr("%1 min").arg(std::lround(minutes))
                            : tr("%1 h %2")
                                  .arg(static_cast<int>(minutes / 60))
                                  .arg(std::lround(std::fmod(minutes, 60)), 2, 10, QLatin1Char('0'));
    };
    Yield ruled = y;
    const auto rule = rules_of_thumb(asked_.gear, asked_.water, asked_.purpose);
    ruled.lane_m = rule.lane_m;
    ruled.setting.speed_m_s = (rule.speed_low_m_s + rule.speed_high_m_s) / 2;
    const std::pair<QString, QString> facts[] = {
        {tr("Lanes"), QString::number(lanes)},
        {tr("To run"), feet ? tr("%1 mi").arg(lanes * side / metres_per_mile, 0, 'f', 1)
                            : tr("%1 km").arg(lanes * side / 1000, 0, 'f', 1)},
        {tr("With turns"), hours(minutes_for(y, asked_.area_m2))},
        {tr("By the rule"), hours(minutes_for(ruled, asked_.area_m2))}};
    double x = box.left() + 270;
    for (const auto &[label, value] : facts) {
        pen.text(x, box.top() + 20, label, 13, false, "ink2");
        pen.text(x, box.top() + 48, value, 24, true, "ink");
        x += std::min(155.0, (box.width() - 270) / 4);
    }
}

} // namespace heron::app
