#include "views/chart/chart_sheet_view.hpp"

#include "kit/theme.hpp"

#include <QMouseEvent>
#include <QPainterPath>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr int margin = 14;
constexpr double nearest_m_a_px = 0.02, farthest_m_a_px = 50, keep_off_m = 8;

} // namespace

ChartSheetView::ChartSheetView(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setMouseTracking(true);
    setAttribute(Qt::WA_OpaquePaintEvent);
    setMinimumSize(200, 200);
    auto &maker = context_.chart;
    connect(&maker, &ChartMaker::begun, this, [this] {
        images_.clear();
        ++charted_;
        placed_ = false;
        follows_ = true;
        picked_.reset();
        corners_.clear();
        lanes_ = {};
        band_from_m_ = band_to_m_ = 0;
        update();
    });
    backdrop_pause_.setSingleShot(true);
    backdrop_pause_.setInterval(120);
    connect(&backdrop_pause_, &QTimer::timeout, this, &ChartSheetView::askBackdrop);
    connect(this, &ChartSheetView::viewChanged, &backdrop_pause_, qOverload<>(&QTimer::start));
    connect(&context_.backdrops, &Backdrops::changed, this, [this] {
        if (context_.backdrops.drawn() && context_.backdrops.picture().isNull())
            askBackdrop();
        update();
    });
    connect(&context_.spots, &Spots::changed, this, qOverload<>(&QWidget::update));
    connect(&context_.window, &WindowState::placeLit, this, qOverload<>(&QWidget::update));
    connect(&maker, &ChartMaker::tilesReplaced, this, [this] {
        images_.clear();
        ++charted_;
    });
    constexpr int settles_ms = 150;
    settle_.setSingleShot(true);
    settle_.setInterval(settles_ms);
    connect(&settle_, &QTimer::timeout, this, qOverload<>(&QWidget::update));
    connect(&maker, &ChartMaker::tilesChanged, this, [this] {
        ++charted_;
        tilesChanged();
        if (!placed_ || follows_)
            fitAll();
        update();
    });
    connect(&maker, &ChartMaker::sheetChanged, this, [this] {
        ++charted_;
        if (!placed_ && context_.chart.sheet())
            fitAll();
        if (!bandKnown())
            shiftBand(0);
        update();
    });
    connect(&context_.session.shown, &ShownScan::rowsAdded, this, [this] {
        if (const auto at = boat()) {
            lanes_.take(*at);
            if (const auto cue = context_.session.sources.live() ? lanes_.cue(*at) : std::nullopt)
                context_.speaker.sayLane(lanes_.plan(), *cue);
        }
        if (head_up_)
            turnUp();
        if (!lanes_.plan().lanes.empty())
            emit viewChanged();
        update();
    });
    connect(&context_.marks, &MarkLibrary::marksChanged, this, qOverload<>(&QWidget::update));
    connect(&context_.window, &WindowState::selectionChanged, this, qOverload<>(&QWidget::update));
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, [this] {
        images_.clear();
        ++charted_;
        update();
    });
}

void ChartSheetView::setShown(Layer layer, bool on) {
    shown_[static_cast<std::size_t>(layer)] = on;
    tellBand();
    update();
    emit viewChanged();
}

void ChartSheetView::shiftBand(int steps) {
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    const double step = feet ? metres_from_feet(2) : 0.5;
    if (!bandKnown()) {
        // To begin with, about the middle of what was sounded.
        const auto &sheet = context_.chart.sheet();
        std::vector<float> known;
        if (sheet)
            std::copy_if(sheet->depth.depth_m.begin(), sheet->depth.depth_m.end(), std::back_inserter(known),
                         [](float d) { return d == d; });
        if (known.empty())
            return;
        std::nth_element(known.begin(), known.begin() + std::ssize(known) / 2, known.end());
        band_from_m_ = std::floor(static_cast<double>(known[known.size() / 2]) / step) * step;
    }
    band_from_m_ = std::max(0.0, band_from_m_ + steps * step);
    band_to_m_ = band_from_m_ + step;
    tellBand();
    update();
    emit viewChanged();
}

// The band that is hatched here is hatched in the picture too.
void ChartSheetView::tellBand() {
    context_.window.setDepthBand(shows(Layer::band) && bandKnown()
                                     ? std::optional(DepthBand{band_from_m_, band_to_m_})
                                     : std::nullopt);
}

