#include "views/chart/chart_view.hpp"

#include "exchange/gpx.hpp"
#include "files/atomic_file.hpp"
#include "files/identifier.hpp"
#include "kit/counted.hpp"
#include "kit/distance_words.hpp"
#include "kit/key_row.hpp"
#include "kit/kind_words.hpp"
#include "kit/paper.hpp"
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

constexpr int layer_high = 40;

QString wordsOf(const GroundForm &form, UnitSystem units) {
    switch (form.kind) {
    case GroundForm::Kind::ripples:
        return ChartView::tr("ripples %1 apart, crests %2")
            .arg(QString::fromStdString(print_length(form.wave_m, units, 1).text()),
                 QString::fromStdString(print_bearing(form.bearing_deg)));
    case GroundForm::Kind::lane:
        return ChartView::tr("a sunken lane, %1 wide").arg(distanceWords(form.width_m, units));
    case GroundForm::Kind::beds:
        return ChartView::tr("spawning beds side by side, %1 or more").arg(form.bowls.size());
    }
    return {};
}

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
    connect(&context_.backdrops, &Backdrops::changed, this, &ChartView::refresh);
    connect(&context_.window, &WindowState::selectionChanged, this, &ChartView::refresh);
    connect(&context_.window, &WindowState::contactSelected, this, &ChartView::refresh);
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
        {Layer::contours, "layerContours", tr("Contours"), Qt::Key_Y, tr("as it stands"),
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
         tr("What was read, as glyphs")},
        {Layer::backdrop, "layerBackdrop", tr("Backdrop"), Qt::Key_Backslash, tr("none; press Under"),
         tr("What others have drawn of this water")}};
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
    level_less_ = add("levelLower", {}, QStringLiteral("−"), Qt::SHIFT | Qt::Key_Minus,
                      tr("The water lies lower over the datum of its lake: depths are told under the datum"));
    level_more_ =
        add("levelHigher", {}, QStringLiteral("+"), Qt::SHIFT | Qt::Key_Plus,
            tr("The water lies higher over the datum of its lake: depths are told under the datum"));
    const auto level = [this](int steps) {
        const bool feet = context_.session.preferences.units() == UnitSystem::feet;
        context_.chart.setLevel(context_.chart.level() + steps * (feet ? metres_from_feet(0.5) : 0.1));
    };
    addChoices();
    connect(level_less_, &KeyButton::clicked, this, [level] { level(-1); });
    connect(level_more_, &KeyButton::clicked, this, [level] { level(1); });
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
    addLanes();
    auto *boat = add("toTheBoat", {}, tr("Boat"), Qt::Key_G, tr("The boat in the middle"));
    connect(boat, &KeyButton::clicked, sheet_, &ChartSheetView::toTheBoat);
    auto *all = add("fitChart", {}, tr("All"), Qt::Key_F, tr("All that was seen"));
    connect(all, &KeyButton::clicked, sheet_, &ChartSheetView::fitAll);
    auto *in = add("zoomIn", {}, QStringLiteral("+"), Qt::Key_BracketRight, tr("Nearer")),
         *out = add("zoomOut", {}, QStringLiteral("−"), Qt::Key_BracketLeft, tr("Farther"));
    const auto zoom = [this](double times) { sheet_->zoom(times, QPointF(sheet_->rect().center())); };
    connect(in, &KeyButton::clicked, this, [zoom] { zoom(1.5); });
    connect(out, &KeyButton::clicked, this, [zoom] { zoom(1 / 1.5); });
    up_ = add("headUp", {}, tr("Bow up"), Qt::Key_U, tr("The bow points up, or north"));
    up_->setCheckable(true);
    connect(up_, &KeyButton::clicked, sheet_, &ChartSheetView::setHeadUp);
    for (auto *k : {boat, all, in, out, up_})
        keys_.push_back(k);
    addFiles();
    for (auto *k : keys_)
        k->setStacked(true);
    wish_ = new QLineEdit(this);
    wish_->setObjectName(QStringLiteral("chartWish"));
    wish_->setProperty("ownKeys", true); // Escape closes it, and ends the wish
    wish_->setPlaceholderText(context_.session.preferences.units() == UnitSystem::feet
                                  ? tr("lone big stones within 30 ft of a transition in 6 to 12 ft")
                                  : tr("lone big stones within 10 m of a transition in 2 to 4 m"));
    wish_->hide();
    answer_ = new PaperLabel(QString(), 14, true, Ink::plain, this);
    answer_->hide();
    connect(wish_, &QLineEdit::textChanged, this, &ChartView::setWish);
    connect(&context_.spots, &Spots::changed, this, [this] {
        if (wish_->isVisible())
            answer_->setText(wishAnswer());
    });
}

