#include "views/chart/chart_view.hpp"

#include "exchange/gpx.hpp"
#include "files/atomic_file.hpp"
#include "files/identifier.hpp"
#include "kit/counted.hpp"
#include "kit/key_row.hpp"
#include "kit/kind_words.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"
#include "picture/plan_patch.hpp"
#include "views/chart/chart_sheet_view.hpp"

#include <QFileDialog>
#include <QKeyEvent>
#include <QStandardPaths>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

using Layer = ChartSheetView::Layer;

constexpr int panel = 284, layer_high = 40, roomy = 720;

} // namespace

ChartView::ChartView(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setFocusPolicy(Qt::StrongFocus);
    sheet_ = new ChartSheetView(context, this);
    sheet_->setObjectName(QStringLiteral("chartSheet"));
    addLayers();
    addKeys();
    for (auto signal : {&ChartSheetView::pointedChanged, &ChartSheetView::viewChanged})
        connect(sheet_, signal, this, &ChartView::refresh);
    for (auto signal : {&ChartMaker::begun, &ChartMaker::tilesChanged, &ChartMaker::sheetChanged})
        connect(&context_.chart, signal, this, &ChartView::refresh);
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, &ChartView::refresh);
    connect(&Theme::instance(), &Theme::changed, this, &ChartView::refresh);
    refresh();
}

KeyButton *ChartView::add(const char *name, const QString &glyph, const QString &text,
                          const QKeySequence &letter, const QString &tip) {
    auto *key = new KeyButton(glyph, text, letter, tip, this);
    key->setObjectName(QString::fromLatin1(name));
    return key;
}

void ChartView::addLayers() {
    const std::tuple<Layer, const char *, QString, Qt::Key, QString, QString> layers[] = {
        {Layer::mosaic, "layerMosaic", tr("Mosaic"), Qt::Key_A, tr("paler where seen once"),
         tr("The sonar picture laid on the ground")},
        {Layer::hardness, "layerHardness", tr("Hardness"), Qt::Key_H, tr("dots hard, dashes soft"),
         tr("How hard the bottom is")},
        {Layer::contours, "layerContours", tr("Contours"), Qt::Key_Y, tr("from your soundings"),
         tr("Lines of equal depth")},
        {Layer::band, "layerBand", tr("Band"), Qt::Key_B, {}, tr("One band of depth, hatched")},
        {Layer::transitions, "layerTransitions", tr("Transitions"), Qt::Key_R, tr("teeth on the hard side"),
         tr("Where hard meets soft")},
        {Layer::looks, "layerLooks", tr("Looks"), Qt::Key_K, tr("the denser the more"),
         tr("How many good looks each place has had")},
        {Layer::track, "layerTrack", tr("Track"), Qt::Key_L, tr("where the boat ran"),
         tr("Where the boat ran")},
        {Layer::marks, "layerMarks", tr("Marks"), Qt::Key_P, tr("hazards stay shown"),
         tr("Marks; hazards are always shown")},
        {Layer::contacts, "layerContacts", tr("Found"), Qt::Key_W, tr("what was read"),
         tr("What was read, as glyphs")}};
    for (const auto &[layer, name, title, letter, means, tip] : layers) {
        auto *key = add(name, {}, {}, letter, tip);
        key->setCheckable(true);
        key->setStacked(true);
        connect(key, &KeyButton::clicked, this, [this, l = layer](bool on) { sheet_->setShown(l, on); });
        layer_keys_.push_back(key);
        rows_.push_back({title, means});
    }
    band_less_ = add("bandShallower", {}, QStringLiteral("−"), Qt::Key_Minus, tr("A shallower band"));
    band_more_ = add("bandDeeper", {}, QStringLiteral("+"), Qt::Key_Equal, tr("A deeper band"));
    connect(band_less_, &KeyButton::clicked, this, [this] { sheet_->shiftBand(-1); });
    connect(band_more_, &KeyButton::clicked, this, [this] { sheet_->shiftBand(1); });
}

