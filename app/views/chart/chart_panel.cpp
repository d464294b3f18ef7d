// What the left of the place Chart says: the read-out, the layers with their signs, looks, lanes.
#include "kit/counted.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"
#include "views/chart/chart_sheet_view.hpp"
#include "views/chart/chart_view.hpp"

#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

using Layer = ChartSheetView::Layer;

constexpr int panel = ChartView::panel_width;

} // namespace

// A swatch as it is drawn on the sheet, the name, and what its signs mean.
void ChartView::paintRow(QPainter &p, std::size_t i) {
    const auto row = rowRect(i);
    const QRect swatch(row.left(), row.top() + 6, 40, row.height() - 12);
    p.setRenderHint(QPainter::Antialiasing);
    const auto line = [&](const QPen &pen, int from, int to) {
        p.setPen(pen);
        p.drawLine(swatch.left(), swatch.top() + from, swatch.right(), swatch.top() + to);
    };
    const auto hatch = [&](const char *ink, int step) {
        p.setPen(QPen(colour(ink), 1.2));
        for (int x = 0; x < swatch.width() - 6; x += step)
            p.drawLine(swatch.left() + x, swatch.bottom(), swatch.left() + x + 8, swatch.top());
    };
    const auto name = layer_keys_[i]->objectName();
    if (name == QLatin1String("layerMosaic")) {
        for (int x = 0; x < swatch.width(); ++x)
            p.fillRect(swatch.left() + x, swatch.top(), 1, swatch.height(),
                       QColor::fromRgb(Theme::instance().map()[static_cast<std::uint8_t>(85 + x * 4)]));
    } else if (name == QLatin1String("layerHardness")) {
        for (int y = 5; y < swatch.height(); y += 8)
            for (int x = 4; x < swatch.width(); x += 8) {
                p.setPen(QPen(colour("ink"), x < 20 ? 2.2 : 1.2, Qt::SolidLine, Qt::RoundCap));
                const QPointF at(swatch.left() + x, swatch.top() + y);
                x < 20 ? p.drawPoint(at) : p.drawLine(at - QPointF(2.5, 0), at + QPointF(2.5, 0));
            }
    } else if (name == QLatin1String("layerContours")) {
        for (const int y : {4, 12, 20})
            line(QPen(colour("ink"), y == 12 ? 1.8 : 0.9), y + 2, y - 2);
    } else if (name == QLatin1String("layerBand")) {
        hatch("reed", 6);
    } else if (name == QLatin1String("layerTransitions")) {
        line(QPen(colour("ink"), 1.8), 14, 14);
        for (int x = 4; x < swatch.width(); x += 9)
            p.drawLine(swatch.left() + x, swatch.top() + 14, swatch.left() + x, swatch.top() + 8);
    } else if (name == QLatin1String("layerLooks")) {
        hatch("ink", 7);
    } else if (name == QLatin1String("layerTrack")) {
        line(QPen(colour("ink2"), 1.4, Qt::DashLine), 18, 8);
    } else if (name == QLatin1String("layerBackdrop")) {
        p.setPen(QPen(colour("slate"), 1.6));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(QRectF(swatch).adjusted(2, 4, -6, -4), 8, 6);
    } else {
        p.setPen(QPen(colour("ink"), 1.5));
        p.setBrush(name == QLatin1String("layerMarks") ? colour("ink") : colour("page"));
        p.drawEllipse(QPointF(swatch.center()), 8, 8);
        p.setBrush(Qt::NoBrush);
    }
    const auto write = wordsOn(p);
    const auto units = context_.session.preferences.units();
    const int decimals = units == UnitSystem::feet ? 0 : 1;
    const double level = context_.chart.level();
    const auto means =
        name == QLatin1String("layerContours") && level != 0
            ? tr("water %1")
                  .arg((level > 0 ? QStringLiteral("+") : QStringLiteral("−")) +
                       QString::fromStdString(print_length(std::fabs(level), units, 1).text()))
        : name == QLatin1String("layerBackdrop") && context_.backdrops.drawn()
            ? QFontMetrics(Theme::instance().font(12))
                  .elidedText(context_.backdrops.drawn()->name, Qt::ElideMiddle, 140)
        : name == QLatin1String("layerMosaic") ? mosaicMeans()
        : name == QLatin1String("layerTrack")  ? trackMeans()
        : name != QLatin1String("layerBand")   ? rows_[i].means
        : !sheet_->bandKnown()
            ? tr("none yet")
            : tr("%1 to %2")
                  .arg(QString::fromStdString(print_length(sheet_->bandFrom(), units, decimals).figure),
                       QString::fromStdString(print_length(sheet_->bandTo(), units, decimals).text()));
    write(row.left() + 50, row.top() + 16, rows_[i].title, 14, true, "ink");
    write(row.left() + 50, row.top() + 32, means, 12, false, "ink2");
    p.setPen(QPen(colour("hair"), 1));
    const bool apart = rowRect(1).top() - rowRect(0).top() > row.height() + 2;
    const int under = row.bottom() + (apart ? 3 : 0);
    p.drawLine(row.left(), under, row.right() - 48, under);
}

