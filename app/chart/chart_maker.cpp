#include "chart/chart_maker.hpp"

#include "bottom/map_of_file.hpp"
#include "trip/trip_file.hpp"
#include "units/units.hpp"

#include <QFileInfo>
#include <QSettings>

#include <algorithm>

namespace heron::app {
namespace {

constexpr std::size_t most_rows_a_batch = 1200;
constexpr double cell_m = 0.25;

const QString known_key = QStringLiteral("knownGround"), chart_topic = QStringLiteral("chart");

} // namespace

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
            session_.notices.raise(chart_topic, *answer->fault);
            return;
        }
        if (!answer->zone && answer->of_others) {
            clear();
            return;
        }
        // What was added may lie on another plane than what was shown before.
        const bool moved = zone_ && answer->zone && !(*zone_ == *answer->zone);
        changed_.clear();
        if (answer->all_tiles)
            tiles_.clear();
        zone_ = answer->zone;
        cell_m_ = answer->cell_m;
        bands_khz_ = answer->bands_khz;
        days_ = answer->days;
        for (auto &[key, tile] : answer->tiles) {
            tiles_[key] = std::move(tile);
            changed_.push_back(key);
        }
        // Where all came anew some may be gone: whoever printed them begins afresh too.
        if (answer->all_tiles)
            emit tilesReplaced();
        if (moved)
            emit begun();
        if (!answer->tiles.empty())
            emit tilesChanged();
        if (answer->sheet) {
            sheet_ = answer->sheet;
            emit sheetChanged();
        }
    });
    connect(
        worker_, &ChartWorker::written, this,
        [this](const QString &path, double written_cell_m, const std::shared_ptr<Fault> &fault) {
            if (fault)
                session_.notices.raise(chart_topic, *fault);
            else if (written_cell_m > cell_m)
                session_.notices.say(
                    chart_topic,
                    tr("Chart written to %1. It spans so much that its cells are %2 wide. Not for "
                       "navigation.")
                        .arg(path, QString::fromStdString(
                                       print_length(written_cell_m, session_.preferences.units()).text())));
            else
                session_.notices.say(chart_topic, tr("Chart written to %1. Not for navigation.").arg(path));
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
        choose({}); // of what is shown now nobody chose yet; what was added is laid whole again too
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
    session_.notices.say(chart_topic, tr("Charting %1 …").arg(name));
    const auto zone = others_ ? std::optional(others_->zone()) : zone_;
    const auto units = session_.preferences.units();
    const auto choice = wishes_.choice;
    adding_path_ = path;
    adding_ = session_.jobs.run<Charted>(
        tr("charting %1").arg(name), this,
        [file = path.toStdString(), zone, units, choice](JobControl &control) -> Result<Charted> {
            Charted c;
            auto map = map_of_file(
                file, zone, cell_m, c.warnings,
                [&](double share) {
                    control.tell(share);
                    return !control.cancelled();
                },
                choice);
            if (!map)
                return tl::unexpected(map.error());
            if (const auto level = level_told_in(file, units)) {
                map->lower_soundings(*level);
                c.lowered = true;
            }
            c.map = std::make_shared<GroundMap>(std::move(*map));
            return c;
        },
        [this, name, path, choice](Result<Charted> charted) {
            adding_.reset();
            if (!(choice == wishes_.choice)) {
                // It was chosen otherwise meanwhile: it comes again.
            } else if (!charted) {
                session_.notices.raise(chart_topic, charted.error());
            } else {
                // A new map: the worker may be reading the one before.
                auto all = others_ ? std::make_shared<GroundMap>(*others_) : charted->map;
                if (others_)
                    all->merge(*charted->map);
                others_ = std::move(all);
                added_names_ << name;
                added_paths_ << path;
                join();
                session_.notices.say(chart_topic,
                                     charted->lowered
                                         ? tr("%1 added to the chart, its depths under the datum.").arg(name)
                                         : tr("%1 added to the chart.").arg(name));
                if (!charted->warnings.empty())
                    session_.notices.raise(
                        chart_topic,
                        {charted->warnings.front(), tr("%1 was charted").arg(name).toStdString(), {}});
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
    added_paths_.clear();
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

void ChartMaker::choose(const RowChoice &choice) {
    if (choice == wishes_.choice)
        return;
    wishes_.choice = choice;
    // What is waiting and what is being charted just now is charted by the new choice too.
    auto paths = added_paths_;
    if (adding_)
        paths << adding_path_;
    paths << waiting_;
    if (!paths.isEmpty())
        dropFiles();
    scan_number_ = -1; // what is shown is laid anew
    addFiles(paths);
    feed();
    emit sheetChanged();
}

void ChartMaker::setBlend(bool on) {
    wishes_.blend = on;
    wish();
    emit sheetChanged();
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
    const std::array<const ShownScan *, 2> shown{&session_.shown, &session_.around};
    const auto &scan = shown[0]->scan();
    if (busy_ || (scan.empty() && shown[1]->scan().empty() && scan.nav.depths().empty()))
        return;
    auto batch = std::make_shared<ChartBatch>();
    // A head that is connected later begins a chart of both anew.
    constexpr int many = 10'000;
    const int number = shown[0]->number() * many + shown[1]->number() % many;
    batch->begins = scan_number_ != number;
    // What is all there is gone through twice: first to learn how levels fall with angle and distance.
    batch->again = again_ && !batch->begins;
    again_ = false;
    batch->begins = batch->begins || batch->again;
    if (batch->begins) {
        second_time_ = batch->again;
        scan_number_ = number;
        nav_since_ = {};
        ended_ = false;
        handed_ = {};
    }
    const bool ends =
        session_.sources.flow() == Sources::Flow::ended || session_.sources.source() == Sources::Source::trip;
    const bool more_depths = scan.empty() && scan.nav.depths().size() > depths_handed_;
    // Beside a side sounder a head's rays fill the strip under the boat with grain that is taken for weeds:
    // they make the sheet where there is nothing else.
    const std::size_t streams = scan.empty() ? 2 : 1;
    bool more = false;
    for (std::size_t i = 0; i < streams; ++i) {
        handed_[i] = std::max(handed_[i], shown[i]->scan().first());
        more = more || shown[i]->scan().end() > handed_[i];
    }
    if (!batch->begins && !more && (ended_ || !ends) && !wishes_changed_ && !more_depths)
        return;
    depths_handed_ = scan.nav.depths().size();
    batch->scan_number = scan_number_;
    batch->wants_sheet = wishes_changed_;
    wishes_changed_ = false;
    batch->wishes = wishes_;
    batch->ends = ends;
    for (std::size_t i = 0; i < streams; ++i) {
        const auto &from = shown[i]->scan();
        auto &to = batch->streams[i];
        to.installation = from.installation;
        const auto end = std::min(from.end(), handed_[i] + most_rows_a_batch);
        for (; handed_[i] < end; ++handed_[i])
            to.rows.push_back(from.row(handed_[i]));
        batch->ends = batch->ends && handed_[i] == from.end();
        to.nav = nav_since_[i].of(from.nav);
    }
    ended_ = batch->ends;
    again_ = ended_ && !second_time_;
    busy_ = true;
    QMetaObject::invokeMethod(
        worker_, [worker = worker_, batch] { worker->take(batch); }, Qt::QueuedConnection);
}

} // namespace heron::app
