#include "story/log_book.hpp"

#include "files/atomic_file.hpp"
#include "sonar/median.hpp"

#include <QDateTime>
#include <QSettings>
#include <algorithm>
#include <set>

namespace heron::app {
namespace {

const auto rules_key = QStringLiteral("local_rules");

QString dateOf(UnixNs time) {
    return time == 0 ? QString() : QString::fromStdString(print_rfc3339(time, 0)).left(10);
}

} // namespace

LogBook::LogBook(Session &session, MarkLibrary &marks, Spots &spots, QObject *parent)
    : QObject(parent), session_(session), marks_(marks), spots_(spots) {
    connect(&marks_, &MarkLibrary::marksChanged, this, &LogBook::arrange);
    connect(&session_.preferences, &Preferences::unitsChanged, this, &LogBook::arrange);
    if (const auto kept = QSettings().value(rules_key).toString(); !kept.isEmpty()) {
        if (auto rules = rules_from_json(kept.toStdString()))
            rules_ = std::move(*rules);
        else
            session_.notices.raise(QStringLiteral("local-rules"), rules.error());
    }
    connect(&session_.trip, &TripKeeper::began, this, &LogBook::remind);
    connect(&session_.trip, &TripKeeper::waterChanged, this, &LogBook::remind);
}

void LogBook::setRules(std::vector<LocalRule> rules) {
    rules_ = std::move(rules);
    QSettings().setValue(rules_key, QString::fromStdString(rules_to_json(rules_)));
    remind();
    emit changed();
}

std::vector<LocalRule> LogBook::rulesToday() const {
    return rules_on(rules_, QDate::currentDate().toString(Qt::ISODate).toStdString(),
                    session_.trip.water().toStdString());
}

// While a trip is kept: what holds today stands until the guide has read it.
void LogBook::remind() {
    const auto topic = QStringLiteral("local-rules");
    session_.notices.pass(topic);
    const auto today = session_.trip.keeping() ? rulesToday() : std::vector<LocalRule>();
    if (today.empty())
        return;
    QStringList words;
    for (const auto &r : today)
        words << QString::fromStdString(r.text);
    session_.notices.raise(topic,
                           {tr("local rules today: %1").arg(words.join(QStringLiteral("; "))).toStdString(),
                            {},
                            tr("the authority's own word holds").toStdString()});
}

void LogBook::refresh() {
    if (looking_)
        return;
    readDays();
    looking_ = session_.jobs.run<Found>(
        tr("looking through the trips"), this,
        [folder = session_.trip.folder().toStdString()](JobControl &control) -> Result<Found> {
            Found found;
            found.trips = trips_in(folder);
            for (const auto &t : found.trips) {
                TripConditions c;
                if (!control.cancelled() && t.fault.empty() && !t.older)
                    if (const auto trip = TripFile::open_read_only(t.path))
                        if (const auto told = trip->conditions())
                            c = *told;
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

std::vector<heron::Visit> LogBook::visits() const {
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
        if (!d->conditions.temperature_c)
            d->conditions.temperature_c = c.temperature_c;
    }
    std::map<QString, std::vector<double>> levels; // as marks of the day tell the lake's
    for (const auto &m : marks_.all()) {
        if (auto *d = day(dateOf(m.time))) {
            d->marks.push_back(QString::fromStdString(m.id));
            if (m.lake_level_m)
                levels[d->date].push_back(*m.lake_level_m);
            if (!m.lake.empty())
                waters[d->date].insert(QString::fromStdString(m.lake));
        }
        for (const auto &o : m.outcomes)
            if (auto *d = day(dateOf(o.time)))
                d->visits.push_back({QString::fromStdString(m.id), o});
    }
    for (const auto &[date, notes] : notes_)
        if (notes.conditions != DayConditions())
            day(QString::fromStdString(date));
    for (auto &[date, d] : days) {
        if (auto &of = levels[date]; !of.empty())
            d.conditions.level_m = median_in_place(of);
        d.conditions = written(date).over(d.conditions);
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
    settings_tried_ = settings_tried(marks_.all(), session_.preferences.units());
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

LogBook::Round LogBook::round(const RoundWish &wish, double within) const {
    Round round;
    std::vector<const Mark *> some;
    for (const auto &m : marks_.all())
        if (m.place && m.family != Family::hazard && (!wish.kind || m.kind == *wish.kind))
            some.push_back(&m);
    if (some.empty())
        return round;
    const auto &positions = session_.shown.scan().nav.positions();
    const auto start = positions.empty() ? *some.front()->place : positions.back().place;
    std::erase_if(some, [&](const Mark *m) { return leg_between(start, *m->place).distance_m > within; });
    constexpr std::size_t most = 60;
    if (some.size() > most)
        some.resize(most);
    // Each as it would be visited tomorrow morning, in the wind that is foretold.
    const auto all = visits();
    const auto tomorrow = QDateTime(QDate::currentDate().addDays(1), QTime(8, 0)).toMSecsSinceEpoch();
    std::vector<RoundStop> stops;
    std::optional<std::size_t> least_known;
    double widest = 0;
    for (const auto *m : some) {
        auto as_visited = *m;
        Outcome then;
        then.what = Outcome::What::fished;
        then.time = static_cast<UnixNs>(tomorrow) * 1'000'000;
        as_visited.outcomes = {then};
        auto of = visits_of({as_visited}, {}, {}, session_.preferences.units()).front().of;
        if (!wish.wind.empty())
            of["wind"] = wish.wind;
        const auto id = QString::fromStdString(m->id);
        const auto promise = promise_of(m->id, of, all);
        round.promises[id] = promise;
        const double wide = promise.within.high - promise.within.low;
        if (!wish.left_out.contains(id)) {
            if (!promise.own && wide > widest + 1e-9) {
                widest = wide;
                least_known = stops.size();
            }
            stops.push_back({*m->place, promise.share, false});
        }
    }
    std::erase_if(some, [&](const Mark *m) { return wish.left_out.contains(QString::fromStdString(m->id)); });
    // Where nothing was ever written down every visit teaches as much.
    if (wish.learn && least_known && !all.empty()) {
        stops[*least_known].must = true;
        round.learns = QString::fromStdString(some[*least_known]->id);
    }
    round.plan = plan_round(start, stops, wish.limits);
    std::set<QString> visited;
    for (const auto i : round.plan.order) {
        round.marks.push_back(QString::fromStdString(some[i]->id));
        visited.insert(round.marks.back());
    }
    if (!visited.contains(round.learns))
        round.learns.clear();
    for (const auto &[id, promise] : round.promises)
        if (!visited.contains(id))
            round.others.push_back(id);
    return round;
}

} // namespace heron::app
