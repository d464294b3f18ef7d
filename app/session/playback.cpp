#include "session/playback.hpp"

#include <algorithm>

namespace heron::app {

Playback::Playback(ShownScan &shown, ShownScan &beside, QObject *parent)
    : QObject(parent), shown_(shown), beside_(beside) {}

// Its first row that is later than what is shown last.
std::size_t Playback::besideNow() const {
    const auto &scan = beside_.scan();
    const auto now = shown_.scan().facts(head_ - 1).time;
    auto row = scan.row_at(now);
    return row < scan.end() && scan.facts(row).time <= now ? row + 1 : scan.first();
}

void Playback::jumpBeside() {
    if (beside_.scan().empty())
        return;
    const auto end = besideNow();
    beside_.setLimit(end);
    if (end > beside_.scan().first())
        beside_.jump(end - 1);
    beside_.tellRows();
}

void Playback::showBeside() {
    if (beside_.scan().empty())
        return;
    const auto end = besideNow();
    for (auto row = beside_.end(); row < end; ++row) {
        beside_.setLimit(row + 1);
        beside_.show(row);
    }
}

void Playback::setSpeed(double speed) {
    speed_ = speed;
    emit speedChanged(speed);
}

void Playback::begin() {
    state_ = State::ended;
    head_ = shown_.scan().end();
    shown_.setLimit(head_);
    beside_.setLimit(beside_.scan().end());
}

void Playback::stop() {
    state_ = State::none;
    shown_.setLimit(std::nullopt);
    beside_.setLimit(std::nullopt);
}

void Playback::playFrom(std::size_t row) {
    const auto &scan = shown_.scan();
    if (state_ == State::none || scan.empty())
        return;
    head_ = std::clamp(row + 1, scan.first() + 1, scan.end());
    shown_.setLimit(head_);
    shown_.jump(head_ - 1);
    jumpBeside();
    state_ = State::playing;
    due_s_ = 0;
    clock_.restart();
    shown_.tellRows();
    emit stateChanged();
}

void Playback::pause() {
    if (state_ != State::playing)
        return;
    state_ = State::paused;
    emit stateChanged();
}

void Playback::showUpTo(std::size_t row) {
    if (state_ == State::none || row < head_ || row >= shown_.scan().end())
        return;
    head_ = row + 1;
    shown_.setLimit(head_);
    shown_.tellRows();
}

void Playback::advance() {
    const auto &scan = shown_.scan();
    if (state_ != State::playing || scan.empty())
        return;
    due_s_ += static_cast<double>(clock_.nsecsElapsed()) * 1e-9 * speed_;
    clock_.restart();
    QElapsedTimer work;
    work.start();
    while (head_ < scan.end() && work.elapsed() < 10) {
        // A gap in the trip is passed over at once.
        const double step =
            std::clamp(seconds_between(scan.facts(head_ - 1).time, scan.facts(head_).time), 0.0, 1.0);
        if (speed_ < at_once && step > due_s_)
            break;
        due_s_ = std::max(0.0, due_s_ - step);
        shown_.setLimit(head_ + 1);
        shown_.show(head_++);
    }
    const auto rows = beside_.end();
    showBeside();
    if (beside_.end() != rows)
        beside_.tellRows();
    due_s_ = std::min(due_s_, 1.0);
    if (head_ == scan.end()) {
        state_ = State::ended;
        emit stateChanged();
    }
}

} // namespace heron::app
