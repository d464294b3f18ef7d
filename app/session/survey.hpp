// What the views look at: the scan as it grows, the state of its source, how it is shown, and the marks.
// Views hold no truth of their own.
#pragma once

#include "ingest/ingest_queue.hpp"
#include "marks/mark_book.hpp"
#include "picture/overview.hpp"
#include "picture/row_levels.hpp"
#include "picture/scan.hpp"
#include "recording/nmea_feed.hpp"
#include "sonar/clock_difference.hpp"
#include "ingest/source_config.hpp"
#include "trip/bottom_by_hand.hpp"
#include "trip/open_trip.hpp"
#include "units/units.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <QThread>
#include <QTimer>
#include <map>
#include <memory>
#include <optional>

namespace heron::app {

/// What one connection delivers and how it fares.
struct ConnectionStatus {
    SourceConfig config;
    LinkState::Is state = LinkState::Is::connecting;
    QString detail;
    UnixNs last_heard = 0;                        ///< host_now() of the last sentence or ping; 0: never
    std::map<std::string, std::size_t> delivered; ///< by kind of sentence, or "ping"
    std::size_t damaged = 0;
};

class Survey : public QObject {
    Q_OBJECT
  public:
    explicit Survey(QObject *parent = nullptr);
    ~Survey() override;

    enum class Source { none, sounder, recording, trip };
    enum class Flow { waiting, flowing, silent, lost, paused, ended };

    // Sources.
    void setTripFolder(const QString &folder) { trip_folder_ = folder; }
    QString tripFolder() const { return trip_folder_; }
    /// Listens to these from now on; a trip begins with the first row.
    void listenTo(std::vector<SourceConfig> sources);
    const std::vector<ConnectionStatus> &connections() const { return connections_; }
    bool hasSounder() const;
    void backToSounder();
    void openRecording(const QString &path);
    void openTrip(const QString &path);
    /// Ends the trip that is kept and begins another with the next row.
    void beginNewTrip();
    Source source() const { return source_; }
    Flow flow() const { return flow_; }
    QString sourceName() const { return source_name_; }
    QString stateText() const;
    /// Seconds to add to the sounder's clock to have the receiver's.
    std::optional<double> clockDifference() const { return clocks_.seconds(); }
    NavGuard::State positionState() const;
    NavGuard::State headingState() const;

    // The scan, as far as it is shown: in a trip that is played, up to where the play has come.
    const Scan &scan() const { return *scan_; }
    std::size_t end() const { return source_ == Source::trip ? std::min(head_, scan_->end()) : scan_->end(); }
    bool empty() const { return end() <= scan_->first(); }
    std::size_t newest() const { return end() - 1; }
    /// Counts scans: a new one begins with each source.
    int scanNumber() const { return scan_number_; }
    const Overview &overview() const { return overview_; }
    std::optional<double> headingNow() const;
    std::optional<double> speedNow() const;
    std::size_t lostPings() const { return lost_pings_; }
    std::size_t droppedItems() const { return queue_.dropped(); }
    double playSpeed() const { return play_speed_; }
    void setPlaySpeed(double speed);
    /// In a trip: goes on from this row as if it were now.
    void playFrom(std::size_t row);
    void pausePlay();
    /// In a trip: lets this row be seen although the play has not come so far.
    void showUpTo(std::size_t row);

    /// Of the recording that is looked at; empty without one.
    QString recordingPath() const { return source_ == Source::recording ? recording_path_ : QString(); }
    /// Which of its pings the rows `first`…`end` are.
    std::vector<std::size_t> recordingRows(std::size_t first, std::size_t end) const;

    // The trip that is kept, or looked at.
    QString tripPath() const { return trip_path_; }
    bool keeping() const { return journal_ != nullptr; }
    Journal *journal() const { return journal_.get(); }
    TripFile *openedTrip() const { return trip_.get(); } ///< of a trip that is looked at
    std::optional<double> waterTemperature() const;      ///< as last heard, °C
    QString water() const { return water_; }
    void setWater(const QString &water);
    /// Writes to the trip in its turn; without one nothing is written.
    void keep(std::function<Result<void>(TripFile &)> job);

    /// The guide's word on the bottom, from row `first` on: metres under the transducer. All that follows
    /// from the bottom follows it; a trip keeps it. The undo takes the last stroke back.
    void correctBottom(std::size_t first, const std::vector<double> &altitudes);
    bool canUndoBottom() const { return !strokes_.empty(); }
    void undoBottom();

    // The sounder.
    const std::optional<SounderHello> &hello() const { return hello_; }
    const SoundingSettings &settings() const { return settings_; }
    /// What was asked last while the sounder may not have answered yet, else its settings: what a further
    /// step starts from.
    const SoundingSettings &wanted() const {
        return asked_clock_.isValid() && asked_clock_.elapsed() < 1500 ? asked_ : settings_;
    }
    void ask(const SoundingSettings &settings);

