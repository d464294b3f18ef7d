#include "ingest/recording_player.hpp"

namespace heron::app {

RecordingPlayer::RecordingPlayer(IngestQueue &queue, int feeder, QString path)
    : queue_(queue), feeder_(feeder), path_(std::move(path)) {}

void RecordingPlayer::start() {
    auto reader = RecordingReader::open(path_.toStdString());
    if (!reader) {
        auto fault = reader.error();
        fault.kept = tr("the picture and all marks are as they were").toStdString();
        if (fault.to_do.empty())
            fault.to_do = tr("choose another recording").toStdString();
        say(fault);
        say(RecordingEnds{});
        return;
    }
    reader_ = std::make_shared<RecordingReader>(std::move(*reader));
    say(RecordingBegins{reader_, path_});
    timer_ = new QTimer(this);
    connect(timer_, &QTimer::timeout, this, &RecordingPlayer::play);
    clock_.start();
    timer_->start(15);
    play();
}

void RecordingPlayer::setSpeed(double speed) {
    speed_ = speed;
    clock_.restart();
}

void RecordingPlayer::play() {
    if (!reader_ || ended_)
        return;
    played_s_ += static_cast<double>(clock_.nsecsElapsed()) * 1e-9 * speed_;
    clock_.restart();
    const UnixNs begin = reader_->time_of(0);
    for (int n = 0; n < 200 && next_ < reader_->size(); ++n) {
        // The drawing thread sets the pace: a file can wait, so nothing of it is ever dropped.
        if (queue_.size() > 500)
            return;
        const double due = seconds_between(begin, reader_->time_of(next_));
        if (speed_ < 1000 && due > played_s_)
            return;
        played_s_ = std::max(played_s_, due);
        auto ping = reader_->ping(next_++);
        if (!ping) {
            if (!told_damage_)
                say(ping.error());
            told_damage_ = true;
            continue;
        }
        SoundingSettings settings;
        settings.range_m = ping->range_m();
        settings.frequency_hz = ping->frequency_hz;
        settings.gain = ping->beams.empty() ? 0 : static_cast<int>(ping->beams.front().gain_db);
        if (auto row = assembler_.take(std::move(*ping), settings))
            say(RowTaken{rows_++, std::move(*row), next_, 0, 0});
    }
    if (next_ >= reader_->size()) {
        ended_ = true;
        say(RecordingEnds{});
    }
}

} // namespace heron::app
