// The trip that is kept while a sounder runs, or the one that is looked at: what becomes known is written
// down, in its turn and not in the window's thread.
#pragma once

#include "session/jobs.hpp"
#include "session/notices.hpp"
#include "session/row_store.hpp"
#include "session/shown_scan.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <array>
#include <functional>
#include <optional>

namespace heron::app {

class TripKeeper : public QObject {
    Q_OBJECT
  public:
    TripKeeper(std::array<ShownScan *, stream_count> shown, Notices &notices, Jobs &jobs,
               QObject *parent = nullptr);

    QString folder() const { return folder_; }
    void setFolder(const QString &folder) { folder_ = folder; }

    /// Of the trip that is kept or looked at; empty without one.
    QString path() const { return QString::fromStdString(store_.path().string()); }
    QString id() const { return id_; }
    bool keeping() const { return store_.journal() != nullptr; }
    Journal *journal() const { return store_.journal().get(); }
    TripFile *openedTrip() const { return store_.file(); }
    const RowStore &store() const { return store_; }
    QString water() const { return looked_at_ ? looked_at_water_ : water_; }
    /// The name of the water, now and in the trip.
    void setWater(const QString &water);
    /// Of the water that is boated on over its datum, as the guide told it today; nothing where he did not.
    std::optional<double> levelToday() const;
    void setLevelToday(double metres);
    /// Writes to the trip in its turn; without one nothing is written.
    void keep(std::function<Result<void>(TripFile &)> job);
    /// Where a sounder hangs that introduced itself after the trip had begun.
    void keepInstallation(StreamId stream, const Installation &installation);
    /// The strokes of the bottom line that the guide drew.
    void keepStrokes();

    // For what owns it.
    void begin(std::shared_ptr<Journal> journal); ///< a trip is kept from now on
    void lookAt(RowStore store);                  ///< an old one is looked at
    void close();                                 ///< what is known is written; nothing is kept any more
    void writeKnowledge(bool all = false);        ///< facts of rows that are settled, the track, the overview

  signals:
    void began();
    void ended();
    void waterChanged();

  private:
    struct Written {
        std::size_t rows = 0, lines = 0;
    };
    void writeKnowledgeOf(ShownScan &shown, bool all);
    void writeTrack(bool all);

    std::array<ShownScan *, stream_count> shown_;
    Notices &notices_;
    Jobs &jobs_;
    QString folder_, water_, looked_at_water_, id_;
    bool looked_at_ = false;
    RowStore store_;
    std::array<Written, stream_count> written_;
    std::size_t known_track_ = 0;
    std::size_t known_positions_ = 0, known_attitudes_ = 0, known_depths_ = 0, known_speeds_ = 0;
};

} // namespace heron::app