// An area in lanes or a zigzag, and a pass along a line.
void ChartView::addLanes() {
    lanes_ = add("planLanes", QStringLiteral("act-passes"), tr("Lanes"), Qt::Key_S,
                 tr("Press the corners of an area, then this key again: lanes over it, as far apart as "
                    "Prepare advises, off what is marked as a hazard"));
    lanes_->setCheckable(true);
    connect(lanes_, &KeyButton::clicked, sheet_, &ChartSheetView::setPlans);
    turn_ = add("turnLanes", {}, tr("Turn"), Qt::Key_Q, tr("Lanes the other way"));
    connect(turn_, &KeyButton::clicked, this, [this] { sheet_->turnLanes(90); });
    zigzag_ = add("zigzag", {}, tr("Zigzag"), Qt::Key_Period, tr("A zigzag over the area instead of lanes"));
    zigzag_->setCheckable(true);
    connect(zigzag_, &KeyButton::clicked, sheet_, &ChartSheetView::setZigzags);
    pass_ = add(
        "passAlong", {}, tr("Along"), Qt::Key_Comma,
        tr("Press beside a transition or a contour, then this key: a pass along it, as far off and on the "
           "side where you pressed"));
    connect(pass_, &KeyButton::clicked, this, [this] {
        if (!sheet_->passAlong())
            context_.session.notices.say(QStringLiteral("chart"),
                                         tr("Press beside a transition or a contour first."));
    });
    for (auto *k : {lanes_, turn_, zigzag_, pass_})
        keys_.push_back(k);
}

// What comes in and goes out, and what the guide knows.
void ChartView::addFiles() {
    find_ = add(
        "chartFind", {}, tr("Find"), Qt::Key_Slash,
        tr("Say what you look for: kind, lone or piled, big, how near a transition, a drop or deep water, "
           "how deep, on what ground"));
    find_->setCheckable(true);
    connect(find_, &KeyButton::clicked, this, [this](bool on) {
        wish_->setVisible(on);
        answer_->setVisible(on);
        if (on)
            wish_->setFocus();
        else
            setFocus();
        setWish(on ? wish_->text() : QString());
        resizeEvent(nullptr);
    });
    known_ = add(
        "knownGround", {}, tr("Known"), Qt::Key_Semicolon,
        tr("You know this place: press once where it is hard (a ramp, say), once more where it is soft, a "
           "third time takes it back. The scale of hardness hangs on it"));
    connect(known_, &KeyButton::clicked, this, &ChartView::know);
    scan_ = add("chartScan", QStringLiteral("place-scan"), tr("Scan"), Qt::Key_M,
                tr("The pass that saw this place last, in Scan"));
    connect(scan_, &KeyButton::clicked, this, &ChartView::showInScan);
    add_ = add("addTrips", {}, tr("Add"), Qt::Key_Apostrophe,
               tr("Other trips, recordings or logs of sentences in this chart; once more takes them out"));
    add_->setCheckable(true);
    connect(add_, &KeyButton::clicked, this, &ChartView::askToAdd);
    backdrop_ =
        add("backdrop", {}, tr("Under"), Qt::Key_AsciiTilde,
            tr("Lay an outline, points, a picture or depths of others under the chart: GeoJSON, GPX, KML, "
               "GeoPackage, GeoTIFF; once more takes it away"));
    backdrop_->setCheckable(true);
    connect(backdrop_, &KeyButton::clicked, this, &ChartView::askForBackdrop);
    write_ = add("writeChart", QStringLiteral("act-share"), tr("Write"), Qt::Key_E,
                 tr("The chart as GeoTIFF, GeoPackage, KMZ, PNG or PDF"));
    connect(write_, &KeyButton::clicked, this, &ChartView::askToWrite);
    for (auto *k : {find_, known_, scan_, add_, backdrop_, write_})
        keys_.push_back(k);
}

