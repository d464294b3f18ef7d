// Days as they were: trips, marks and visits of each date, what was written down of its conditions, and what
// all of them together support.
#pragma once

#include "chart/spots.hpp"
#include "marks/mark_library.hpp"
#include "session/session.hpp"
#include "story/record.hpp"
#include "tuning/last_time.hpp"

#include <QObject>
#include <map>
#include <vector>

namespace heron::app {

struct LogDay {
    QString date; ///< "2026-05-14"
    std::vector<TripSummary> trips;
    std::vector<QString> marks; ///< ids of those that were made on it
    struct Visit {
        QString mark;
        Outcome outcome;
    };
    std::vector<Visit> visits; ///< in the order of time
    DayConditions conditions;
    QStringList waters;
};

class LogBook : public QObject {
    Q_OBJECT
  public:
    LogBook(Session &session, MarkLibrary &marks, Spots &spots, QObject *parent = nullptr);

    /// Looks through the folder of trips, beside the window; the marks are known anyhow.
    void refresh();
    bool looking() const { return looking_ != nullptr; }
    /// The newest first.
    const std::vector<LogDay> &days() const { return days_; }
    const Record &record() const { return record_; }
    /// All visits and what is known of them as a table for other programs.
    bool writeTable(const QString &path);
    /// Marks of a kind, or all, within a mile and a bit of the boat (of the first mark, where no position is
    /// known), in the order in which to visit them; hazards are none.
    std::vector<QString> round(std::optional<Kind> kind, double within_m = 1609) const;

  signals:
    void changed();

  private:
    struct Found {
        std::vector<TripSummary> trips;
        std::vector<DayConditions> conditions;
    };
    void arrange();
    std::vector<heron::Visit> visits();

    Session &session_;
    MarkLibrary &marks_;
    Spots &spots_;
    std::shared_ptr<JobControl> looking_;
    Found found_;
    std::vector<LogDay> days_;
    Record record_;
};

} // namespace heron::app