void ChartView::addKeys() {
    const std::tuple<Family, const char *, QString, QString, Qt::Key> families[] = {
        {Family::fish, "chartFish", QStringLiteral("family-fish"), tr("Fish"), Qt::Key_Z},
        {Family::structure, "chartStructure", QStringLiteral("family-structure"), tr("Structure"), Qt::Key_X},
        {Family::bottom, "chartBottom", QStringLiteral("family-bottom"), tr("Bottom"), Qt::Key_C},
        {Family::hazard, "chartHazard", QStringLiteral("family-hazard"), tr("Hazard"), Qt::Key_V}};
    for (const auto &[family, name, glyph, word, letter] : families) {
        auto *key =
            add(name, glyph, word, letter, tr("Mark the place that you pressed; else where the boat is"));
        connect(key, &KeyButton::clicked, this, [this, f = family] { mark(f); });
        keys_.push_back(key);
    }
    measure_ = add("chartMeasure", QStringLiteral("act-measure"), tr("Measure"), Qt::Key_D,
                   tr("A length and a bearing between two presses"));
    measure_->setCheckable(true);
    connect(measure_, &KeyButton::clicked, sheet_, &ChartSheetView::setMeasures);
    keys_.push_back(measure_);
    lanes_ = add("planLanes", QStringLiteral("act-passes"), tr("Lanes"), Qt::Key_S,
                 tr("Press the corners of an area, then this key again: lanes over it, as far apart as "
                    "Prepare advises"));
    lanes_->setCheckable(true);
    connect(lanes_, &KeyButton::clicked, sheet_, &ChartSheetView::setPlans);
    keys_.push_back(lanes_);
    turn_ = add("turnLanes", {}, tr("Turn"), Qt::Key_Q, tr("Lanes the other way"));
    connect(turn_, &KeyButton::clicked, this, [this] { sheet_->turnLanes(90); });
    keys_.push_back(turn_);
    auto *boat = add("toTheBoat", {}, tr("Boat"), Qt::Key_G, tr("The boat in the middle"));
    connect(boat, &KeyButton::clicked, sheet_, &ChartSheetView::toTheBoat);
    auto *all = add("fitChart", {}, tr("All"), Qt::Key_F, tr("All that was seen"));
    connect(all, &KeyButton::clicked, sheet_, &ChartSheetView::fitAll);
    auto *in = add("zoomIn", {}, QStringLiteral("+"), Qt::Key_BracketRight, tr("Nearer")),
         *out = add("zoomOut", {}, QStringLiteral("−"), Qt::Key_BracketLeft, tr("Farther"));
    const auto zoom = [this](double times) { sheet_->zoom(times, QPointF(sheet_->rect().center())); };
    connect(in, &KeyButton::clicked, this, [zoom] { zoom(1.5); });
    connect(out, &KeyButton::clicked, this, [zoom] { zoom(1 / 1.5); });
    scan_ = add("chartScan", QStringLiteral("place-scan"), tr("Scan"), Qt::Key_M,
                tr("The pass that saw this place last, in Scan"));
    connect(scan_, &KeyButton::clicked, this, &ChartView::showInScan);
    keys_.push_back(scan_);
    write_ = add("writeChart", QStringLiteral("act-share"), tr("Write"), Qt::Key_E,
                 tr("The chart as a GeoTIFF or a GeoPackage for any GIS"));
    connect(write_, &KeyButton::clicked, this, &ChartView::askToWrite);
    for (auto *k : {boat, all, in, out, write_})
        keys_.push_back(k);
    for (auto *k : keys_)
        k->setStacked(true);
}

void ChartView::showInScan() {
    const auto at = sheet_->picked();
    const auto globe = at ? sheet_->onGlobe(*at) : std::nullopt;
    const auto &shown = context_.session.shown;
    const auto passes = globe ? passes_at(shown.scan(), *globe, shown.end()) : std::vector<Pass>();
    if (passes.empty())
        context_.session.notices.say(QStringLiteral("chart"),
                                     globe ? tr("No pass saw that place.") : tr("Press on the chart first."));
    else
        context_.window.askRow(passes.back().row);
}

void ChartView::askToWrite() {
    const auto path = QFileDialog::getSaveFileName(
        this, tr("Write the chart"),
        QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation) + QStringLiteral("/chart.tif"),
        tr("GeoTIFF (*.tif);;GeoPackage (*.gpkg)") +
            (canWriteRoute() ? tr(";;Lanes as a GPX route (*.gpx)") : QString()));
    if (path.endsWith(QLatin1String(".gpx")))
        writeRoute(path);
    else if (!path.isEmpty())
        context_.chart.write(path);
}