// The figure large enough for two seconds, the rest beneath.
void ChartView::paintReadOut(QPainter &p) {
    const auto write = wordsOn(p);
    const bool hovers = sheet_->pointed().has_value();
    write(14, 24, hovers ? tr("Under the pointer") : tr("Where you pressed"), 13, false, "ink2");
    auto lines = readOut();
    if (lines.isEmpty()) {
        write(14, 60, QStringLiteral("–"), 34, true, "ink");
        p.setFont(Theme::instance().font(13));
        p.setPen(colour("ink2"));
        paintParagraph(p, {14, 76, panel - 28.0, 60},
                       context_.chart.sheet() ? tr("Point at the chart, or press on it.")
                       : context_.chart.tiles().empty()
                           ? tr("Nothing is charted yet.")
                           : tr("The chart is being made; it grows as rows come."));
        return;
    }
    const auto first = lines.takeFirst();
    const auto figure = first.section(QLatin1Char(' '), 0, 0), rest = first.section(QLatin1Char(' '), 1);
    const bool known = !figure.isEmpty() && figure[0].isDigit();
    double wide = 0;
    if (known)
        wide = write(14, 68, figure, 42, true, "ink");
    write(14 + wide + (known ? 8 : 0), 68, known ? rest : first, 15, !known, "ink");
    double y = 84;
    p.setFont(Theme::instance().font(14));
    p.setPen(colour("ink"));
    for (const auto &line : lines)
        y = paintParagraph(p, {14, y, panel - 28.0, 40}, line) + 3;
    paintWhy(p, y);
}

// As many of the reasons as there is room for over the layers.
void ChartView::paintWhy(QPainter &p, double y) const {
    p.setPen(colour("reed"));
    p.setFont(Theme::instance().font(13, true));
    for (const auto &line : why()) {
        if (y + 17 > layersTop() - 32)
            return;
        y = paintParagraph(p, {14, y, panel - 28.0, 18}, capital(line)) + 1;
    }
}

void ChartView::paintLooks(QPainter &p, double top) {
    const auto &sheet = context_.chart.sheet();
    if (!sheet || top > height() - 60)
        return;
    const auto write = wordsOn(p);
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    constexpr double m2_an_acre = 4046.856, small_m2 = 1000;
    const auto area = [&](double m2) {
        if (m2 < small_m2)
            return feet ? tr("%1 ft²").arg(std::lround(m2 / (metres_per_foot * metres_per_foot)))
                        : tr("%1 m²").arg(std::lround(m2));
        return feet ? tr("%1 ac").arg(m2 / m2_an_acre, 0, 'f', 1) : tr("%1 ha").arg(m2 / 1e4, 0, 'f', 2);
    };
    write(14, top, tr("Good looks"), 14, true, "ink");
    const QString names[] = {tr("none good"), tr("1"), tr("2"), tr("3 or more")};
    double y = top + 20;
    for (int i = 3; i >= 0 && y < height() - 6; --i, y += 18) {
        write(14, y, names[i], 13, false, "ink2");
        const auto words = area(sheet->looks_m2[static_cast<std::size_t>(i)]);
        p.setFont(Theme::instance().font(13));
        write(panel - 16 - p.fontMetrics().horizontalAdvance(words), y, words, 13, false, "ink");
    }
}

// By what the boat's page says that the motor takes.
QString ChartView::fuelFor(double minutes) const {
    const double litres = context_.session.boats.boat().fuel_l_per_h * minutes / 60;
    return litres > 0 ? tr(", %1 l of fuel").arg(litres, 0, 'f', litres < 10 ? 1 : 0) : QString();
}

// What the lanes take, and how much of them is run.
void ChartView::paintPlan(QPainter &p, double top) {
    const auto &lanes = sheet_->lanes();
    const auto &plan = lanes.plan();
    const auto write = wordsOn(p);
    const auto units = context_.session.preferences.units();
    const auto length = [&](double m, int decimals) {
        return QString::fromStdString(print_length(m, units, decimals).text());
    };
    const auto &advised = context_.tuner.advised();
    const double speed = advised ? advised->yield.setting.speed_m_s : 1.4;
    write(14, top,
          tr("%1, %2 apart")
              .arg(counted(plan.lanes.size(), tr("lane"), tr("lanes")), length(plan.spacing_m, 0)),
          14, true, "ink");
    write(14, top + 20,
          tr("%1 to run, %2").arg(length(plan.run_m, 0), counted(plan.turns, tr("turn"), tr("turns"))), 13,
          false, "ink2");
    write(14, top + 38,
          tr("%1 min at %2")
                  .arg(std::lround(plan.minutes(speed)))
                  .arg(QString::fromStdString(print_speed(speed, units).text())) +
              fuelFor(plan.minutes(speed)),
          13, false, "ink2");
    write(14, top + 56, tr("run so far: %1 in 100").arg(std::lround(100 * lanes.share_run())), 13, false,
          "ink");
}

void ChartView::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(panel, 0, panel, height());
    paintReadOut(p);
    const auto write = wordsOn(p);
    p.setPen(QPen(colour("line"), 1.5));
    p.drawLine(14, layersTop() - 30, panel - 14, layersTop() - 30);
    write(14, layersTop() - 10, tr("Layers"), 15, true, "ink");
    const double end = rowRect(rows_.size() - 1).bottom();
    for (std::size_t i = 0; i < rows_.size(); ++i)
        paintRow(p, i);
    if (canWriteRoute())
        paintPlan(p, end + 22);
    else
        paintLooks(p, end + 22);
}

} // namespace heron::app
