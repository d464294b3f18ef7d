// Reads what is sounded, played or opened, in a thread of its own: contacts as they are found, in the light
// of what the guide said of earlier ones.
#pragma once

#include "reading/corrections.hpp"
#include "reading/read_contacts.hpp"
#include "reading/reader.hpp"
#include "session/session.hpp"

#include <QObject>
#include <QThread>
#include <QTimer>
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

class ReadingWorker : public QObject {
    Q_OBJECT
  public:
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

/// Of the sides: sightings joined, in the order of the track.
class ContactReader : public ReadContacts {
    Q_OBJECT
  public:
    explicit ContactReader(Session &session, QObject *parent = nullptr);
    ~ContactReader() override;

    /// Rows before this one have been finally read; and looked at.
    std::size_t readUntil() const override { return read_until_; }
    std::size_t seenUntil() const { return seen_until_; }

    // What the guide says that a contact is.
    void openCorrections(const QString &path);
    bool correct(const Contact &contact, Kind said);
    /// The guide's words on this trip belong to its water, whatever that is called by now.
    void settleWater();
    void takeBack();
    bool canTakeBack() const { return book_ && !book_->all().empty(); }
    /// Words of the guide for this water; and whether the naming is weighed by them.
    std::size_t wordsHere() const { return book_ ? book_->of_water(water()).size() : 0; }
    bool weighs() const { return weighs_; }
    void setWeighs(bool on);
    int namedOtherwise() const { return named_otherwise_; }

  private:
    void feed();
    void replace(std::vector<Contact> found);
    std::string water() const { return session_.trip.water().toStdString(); }
    SourceName sourceName() const;

    Session &session_;
    QThread thread_;
    ReadingWorker *worker_;
    QTimer timer_;
    std::size_t read_until_ = 0, seen_until_ = 0, handed_ = 0, settled_ = 0;
    std::size_t positions_ = 0, attitudes_ = 0, speeds_ = 0;
    int scan_number_ = -1, named_otherwise_ = 0;
    bool ended_ = false, busy_ = false, weighs_ = true, said_changed_ = false;
    bool begins_ = false; ///< the thread has not heard yet that it reads another scan
    std::optional<std::pair<std::size_t, std::size_t>> again_;
    std::optional<CorrectionBook> book_;
};

} // namespace heron::app
