// What the boat was at on a day, and what the guide writes of it.
#include "files/atomic_file.hpp"
#include "story/log_book.hpp"

#include <QDateTime>
#include <QFile>
#include <QFileInfo>
#include <QStandardPaths>
#include <algorithm>

namespace heron::app {

namespace {

const auto topic = QStringLiteral("log-days");

DayAfloat look(const std::vector<std::filesystem::path> &trips, const JobControl &control) {
    DayAfloat day;
    for (const auto &path : trips) {
        if (control.cancelled())
            break;
        const auto trip = TripFile::open_read_only(path);
        if (!trip)
            continue;
        const auto rows = trip->facts(StreamId::side);
        const auto nav = trip->nav();
        const auto none = std::vector<RowFacts>();
        for (auto &s : steps_of(nav, rows ? *rows : none, trip->installation(StreamId::side).draught_m()))
            day.steps.push_back(s);
        if (rows && !rows->empty())
            day.run_m += rows->back().along_m - rows->front().along_m;
    }
    std::stable_sort(day.steps.begin(), day.steps.end(),
                     [](const DayStep &a, const DayStep &b) { return a.time < b.time; });
    day.steps.erase(std::unique(day.steps.begin(), day.steps.end(),
                                [](const DayStep &a, const DayStep &b) { return a.time == b.time; }),
                    day.steps.end());
    day.guessed = doings_of(day.steps);
    return day;
}

} // namespace

void LogBook::lookInto(const LogDay &day) {
    QString of = day.date;
    std::vector<std::filesystem::path> trips;
    for (const auto &t : day.trips)
        if (t.fault.empty() && !t.older) {
            of += QStringLiteral(" %1:%2").arg(QString::fromStdString(t.path.string())).arg(t.rows);
            trips.push_back(t.path);
        }
    if (of == afloat_of_)
        return;
    if (looking_into_)
        looking_into_->cancel();
    if (afloat_date_ != day.date)
        afloat_ = {};
    afloat_of_ = of;
    afloat_date_ = day.date;
    looking_into_ = session_.jobs.run<DayAfloat>(
        tr("looking into the day"), this,
        [trips](JobControl &control) -> Result<DayAfloat> { return look(trips, control); },
        [this, of](Result<DayAfloat> found) {
            if (of != afloat_of_)
                return;
            looking_into_.reset();
            if (found)
                afloat_ = std::move(*found);
            layDoings();
            emit changed();
        });
}

const DayAfloat *LogBook::afloat(const QString &date) const {
    return date == afloat_date_ && !afloat_.steps.empty() ? &afloat_ : nullptr;
}

void LogBook::layDoings() {
    const auto notes = notes_.find(afloat_date_.toStdString());
    afloat_.spans =
        put_right(afloat_.guessed, notes == notes_.end() ? std::vector<DaySpan>() : notes->second.by_hand);
}

QString LogBook::aboard(const QString &date) const {
    const auto notes = notes_.find(date.toStdString());
    return notes == notes_.end() ? QString() : QString::fromStdString(notes->second.aboard);
}

void LogBook::setAboard(const QString &date, const QString &who) {
    readDays();
    const auto words = who.trimmed().left(120);
    if (words == aboard(date))
        return;
    notes_[date.toStdString()].aboard = words.toStdString();
    writeDays();
    emit changed();
}

DayConditions LogBook::written(const QString &date) const {
    const auto notes = notes_.find(date.toStdString());
    return notes == notes_.end() ? DayConditions() : notes->second.conditions;
}

void LogBook::writeDown(const QString &date, const DayConditions &conditions) {
    readDays();
    notes_[date.toStdString()].conditions = conditions;
    writeDays();
    arrange();
}

void LogBook::putRight(const QString &date, const DaySpan &span, std::optional<Doing> what) {
    readDays();
    auto &by_hand = notes_[date.toStdString()].by_hand;
    // What was said of this stretch before is said anew; of what reached beyond it the rest stays.
    std::vector<DaySpan> left;
    for (const auto &s : by_hand) {
        if (s.from < span.from)
            left.push_back({s.from, std::min(s.to, span.from), s.what, true});
        if (s.to > span.to)
            left.push_back({std::max(s.from, span.to), s.to, s.what, true});
    }
    if (what)
        left.push_back({span.from, span.to, *what, true});
    by_hand = std::move(left);
    writeDays();
    layDoings();
    emit changed();
}

// Beside the marks, so that it goes where they go. Read anew before every change: another window may have
// written meanwhile.
void LogBook::readDays() {
    auto folder = QFileInfo(marks_.path()).absolutePath();
    if (marks_.path().isEmpty())
        folder = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation);
    days_file_ = folder + QStringLiteral("/days.json");
    days_readable_ = true;
    QFile in(days_file_);
    if (!in.exists()) {
        notes_.clear();
        return;
    }
    const auto told = [this](const QString &what, const QString &kept) {
        session_.notices.raise(topic, {what.toStdString(), kept.toStdString(),
                                       tr("mend the file by hand, or write the days anew").toStdString()});
    };
    if (!in.open(QIODevice::ReadOnly)) {
        days_readable_ = false;
        told(tr("%1 could not be read").arg(days_file_), tr("it is left as it is"));
        return;
    }
    constexpr qint64 most = 64LL << 20;
    auto read = days_from_json(in.read(most + 1).toStdString());
    if (read) {
        notes_ = std::move(*read);
        return;
    }
    // What is written anew does not take its place.
    const auto aside = QStringLiteral("%1.unread-%2").arg(days_file_).arg(QDateTime::currentSecsSinceEpoch());
    days_readable_ = QFile::rename(days_file_, aside);
    told(QString::fromStdString(read.error().happened),
         days_readable_ ? tr("it is kept as %1").arg(aside) : tr("it is left as it is"));
}

// What could not be read was told, and is not written over.
void LogBook::writeDays() {
    if (!days_readable_)
        return;
    if (auto written = write_file_atomically(days_file_.toStdString(), days_to_json(notes_)); !written)
        session_.notices.raise(topic, written.error());
    else
        session_.notices.pass(topic);
}

} // namespace heron::app
