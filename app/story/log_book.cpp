#include "story/log_book.hpp"

#include "files/atomic_file.hpp"
#include "plan/round.hpp"

#include <algorithm>
#include <set>

namespace heron::app {
namespace {

QString dateOf(UnixNs time) {
    return time == 0 ? QString() : QString::fromStdString(print_rfc3339(time, 0)).left(10);
}

} // namespace

LogBook::LogBook(Session &session, MarkLibrary &marks, Spots &spots, QObject *parent)
    : QObject(parent), session_(session), marks_(marks), spots_(spots) {
    connect(&marks_, &MarkLibrary::marksChanged, this, &LogBook::arrange);
    connect(&session_.preferences, &Preferences::unitsChanged, this, &LogBook::arrange);
}

void LogBook::refresh() {
    if (looking_)
        return;
    looking_ = session_.jobs.run<Found>(
        tr("looking through the trips"), this,
        [folder = session_.trip.folder().toStdString()](JobControl &control) -> Result<Found> {
            Found found;
            found.trips = trips_in(folder);
            for (const auto &t : found.trips) {
                DayConditions c;
                if (!control.cancelled() && t.fault.empty() && !t.older)
                    if (const auto trip = TripFile::open_read_only(t.path))
                        if (const auto told = trip->conditions())
                            c = {told->wind, told->sky, told->clarity, told->level};
                found.conditions.push_back(std::move(c));
            }
            return found;
        },
        [this](Result<Found> found) {
            looking_.reset();
            if (found)
                found_ = std::move(*found);
            arrange();
        });
}

std::vector<heron::Visit> LogBook::visits() {
    std::map<std::string, DayConditions> conditions;
    for (const auto &d : days_)
        conditions[d.date.toStdString()] = d.conditions;
    // What the chart tells of the places, where it reaches.
    std::map<std::string, std::map<std::string, std::string>> extra;
    for (const auto &m : marks_.all()) {
        if (m.outcomes.empty())
            continue;
        const auto spot = spots_.of(m);
        if (!spot)
            continue;
        constexpr double near_m = 10;
        auto &of = extra[m.id];
        of["transition"] = spot->to_transition_m && *spot->to_transition_m <= near_m ? "near" : "far";
        of["drop"] = spot->to_drop_m && *spot->to_drop_m <= near_m ? "near" : "far";
        of["company"] = spot->lone() ? "alone" : "in a pile";
        if (m.bottom.empty() && spot->ground != GroundClass::unknown)
            of["bottom"] = std::string(name_of(spot->ground));
    }
    return visits_of(marks_.all(), conditions, extra, session_.preferences.units());
}

void LogBook::arrange() {
    std::map<QString, LogDay> days;
    const auto day = [&](const QString &date) -> LogDay * {
        if (date.isEmpty())
            return nullptr;
        auto &d = days[date];
        d.date = date;
        return &d;
    };
    std::map<QString, std::set<QString>> waters;
    for (std::size_t i = 0; i < found_.trips.size(); ++i) {
        const auto &t = found_.trips[i];
        auto *d = t.fault.empty() ? day(dateOf(t.started)) : nullptr;
        if (d == nullptr)
            continue;
        d->trips.push_back(t);
        if (!t.water.empty())
            waters[d->date].insert(QString::fromStdString(t.water));
        const auto &c = found_.conditions[i];
        for (const auto &[to, from] : {std::pair{&d->conditions.wind, &c.wind},
                                       {&d->conditions.sky, &c.sky},
                                       {&d->conditions.clarity, &c.clarity},
                                       {&d->conditions.level, &c.level}})
            if (to->empty())
                *to = *from;
    }
    for (const auto &m : marks_.all()) {
        if (auto *d = day(dateOf(m.time))) {
            d->marks.push_back(QString::fromStdString(m.id));
            if (!m.lake.empty())
                waters[d->date].insert(QString::fromStdString(m.lake));
        }
        for (const auto &o : m.outcomes)
            if (auto *d = day(dateOf(o.time)))
                d->visits.push_back({QString::fromStdString(m.id), o});
    }
    days_.clear();
    for (auto d = days.rbegin(); d != days.rend(); ++d) {
        std::sort(d->second.visits.begin(), d->second.visits.end(),
                  [](const auto &a, const auto &b) { return a.outcome.time < b.outcome.time; });
        for (const auto &w : waters[d->first])
            d->second.waters << w;
        days_.push_back(std::move(d->second));
    }
    record_ = record_of(visits());
    emit changed();
}

bool LogBook::writeTable(const QString &path) {
    if (auto written = write_file_atomically(path.toStdString(), table_of(visits())); !written) {
        session_.notices.raise(QStringLiteral("log"), written.error());
        return false;
    }
    session_.notices.say(QStringLiteral("log"), tr("The visits are written to %1.").arg(path));
    return true;
}

std::vector<QString> LogBook::round(std::optional<Kind> kind, double within) const {
    std::vector<const Mark *> some;
    for (const auto &m : marks_.all())
        if (m.place && m.family != Family::hazard && (!kind || m.kind == *kind))
            some.push_back(&m);
    if (some.empty())
        return {};
    const auto &positions = session_.shown.scan().nav.positions();
    const auto start = positions.empty() ? *some.front()->place : positions.back().place;
    std::erase_if(some, [&](const Mark *m) { return leg_between(start, *m->place).distance_m > within; });
    constexpr std::size_t most = 60;
    if (some.size() > most)
        some.resize(most);
    std::vector<GeoPoint> places;
    for (const auto *m : some)
        places.push_back(*m->place);
    std::vector<QString> ids;
    for (const auto i : round_over(start, places))
        ids.push_back(QString::fromStdString(some[i]->id));
    return ids;
}

} // namespace heron::app
