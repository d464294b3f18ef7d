// Spoken words, if wished: what an eye on the water would miss. Short, one at a time, what matters first.
#pragma once

#include "around/bow.hpp"
#include "passes/pass_planner.hpp"
#include "plan/lanes.hpp"
#include "reading/contact_reader.hpp"
#include "session/session.hpp"
#include "speech/voice.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <QTimer>
#include <deque>
#include <functional>
#include <map>
#include <set>

namespace heron::app {

class Speaker : public QObject {
    Q_OBJECT
  public:
    /// What is urgent is said before what waits.
    enum class Urgency { contact, steering, lost, hazard };

    Speaker(Session &session, ContactReader &reader, PassPlanner &planner, Bow &bow,
            QObject *parent = nullptr);

    /// Makes the voice when it is first needed; another one may stand in for the machine's.
    using VoiceMaker = std::function<std::unique_ptr<Voice>(std::function<void()> ended)>;
    void setVoice(VoiceMaker maker);
    /// Says it when its turn comes; what has waited too long, or was said just now, is not said.
    void say(Urgency urgency, const QString &words);
    /// Steering along lanes: where one begins, how far off it the boat is, which turn comes.
    void sayLane(const LanePlan &plan, const LaneCue &cue);
    std::size_t waiting() const { return waiting_.size(); }

  private:
    struct Waiting {
        Urgency urgency;
        QString words;
        qint64 since;
    };
    void next();
    void watchPosition();
    void watchSteering();
    void watchContacts();
    void sayCasts();

    Session &session_;
    ContactReader &reader_;
    PassPlanner &planner_;
    Bow &bow_;
    VoiceMaker maker_ = machineVoice;
    std::unique_ptr<Voice> voice_;
    bool told_no_voice_ = false;
    std::deque<Waiting> waiting_;
    std::map<QString, qint64> said_; ///< when, by words
    QElapsedTimer clock_;
    QTimer timer_;
    std::optional<std::size_t> lane_begun_, lane_ending_;
    qint64 lane_off_said_ = 0;
    bool position_lost_ = false, line_begun_ = false, abeam_ = false;
    struct Seen {
        qint64 since;
        bool told;
    };
    std::map<int, Seen> seen_contacts_; ///< by id
};

} // namespace heron::app
