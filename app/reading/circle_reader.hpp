// Reads the turns of the head at the bow as they come, in a thread of its own.
#pragma once

#include "reading/read_contacts.hpp"
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

/// Of the circle: things, looks of the last turns joined; rows are those of the shown scan.
class CircleReader : public ReadContacts {
    Q_OBJECT
  public:
    explicit CircleReader(Session &session, QObject *parent = nullptr);
    ~CircleReader() override;

    /// What swims, as of the newest turn; places lie on `swimPlane`.
    const std::vector<Swimmer> &swimmers() const { return swimmers_; }
    const std::optional<LocalPlane> &swimPlane() const { return swim_plane_; }
    /// Rows before this one have been handed to be read.
    std::size_t readUntil() const override { return handed_; }

    /// What the turns say of the head itself.
    const TurnFindings &findings() const { return findings_; }

  signals:
    void headJudged(); ///< the findings changed

  private:
    void feed();
    void replace(std::vector<Contact> found);

    Session &session_;
    QThread thread_;
    TurnsWorker *worker_;
    QTimer timer_;
    std::vector<Swimmer> swimmers_;
    std::optional<LocalPlane> swim_plane_;
    TurnFindings findings_;
    int scan_number_ = -1;
    std::size_t handed_ = 0;
    NavSince nav_since_;
    bool busy_ = false, ended_ = false;
};

} // namespace heron::app
