#include "session/trip_list.hpp"

#include "geo/position.hpp"
#include "kit/counted.hpp"

#include <QDateTime>
#include <QLocale>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr std::size_t most_lines = 240, most_points = 200;

QString idOf(const TripSummary &trip) {
    return QString::fromStdString(trip.path.filename().string());
}

// A share of many, evenly, the last one among them.
template <class T, class Take>
void thin(const std::vector<T> &all, std::size_t most, Take take) {
    const auto n = std::min(all.size(), most);
    for (std::size_t i = 0; i < n; ++i)
        take(all[n < 2 ? 0 : i * (all.size() - 1) / (n - 1)]);
}

TripSketch sketchOf(const std::filesystem::path &path) {
    TripSketch sketch;
    const auto trip = TripFile::open_read_only(path);
    if (!trip)
        return sketch;
    thin(trip->overview(), most_lines, [&](const OverviewLine &line) { sketch.lines.push_back(line); });
    const auto nav = trip->nav();
    const auto &positions = nav.positions();
    if (positions.empty())
        return sketch;
    const LocalPlane plane(positions.front().place);
    double west = 0, south = 0;
    thin(positions, most_points, [&](const PositionSample &p) {
        const auto at = plane.to_plane(p.place);
        sketch.track.emplace_back(at.east_m, at.north_m);
        west = std::min(west, at.east_m);
        south = std::min(south, at.north_m);
    });
    for (auto &p : sketch.track)
        p -= QPointF(west, south);
    return sketch;
}

} // namespace

TripList::TripList(TripKeeper &keeper, Preferences &preferences, Jobs &jobs, QObject *parent)
    : IdListModel(parent), keeper_(keeper), preferences_(preferences), jobs_(jobs) {}

void TripList::refresh() {
    if (looking_)
        return;
    looking_ = jobs_.run<Found>(
        tr("looking through the trips"), this,
        [folder = keeper_.folder().toStdString()](JobControl &control) -> Result<Found> {
            Found found;
            found.trips = trips_in(folder);
            for (const auto &t : found.trips) {
                if (control.cancelled())
                    break;
                if (t.fault.empty() && !t.older)
                    found.sketches[idOf(t)] = sketchOf(t.path);
            }
            return found;
        },
        [this](Result<Found> found) {
            looking_.reset();
            if (found) {
                trips_ = std::move(found->trips);
                sketches_ = std::move(found->sketches);
            }
            std::vector<QString> ids;
            for (const auto &t : trips_)
                ids.push_back(idOf(t));
            setIds(std::move(ids));
            emit listed();
        });
}

const TripSummary *TripList::find(const QString &id) const {
    const auto at =
        std::find_if(trips_.begin(), trips_.end(), [&](const TripSummary &t) { return idOf(t) == id; });
    return at == trips_.end() ? nullptr : &*at;
}

const TripSketch *TripList::sketch(const QString &id) const {
    const auto at = sketches_.find(id);
    return at == sketches_.end() ? nullptr : &at->second;
}

QVariant TripList::dataOf(const QString &id, int role) const {
    const auto *t = find(id);
    if (t == nullptr)
        return {};
    const auto when = [&] {
        const auto time = QDateTime::fromMSecsSinceEpoch(t->started / 1'000'000, Qt::UTC);
        return tr("%1 %2 UTC")
            .arg(QLocale().toString(time.date(), QLocale::ShortFormat),
                 time.time().toString(QStringLiteral("hh:mm")));
    };
    switch (role) {
    case id_role:
        return id;
    case Qt::DisplayRole:
        return !t->fault.empty()  ? id
               : t->water.empty() ? tr("%1 · water not said").arg(when())
                                  : tr("%1 · %2").arg(QString::fromStdString(t->water), when());
    case subtitle_role:
        if (!t->fault.empty())
            return QString::fromStdString(t->fault);
        return id + (t->older ? tr(" · of an older kind; opening it brings it up to date") : QString()) +
               (keeper_.keeping() && keeper_.path() == QString::fromStdString(t->path.string())
                    ? tr(" · being kept now")
                    : QString());
    case detail_role:
        return t->fault.empty() ? tr("%1 min · %2 · %3 · %4 MB")
                                      .arg(std::lround(t->seconds / 60))
                                      .arg(counted(t->rows, tr("row"), tr("rows")),
                                           counted(t->marks, tr("mark"), tr("marks")))
                                      .arg(static_cast<double>(t->bytes) / 1e6, 0, 'f', 1)
                                : QString();
    case alarm_role:
        return !t->fault.empty();
    default:
        return {};
    }
}

} // namespace heron::app
