#include "speech/speaker.hpp"

#include "around/cast_words.hpp"
#include "kit/kind_words.hpp"
#include "reading/contact_said.hpp"

#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr qint64 too_old_ms = 6000;     // a word about what lies behind helps nobody
constexpr qint64 not_again_ms = 8000;   // the same words
constexpr std::size_t most_waiting = 4; // what is least urgent goes first
constexpr double sure_enough = 0.6;     // a contact that is told aloud
constexpr qint64 settles_ms = 8000;     // a contact seen longer ago lies behind the boat

} // namespace

Speaker::Speaker(Session &session, ContactReader &reader, PassPlanner &planner, Bow &bow, QObject *parent)
    : QObject(parent), session_(session), reader_(reader), planner_(planner), bow_(bow) {
    clock_.start();
    lane_off_said_ = -not_again_ms; // none yet
    connect(&timer_, &QTimer::timeout, this, [this] {
        watchPosition();
        next();
    });
    timer_.start(500);
    connect(&planner_, &PassPlanner::cueChanged, this, &Speaker::watchSteering);
    connect(&planner_, &PassPlanner::runChanged, this, [this] { line_begun_ = abeam_ = false; });
    connect(&planner_, &PassPlanner::runDone, this, [this] { say(Urgency::steering, tr("arrived")); });
    connect(&reader_, &ContactReader::contactsChanged, this, &Speaker::watchContacts);
    connect(&bow_, &Bow::aimTaken, this, &Speaker::sayCasts);
}

void Speaker::setVoice(VoiceMaker maker) {
    maker_ = std::move(maker);
    voice_.reset();
}

void Speaker::say(Urgency urgency, const QString &words) {
    if (!session_.preferences.speaks() || words.isEmpty())
        return;
    const auto now = clock_.elapsed();
    if (const auto at = said_.find(words); at != said_.end() && now - at->second < not_again_ms)
        return;
    said_[words] = now;
    const auto before =
        std::find_if(waiting_.begin(), waiting_.end(), [&](const Waiting &w) { return w.urgency < urgency; });
    waiting_.insert(before, {urgency, words, now});
    if (waiting_.size() > most_waiting)
        waiting_.pop_back();
    next();
}

// One sentence at a time.
void Speaker::next() {
    const auto now = clock_.elapsed();
    std::erase_if(waiting_, [&](const Waiting &w) { return now - w.since > too_old_ms; });
    std::erase_if(said_, [&](const auto &s) { return now - s.second > not_again_ms; });
    if (waiting_.empty())
        return;
    if (!voice_)
        voice_ = maker_([this] {
            QMetaObject::invokeMethod(
                this, [this] { next(); }, Qt::QueuedConnection);
        });
    if (!voice_->available()) {
        waiting_.clear();
        if (!told_no_voice_)
            session_.notices.raise(QStringLiteral("speech"),
                                   {tr("this machine has no voice").toStdString(),
                                    tr("all that would be said is shown").toStdString(),
                                    tr("install a speech engine for Qt, or turn speech off").toStdString()});
        told_no_voice_ = true;
        return;
    }
    if (voice_->speaking())
        return;
    const auto words = waiting_.front().words;
    waiting_.pop_front();
    voice_->say(words);
}

void Speaker::watchPosition() {
    if (!session_.sources.live())
        return;
    bool lost = session_.connections.positionState() != NavGuard::State::fine;
    for (const auto &c : session_.connections.all())
        if (c.config.kind == SourceConfig::Kind::nmea && c.delivered.contains("GGA"))
            lost = lost || c.state == LinkState::Is::lost || c.state == LinkState::Is::silent;
    if (lost && !position_lost_)
        say(Urgency::lost, tr("position lost"));
    position_lost_ = lost;
}

void Speaker::watchSteering() {
    const auto cue = planner_.cue();
    if (!cue)
        return;
    if (!line_begun_ && !cue->away) {
        line_begun_ = true;
        say(Urgency::steering, tr("line begins"));
    }
    if (!abeam_ && cue->abeam) {
        abeam_ = true;
        say(Urgency::steering, tr("now"));
    }
}

void Speaker::sayLane(const LanePlan &plan, const LaneCue &cue) {
    constexpr double off_m = 2.5, near_end_m = 20;
    constexpr qint64 between_ms = 7000;
    if (cue.lane >= plan.lanes.size() || cue.left_m > plan.lanes[cue.lane].length_m())
        return; // on the way to it
    const auto units = session_.preferences.units();
    if (lane_begun_ != cue.lane) {
        lane_begun_ = cue.lane;
        say(Urgency::steering, tr("lane %1").arg(cue.lane + 1));
    }
    if (cue.left_m < near_end_m && lane_ending_ != cue.lane) {
        lane_ending_ = cue.lane;
        const auto left = spokenLength(cue.left_m, units);
        say(Urgency::steering, cue.lane + 1 == plan.lanes.size() ? tr("last lane ends in %1").arg(left)
                               : cue.turn_right                  ? tr("turn right in %1").arg(left)
                                                                 : tr("turn left in %1").arg(left));
    } else if (const auto now = clock_.elapsed();
               std::fabs(cue.off_m) > off_m && now - lane_off_said_ > between_ms) {
        lane_off_said_ = now;
        const auto off = spokenLength(std::fabs(cue.off_m), units);
        say(Urgency::steering, cue.off_m > 0 ? tr("%1 left").arg(off) : tr("%1 right").arg(off));
    }
}

// What was just aimed at, from each seat.
void Speaker::sayCasts() {
    say(Urgency::steering, castsSpoken(session_.boats.boat(), bow_.casts(), session_.preferences.units()));
}

// Contacts of the kinds that were asked for, each once, as soon as it is sure enough: what it is may settle
// some pings after it was seen first.
void Speaker::watchContacts() {
    const auto &kinds = session_.preferences.spokenKinds();
    const auto now = clock_.elapsed();
    const bool aloud = session_.preferences.speaks() && session_.sources.live();
    const auto &contacts = reader_.contacts();
    for (std::size_t i = 0; i < contacts.size(); ++i) {
        const auto &c = contacts[i];
        auto &seen = seen_contacts_.try_emplace(reader_.idOf(i), Seen{now, false}).first->second;
        const auto name = name_of(c.kind);
        if (!aloud || seen.told || now - seen.since > settles_ms || c.family == Family::unsure ||
            c.confidence < sure_enough ||
            !kinds.contains(QString::fromUtf8(name.data(), static_cast<qsizetype>(name.size()))))
            continue;
        seen.told = true;
        say(Urgency::contact, contactSpoken(c, session_.preferences.units()));
    }
}

} // namespace heron::app
