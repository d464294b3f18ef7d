// Reads the turns of the head at the bow as they come, in a thread of its own.
#pragma once

#include "reading/sweep_reader.hpp"
#include "reading/swimmers.hpp"
#include "session/nav_since.hpp"
#include "session/session.hpp"

#include <QObject>
#include <QThread>
#include <QTimer>
#include <memory>

namespace heron::app {

/// What the thread is handed: what came since the last time.
struct TurnsBatch {
    int scan_number = 0;
    bool begins = false;
    bool ends = false; ///< no more rows will come: the turn under way is read too
    Installation installation;
    std::vector<SoundedRow> rows;
    std::size_t first = 0; ///< of `rows`, as the shown scan counts
    NavSamples nav;
    double hull_deg = 180; ///< where the hull lies as seen from the head, off the bow
};

struct TurnsAnswer {
    int scan_number = 0;
    std::optional<Fault> fault; ///< it broke off; what was found before stands
    std::vector<Contact> contacts;
    std::vector<Swimmer> swimmers;
    std::optional<LocalPlane> plane; ///< of the swimmers
    TurnFindings findings;           ///< of the head itself; the heading's lateness in all
};

class TurnsWorker : public QObject {
    Q_OBJECT
  public:
    void take(const std::shared_ptr<TurnsBatch> &batch);

  signals:
    void found(std::shared_ptr<heron::app::TurnsAnswer> answer);

  private:
    void read(const TurnsBatch &batch, TurnsAnswer &answer);
    std::unique_ptr<Scan> scan_;
    std::unique_ptr<SweepReader> reader_;
    std::vector<Contact> looks_;
    SwimmerTracker tracker_;
    std::size_t first_ = 0, next_turn_ = 0;
};

class CircleReader : public QObject {
    Q_OBJECT
  public:
    explicit CircleReader(Session &session, QObject *parent = nullptr);
    ~CircleReader() override;

    /// Things, looks of the last turns joined; rows are those of the shown scan.
    const std::vector<Contact> &contacts() const { return contacts_; }
    /// The id of a contact, which it keeps while it is read again.
    int idOf(std::size_t contact) const { return ids_[contact]; }
    const Contact *find(int id) const;
    /// What swims, as of the newest turn; places lie on `swimPlane`.
    const std::vector<Swimmer> &swimmers() const { return swimmers_; }
    const std::optional<LocalPlane> &swimPlane() const { return swim_plane_; }
    /// Rows before this one have been handed to be read.
    std::size_t handed() const { return handed_; }

    /// What the turns say of the head itself.
    const TurnFindings &findings() const { return findings_; }

  signals:
    void contactsChanged();
    void headJudged(); ///< the findings changed

  private:
    void feed();
    void replace(std::vector<Contact> contacts);

    Session &session_;
    QThread thread_;
    TurnsWorker *worker_;
    QTimer timer_;
    std::vector<Contact> contacts_;
    std::vector<Swimmer> swimmers_;
    std::optional<LocalPlane> swim_plane_;
    TurnFindings findings_;
    std::vector<int> ids_;
    int next_id_ = 1, scan_number_ = -1;
    std::size_t handed_ = 0;
    NavSince nav_since_;
    bool busy_ = false, ended_ = false;
};

} // namespace heron::app
