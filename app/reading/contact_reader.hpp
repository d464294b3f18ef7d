// Reads what is sounded, played or opened, in a thread of its own: contacts as they are found, in the light
// of what the guide said of earlier ones.
#pragma once

#include "reading/read_contacts.hpp"
#include "reading/reading_worker.hpp"
#include "session/session.hpp"

#include <QObject>
#include <QThread>
#include <QTimer>

namespace heron::app {

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
