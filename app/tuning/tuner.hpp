// All that is done about tuning while scanning: what the picture says, the one advice on offer, taking it,
// the search for a gain, the range that follows, and the record of every change with its verdict.
#pragma once

#include "session/session.hpp"
#include "session/window_state.hpp"
#include "tuning/advice.hpp"
#include "tuning/advice_offer.hpp"
#include "tuning/gain_search.hpp"
#include "tuning/installation_check.hpp"
#include "tuning/last_time.hpp"
#include "tuning/range_follower.hpp"
#include "tuning/watcher.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <QPointer>
#include <QTimer>

namespace heron::app {

class Tuner : public QObject {
    Q_OBJECT
  public:
    explicit Tuner(Session &session, QObject *parent = nullptr);

    const Gear &gear() const { return gear_; }
    void setGear(const Gear &gear);
    /// What Prepare advises for this water and gear.
    const std::optional<Advice> &advised() const { return advised_; }
    /// `range_by_band`: the range advised in each band of the gear, for the same purpose.
    void setAdvised(const Advice &advice, const std::vector<double> &range_by_band);
    /// The range advised in a band; nothing where none is known.
    std::optional<double> advisedRange(double frequency_hz) const;
    /// What was learned here of the noise, decibels over the unit's own, and where the bottom sank into it.
    double learnedNoise() const { return learned_noise_db_; }
    double learnedReach() const { return learned_reach_m_; }
    /// The water as Prepare has it.
    const WaterState &water() const { return water_; }
    void setWater(const WaterState &water) { water_ = water; }
    /// What the sounder starts with.
    SoundingSettings plain() const;
    SoundingSettings advisedSettings() const;

    PictureHealth health() const { return watcher_.health(); }
    const std::optional<TuningAdvice> &advice() const { return offer_.advice(); }
    /// A window whose picture is looked at; advice is about the first.
    void attend(WindowState &window);
    /// Does what is advised: at the sounder, or in the window where it was taken.
    void takeAdvice(WindowState &window);
    void putAdviceOff(); ///< not now; it is not offered again for a minute

    /// Asks the sounder, and keeps what changed, by whom and why.
    void set(const SoundingSettings &settings, const QString &by, const QString &reason = {});
    /// The same for a change of how the picture is shown, told in words before and after.
    void showedOtherwise(const QString &what, const QString &before, const QString &after);
    /// The last change that waits for a verdict.
    struct Pending {
        std::int64_t id = 0;
        QString words;
        std::size_t row = 0;
    };
    const std::optional<Pending> &pending() const { return pending_; }
    void judge(bool better);

    /// Brackets the gain; with a spot, tunes to that.
    void tuneForMe(const std::optional<TuningSpot> &spot = std::nullopt);
    bool tuning() const { return search_.has_value(); }
    void stopTuning();
    /// What a frozen picture says of a spot: words, and the gain that it calls for.
    QString fromStored(const std::optional<TuningSpot> &spot, std::size_t first, std::size_t end);

    bool rangeFollows() const { return range_follows_; }
    void setRangeFollows(bool on);
    double timesDepth() const { return follower_.times_depth; }
    void setTimesDepth(double times);

    bool hasLastGood() const { return last_good_.has_value(); }
    const std::optional<SoundingSettings> &lastGood() const { return last_good_; }
    void backToLastGood();
    const std::optional<LastTime> &lastTime() const { return last_time_; }
    void takeLastTime();

    void beginInstallationCheck(Side known);
    const std::optional<InstallationCheck> &installationCheck() const { return check_; }
    void endInstallationCheck();

  signals:
    void adviceChanged();
    void pendingChanged();
    void tuningChanged();
    void gearChanged();
    void advisedChanged();
    void noiseLearned();
    void rangeFollowChanged();
    void checkChanged();
    void lastTimeChanged();

  private:
    struct Display {
        DisplayWindow window;
        PictureFilters filters;
        bool follows = true;
    };
    Display displayNow() const;
    void rowArrived(std::size_t row);
    void think();
    void learnNoise();
    void logChange(const QString &what, const QString &before, const QString &after, const QString &by,
                   const QString &reason);
    std::vector<std::uint8_t> smallPicture() const;
    std::vector<double> rangeSteps() const;
    void lookForLastTime();

    Session &session_;
    std::vector<QPointer<WindowState>> windows_;
    QTimer timer_;
    Gear gear_ = usual_gear();
    WaterState water_;
    std::optional<Advice> advised_;
    std::vector<double> range_by_band_;
    double learned_noise_db_ = 0, learned_reach_m_ = 0;
    int reach_seen_ = 0;
    Watcher watcher_;
    AdviceOffer offer_;
    QElapsedTimer clock_;
    std::optional<GainSearch> search_;
    int search_from_ = 0;
    RangeFollower follower_;
    bool range_follows_ = false;
    std::optional<SoundingSettings> last_good_, steady_, asked_;
    qint64 steady_since_ = 0;
    std::optional<Pending> pending_;
    std::optional<LastTime> last_time_;
    std::optional<InstallationCheck> check_;
};

} // namespace heron::app
