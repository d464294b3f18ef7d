#include "session/trip_keeper.hpp"

#include "picture/stretches.hpp"

#include <QDate>
#include <QSettings>

namespace heron::app {

TripKeeper::TripKeeper(std::array<ShownScan *, stream_count> shown, Notices &notices, Jobs &jobs,
                       QObject *parent)
    : QObject(parent), shown_(shown), notices_(notices), jobs_(jobs) {}

void TripKeeper::begin(std::shared_ptr<Journal> journal) {
    store_ = RowStore(std::move(journal));
    written_ = {};
    known_track_ = known_positions_ = known_attitudes_ = known_depths_ = known_speeds_ = 0;
    id_ = store_.file() != nullptr ? QString::fromStdString(store_.file()->head().id) : QString();
    for (auto *s : shown_)
        s->setFetch(store_.fetchOf(s->stream()));
    emit began();
}

void TripKeeper::lookAt(RowStore store) {
    store_ = std::move(store);
    id_ = QString::fromStdString(store_.file()->head().id);
    looked_at_ = true;
    looked_at_water_ = QString::fromStdString(store_.file()->head().water);
    emit began();
}

void TripKeeper::setWater(const QString &water) {
    (looked_at_ ? looked_at_water_ : water_) = water.trimmed();
    keep([name = this->water().toStdString()](TripFile &trip) { return trip.set_value("water", name); });
    emit waterChanged();
}

// Kept by water and day: yesterday's level says nothing of today.
std::optional<double> TripKeeper::levelToday() const {
    const auto kept = QSettings().value(QStringLiteral("level_today")).toStringList();
    bool figure = false;
    const double level = kept.size() == 3 ? kept[2].toDouble(&figure) : 0;
    if (!figure || kept[0] != water_ || kept[1] != QDate::currentDate().toString(Qt::ISODate))
        return std::nullopt;
    return level;
}

void TripKeeper::setLevelToday(double metres) {
    QSettings().setValue(
        QStringLiteral("level_today"),
        QStringList{water_, QDate::currentDate().toString(Qt::ISODate), QString::number(metres, 'f', 3)});
}

void TripKeeper::keep(std::function<Result<void>(TripFile &)> job) {
    if (journal() != nullptr) {
        journal()->ask(std::move(job));
    } else if (openedTrip() != nullptr) {
        if (auto r = job(*openedTrip()); !r)
            notices_.raise(QStringLiteral("trip"), r.error());
    }
}

void TripKeeper::keepInstallation(StreamId stream, const Installation &installation) {
    keep([stream, installation](TripFile &trip) { return trip.set_installation(stream, installation); });
}

void TripKeeper::keepStrokes() {
    keep([text = text_of(shown_[0]->strokes())](TripFile &trip) {
        return trip.set_value(bottom_by_hand_key, text);
    });
}

void TripKeeper::writeKnowledge(bool all) {
    if (journal() == nullptr)
        return;
    for (auto *s : shown_)
        writeKnowledgeOf(*s, all);
    writeTrack(all);
}

// What a trip needs to open at once.
void TripKeeper::writeKnowledgeOf(ShownScan &shown, bool all) {
    const auto &scan = shown.scan();
    auto &written = written_[static_cast<std::size_t>(shown.stream())];
    const bool carries_nav = shown.stream() == StreamId::side; // the boat has one track
    if (scan.end() == 0 && !carries_nav)
        return;
    TripFile::Knowledge k;
    k.stream = shown.stream();
    const auto until = all ? scan.end() : std::min(scan.settled_until(), scan.end());
    k.first_row = written.rows;
    for (; written.rows < until; ++written.rows)
        k.facts.push_back(scan.facts(written.rows));
    k.settings = scan.all_settings();
    if (carries_nav) {
        const auto &nav = scan.nav;
        for (; known_positions_ < nav.positions().size(); ++known_positions_)
            k.nav.add(nav.positions()[known_positions_]);
        for (; known_attitudes_ < nav.attitudes().size(); ++known_attitudes_)
            k.nav.add(nav.attitudes()[known_attitudes_]);
        for (; known_depths_ < nav.depths().size(); ++known_depths_)
            k.nav.add(nav.depths()[known_depths_]);
        for (; known_speeds_ < nav.speeds().size(); ++known_speeds_)
            k.nav.add_speed(nav.speeds()[known_speeds_].time, nav.speeds()[known_speeds_].m_s);
    }
    const auto &lines = shown.overview().lines(0);
    k.overview.assign(lines.begin() + static_cast<std::ptrdiff_t>(written.lines), lines.end());
    written.lines = lines.size();
    journal()->known(std::move(k));
}

// The track as a layer, half a minute at a time.
void TripKeeper::writeTrack(bool all) {
    const auto &scan = shown_[0]->scan();
    const auto rows = written_[0].rows;
    if (rows <= known_track_ ||
        (!all && seconds_between(scan.facts(known_track_).time, scan.facts(rows - 1).time) <= 30))
        return;
    journal()->ask([s = stretches(scan, known_track_, rows)](TripFile &trip) { return trip.append(s); });
    known_track_ = rows;
}

void TripKeeper::close() {
    if (store_.empty())
        return;
    writeKnowledge(true);
    for (auto *s : shown_)
        s->setFetch({});
    // The last rows are written, and the file is folded, beside the window.
    if (auto journal = store_.journal())
        jobs_.run<bool>(
            tr("writing the end of the trip"), this,
            [journal = std::move(journal)](JobControl &) -> Result<bool> {
                journal->flush();
                return true;
            },
            [this](Result<bool> done) {
                if (!done)
                    notices_.raise(QStringLiteral("trip"), done.error());
            });
    store_ = RowStore();
    id_.clear();
    looked_at_ = false;
    emit ended();
}

} // namespace heron::app
