// The thread's own half of reading: it is handed what came, keeps a scan of its own, and answers with what it
// found.
#pragma once

#include "reading/corrections.hpp"
#include "reading/reader.hpp"
#include "trip/trip_file.hpp"

#include <QObject>
#include <deque>
#include <filesystem>
#include <memory>

namespace heron::app {

/// What the thread is handed: what came and what became known since the last time.
struct ReadingBatch {
    int scan_number = 0;
    bool begins = false;
    bool ends = false;          ///< no more rows will come: read to the last one
    bool live = false;          ///< rows go on coming: what they show is told before the final reading
    std::filesystem::path path; ///< where rows stand on the disk; empty: they are only here
    Installation installation;
    std::size_t known_from = 0; ///< row of the first of `facts`: those may be known already, otherwise
    std::size_t settled = 0;    ///< rows before this one will not change any more
    std::size_t kept = 0;       ///< rows before this one stand on the disk
    std::vector<RowFacts> facts;
    std::vector<SoundedRow> rows; ///< live: the newest, the last of them the last of `facts`
    std::vector<SoundingSettings> settings;
    NavTrack nav;                                                  ///< samples since the last time
    std::optional<std::pair<std::size_t, std::size_t>> read_again; ///< rows whose bottom was put right
    std::vector<Correction> said;                                  ///< of this source
    std::vector<Correction> weighed; ///< that the naming is weighed by; empty: as shipped
    bool said_changed = false;
    SourceName source;
};

/// What it answers with.
struct ReadingAnswer {
    int scan_number = 0;
    std::optional<Fault> fault; ///< it broke off; what was found before stands
    std::vector<Contact> contacts;
    std::size_t read_until = 0, seen_until = 0; ///< rows finally read, and looked at
    int named_otherwise = 0; ///< contacts that the weighing gave another kind than the shipped naming
};

/// Lives in one thread; whatever it is handed is its own from then on, rows apart: those are shared, and stay
/// as they are.
class ReadingWorker : public QObject {
    Q_OBJECT
  public:
    /// Answers once with `found`, whatever happens.
    void take(const std::shared_ptr<ReadingBatch> &batch);

  signals:
    void found(std::shared_ptr<heron::app::ReadingAnswer> answer);

  private:
    void read(const ReadingBatch &batch, ReadingAnswer &answer);
    void takeRows(const ReadingBatch &batch);
    void begin(const ReadingBatch &batch);
    void weigh(Contact &contact) const;
    std::unique_ptr<TripFile> trip_;
    std::deque<SoundedRow> fresh_; // not on the disk yet
    std::size_t fresh_first_ = 0;
    std::unique_ptr<Scan> scan_;
    KindModel model_ = KindModel::shipped();
    std::unique_ptr<Reader> reader_;
    std::vector<Contact> all_; // looks not joined
    std::vector<Correction> said_;
    SourceName source_;
    bool weighed_ = false;
};

} // namespace heron::app
