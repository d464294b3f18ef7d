#include "chart/chart_maker.hpp"

#include "bottom/chart_lines.hpp"
#include "exchange/chart_files.hpp"
#include "fault/barrier.hpp"

#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr std::size_t most_a_batch = 1200, first_settled_rows = 120;
constexpr qint64 sheet_every_ms = 6000;
constexpr int sheet_coarser = 2;
// What a byte of a tile means: 1 … 255 over these decibels over the mean ground.
constexpr double darkest_db = -16, brightest_db = 18;

ChartTile drawn(const GroundMap::Tile &tile) {
    constexpr auto n = static_cast<std::size_t>(GroundMap::tile);
    ChartTile t{std::vector<std::uint8_t>(n * n), std::vector<std::uint8_t>(n * n)};
    for (std::size_t y = 0; y < n; ++y)
        for (std::size_t x = 0; x < n; ++x) {
            const auto &c = tile.cells[(n - 1 - y) * n + x];
            if (c.weight <= 0)
                continue;
            const double share = (static_cast<double>(c.best_db) - darkest_db) / (brightest_db - darkest_db);
            t.level[y * n + x] =
                static_cast<std::uint8_t>(std::clamp(std::lround(1 + 254 * share), 1L, 255L));
            t.looks[y * n + x] = static_cast<std::uint8_t>(std::min<int>(255, c.looks));
        }
    return t;
}

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
            const auto zone = at ? utm_zone_of(at->place) : Result<UtmZone>(tl::unexpected(Fault()));
            if (!zone)
                continue;
            map_ = std::make_unique<GroundMap>(*zone, 0.25);
        }
        map_->add(*scan_, laid_, curve_);
    }
}

std::shared_ptr<ChartSheet> ChartWorker::sheet(double contour_m) const {
    auto s = std::make_shared<ChartSheet>();
    s->zone = map_->zone();
    s->hardness = hardness_of(map_->coarser(sheet_coarser));
    s->transitions = transitions_of(s->hardness);
    s->depth = depth_grid(map_->soundings(), map_->zone());
    s->contours = depth_contours(s->depth, contour_m);
    s->track = track_of(*map_);
    for (const auto &[key, t] : map_->tiles())
        for (const auto &c : t.cells)
            if (c.weight > 0)
                s->looks_m2[std::min<std::size_t>(3, c.looks)] += map_->cell_m() * map_->cell_m();
    return s;
}

void ChartWorker::make(const ChartBatch &batch, ChartAnswer &answer) {
    if (batch.begins) {
        scan_ = std::make_unique<Scan>(60u << 20);
        scan_->installation = batch.installation;
        map_.reset();
        learns_ = !batch.again;
        if (learns_)
            curve_ = GroundCurve();
        learned_ = laid_ = settled_at_ = sheet_rows_ = 0;
        told_.clear();
        since_sheet_.start();
    }
    if (!scan_)
        return;
    contour_m_ = batch.contour_m;
    scan_->nav.add(batch.nav);
    for (const auto &row : batch.rows)
        scan_->push(row);
    lay(batch.ends);
    if (!map_)
        return;
    answer.zone = map_->zone();
    answer.cell_m = map_->cell_m();
    for (const auto &[key, t] : map_->tiles()) {
        auto &told = told_[key];
        if (told == t.version)
            continue;
        told = t.version;
        answer.tiles.emplace_back(key, drawn(t));
    }
    const bool due = since_sheet_.elapsed() > sheet_every_ms && laid_ > sheet_rows_ + 40;
    if ((due || batch.ends || batch.wants_sheet || (sheet_rows_ == 0 && laid_ > 200)) && !map_->empty()) {
        answer.sheet = sheet(batch.contour_m);
        sheet_rows_ = laid_;
        since_sheet_.restart();
    }
    scan_->trim();
}

void ChartWorker::write(const QString &path) {
    auto fault = std::make_shared<Fault>();
    if (!map_ || map_->empty()) {
        *fault = {tr("there is nothing to write yet").toStdString(), tr("no file was made").toStdString(),
                  tr("sail a lane, or open a trip").toStdString()};
        emit written(path, fault);
        return;
    }
    const auto broke = guarded(tr("writing the chart").toStdString(), [&] {
        Result<void> done;
        if (path.endsWith(QLatin1String(".gpkg"))) {
            done = write_chart_package(path.toStdString(),
                                       package_of(*map_, hardness_of(*map_),
                                                  depth_grid(map_->soundings(), map_->zone()), contour_m_));
        } else {
            const auto h = hardness_of(*map_);
            done = write_geotiff(path.toStdString(), h.raster,
                                 {{"level_db", best_levels(*map_, h.raster)},
                                  {"hardness", h.hardness},
                                  {"roughness", h.roughness}});
        }
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
        busy_ = false;
        if (answer->scan_number != scan_number_)
            return;
        if (answer->fault) {
            session_.notices.raise(QStringLiteral("chart"), *answer->fault);
            return;
        }
        zone_ = answer->zone;
        cell_m_ = answer->cell_m;
        for (auto &[key, tile] : answer->tiles)
            tiles_[key] = std::move(tile);
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
                    session_.notices.raise(QStringLiteral("chart"), *fault);
                else
                    session_.notices.say(QStringLiteral("chart"),
                                         tr("Chart written to %1. Not for navigation.").arg(path));
            });
    connect(&session_.shown, &ShownScan::replaced, this, [this] {
        scan_number_ = -1;
        tiles_.clear();
        sheet_.reset();
        zone_.reset();
        emit begun();
    });
    connect(&session_.preferences, &Preferences::unitsChanged, this, [this] { contours_changed_ = true; });
    thread_.setObjectName(QStringLiteral("chart"));
    thread_.start(QThread::LowestPriority);
    connect(&timer_, &QTimer::timeout, this, &ChartMaker::feed);
    timer_.start(500);
}

ChartMaker::~ChartMaker() {
    thread_.quit();
    thread_.wait();
}

void ChartMaker::write(const QString &path) {
    QMetaObject::invokeMethod(
        worker_, [worker = worker_, path] { worker->write(path); }, Qt::QueuedConnection);
}

// All that is kept of what is shown, whether the play of a trip has come there or not.
void ChartMaker::feed() {
    const auto &shown = session_.shown;
    const auto &scan = shown.scan();
    if (busy_ || scan.empty())
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
    if (end <= handed_ && (ended_ || !ends) && !contours_changed_ && !batch->again)
        return;
    batch->scan_number = scan_number_;
    batch->installation = scan.installation;
    batch->wants_sheet = contours_changed_;
    contours_changed_ = false;
    batch->contour_m = session_.preferences.units() == UnitSystem::feet ? 2 * metres_per_foot : 0.5;
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
