// Reads what is sounded, played or opened, in a thread of its own: contacts as they are found.
#pragma once

#include "reading/reader.hpp"
#include "survey.hpp"

#include <QObject>
#include <QThread>
#include <QTimer>
#include <memory>

namespace heron::app {

/// What the thread is handed: facts of settled rows and the track since the last time.
struct ReadingBatch {
    int scan_number = 0;
    bool begins = false;
    bool ends = false; ///< no more rows will come: read to the last one
    bool trip = false;
    QString path;                            ///< of the trip, or of the recording
    std::vector<std::size_t> recording_rows; ///< which ping of the recording each row is
    Installation installation;
    std::vector<RowFacts> facts;
    std::vector<SoundingSettings> settings;
    NavTrack nav; ///< samples since the last time
};

class ReadingWorker : public QObject {
    Q_OBJECT
  public:
    void take(const std::shared_ptr<ReadingBatch> &batch);

  signals:
    void found(int scan_number, std::shared_ptr<std::vector<heron::Contact>> contacts,
               std::size_t read_until);

  private:
    std::unique_ptr<TripFile> trip_;
    std::unique_ptr<RecordingReader> recording_;
    std::vector<std::size_t> recording_rows_;
    std::unique_ptr<Scan> scan_;
    std::unique_ptr<Reader> reader_;
    std::vector<Contact> all_; // looks not joined
};

class ReadingDesk : public QObject {
    Q_OBJECT
  public:
    explicit ReadingDesk(Survey &survey, QObject *parent = nullptr);
    ~ReadingDesk() override;

    /// Looks joined, in the order of the track.
    const std::vector<Contact> &contacts() const { return contacts_; }
    /// Rows before this one have been read.
    std::size_t readUntil() const { return read_until_; }

  signals:
    void contactsChanged();

  private:
    void feed();

    Survey &survey_;
    QThread thread_;
    ReadingWorker *worker_;
    QTimer timer_;
    std::vector<Contact> contacts_;
    std::size_t read_until_ = 0, handed_ = 0;
    std::size_t positions_ = 0, attitudes_ = 0, speeds_ = 0;
    int scan_number_ = -1;
    bool ended_ = false, busy_ = false;
};

} // namespace heron::app
