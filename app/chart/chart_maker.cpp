#include "chart/chart_maker.hpp"

#include "bottom/chart_lines.hpp"
#include "bottom/map_of_file.hpp"
#include "exchange/chart_files.hpp"
#include "exchange/chart_pictures.hpp"
#include "fault/barrier.hpp"
#include "trip/trip_file.hpp"

#include <QFileInfo>
#include <QSettings>

#include <algorithm>
#include <cmath>
#include <set>

namespace heron::app {
namespace {

constexpr std::size_t most_a_batch = 1200, first_settled_rows = 120;
constexpr qint64 sheet_every_ms = 6000;
constexpr int sheet_coarser = 2;
// What a byte of a tile means: 1 … 255 over these decibels over the mean ground.
constexpr double darkest_db = -16, brightest_db = 18, cell_m = 0.25;

const QString known_key = QStringLiteral("knownGround"), topic = QStringLiteral("chart");

} // namespace

void ChartWorker::take(const std::shared_ptr<ChartBatch> &batch) {
    auto answer = std::make_shared<ChartAnswer>();
    answer->scan_number = batch->scan_number;
    answer->fault = guarded(tr("charting").toStdString(), [&] { make(*batch, *answer); });
    emit made(answer);
}

// Rows are laid once the curve of angle and distance is known; it goes on being learned.
void ChartWorker::lay(bool ends) {
    const auto settled = ends ? scan_->end() : scan_->settled_until();
    for (; learned_ < settled; ++learned_)
        if (learns_)
            curve_.add(*scan_, learned_);
    if (learns_ && learned_ < first_settled_rows && !ends)
        return;
    if (!learns_) {
        // It is known from the first time through.
    } else if (!curve_.ready() || learned_ > settled_at_ + settled_at_ / 2 || ends) {
        curve_.settle();
        settled_at_ = std::max<std::size_t>(first_settled_rows, learned_);
    }
    for (; laid_ < learned_; ++laid_) {
        if (!map_) {
            const auto at = scan_->nav.position_at(scan_->facts(laid_).time);
            const auto zone = others_ ? Result<UtmZone>(others_->zone())
                              : at    ? utm_zone_of(at->place)
                                      : Result<UtmZone>(tl::unexpected(Fault()));
            if (!zone)
                continue;
            map_ = std::make_unique<GroundMap>(*zone, cell_m);
        }
        map_->add(*scan_, laid_, curve_);
    }
}

// Without a sonar there are a depth sounder's words and positions.
void ChartWorker::layDepths() {
    constexpr std::size_t some = 10;
    const auto &nav = scan_->nav;
    if (scan_->end() > 0 || nav.depths().size() < depths_laid_ + some || nav.positions().empty())
        return;
    depths_laid_ = nav.depths().size();
    const auto zone = others_ ? Result<UtmZone>(others_->zone())
                              : utm_zone_of(nav.positions()[nav.positions().size() / 2].place);
    if (!zone)
        return;
    map_ = std::make_unique<GroundMap>(*zone, cell_m);
    map_->add_soundings(nav, scan_->installation);
}

// One byte a cell, of what is shown and of the others: the better look shows.
ChartTile ChartWorker::joined(const GroundMap::Key &key) const {
    constexpr auto n = static_cast<std::size_t>(GroundMap::tile);
    ChartTile t{std::vector<std::uint8_t>(n * n), std::vector<std::uint8_t>(n * n)};
    const auto tile_of = [&](const GroundMap *map) -> const GroundMap::Tile * {
        if (map == nullptr)
            return nullptr;
        const auto at = map->tiles().find(key);
        return at == map->tiles().end() ? nullptr : &at->second;
    };
    const auto *own = tile_of(map_.get()), *other = tile_of(others_.get());
    for (std::size_t y = 0; y < n; ++y)
        for (std::size_t x = 0; x < n; ++x) {
            const auto from = (n - 1 - y) * n + x;
            double db = 0;
            float best = 0;
            int looks = 0;
            const auto take = [&](const GroundMap::Tile *tile, double shift) {
                if (tile == nullptr || tile->cells[from].weight <= 0)
                    return;
                const auto &c = tile->cells[from];
                looks += c.looks;
                if (c.best > best) {
                    best = c.best;
                    db = static_cast<double>(c.best_db) - shift;
                }
            };
            take(other, 0);
            take(own, others_ ? others_shift_db_ : 0);
            if (best <= 0)
                continue;
            const double share = (db - darkest_db) / (brightest_db - darkest_db);
            t.level[y * n + x] =
                static_cast<std::uint8_t>(std::clamp(std::lround(1 + 254 * share), 1L, 255L));
            t.looks[y * n + x] = static_cast<std::uint8_t>(std::min(255, looks));
        }
    return t;
}

GroundMap ChartWorker::all() const {
    if (!map_)
        return *others_;
    auto own = *map_;
    own.lower_soundings(wishes_.level_m);
    if (!others_)
        return own;
    auto both = *others_;
    both.merge(own);
    return both;
}

std::vector<HardnessAnchor> ChartWorker::anchors(const UtmZone &zone) const {
    std::vector<HardnessAnchor> out;
    for (const auto &k : wishes_.known) {
        const auto at = to_utm(zone, k.place);
        out.push_back({at.east_m, at.north_m, k.hard});
    }
    return out;
}

std::shared_ptr<ChartSheet> ChartWorker::sheet() const {
    auto s = std::make_shared<ChartSheet>();
    const auto whole = all();
    s->zone = whole.zone();
    s->hardness = hardness_of(whole.coarser(sheet_coarser), anchors(s->zone));
    s->transitions = transitions_of(s->hardness);
    s->depth = depth_grid(whole.soundings(), s->zone);
    s->contours = depth_contours(s->depth, wishes_.contour_m);
    s->track = track_of(whole);
    for (const auto &sounding : whole.soundings())
        s->tallest_weeds_m = std::max(s->tallest_weeds_m, sounding.stands_m);
    for (const auto &[key, t] : whole.tiles())
        for (const auto &c : t.cells)
            if (c.weight > 0)
                s->looks_m2[std::min<std::size_t>(3, c.looks)] += whole.cell_m() * whole.cell_m();
    return s;
}

void ChartWorker::answerTiles(ChartAnswer &answer, bool all) {
    std::set<GroundMap::Key> keys;
    if (all && others_)
        for (const auto &[key, t] : others_->tiles())
            keys.insert(key);
    if (map_)
        for (const auto &[key, t] : map_->tiles()) {
            auto &told = told_[key];
            if (!all && told == t.version)
                continue;
            told = t.version;
            keys.insert(key);
        }
    for (const auto &key : keys)
        answer.tiles.emplace_back(key, joined(key));
}

void ChartWorker::join(const std::shared_ptr<const GroundMap> &others, const ChartWishes &wishes) {
    auto answer = std::make_shared<ChartAnswer>();
    answer->of_others = true;
    wishes_ = wishes;
    answer->fault = guarded(tr("charting").toStdString(), [&] {
        others_ = others;
        // What is shown lies on the plane of the others; it is laid anew where it does not.
        if (map_ && others_ && !(map_->zone() == others_->zone())) {
            map_.reset();
            laid_ = scan_ ? scan_->first() : 0;
            if (scan_)
                lay(false);
        }
        others_shift_db_ = others_ && map_ ? others_->difference_to(*map_).value_or(0) : 0;
        if (any() == nullptr)
            return;
        answer->zone = any()->zone();
        answer->cell_m = any()->cell_m();
        answer->all_tiles = true;
        answerTiles(*answer, true);
        answer->sheet = sheet();
    });
    emit made(answer);
}

void ChartWorker::forget() {
    scan_.reset();
    map_.reset();
}

void ChartWorker::make(const ChartBatch &batch, ChartAnswer &answer) {
    if (batch.begins) {
        scan_ = std::make_unique<Scan>(60u << 20);
        scan_->installation = batch.installation;
        map_.reset();
        learns_ = !batch.again;
        if (learns_)
            curve_ = GroundCurve();
        learned_ = laid_ = settled_at_ = sheet_rows_ = depths_laid_ = 0;
        told_.clear();
        since_sheet_.start();
    }
    if (!scan_)
        return;
    wishes_ = batch.wishes;
    scan_->nav.add(batch.nav);
    for (const auto &row : batch.rows)
        scan_->push(row);
    const auto depths_before = depths_laid_;
    lay(batch.ends);
    layDepths();
    if (any() == nullptr)
        return;
    answer.zone = any()->zone();
    answer.cell_m = any()->cell_m();
    if (batch.begins && others_)
        answer.all_tiles = true;
    answerTiles(answer, answer.all_tiles);
    const bool due = since_sheet_.elapsed() > sheet_every_ms && laid_ > sheet_rows_ + 40;
    if (due || batch.ends || batch.wants_sheet || (sheet_rows_ == 0 && laid_ > 200) ||
        depths_laid_ > depths_before) {
        if (others_ && map_)
            others_shift_db_ = others_->difference_to(*map_).value_or(0);
        answer.sheet = sheet();
        sheet_rows_ = laid_;
        since_sheet_.restart();
    }
    scan_->trim();
}

void ChartWorker::write(const QString &path, const QString &title) {
    auto fault = std::make_shared<Fault>();
    if (any() == nullptr || any()->empty()) {
        *fault = {tr("there is nothing to write yet").toStdString(), tr("no file was made").toStdString(),
                  tr("sail a lane, or open a trip").toStdString()};
        emit written(path, fault);
        return;
    }
    const auto broke = guarded(tr("writing the chart").toStdString(), [&] {
        Result<void> done;
        const auto whole = all();
        const auto h = hardness_of(whole, anchors(whole.zone()));
        const auto file = path.toStdString();
        const auto package = [&] {
            return package_of(whole, h, depth_grid(whole.soundings(), whole.zone()), wishes_.contour_m);
        };
        const auto picture = [&] {
            return picture_of_levels(h.raster, best_levels(whole, h.raster), plain_colour_map());
        };
        if (path.endsWith(QLatin1String(".gpkg")))
            done = write_chart_package(file, package());
        else if (path.endsWith(QLatin1String(".kmz")))
            done = write_kmz(file, picture(), package(), title.toStdString());
        else if (path.endsWith(QLatin1String(".png")))
            done = write_png_with_world(file, picture());
        else
            done = write_geotiff(file, h.raster,
                                 {{"level_db", best_levels(whole, h.raster)},
                                  {"hardness", h.hardness},
                                  {"roughness", h.roughness}});
        if (done)
            fault.reset();
        else
            *fault = done.error();
    });
    if (broke)
        fault = std::make_shared<Fault>(*broke);
    emit written(path, fault);
}

ChartMaker::ChartMaker(Session &session, QObject *parent)
    : QObject(parent), session_(session), worker_(new ChartWorker) {
    worker_->moveToThread(&thread_);
    connect(&thread_, &QThread::finished, worker_, &QObject::deleteLater);
    connect(worker_, &ChartWorker::made, this, [this](const std::shared_ptr<ChartAnswer> &answer) {
        if (!answer->of_others) {
            busy_ = false;
            if (answer->scan_number != scan_number_)
                return;
        }
        if (answer->fault) {
            session_.notices.raise(topic, *answer->fault);
            return;
        }
        if (!answer->zone && answer->of_others) {
            clear();
            return;
        }
        // What was added may lie on another plane than what was shown before.
        const bool moved = zone_ && answer->zone && !(*zone_ == *answer->zone);
        if (answer->all_tiles)
            tiles_.clear();
        zone_ = answer->zone;
        cell_m_ = answer->cell_m;
        for (auto &[key, tile] : answer->tiles)
            tiles_[key] = std::move(tile);
        if (moved)
            emit begun();
        if (!answer->tiles.empty())
            emit tilesChanged();
        if (answer->sheet) {
            sheet_ = answer->sheet;
            emit sheetChanged();
        }
    });
    connect(worker_, &ChartWorker::written, this,
            [this](const QString &path, const std::shared_ptr<Fault> &fault) {
                if (fault)
                    session_.notices.raise(topic, *fault);
                else
                    session_.notices.say(topic, tr("Chart written to %1. Not for navigation.").arg(path));
            });
    connect(&session_.shown, &ShownScan::replaced, this, [this] {
        scan_number_ = -1;
        wishes_.level_m = session_.sources.live() ? session_.trip.levelToday().value_or(0) : 0;
        depths_handed_ = 0;
        clear();
        QMetaObject::invokeMethod(
            worker_, [worker = worker_] { worker->forget(); }, Qt::QueuedConnection);
        if (others_)
            join();
    });
    connect(&session_.preferences, &Preferences::unitsChanged, this, [this] { wish(); });
    for (const auto &line : QSettings().value(known_key).toStringList()) {
        const auto parts = line.split(QLatin1Char(' '));
        if (parts.size() == 3)
            wishes_.known.push_back(
                {{parts[0].toDouble(), parts[1].toDouble()}, parts[2] == QLatin1String("hard")});
    }
    wish();
    thread_.setObjectName(QStringLiteral("chart"));
    thread_.start(QThread::LowestPriority);
    connect(&timer_, &QTimer::timeout, this, &ChartMaker::feed);
    timer_.start(500);
}

ChartMaker::~ChartMaker() {
    thread_.quit();
    thread_.wait();
}

void ChartMaker::clear() {
    tiles_.clear();
    sheet_.reset();
    zone_.reset();
    emit begun();
}

void ChartMaker::write(const QString &path) {
    QMetaObject::invokeMethod(
        worker_, [worker = worker_, path, title = session_.sources.name()] { worker->write(path, title); },
        Qt::QueuedConnection);
}

void ChartMaker::addFiles(const QStringList &paths) {
    waiting_ += paths;
    if (!adding_)
        addNext();
}

void ChartMaker::addNext() {
    if (waiting_.isEmpty()) {
        emit sheetChanged();
        return;
    }
    struct Charted {
        std::shared_ptr<GroundMap> map;
        std::vector<std::string> warnings;
        bool lowered = false;
    };
    const auto path = waiting_.takeFirst();
    const auto name = QFileInfo(path).fileName();
    session_.notices.say(topic, tr("Charting %1 …").arg(name));
    const auto zone = others_ ? std::optional(others_->zone()) : zone_;
    const auto units = session_.preferences.units();
    adding_ = session_.jobs.run<Charted>(
        tr("charting %1").arg(name), this,
        [file = path.toStdString(), zone, units](JobControl &control) -> Result<Charted> {
            Charted c;
            auto map = map_of_file(file, zone, cell_m, c.warnings, [&](double share) {
                control.tell(share);
                return !control.cancelled();
            });
            if (!map)
                return tl::unexpected(map.error());
            if (const auto level = level_told_in(file, units)) {
                map->lower_soundings(*level);
                c.lowered = true;
            }
            c.map = std::make_shared<GroundMap>(std::move(*map));
            return c;
        },
        [this, name](Result<Charted> charted) {
            adding_.reset();
            if (!charted) {
                session_.notices.raise(topic, charted.error());
            } else {
                // A new map: the worker may be reading the one before.
                auto all = others_ ? std::make_shared<GroundMap>(*others_) : charted->map;
                if (others_)
                    all->merge(*charted->map);
                others_ = std::move(all);
                added_names_ << name;
                join();
                session_.notices.say(topic,
                                     charted->lowered
                                         ? tr("%1 added to the chart, its depths under the datum.").arg(name)
                                         : tr("%1 added to the chart.").arg(name));
                if (!charted->warnings.empty())
                    session_.notices.raise(
                        topic, {charted->warnings.front(), tr("%1 was charted").arg(name).toStdString(), {}});
            }
            addNext();
        });
}

void ChartMaker::dropFiles() {
    waiting_.clear();
    if (adding_)
        adding_->cancel();
    others_.reset();
    added_names_.clear();
    join();
}

void ChartMaker::join() {
    QMetaObject::invokeMethod(
        worker_,
        [worker = worker_, others = std::shared_ptr<const GroundMap>(others_), wishes = wishes_] {
            worker->join(others, wishes);
        },
        Qt::QueuedConnection);
}

// What is wished holds from the next sheet on, and that is made at once.
void ChartMaker::wish() {
    wishes_.contour_m = session_.preferences.units() == UnitSystem::feet ? 2 * metres_per_foot : 0.5;
    wishes_changed_ = true;
    if (session_.shown.empty() && others_)
        join();
}

void ChartMaker::setLevel(double metres) {
    constexpr double most_m = 60;
    wishes_.level_m = std::clamp(metres, -most_m, most_m);
    if (session_.sources.live())
        session_.trip.setLevelToday(wishes_.level_m);
    wish();
    emit sheetChanged();
}

void ChartMaker::know(const KnownGround &ground) {
    constexpr double same_m = 4;
    constexpr std::size_t most = 200;
    bool taken_back = false;
    std::erase_if(wishes_.known, [&](const KnownGround &k) {
        if (leg_between(k.place, ground.place).distance_m > same_m)
            return false;
        taken_back = taken_back || k.hard == ground.hard;
        return true;
    });
    if (!taken_back && wishes_.known.size() < most)
        wishes_.known.push_back(ground);
    QStringList lines;
    for (const auto &k : wishes_.known)
        lines << QStringLiteral("%1 %2 %3")
                     .arg(k.place.latitude_deg, 0, 'f', 7)
                     .arg(k.place.longitude_deg, 0, 'f', 7)
                     .arg(k.hard ? QStringLiteral("hard") : QStringLiteral("soft"));
    QSettings().setValue(known_key, lines);
    wish();
    emit sheetChanged();
}

// All that is kept of what is shown, whether the play of a trip has come there or not.
void ChartMaker::feed() {
    const auto &shown = session_.shown;
    const auto &scan = shown.scan();
    if (busy_ || (scan.empty() && scan.nav.depths().empty()))
        return;
    auto batch = std::make_shared<ChartBatch>();
    batch->begins = scan_number_ != shown.number();
    // What is all there is gone through twice: first to learn how levels fall with angle and distance.
    batch->again = again_ && !batch->begins;
    again_ = false;
    batch->begins = batch->begins || batch->again;
    if (batch->begins) {
        second_time_ = batch->again;
        scan_number_ = shown.number();
        nav_since_ = {};
        ended_ = false;
        handed_ = scan.first();
    }
    handed_ = std::max(handed_, scan.first());
    const bool ends =
        session_.sources.flow() == Sources::Flow::ended || session_.sources.source() == Sources::Source::trip;
    const auto end = std::min(scan.end(), handed_ + most_a_batch);
    const bool more_depths = scan.empty() && scan.nav.depths().size() > depths_handed_;
    if (!batch->begins && end <= handed_ && (ended_ || !ends) && !wishes_changed_ && !more_depths)
        return;
    depths_handed_ = scan.nav.depths().size();
    batch->scan_number = scan_number_;
    batch->installation = scan.installation;
    batch->wants_sheet = wishes_changed_;
    wishes_changed_ = false;
    batch->wishes = wishes_;
    for (; handed_ < end; ++handed_)
        batch->rows.push_back(scan.row(handed_));
    batch->ends = ends && handed_ == scan.end();
    ended_ = batch->ends;
    again_ = ended_ && !second_time_;
    batch->nav = nav_since_.of(scan.nav);
    busy_ = true;
    QMetaObject::invokeMethod(
        worker_, [worker = worker_, batch] { worker->take(batch); }, Qt::QueuedConnection);
}

} // namespace heron::app