    // How it is shown.
    const DisplayWindow &window() const { return window_; }
    bool windowFollows() const { return window_follows_; }
    void setWindow(const DisplayWindow &window); ///< by hand; it stays
    void followWindow();                         ///< lets it follow the levels again
    /// Fits the window to what is shown around a row, as after a jump.
    void levelAt(std::size_t row);
    const LevelHistogram &levels() const { return levels_; }
    const PictureFilters &filters() const { return filters_; }
    void setFilters(const PictureFilters &filters);
    const AngleLevels &angles() const { return angles_; }
    UnitSystem units() const { return units_; }
    void setUnits(UnitSystem units);

    // Marks. Each change is on the disk when it returns true; otherwise the fault was told and nothing has
    // changed.
    void openMarks(const QString &path);
    bool marksOpen() const { return book_.has_value(); }
    const std::vector<Mark> &marks() const;
    const Mark *findMark(const QString &id) const;
    QString selectedMark() const { return selected_; }
    void selectMark(const QString &id);
    bool addMark(const Mark &mark);
    bool changeMark(const Mark &mark);
    bool removeMark(const QString &id);
    bool undoMark();
    bool canUndoMark() const { return book_ && book_->can_undo(); }
    bool exportMarks(const QString &path);
    bool importMarks(const QString &path);

  signals:
    void rowsAdded();                 ///< rows came, or bottoms of recent rows changed
    void rowArrived(std::size_t row); ///< each row, as it comes or is played
    void scanReplaced();              ///< another source began
    void stateChanged();
    void connectionsChanged();
    void settingsChanged();
    void windowChanged(); ///< the display window or the filters
    void unitsChanged();
    void marksChanged();
    void selectionChanged();
    void tripBegan();
    void bottomCorrected(std::size_t first, std::size_t end);
    void faultRaised(const QString &topic, const heron::Fault &fault);
    void faultPassed(const QString &topic);
    void word(const QString &topic, const QString &text);

  private:
    // A source at work: its object in its own thread, and the number that its items bear.
    struct Feeder {
        std::unique_ptr<QThread> thread;
        QObject *worker = nullptr;
        int number = -1;
    };
    Feeder startFeeder(QObject *worker, int number);
    static void stopFeeder(Feeder &feeder);
    void beginScan();
    void drain();
    void advancePlay();
    void take(IngestContent &content);
    void take(const LinkState &state);
    void take(const NmeaHeard &heard);
    void take(RowTaken &row);
    void take(RecordingBegins &begins);
    void take(TripBegins &begins);
    void showRow(std::size_t row);
    void settleWindow();
    void tellNavStates();
    void writeKnowledge(bool all);
    void keepStrokes();
    void closeTrip();
    void accompanyMarks(const QString &trip);
    bool done(const Result<void> &result);
    UnixNs timeOf(const RowTaken &row);

    IngestQueue queue_;
    QTimer timer_;
    Feeder active_, pending_; // pending: a recording that has not yet proved to be one
    int feeders_ = 0, scan_number_ = 0;
    std::vector<SourceConfig> sources_;
    std::vector<ConnectionStatus> connections_;
    Source source_ = Source::none;
    Flow flow_ = Flow::waiting;
    QString source_name_, trip_folder_, trip_path_, water_;
    std::optional<SounderHello> hello_;
    SoundingSettings settings_, asked_;
    QElapsedTimer asked_clock_;

    std::unique_ptr<Scan> scan_ = std::make_unique<Scan>();
    Overview overview_;
    std::map<int, NmeaFeed> feeds_;
    ClockDifference clocks_;
    double clock_shift_s_ = 0;
    std::optional<UnixNs> sounder_base_; // its time of day less its own counter, as first told
    std::optional<std::uint64_t> last_transmission_;
    std::size_t lost_pings_ = 0, told_dropped_ = 0;
    NavGuard::State told_positions_ = NavGuard::State::fine, told_headings_ = NavGuard::State::fine;

    std::shared_ptr<Journal> journal_;
    std::unique_ptr<TripFile> trip_; // opened, or a second connection to the one that is kept
    std::shared_ptr<RecordingReader> recording_;
    std::vector<std::size_t> recording_rows_;
    QString recording_path_;
    std::size_t known_rows_ = 0, known_lines_ = 0, known_track_ = 0;
    std::size_t known_positions_ = 0, known_attitudes_ = 0, known_depths_ = 0, known_speeds_ = 0;
    QElapsedTimer knowledge_clock_;

    std::vector<BottomStroke> strokes_;
    std::vector<std::vector<BottomPick>> before_strokes_; // what they covered, of those of this sitting

    std::size_t head_ = 0;
    double play_speed_ = 8, play_due_s_ = 0;
    QElapsedTimer play_clock_;

    DisplayWindow window_;
    bool window_follows_ = true;
    LevelHistogram levels_;
    AngleLevels angles_;
    PictureFilters filters_;
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