EastNorth ChartSheetView::placeAt(QPointF at) const {
    const double t = up_deg_ / degrees_per_radian, x = at.x() - width() / 2.0, y = at.y() - height() / 2.0;
    return {middle_.east_m + (x * std::cos(t) - y * std::sin(t)) * metres_a_pixel_,
            middle_.north_m - (x * std::sin(t) + y * std::cos(t)) * metres_a_pixel_};
}

QPointF ChartSheetView::positionOf(const EastNorth &place) const {
    const double t = up_deg_ / degrees_per_radian, e = (place.east_m - middle_.east_m) / metres_a_pixel_,
                 s = -(place.north_m - middle_.north_m) / metres_a_pixel_;
    return {width() / 2.0 + e * std::cos(t) + s * std::sin(t),
            height() / 2.0 - e * std::sin(t) + s * std::cos(t)};
}

std::optional<EastNorth> ChartSheetView::onSheet(const GeoPoint &place) const {
    const auto &zone = context_.chart.zone();
    if (!zone)
        return std::nullopt;
    const auto at = to_utm(*zone, place);
    return EastNorth{at.east_m, at.north_m};
}

std::optional<GeoPoint> ChartSheetView::onGlobe(const EastNorth &place) const {
    const auto &zone = context_.chart.zone();
    return zone ? std::optional(from_utm(*zone, place.east_m, place.north_m)) : std::nullopt;
}

std::optional<EastNorth> ChartSheetView::boat() const {
    const auto &shown = context_.session.shown;
    if (shown.empty())
        return std::nullopt;
    const auto fix = shown.scan().nav.fix_at(shown.scan().facts(shown.newest()).time);
    return fix ? onSheet(fix->pose.antenna) : std::nullopt;
}

void ChartSheetView::toTheBoat() {
    if (const auto at = boat()) {
        middle_ = *at;
        follows_ = false;
        update();
        emit viewChanged();
    }
}

void ChartSheetView::fitAll() {
    const auto &tiles = context_.chart.tiles();
    const auto &sheet = context_.chart.sheet();
    if ((tiles.empty() && !sheet) || width() < 50 || height() < 50)
        return;
    const double side = GroundMap::tile * context_.chart.cellM();
    double west = 1e18, east = -1e18, south = 1e18, north = -1e18;
    if (tiles.empty()) {
        const auto &r = sheet->depth.raster;
        west = r.west_m;
        north = r.north_m;
        east = west + static_cast<double>(r.columns) * r.cell_m;
        south = north - static_cast<double>(r.rows) * r.cell_m;
    }
    for (const auto &[key, t] : tiles) {
        west = std::min(west, key.first * side);
        east = std::max(east, (key.first + 1) * side);
        south = std::min(south, key.second * side);
        north = std::max(north, (key.second + 1) * side);
    }
    middle_ = {(west + east) / 2, (south + north) / 2};
    metres_a_pixel_ = std::clamp(
        std::max((east - west) / (width() - 4 * margin), (north - south) / (height() - 4 * margin)),
        nearest_m_a_px, farthest_m_a_px);
    placed_ = follows_ = true;
    update();
    emit viewChanged();
}

void ChartSheetView::zoom(double times, QPointF about) {
    const auto place = placeAt(about);
    metres_a_pixel_ = std::clamp(metres_a_pixel_ / times, nearest_m_a_px, farthest_m_a_px);
    const auto now = placeAt(about);
    middle_ = {middle_.east_m + place.east_m - now.east_m, middle_.north_m + place.north_m - now.north_m};
    follows_ = false;
    settle_.start();
    update();
    emit viewChanged();
}

void ChartSheetView::setMeasures(bool on) {
    measures_ = on;
    from_.reset();
    to_.reset();
    update();
    emit viewChanged();
}

// As far apart as Prepare advises; without advice four fifths of what is sounded on both sides.
double ChartSheetView::laneSpacing() const {
    if (const auto &advised = context_.tuner.advised(); advised && advised->yield.lane_m > 1)
        return advised->yield.lane_m;
    return 1.6 * context_.session.sounder.settings().range_m;
}

void ChartSheetView::setPlans(bool on) {
    if (plans_ && !on)
        planAnew(std::nullopt);
    plans_ = on;
    if (on)
        corners_.clear();
    update();
    emit viewChanged();
}

// Hazards are kept off, as far as they are marked.
std::vector<NoGo> ChartSheetView::noGo() const {
    std::vector<NoGo> places;
    for (const auto &m : context_.marks.all())
        if (const auto at = m.family == Family::hazard && m.place ? onSheet(*m.place) : std::nullopt)
            places.push_back({*at, keep_off_m});
    return places;
}

