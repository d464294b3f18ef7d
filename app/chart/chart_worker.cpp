// What the chart's thread does: rows laid tile by tile, what follows from them, files.
#include "chart/chart_maker.hpp"

#include "bottom/chart_lines.hpp"
#include "exchange/chart_files.hpp"
#include "exchange/chart_pictures.hpp"
#include "fault/barrier.hpp"

#include <algorithm>
#include <cmath>
#include <malloc.h>

namespace heron::app {
namespace {

constexpr std::size_t first_settled_rows = 120;
constexpr qint64 sheet_every_ms = 6000;
// The sheet's cells are half a metre wide, those of a file a quarter, and wider where it spans more than so
// many.
constexpr double most_sheet_cells = 8e6, most_file_cells = 4e7;
// What a byte of a tile means: 1 … 255 over these decibels over the mean ground.
constexpr double darkest_db = -16, brightest_db = 18, sheet_cell_m = 0.25;

// A whole chart is worked out in hundreds of megabytes that nobody needs any more once it is there.
void give_back_memory(const GroundMap *map, const GroundMap *others) {
    for (const auto *of : {map, others})
        if (of != nullptr)
            of->let_go();
    ::malloc_trim(0);
}

} // namespace

void ChartWorker::take(const std::shared_ptr<ChartBatch> &batch) {
    auto answer = std::make_shared<ChartAnswer>();
    answer->scan_number = batch->scan_number;
    answer->fault = guarded(tr("charting").toStdString(), [&] { make(*batch, *answer); });
    if (map_)
        map_->let_go();
    emit made(answer);
}

// Rows are laid once the curve of angle and distance is known; it goes on being learned.
void ChartWorker::lay(Laying &of, bool ends) {
    if (!of.scan)
        return;
    const auto &scan = *of.scan;
    const auto &choice = wishes_.choice;
    const auto settled = ends ? scan.end() : scan.settled_until();
    for (; of.learned < settled; ++of.learned)
        if (learns_ && choice.takes(scan, of.learned))
            of.curve.add(scan, of.learned);
    if (learns_ && of.learned < first_settled_rows && !ends)
        return;
    if (!learns_) {
        // It is known from the first time through.
    } else if (!of.curve.ready() || of.learned > of.settled_at + of.settled_at / 2 || ends) {
        of.curve.settle();
        of.settled_at = std::max<std::size_t>(first_settled_rows, of.learned);
    }
    for (; of.laid < of.learned; ++of.laid) {
        if (!map_) {
            const auto at = scan.nav.position_at(scan.facts(of.laid).time);
            const auto zone = others_ ? Result<UtmZone>(others_->zone())
                              : at    ? utm_zone_of(at->place)
                                      : Result<UtmZone>(tl::unexpected(Fault()));
            if (!zone)
                continue;
            map_ = std::make_unique<GroundMap>(*zone, sheet_cell_m);
        }
        map_->note(scan, of.laid);
        if (choice.takes(scan, of.laid)) {
            map_->add(scan, of.laid, of.curve);
            if (!learns_) // the second time through, with the curve that all rows taught
                clocks_.add(scan, of.laid, of.curve);
        }
    }
}

void ChartWorker::layAll(bool ends) {
    for (auto &laying : layings_)
        lay(laying, ends);
}

// Without a sonar there are a depth sounder's words and positions.
void ChartWorker::layDepths() {
    constexpr std::size_t some = 10;
    const auto &scan = *layings_[0].scan;
    const auto &nav = scan.nav;
    if (scan.end() > 0 || layings_[1].scan->end() > 0 || nav.depths().size() < depths_laid_ + some ||
        nav.positions().empty())
        return;
    depths_laid_ = nav.depths().size();
    const auto zone = others_ ? Result<UtmZone>(others_->zone())
                              : utm_zone_of(nav.positions()[nav.positions().size() / 2].place);
    if (!zone)
        return;
    map_ = std::make_unique<GroundMap>(*zone, sheet_cell_m);
    map_->add_soundings(nav, scan.installation);
}

// One byte a cell, of what is shown and of the others: the better look shows, or all together.
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
            double db = 0, weight = 0;
            float best = 0;
            int looks = 0;
            const auto take = [&](const GroundMap::Tile *tile, double shift) {
                if (tile == nullptr || tile->cells()[from].weight() <= 0)
                    return;
                const auto &c = tile->cells()[from];
                looks += c.looks();
                if (wishes_.blend) {
                    const auto w = static_cast<double>(c.weight());
                    db += w * (static_cast<double>(c.mean_db()) - shift);
                    weight += w;
                    best = 1;
                } else if (c.best() > best) {
                    best = c.best();
                    db = static_cast<double>(c.best_db()) - shift;
                }
            };
            take(other, 0);
            take(own, others_ ? others_shift_db_ : 0);
            if (best <= 0)
                continue;
            if (wishes_.blend)
                db /= weight;
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
    s->hardness = hardness_of(whole.coarser(whole.times_within(most_sheet_cells, 2)), anchors(s->zone));
    whole.let_go();
    s->transitions = transitions_of(s->hardness);
    s->forms = forms_of(whole, s->hardness);
    s->depth = depth_grid(whole.soundings(), s->zone);
    s->contours = depth_contours(s->depth, wishes_.contour_m);
    s->track = track_of(whole);
    s->clocks = clocks_found_;
    for (const auto &sounding : whole.soundings())
        s->tallest_weeds_m = std::max(s->tallest_weeds_m, sounding.stands_m.value_or(0));
    for (const auto &[key, t] : whole.tiles())
        for (const auto &c : t.cells())
            if (c.weight() > 0)
                s->looks_m2[std::min<std::size_t>(3, static_cast<std::size_t>(c.looks()))] +=
                    whole.cell_m() * whole.cell_m();
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
            for (auto &laying : layings_)
                laying.laid = laying.scan ? laying.scan->first() : 0;
            layAll(false);
        }
        others_shift_db_ = others_ && map_ ? others_->difference_to(*map_).value_or(0) : 0;
        if (any() == nullptr)
            return;
        tellOf(*answer);
        answer->all_tiles = true;
        answerTiles(*answer, true);
        answer->sheet = sheet();
    });
    emit made(answer);
    give_back_memory(map_.get(), others_.get());
}