void ChartView::setWish(const QString &words) {
    sheet_->setWish(spot_filter_of(words.toStdString(), context_.session.preferences.units()));
    answer_->setText(wishAnswer());
}

QString ChartView::wishAnswer() {
    const auto &wish = sheet_->wish();
    if (wish.empty() && wish.not_understood.empty())
        return tr("Say what you look for.");
    const auto [meet, all] = sheet_->met();
    auto text = tr("%1 of %2 meet it").arg(meet).arg(all);
    if (const auto words = Spots::notUnderstood(wish); !words.isEmpty())
        text += QStringLiteral(". ") + words;
    return text;
}

void ChartView::know() {
    const auto at = sheet_->picked();
    const auto globe = at ? sheet_->onGlobe(*at) : std::nullopt;
    if (!globe) {
        context_.session.notices.say(QStringLiteral("chart"), tr("Press on the chart first."));
        return;
    }
    // Hard, then soft, then not known any more.
    bool hard = true, soft = false;
    for (const auto &k : context_.chart.known())
        if (leg_between(k.place, *globe).distance_m <= 4) {
            hard = false;
            soft = k.hard;
        }
    context_.chart.know({*globe, hard || !soft ? hard : false});
    context_.session.notices.say(QStringLiteral("chart"),
                                 hard   ? tr("This place is hard: the scale of hardness hangs on it.")
                                 : soft ? tr("This place is soft: the scale of hardness hangs on it.")
                                        : tr("Nothing is known of this place any more."));
}

void ChartView::askToAdd() {
    if (!context_.chart.files().isEmpty() || context_.chart.adding()) {
        context_.chart.dropFiles();
        return;
    }
    const auto paths =
        QFileDialog::getOpenFileNames(this, tr("Add to the chart"), QString(),
                                      tr("Trips, recordings, logs (*.trip.gpkg *.nc *.nmea *.log *.txt)"));
    if (!paths.isEmpty())
        context_.chart.addFiles(paths);
    refresh();
}

void ChartView::askForBackdrop() {
    if (context_.backdrops.drawn()) {
        context_.backdrops.close();
        return;
    }
    const auto path = QFileDialog::getOpenFileName(
        this, tr("Lay under the chart"), QString(),
        tr("Outlines, points, pictures, depths (*.geojson *.json *.gpx *.kml *.gpkg *.tif *.tiff)"));
    if (!path.isEmpty())
        context_.backdrops.open(path);
    refresh();
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
        tr("GeoTIFF (*.tif);;GeoPackage (*.gpkg);;KMZ (*.kmz);;PNG with a world file (*.png);;PDF page "
           "(*.pdf)") +
            (canWriteRoute() ? tr(";;Lanes as a GPX route (*.gpx)") : QString()));
    if (path.endsWith(QLatin1String(".gpx")))
        writeRoute(path);
    else if (path.endsWith(QLatin1String(".pdf")))
        sheet_->writePdf(path);
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
    if (turn_->isEnabled() != canWriteRoute()) {
        turn_->setEnabled(canWriteRoute());
        resizeEvent(nullptr); // layers stand closer while a plan is told under them
    }
    zigzag_->setChecked(sheet_->zigzags());
    up_->setChecked(sheet_->headUp());
    add_->setChecked(context_.chart.adding() || !context_.chart.files().isEmpty());
    backdrop_->setChecked(context_.backdrops.drawn() != nullptr);
    // Without a chart there is nothing to measure, to plan on or to write.
    const bool charted = !context_.chart.tiles().empty() || context_.chart.sheet();
    for (auto *k : {measure_, lanes_, scan_, write_, zigzag_, pass_, known_, find_, up_})
        k->setEnabled(charted);
    for (auto *k : {level_less_, level_more_})
        k->setEnabled(context_.chart.sheet() != nullptr);
    blend_->setEnabled(charted);
    blend_->setChecked(context_.chart.blends());
    band_of_->setEnabled(context_.chart.bands().size() > 1 || context_.chart.choice().khz);
    day_->setEnabled(context_.chart.days().size() > 1 || context_.chart.choice().day);
    for (auto *k : {band_less_, band_more_})
        k->setEnabled(sheet_->bandKnown());
    const Layer layers[] = {Layer::mosaic,      Layer::hardness, Layer::contours, Layer::band,
                            Layer::transitions, Layer::looks,    Layer::track,    Layer::marks,
                            Layer::contacts,    Layer::backdrop};
    for (std::size_t i = 0; i < layer_keys_.size(); ++i)
        layer_keys_[i]->setChecked(sheet_->shows(layers[i]));
    measure_->setChecked(sheet_->measures());
    refreshLate();
    update(0, 0, panel_width, height());
}