void ChartSheetView::planAnew(std::optional<double> bearing) {
    if (corners_.size() < 3)
        return;
    follow(zigzags_ ? plan_zigzag(corners_, 2 * laneSpacing(), bearing)
                    : plan_lanes(corners_, laneSpacing(), bearing));
}

void ChartSheetView::setZigzags(bool on) {
    zigzags_ = on;
    if (!lanes_.plan().lanes.empty())
        planAnew(std::nullopt);
    update();
    emit viewChanged();
}

// The nearest line, at the side and the distance that was pressed: a guide says so how far off he fishes.
bool ChartSheetView::passAlong() {
    const auto &sheet = context_.chart.sheet();
    if (!sheet || !picked_)
        return false;
    const std::vector<EastNorth> *line = nullptr;
    double least = 40, aside = 0;
    const auto look = [&](const std::vector<EastNorth> &points) {
        for (std::size_t i = 0; i + 1 < points.size(); ++i) {
            const double de = points[i + 1].east_m - points[i].east_m,
                         dn = points[i + 1].north_m - points[i].north_m, square = de * de + dn * dn,
                         e = picked_->east_m - points[i].east_m, n = picked_->north_m - points[i].north_m;
            const double t = square > 0 ? std::clamp((e * de + n * dn) / square, 0.0, 1.0) : 0;
            const double off = std::hypot(e - t * de, n - t * dn);
            if (off < least) {
                least = off;
                line = &points;
                aside = e * dn - n * de > 0 ? off : -off;
            }
        }
    };
    for (const auto &t : sheet->transitions)
        look(t.line);
    if (line == nullptr)
        for (const auto &c : sheet->contours)
            look(c.line);
    if (line == nullptr)
        return false;
    corners_.clear();
    follow(plan_along(*line, aside));
    update();
    emit viewChanged();
    return !lanes_.plan().lanes.empty();
}

void ChartSheetView::setHeadUp(bool on) {
    head_up_ = on;
    turnUp();
    emit viewChanged();
}

void ChartSheetView::turnUp() {
    up_deg_ = head_up_ ? context_.session.shown.headingNow().value_or(0) : 0;
    backdrop_pause_.start();
    update();
}

void ChartSheetView::setWish(const SpotFilter &wish) {
    wish_ = wish;
    update();
    emit viewChanged();
}

std::pair<std::size_t, std::size_t> ChartSheetView::met() {
    std::size_t meet = 0, all = 0;
    for (const auto &c : context_.reader.contacts())
        if (c.place && c.confidence >= 0.5) {
            ++all;
            meet += context_.spots.meets(wish_, c);
        }
    for (const auto &m : context_.marks.all())
        if (m.place) {
            ++all;
            meet += context_.spots.meets(wish_, m);
        }
    return {meet, all};
}

// What was sailed already counts.
void ChartSheetView::follow(LanePlan plan) {
    lanes_ = LaneProgress(keep_off(std::move(plan), noGo()));
    if (const auto &sheet = context_.chart.sheet())
        for (const auto &line : sheet->track)
            for (const auto &at : line)
                lanes_.take(at);
}

void ChartSheetView::turnLanes(double degrees) {
    planAnew(lanes_.plan().bearing_deg + degrees);
    update();
    emit viewChanged();
}

void ChartSheetView::clearLanes() {
    plans_ = false;
    corners_.clear();
    lanes_ = {};
    update();
    emit viewChanged();
}

std::optional<double> ChartSheetView::measured() const {
    const auto end = to_ ? to_ : pointed();
    if (!from_ || !end)
        return std::nullopt;
    // On the globe: the grid's scale is not one.
    const auto a = onGlobe(*from_), b = onGlobe(*end);
    return a && b ? std::optional(leg_between(*a, *b).distance_m) : std::nullopt;
}

void ChartSheetView::clearPick() {
    picked_.reset();
    update();
    emit pointedChanged();
}

std::optional<EastNorth> ChartSheetView::pointed() const {
    return hover_ ? std::optional(placeAt(*hover_)) : std::nullopt;
}

int ChartSheetView::contactAt(QPointF position) const {
    int nearest = 0;
    double least = 18;
    const auto &contacts = context_.reader.contacts();
    for (std::size_t i = 0; i < contacts.size(); ++i)
        if (const auto at = contacts[i].place ? onSheet(contacts[i].place->place) : std::nullopt)
            if (const double d = QLineF(position, positionOf(*at)).length(); d < least) {
                least = d;
                nearest = context_.reader.idOf(i);
            }
    return nearest;
}

