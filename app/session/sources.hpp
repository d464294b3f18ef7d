// Where rows come from: sounders on their lines, a recording that plays, or an old trip. What runs goes on
// until the new source has proved to be one.
#pragma once

#include "session/connections.hpp"
#include "session/playback.hpp"
#include "session/sounder.hpp"
#include "session/trip_keeper.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <QThread>
#include <QTimer>
#include <array>
#include <memory>

namespace heron::app {

class Sources : public QObject {
    Q_OBJECT
  public:
    /// What the sources fill and tell.
    struct Parts {
        std::array<ShownScan *, stream_count> shown;
        std::array<Sounder *, stream_count> sounders;
        Playback &playback;
        TripKeeper &trip;
        Connections &connections;
        Notices &notices;
        Jobs &storage;
    };
    explicit Sources(const Parts &parts, QObject *parent = nullptr);
    ~Sources() override;

    enum class Source { none, sounder, recording, trip };
    enum class Flow { waiting, flowing, silent, lost, paused, ended };

    /// Listens to these from now on; a trip begins with the first row. To none: what was kept
    /// is looked at, where anything was.
    void listenTo(std::vector<SourceConfig> sources);
    void backToSounder();
    /// Plays a recording; a trip when its name ends so.
    void open(const QString &path);
    void openRecording(const QString &path);
    /// Opens a trip beside the window; `opened` follows, or a fault.
    void openTrip(const QString &path);
    bool opening() const { return opening_ != nullptr; }
    /// Ends the trip that is kept and begins another with the next row.
    void beginNewTrip();

    Source source() const { return source_; }
    bool live() const { return source_ == Source::sounder; }
    Flow flow() const;
    /// The water's name where it is known, else the sounder's or the file's.
    QString name() const;
    /// An id that stays when names change: of the trip, or of the recording's contents.
    QString id() const;
    QString stateText() const;
    std::size_t droppedItems() const { return queue_.dropped(); }
    /// Where rows of what is shown stand on the disk.
    const RowStore &store() const { return source_ == Source::recording ? spool_ : parts_.trip.store(); }

  signals:
    void stateChanged();
    void opened(); ///< a recording or a trip is shown now

  private:
    // A source at work: its object in its own thread, and the number that its items bear.
    struct Feeder {
        QThread *thread = nullptr;
        QObject *worker = nullptr;
        int number = -1;
    };
    Feeder start(QObject *worker);
    /// Lets a feeder end in its own time; the window does not wait for it.
    void retire(Feeder &feeder);
    void begin(Source source);
    void drain();
    void take(IngestContent &content);
    void take(RecordingBegins &begins);
    void lineChanged(const LinkState &state);
    void headLineChanged(LinkState::Is now);
    /// A trip that is being opened is wanted no more.
    void stopOpening();
    struct OpenedTrip;
    void show(OpenedTrip trip);

    Parts parts_;
    IngestQueue queue_;
    QTimer timer_;
    Feeder active_, pending_; // pending: a recording that has not yet proved to be one
    std::vector<QThread *> retired_;
    int feeders_ = 0;
    std::vector<SourceConfig> sources_;
    Source source_ = Source::none;
    Flow flow_ = Flow::waiting;
    QString file_name_, recording_id_;
    RowStore spool_;
    std::shared_ptr<JobControl> opening_;
    int openings_ = 0; ///< counts them, so that one that was stopped is known when it ends
    std::size_t told_dropped_ = 0;
    QElapsedTimer knowledge_clock_, lost_for_;
    bool was_lost_ = false;
};

} // namespace heron::app
