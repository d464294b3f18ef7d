// The pace of what is played: an old trip from any row on, or a recording.
#pragma once

#include "session/shown_scan.hpp"

#include <QElapsedTimer>
#include <QObject>

namespace heron::app {

class Playback : public QObject {
    Q_OBJECT
  public:
    /// From this speed on all comes at once.
    static constexpr double at_once = 1000;

    /// `beside`: another stream of the same trip, which goes along by the clock.
    Playback(ShownScan &shown, ShownScan &beside, QObject *parent = nullptr);

    double speed() const { return speed_; }
    void setSpeed(double speed); ///< so many times as fast as it was recorded

    // Of a trip.
    enum class State { none, playing, paused, ended };
    State state() const { return state_; }
    /// Goes on from this row as if it were now.
    void playFrom(std::size_t row);
    void pause();
    /// Lets this row be seen although the play has not come so far.
    void showUpTo(std::size_t row);

    // For what owns it.
    void begin(); ///< a trip was opened: all of it is shown
    void stop();  ///< something else is shown
    /// What is due by now.
    void advance();

  signals:
    void speedChanged(double speed);
    void stateChanged();

  private:
    std::size_t besideNow() const;
    void jumpBeside();
    void showBeside();

    ShownScan &shown_, &beside_;
    State state_ = State::none;
    std::size_t head_ = 0;
    double speed_ = 8, due_s_ = 0;
    QElapsedTimer clock_;
};

} // namespace heron::app