void ChartWorker::forget() {
    layings_ = {};
    clocks_found_.reset();
    map_.reset();
}

// Where it lies, and which bands and days there are.
void ChartWorker::tellOf(ChartAnswer &answer) const {
    answer.zone = any()->zone();
    answer.cell_m = any()->cell_m();
    for (const GroundMap *map : {static_cast<const GroundMap *>(map_.get()), others_.get()})
        if (map != nullptr) {
            answer.bands_khz.insert(map->bands_khz().begin(), map->bands_khz().end());
            answer.days.insert(map->days().begin(), map->days().end());
        }
}

void ChartWorker::make(const ChartBatch &batch, ChartAnswer &answer) {
    if (batch.begins) {
        map_.reset();
        learns_ = !batch.again;
        for (std::size_t i = 0; i < layings_.size(); ++i) {
            auto &laying = layings_[i];
            laying.scan = std::make_unique<Scan>(30u << 20);
            laying.scan->set_installation(batch.streams[i].installation);
            laying.learned = laying.laid = laying.settled_at = 0;
            if (learns_)
                laying.curve = GroundCurve();
        }
        sheet_rows_ = depths_laid_ = 0;
        clocks_ = {};
        clocks_found_.reset();
        told_.clear();
        since_sheet_.start();
    }
    if (!layings_[0].scan)
        return;
    const bool looks_otherwise = wishes_.blend != batch.wishes.blend;
    wishes_ = batch.wishes;
    for (std::size_t i = 0; i < layings_.size(); ++i) {
        layings_[i].scan->nav.add(batch.streams[i].nav);
        for (const auto &row : batch.streams[i].rows)
            layings_[i].scan->push(row);
    }
    const auto depths_before = depths_laid_;
    layAll(batch.ends);
    layDepths();
    // What was laid by another choice is gone with it; gone through again, the same tiles come once more.
    answer.all_tiles = looks_otherwise || (batch.begins && (others_ || !batch.again));
    if (any() == nullptr)
        return;
    tellOf(answer);
    answerTiles(answer, answer.all_tiles);
    const bool due = since_sheet_.elapsed() > sheet_every_ms && laid() > sheet_rows_ + 40;
    if (due || batch.ends || batch.wants_sheet || (sheet_rows_ == 0 && laid() > 200) ||
        depths_laid_ > depths_before) {
        if (others_ && map_)
            others_shift_db_ = others_->difference_to(*map_).value_or(0);
        if (batch.ends && !learns_) {
            clocks_found_ = clocks_.found();
            clocks_ = {};
        }
        answer.sheet = sheet();
        sheet_rows_ = laid();
        since_sheet_.restart();
    }
    for (auto &laying : layings_)
        laying.scan->trim();
}

void ChartWorker::write(const QString &path, const QString &title) {
    auto fault = std::make_shared<Fault>();
    if (any() == nullptr || any()->empty()) {
        *fault = {tr("there is nothing to write yet").toStdString(), tr("no file was made").toStdString(),
                  tr("sail a lane, or open a trip").toStdString()};
        emit written(path, 0, fault);
        return;
    }
    double written_cell_m = 0;
    const auto broke = guarded(tr("writing the chart").toStdString(), [&] {
        Result<void> done;
        const auto laid = all();
        const auto whole = laid.coarser(laid.times_within(most_file_cells));
        written_cell_m = whole.cell_m();
        const auto h = hardness_of(whole, anchors(whole.zone()));
        const auto file = path.toStdString();
        const auto package = [&] {
            return package_of(whole, h, depth_grid(whole.soundings(), whole.zone()), wishes_.contour_m);
        };
        const auto levels = [&] {
            return wishes_.blend ? blended_levels(whole, h.raster) : best_levels(whole, h.raster);
        };
        const auto picture = [&] { return picture_of_levels(h.raster, levels(), plain_colour_map()); };
        if (path.endsWith(QLatin1String(".gpkg")))
            done = write_chart_package(file, package());
        else if (path.endsWith(QLatin1String(".kmz")))
            done = write_kmz(file, picture(), package(), title.toStdString());
        else if (path.endsWith(QLatin1String(".png")))
            done = write_png_with_world(file, picture());
        else
            done =
                write_geotiff(file, h.raster,
                              {{"level_db", levels()}, {"hardness", h.hardness}, {"roughness", h.roughness}});
        if (done)
            fault.reset();
        else
            *fault = done.error();
    });
    if (broke)
        fault = std::make_shared<Fault>(*broke);
    give_back_memory(map_.get(), others_.get());
    emit written(path, written_cell_m, fault);
}

} // namespace heron::app