bool ChartView::canWriteRoute() const {
    return !sheet_->lanes().plan().lanes.empty();
}

void ChartView::writeRoute(const QString &path) {
    std::vector<GeoPoint> places;
    for (const auto &lane : sheet_->lanes().plan().lanes)
        for (const auto &end : {lane.from, lane.to})
            if (const auto at = sheet_->onGlobe(end))
                places.push_back(*at);
    const auto name = tr("Lanes, %1").arg(context_.session.sources.name()).toStdString();
    if (const auto done = write_file_atomically(path.toStdString(), gpx_from_route(name, places)); !done)
        context_.session.notices.raise(QStringLiteral("chart"), done.error());
    else
        context_.session.notices.say(QStringLiteral("chart"), tr("Lanes written to %1.").arg(path));
}

void ChartView::refresh() {
    lanes_->setChecked(sheet_->plans());
    turn_->setEnabled(canWriteRoute());
    // Without a chart there is nothing to measure, to plan on or to write.
    const bool charted = !context_.chart.tiles().empty();
    for (auto *k : {measure_, lanes_, scan_, write_})
        k->setEnabled(charted);
    for (auto *k : {band_less_, band_more_})
        k->setEnabled(sheet_->bandKnown());
    const Layer layers[] = {Layer::mosaic, Layer::hardness,    Layer::contours,
                            Layer::band,   Layer::transitions, Layer::looks,
                            Layer::track,  Layer::marks,       Layer::contacts};
    for (std::size_t i = 0; i < layer_keys_.size(); ++i)
        layer_keys_[i]->setChecked(sheet_->shows(layers[i]));
    measure_->setChecked(sheet_->measures());
    update(0, 0, panel, height());
}

QStringList ChartView::readOut() const {
    QStringList lines;
    const auto at = sheet_->pointed() ? sheet_->pointed() : sheet_->picked();
    const auto &sheet = context_.chart.sheet();
    if (!at || !sheet)
        return lines;
    const auto units = context_.session.preferences.units();
    const auto length = [&](double m) { return QString::fromStdString(print_length(m, units).text()); };
    if (const auto i = sheet->depth.raster.cell_at(at->east_m, at->north_m);
        i && sheet->depth.depth_m[*i] == sheet->depth.depth_m[*i])
        lines << tr("%1 ± %2").arg(length(static_cast<double>(sheet->depth.depth_m[*i])),
                                   length(static_cast<double>(sheet->depth.sd_m[*i])));
    else
        lines << tr("depth not sounded");
    const auto &h = sheet->hardness;
    if (const auto i = h.raster.cell_at(at->east_m, at->north_m); i && h.hardness[*i] == h.hardness[*i])
        lines << tr("%1, %2 in 100 hard, ± %3")
                     .arg(QString::fromLatin1(name_of(h.ground[*i]).data()))
                     .arg(std::lround(100 * h.hardness[*i]))
                     .arg(std::max(1L, std::lround(100 * h.hardness_sd[*i])));
    else
        lines << tr("bottom not seen");
    double nearest = 1e9;
    for (const auto &t : sheet->transitions)
        for (const auto &p : t.line)
            nearest = std::min(nearest, std::hypot(p.east_m - at->east_m, p.north_m - at->north_m));
    if (nearest < 200)
        lines << tr("%1 to a transition").arg(length(nearest));
    if (const auto boat = sheet_->boat()) {
        const auto a = sheet_->onGlobe(*boat), b = sheet_->onGlobe(*at);
        if (a && b) {
            const auto leg = leg_between(*a, *b);
            lines << tr("%1 from the boat, %2")
                         .arg(length(leg.distance_m), QString::fromStdString(print_bearing(leg.bearing_deg)));
        }
    }
    return lines;
}

