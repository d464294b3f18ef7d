// Days as they were: trips, marks and visits of each date, what was written down of its conditions, and what
// all of them together support.
#pragma once

#include "chart/spots.hpp"
#include "marks/mark_library.hpp"
#include "plan/round_plan.hpp"
#include "session/session.hpp"
#include "story/local_rules.hpp"
#include "story/promise.hpp"
#include "story/record.hpp"
#include "tuning/last_time.hpp"

#include <QObject>
#include <map>
#include <set>
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
    /// What the guide foretells of the day and wants of its round.
    struct RoundWish {
        std::optional<Kind> kind; ///< only marks of it
        RoundLimits limits;
        std::string wind;  ///< in the words of the conditions: "calm", "light", "strong"; empty: not told
        bool learn = true; ///< one visit to where least is known
        std::set<QString> left_out; ///< ids that the guide took out
    };
    struct Round {
        std::vector<QString> marks; ///< in the order in which to visit them
        RoundPlan plan;
        std::map<QString, Promise> promises; ///< of all marks that were looked at
        QString learns;                      ///< the one that is visited to learn; empty: none
        std::vector<QString> others;         ///< within reach, and not visited
    };
    /// Over marks within a mile and a bit of the boat (of the first mark, where no position is known);
    /// hazards are none.
    Round round(const RoundWish &wish, double within_m = 1609) const;

    const std::vector<LocalRule> &rules() const { return rules_; }
    void setRules(std::vector<LocalRule> rules);
    /// Those that hold today on the water that is boated on.
    std::vector<LocalRule> rulesToday() const;

  signals:
    void changed();

  private:
    struct Found {
        std::vector<TripSummary> trips;
        std::vector<DayConditions> conditions;
    };
    void arrange();
    void remind();
    std::vector<heron::Visit> visits() const;

    Session &session_;
    MarkLibrary &marks_;
    Spots &spots_;
    std::shared_ptr<JobControl> looking_;
    Found found_;
    std::vector<LogDay> days_;
    Record record_;
    std::vector<LocalRule> rules_;
};

} // namespace heron::app