QString ChartSheetView::markAt(QPointF position) const {
    QString nearest;
    double least = 26;
    for (const auto &mark : context_.marks.all())
        if (const auto at = mark.place ? onSheet(*mark.place) : std::nullopt)
            if (const double d = QLineF(position, positionOf(*at)).length(); d < least) {
                least = d;
                nearest = QString::fromStdString(mark.id);
            }
    return nearest;
}

void ChartSheetView::mousePressEvent(QMouseEvent *event) {
    pressed_ = hover_ = event->position();
    middle_before_ = middle_;
    dragged_ = false;
}

void ChartSheetView::mouseMoveEvent(QMouseEvent *event) {
    hover_ = event->position();
    if (pressed_ && (event->buttons() & Qt::LeftButton)) {
        const auto by = event->position() - *pressed_;
        constexpr double drags_px = 6;
        if (dragged_ || std::hypot(by.x(), by.y()) > drags_px) {
            dragged_ = true;
            follows_ = false;
            const double t = up_deg_ / degrees_per_radian;
            middle_ = {
                middle_before_.east_m - (by.x() * std::cos(t) - by.y() * std::sin(t)) * metres_a_pixel_,
                middle_before_.north_m + (by.x() * std::sin(t) + by.y() * std::cos(t)) * metres_a_pixel_};
        }
    }
    context_.window.lightPlace(onGlobe(placeAt(event->position())));
    emit pointedChanged();
    update();
}

void ChartSheetView::mouseReleaseEvent(QMouseEvent *event) {
    const bool was_drag = dragged_;
    pressed_.reset();
    dragged_ = false;
    if (was_drag) {
        emit viewChanged();
        return;
    }
    if (plans_) {
        constexpr std::size_t most_corners = 60;
        if (corners_.size() < most_corners)
            corners_.push_back(placeAt(event->position()));
        emit viewChanged();
    } else if (measures_) {
        if (from_ && !to_) {
            to_ = placeAt(event->position());
        } else {
            from_ = placeAt(event->position());
            to_.reset();
        }
    } else if (const auto id = shows(Layer::marks) ? markAt(event->position()) : QString(); !id.isEmpty()) {
        context_.window.selectMark(id);
        if (const auto *m = context_.marks.find(id))
            picked_ = onSheet(*m->place);
    } else if (const int contact =
                   shows(Layer::contacts) || !wish_.empty() ? contactAt(event->position()) : 0;
               contact != 0) {
        context_.window.selectContact(contact);
        if (const auto *c = context_.reader.find(contact))
            picked_ = onSheet(c->place->place);
    } else {
        picked_ = placeAt(event->position());
    }
    emit pointedChanged();
    update();
}

void ChartSheetView::wheelEvent(QWheelEvent *event) {
    zoom(std::pow(1.0015, event->angleDelta().y()), event->position());
}

void ChartSheetView::resizeEvent(QResizeEvent *) {
    if (follows_)
        fitAll();
}

void ChartSheetView::leaveEvent(QEvent *) {
    hover_.reset();
    emit pointedChanged();
    update();
}

void ChartSheetView::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    const auto &maker = context_.chart;
    if (maker.tiles().empty() && !maker.sheet()) {
        p.setFont(Theme::instance().font(17, true));
        p.setPen(colour("ink"));
        p.drawText(rect().adjusted(40, 0, -40, -20), Qt::AlignCenter | Qt::TextWordWrap,
                   tr("Nothing is charted yet."));
        p.setFont(Theme::instance().font(14));
        p.setPen(colour("ink2"));
        p.drawText(
            rect().adjusted(60, 60, -60, 40), Qt::AlignCenter | Qt::TextWordWrap,
            tr("A chart grows from your own passes: sonar with position and heading. Scan a lane, or open a "
               "trip (J) or a recording (O)."));
        return;
    }
    if (!placed_)
        fitAll();
    paintSheet(p);
}

void ChartSheetView::paintSheet(QPainter &p) {
    p.save();
    p.setClipRect(rect().adjusted(9, 9, -10, -10));
    if (whole_)
        paintGround(p);
    else
        showGround(p);
    if (shows(Layer::contacts) || !wish_.empty())
        paintContacts(p);
    paintLanes(p);
    paintMarks(p);
    paintBoat(p);
    paintPick(p);
    paintTitle(p);
    paintScale(p);
    p.restore();
    paintNeatline(p);
}

} // namespace heron::app