QStringList ChartView::readOut() const {
    QStringList lines;
    const auto at = sheet_->pointed() ? sheet_->pointed() : sheet_->picked();
    const auto &sheet = context_.chart.sheet();
    if (!at || !sheet)
        return lines;
    const auto units = context_.session.preferences.units();
    const auto length = [&](double m) { return distanceWords(m, units); };
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
    if (context_.backdrops.drawn() && context_.backdrops.drawn()->has_depths) {
        context_.backdrops.askDepth(*at);
        if (const auto theirs = context_.backdrops.depthAt(*at)) {
            const auto i = sheet->depth.raster.cell_at(at->east_m, at->north_m);
            const double own = i ? static_cast<double>(sheet->depth.depth_m[*i]) : std::nan("");
            lines << (own == own ? tr("backdrop says %1, yours is %2 %3")
                                       .arg(length(*theirs), length(std::fabs(own - *theirs)),
                                            own > *theirs ? tr("deeper") : tr("shallower"))
                                 : tr("backdrop says %1").arg(length(*theirs)));
        }
    }
    for (const auto &form : sheet->forms)
        if (metres_outside(form, *at) <= 0)
            lines << wordsOf(form, units);
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

// Why the place of what is selected is good; nothing where nothing is, or it lies elsewhere than was pressed.
QStringList ChartView::why() const {
    const auto picked = sheet_->picked();
    if (!picked || sheet_->pointed())
        return {};
    const auto here = [&](const GeoPoint &place) {
        const auto at = sheet_->onSheet(place);
        return at && std::hypot(at->east_m - picked->east_m, at->north_m - picked->north_m) < 0.5;
    };
    std::optional<SpotFacts> facts;
    if (const auto *m = context_.marks.find(context_.window.selectedMark());
        m != nullptr && m->place && here(*m->place))
        facts = context_.spots.of(*m);
    else if (const auto *c = context_.reader.find(context_.window.selectedContact());
             c != nullptr && c->place && here(c->place->place))
        facts = context_.spots.of(*c);
    return facts ? context_.spots.words(*facts) : QStringList();
}

// The corners that were pressed, as a line or, where the last lies on the first, as an outline.
std::optional<Mark> ChartView::drawnMark() const {
    auto corners = sheet_->plans() ? sheet_->corners() : std::vector<EastNorth>();
    if (corners.size() < 2)
        return std::nullopt;
    const double closes_m = 14 * sheet_->metresPerPixel();
    Mark m;
    m.closed = corners.size() > 3 && std::hypot(corners.front().east_m - corners.back().east_m,
                                                corners.front().north_m - corners.back().north_m) < closes_m;
    if (m.closed)
        corners.pop_back();
    EastNorth middle = corners[corners.size() / 2];
    if (m.closed || corners.size() == 2) {
        middle = {};
        for (const auto &c : corners) {
            middle.east_m += c.east_m / static_cast<double>(corners.size());
            middle.north_m += c.north_m / static_cast<double>(corners.size());
        }
    }
    m.place = sheet_->onGlobe(middle);
    if (!m.place)
        return std::nullopt;
    const LocalPlane plane(*m.place);
    double length = 0;
    for (const auto &c : corners) {
        const auto globe = sheet_->onGlobe(c);
        if (!globe)
            return std::nullopt;
        const auto at = plane.to_plane(*globe);
        if (!m.shape.empty())
            length += std::hypot(at.east_m - m.shape.back().east_m, at.north_m - m.shape.back().north_m);
        m.shape.push_back(at);
    }
    m.length_m = length;
    return m;
}

void ChartView::mark(Family family) {
    auto drawn = drawnMark();
    const auto place = drawn              ? sheet_->onSheet(*drawn->place)
                       : sheet_->picked() ? sheet_->picked()
                                          : sheet_->boat();
    const auto globe = place ? sheet_->onGlobe(*place) : std::nullopt;
    if (!globe) {
        context_.session.notices.say(QStringLiteral("mark"),
                                     tr("Press on the chart first: a mark needs a place."));
        return;
    }
    auto m = drawn.value_or(Mark());
    m.id = new_identifier();
    m.family = family;
    m.place = globe;
    if (family == Family::hazard)
        m.level = Level::anyone;
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
    if (drawn)
        sheet_->clearLanes();
    const auto length = QString::fromStdString(
        print_length(m.length_m.value_or(0), context_.session.preferences.units(), 0).text());
    context_.session.notices.say(
        QStringLiteral("mark"),
        (!drawn     ? tr("%1 marked on the chart and saved.").arg(capital(wordFor(family)))
         : m.closed ? tr("%1: the outline is saved, %2 round.").arg(capital(wordFor(family)), length)
                    : tr("%1: the line is saved, %2 long.").arg(capital(wordFor(family)), length)));
}

void ChartView::resizeEvent(QResizeEvent *) {
    const int room = width() - panel_width - 20, rows = KeyRow::rows(keys_.size(), room),
              keys_top = height() - KeyRow::height(rows) - 10;
    constexpr int wish_high = 44;
    const int top = wish_->isVisibleTo(this) ? wish_high + 8 : 0;
    wish_->setGeometry(panel_width + 10, 4, room * 3 / 5, wish_high);
    answer_->setGeometry(panel_width + 20 + room * 3 / 5, 4, room * 2 / 5 - 10, wish_high);
    sheet_->setGeometry(panel_width + 1, top, width() - panel_width - 1, keys_top - 6 - top);
    for (std::size_t i = 0; i < layer_keys_.size(); ++i) {
        const auto row = rowRect(i);
        layer_keys_[i]->setGeometry(row.right() - 45, row.top(), 46, row.height());
        if (layer_keys_[i]->objectName() == QLatin1String("layerBand")) {
            band_less_->setGeometry(row.right() - 45 - 2 * 44, row.top(), 40, row.height());
            band_more_->setGeometry(row.right() - 45 - 44, row.top(), 40, row.height());
        }
        if (layer_keys_[i]->objectName() == QLatin1String("layerMosaic")) {
            blend_->setGeometry(row.right() - 45 - 2 * 44, row.top(), 40, row.height());
            band_of_->setGeometry(row.right() - 45 - 44, row.top(), 40, row.height());
        }
        if (layer_keys_[i]->objectName() == QLatin1String("layerTrack"))
            day_->setGeometry(row.right() - 45 - 44, row.top(), 40, row.height());
        if (layer_keys_[i]->objectName() == QLatin1String("layerContours")) {
            level_less_->setGeometry(row.right() - 45 - 2 * 44, row.top(), 40, row.height());
            level_more_->setGeometry(row.right() - 45 - 44, row.top(), 40, row.height());
        }
    }
    refreshLate();
    KeyRow::lay(keys_, {panel_width + 10, keys_top, room, 0}, rows);
}

void ChartView::keyPressEvent(QKeyEvent *event) {
    if (event->key() == Qt::Key_Escape) {
        if (wish_->isVisible())
            find_->click();
        else if (sheet_->measures())
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
    return height() < roomy_height ? 190 : 222;
}

QRect ChartView::rowRect(std::size_t row) const {
    // All of them, however low the window with a bar or two above and below.
    constexpr int least_pitch = 34, plan_high = 84;
    const int usual = layer_high + 4, under = canWriteRoute() ? plan_high : 2,
              room = (height() - layersTop() - under) / std::max(1, static_cast<int>(layer_keys_.size())),
              pitch = std::clamp(room, least_pitch, usual);
    return {14, layersTop() + static_cast<int>(row) * pitch, panel_width - 28, std::min(layer_high, pitch)};
}

// The whole row is the target.
void ChartView::mousePressEvent(QMouseEvent *event) {
    setFocus();
    for (std::size_t i = 0; i < layer_keys_.size(); ++i)
        if (rowRect(i).contains(event->pos()))
            layer_keys_[i]->click();
}

} // namespace heron::app
