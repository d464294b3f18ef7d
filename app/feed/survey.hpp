// What the views look at: the scan as it grows, the state of its source, and the marks. Views hold no truth
// of their own.
#pragma once

#include "feed_queue.hpp"
#include "marks/mark_book.hpp"
#include "picture/scan.hpp"
#include "recording/nmea.hpp"
#include "sounder_link.hpp"
#include "units/units.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <QThread>
#include <QTimer>
#include <memory>
#include <optional>

namespace heron::app {

class Survey : public QObject {
    Q_OBJECT
  public:
    explicit Survey(QObject *parent = nullptr);
    ~Survey() override;

    enum class Source { none, sounder, recording };
    enum class Flow { waiting, flowing, silent, lost, ended };

    void listenTo(const Endpoint &pings, const Endpoint &nmea);
    void openRecording(const QString &path);
    void backToSounder();
    bool hasSounder() const { return sounder_.has_value(); }

    const Scan &scan() const { return *scan_; }
    /// Counts scans: a new one begins with each source.
    int scanNumber() const { return scan_number_; }
    Source source() const { return source_; }
    Flow flow() const { return flow_; }
    QString sourceName() const { return source_name_; }
    QString stateText() const;
    const std::optional<SounderHello> &hello() const { return hello_; }
    const SoundingSettings &settings() const { return settings_; }
    void ask(const SoundingSettings &settings);
    double playSpeed() const { return play_speed_; }
    void setPlaySpeed(double speed);
    std::size_t recordingPings() const { return recording_pings_; }
    std::size_t lostPings() const { return lost_pings_; }
    std::size_t droppedItems() const { return queue_.dropped(); }
    std::optional<double> headingNow() const;
    std::optional<double> speedNow() const;
    /// The window in which the picture is shown, following the levels of the bottom until it has settled.
    const DisplayWindow &window() const { return window_; }

    UnitSystem units() const { return units_; }
    void setUnits(UnitSystem units);

    /// Opens the file of marks; a fault is told and marks are then refused.
    void openMarks(const QString &path);
    bool marksOpen() const { return book_.has_value(); }
    const std::vector<Mark> &marks() const;
    const Mark *findMark(const QString &id) const;
    QString selectedMark() const { return selected_; }
    void selectMark(const QString &id);
    /// Each is on the disk when it returns true; otherwise the fault was told and nothing has changed.
    bool addMark(const Mark &mark);
    bool changeMark(const Mark &mark);
    bool removeMark(const QString &id);
    bool undoMark();
    bool canUndoMark() const { return book_ && book_->can_undo(); }
    bool exportMarks(const QString &path);
    bool importMarks(const QString &path);

  signals:
    void rowsAdded();    ///< pings came, or bottoms of recent rows changed
    void scanReplaced(); ///< another source began
    void stateChanged();
    void settingsChanged();
    void windowChanged(); ///< the display window
    void unitsChanged();
    void marksChanged();
    void selectionChanged();
    void faultRaised(const QString &topic, const heron::Fault &fault);
    void faultPassed(const QString &topic);
    void word(const QString &topic, const QString &text);

  private:
    void drain();
    void take(FeedContent &content);
    void take(const LinkState &state);
    void take(const NmeaHeard &heard);
    void take(WirePing &ping);
    void take(RecordingBegins &begins);
    void beginScan();
    // A source at work: its object in its own thread, and the number that its items bear.
    struct Feeder {
        std::unique_ptr<QThread> thread;
        QObject *worker = nullptr;
        int number = -1;
    };
    Feeder startFeeder(QObject *worker, int number);
    static void stopFeeder(Feeder &feeder);
    void settleWindow();
    bool done(const Result<void> &result);

    FeedQueue queue_;
    QTimer timer_;
    Feeder active_, pending_; // pending: a recording that has not yet proved to be one
    int feeders_ = 0, scan_number_ = 0;
    std::unique_ptr<Scan> scan_ = std::make_unique<Scan>();
    Source source_ = Source::none;
    Flow flow_ = Flow::waiting;
    QString source_name_;
    std::optional<std::pair<Endpoint, Endpoint>> sounder_;
    std::optional<SounderHello> hello_;
    SoundingSettings settings_;
    NmeaDecoder nmea_;
    UnixNs receiver_heard_ = 0;
    std::optional<std::uint64_t> last_number_;
    std::size_t lost_pings_ = 0, told_dropped_ = 0, recording_pings_ = 0;
    double play_speed_ = 8;
    DisplayWindow window_;
    std::size_t window_rows_ = 0;
    double window_frequency_ = 0;
    int window_gain_ = 0;
    UnitSystem units_ = UnitSystem::feet;
    std::optional<MarkBook> book_;
    QString selected_;
    QElapsedTimer lost_for_;
    bool was_lost_ = false;
};

} // namespace heron::app