void ChartView::mark(Family family) {
    const auto place = sheet_->picked() ? sheet_->picked() : sheet_->boat();
    const auto globe = place ? sheet_->onGlobe(*place) : std::nullopt;
    if (!globe) {
        context_.session.notices.say(QStringLiteral("mark"),
                                     tr("Press on the chart first: a mark needs a place."));
        return;
    }
    Mark m;
    m.id = new_identifier();
    m.family = family;
    m.place = globe;
    const auto &shown = context_.session.shown;
    if (!shown.empty())
        m.time = shown.scan().facts(shown.newest()).time;
    // What a finger on a sheet is off, and what the positions are.
    const double sd = std::hypot(1.0, 8 * sheet_->metresPerPixel());
    m.place_covariance.east_east = m.place_covariance.north_north = sd * sd / 2;
    m.source = context_.session.sources.name().toStdString();
    const auto &sheet = context_.chart.sheet();
    if (sheet)
        if (const auto i = sheet->depth.raster.cell_at(place->east_m, place->north_m);
            i && sheet->depth.depth_m[*i] == sheet->depth.depth_m[*i])
            m.depth_m = Estimate{static_cast<double>(sheet->depth.depth_m[*i]),
                                 static_cast<double>(sheet->depth.sd_m[*i])};
    m.note = tr("marked on the chart").toStdString();
    if (!context_.marks.add(m))
        return;
    context_.window.selectMark(QString::fromStdString(m.id));
    sheet_->clearPick();
    context_.session.notices.say(QStringLiteral("mark"),
                                 tr("%1 marked on the chart and saved.").arg(capital(wordFor(family))));
}

void ChartView::resizeEvent(QResizeEvent *) {
    const int room = width() - panel - 20, rows = KeyRow::rows(keys_.size(), room),
              keys_top = height() - KeyRow::height(rows) - 10;
    sheet_->setGeometry(panel + 1, 0, width() - panel - 1, keys_top - 6);
    for (std::size_t i = 0; i < layer_keys_.size(); ++i) {
        const auto row = rowRect(i);
        layer_keys_[i]->setGeometry(row.right() - 45, row.top(), 46, row.height());
        if (layer_keys_[i]->objectName() == QLatin1String("layerBand")) {
            band_less_->setGeometry(row.right() - 45 - 2 * 44, row.top(), 40, row.height());
            band_more_->setGeometry(row.right() - 45 - 44, row.top(), 40, row.height());
        }
    }
    KeyRow::lay(keys_, {panel + 10, keys_top, room, 0}, rows);
}

void ChartView::keyPressEvent(QKeyEvent *event) {
    if (event->key() == Qt::Key_Escape) {
        if (sheet_->measures())
            sheet_->setMeasures(false);
        else if (sheet_->plans() || canWriteRoute())
            sheet_->clearLanes();
        else
            sheet_->clearPick();
        return;
    }
    QWidget::keyPressEvent(event);
}

int ChartView::layersTop() const {
    return height() < roomy ? 190 : 222;
}

QRect ChartView::rowRect(std::size_t row) const {
    const int pitch = height() < roomy ? layer_high : layer_high + 4;
    return {14, layersTop() + static_cast<int>(row) * pitch, panel - 28, layer_high};
}

// The whole row is the target.
void ChartView::mousePressEvent(QMouseEvent *event) {
    setFocus();
    for (std::size_t i = 0; i < layer_keys_.size(); ++i)
        if (rowRect(i).contains(event->pos()))
            layer_keys_[i]->click();
}

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
    } else {
        p.setPen(QPen(colour("ink"), 1.5));
        p.setBrush(name == QLatin1String("layerMarks") ? colour("ink") : colour("page"));
        p.drawEllipse(QPointF(swatch.center()), 8, 8);
        p.setBrush(Qt::NoBrush);
    }
    const auto write = wordsOn(p);
    const auto units = context_.session.preferences.units();
    const int decimals = units == UnitSystem::feet ? 0 : 1;
    const auto means =
        name != QLatin1String("layerBand") ? rows_[i].means
        : !sheet_->bandKnown()
            ? tr("none yet")
            : tr("%1 to %2")
                  .arg(QString::fromStdString(print_length(sheet_->bandFrom(), units, decimals).figure),
                       QString::fromStdString(print_length(sheet_->bandTo(), units, decimals).text()));
    write(row.left() + 50, row.top() + 16, rows_[i].title, 14, true, "ink");
    write(row.left() + 50, row.top() + 32, means, 12, false, "ink2");
    p.setPen(QPen(colour("hair"), 1));
    const int under = height() < roomy ? row.bottom() : row.bottom() + 3;
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
              .arg(QString::fromStdString(print_speed(speed, units).text())),
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
