// What is asked of the water beyond one reading: the second look that is planned or run, where the fish are
// now, whether a place is worth fishing.
#pragma once

#include "look/fish_or_leave.hpp"
#include "look/second_look.hpp"
#include "look/tally.hpp"
#include "marks/mark_library.hpp"
#include "reading/contact_reader.hpp"
#include "tuning/tuner.hpp"

#include <QObject>

namespace heron::app {

class PassPlanner : public QObject {
    Q_OBJECT
  public:
    PassPlanner(Session &session, Tuner &tuning, ContactReader &reading, MarkLibrary &marks,
                QObject *parent = nullptr);

    /// The pass that would settle a contact; nothing where none would.
    std::optional<SecondLook> plan(const Contact &contact) const;
    FishOrLeave fishOrLeave(const Contact &contact) const;
    std::vector<Pass> looksAt(const Contact &contact) const;
    /// Of the last hour, or since the scan began.
    FishTally tally(bool last_hour) const;
    double fishLength() const { return fish_length_m_; }
    void setFishLength(double metres);

    /// The one that is being run.
    struct Run {
        SecondLook look;
        Contact contact;        ///< as it was before
        bool was_abeam = false; ///< it has come into the fan
        std::size_t from_row = 0;
    };
    const std::optional<Run> &run() const { return run_; }
    void begin(const Contact &contact, const SecondLook &look);
    void end();
    /// Asks the sounder for the range and band of the pass that is run.
    void takeSettings();
    /// What the last run brought: the contact before, and where it was run.
    const std::optional<Run> &last() const { return last_; }
    std::optional<SteeringCue> cue() const;
    const Gear &gear() const { return tuning_.gear(); }
    const WaterState &water() const { return tuning_.water(); }

  signals:
    void runChanged();
    void cueChanged();
    void runDone(); ///< the thing was abeam and lies behind

  private:
    void rowArrived();
    WaterState waterAt(const Contact &contact) const;

    Session &session_;
    Tuner &tuning_;
    ContactReader &reading_;
    MarkLibrary &marks_;
    std::optional<Run> run_, last_;
    double fish_length_m_ = 0.4;
};

} // namespace heron::app
