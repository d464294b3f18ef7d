// Days as they were: trips, marks and visits of each date, what was written down of its conditions, and what
// all of them together support.
#pragma once

#include "chart/spots.hpp"
#include "marks/mark_library.hpp"
#include "plan/round_plan.hpp"
#include "session/session.hpp"
#include "story/day_afloat.hpp"
#include "story/local_rules.hpp"
#include "story/promise.hpp"
#include "story/record.hpp"
#include "story/settings_tried.hpp"
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

/// What the boat was at on a day, as its trips tell it and as the guide put it right.
struct DayAfloat {
    std::vector<DayStep> steps;
    std::vector<DaySpan> guessed, spans;
    double run_m = 0; ///< over ground
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
    /// Looks into the trips of a day, beside the window; `changed` follows.
    void lookInto(const LogDay &day);
    /// Null while nobody looked, and where no trip of that day can be read.
    const DayAfloat *afloat(const QString &date) const;
    QString aboard(const QString &date) const;
    void setAboard(const QString &date, const QString &who);
    /// Conditions that were written down of a day beside its trips; they hold before what the trips tell.
    DayConditions written(const QString &date) const;
    void writeDown(const QString &date, const DayConditions &conditions);
    /// From now on the boat was at this then; nothing: as it was guessed.
    void putRight(const QString &date, const DaySpan &span, std::optional<Doing> what);
    /// With which settings marks were read that proved to be so.
    const std::vector<SettingsTried> &settingsTried() const { return settings_tried_; }
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
        std::vector<TripConditions> conditions;
    };
    void arrange();
    void readDays();
    void writeDays();
    void layDoings();
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
    std::vector<SettingsTried> settings_tried_;
    /// The day that was looked into last; `afloat_of_` names it and how much its trips held then.
    DayAfloat afloat_;
    QString afloat_date_, afloat_of_;
    std::shared_ptr<JobControl> looking_into_;
    QString days_file_;
    bool days_readable_ = true;
    DaysNotes notes_;
};

} // namespace heron::app
