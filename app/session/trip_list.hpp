// The trips that were kept, as a list. They are looked through beside the window; each brings a small sketch
// of its track and of its picture.
#pragma once

#include "kit/id_list_model.hpp"
#include "picture/overview.hpp"
#include "session/jobs.hpp"
#include "session/preferences.hpp"
#include "session/trip_keeper.hpp"
#include "tuning/last_time.hpp"

#include <QPointF>
#include <map>

namespace heron::app {

/// A trip small: some lines of its picture from begin to end, and its track in metres, north up, from its
/// south-western corner.
struct TripSketch {
    std::vector<OverviewLine> lines;
    std::vector<QPointF> track;
};

class TripList : public IdListModel {
    Q_OBJECT
  public:
    TripList(TripKeeper &keeper, Preferences &preferences, Jobs &jobs, QObject *parent = nullptr);
    /// Looks through the folder; `listed` follows.
    void refresh();
    bool looking() const { return looking_ != nullptr; }
    const std::vector<TripSummary> &trips() const { return trips_; }
    /// By its file's name; null for none.
    const TripSummary *find(const QString &id) const;
    const TripSketch *sketch(const QString &id) const;

  signals:
    void listed();

  protected:
    QVariant dataOf(const QString &id, int role) const override;

  private:
    struct Found {
        std::vector<TripSummary> trips;
        std::map<QString, TripSketch> sketches;
    };
    TripKeeper &keeper_;
    Preferences &preferences_;
    Jobs &jobs_;
    std::shared_ptr<JobControl> looking_;
    std::vector<TripSummary> trips_;
    std::map<QString, TripSketch> sketches_;
};

} // namespace heron::app
