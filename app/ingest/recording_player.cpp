#include "ingest/recording_player.hpp"

namespace heron::app {
namespace {

constexpr std::size_t most_queued = 500;         // rows that wait to be drawn
constexpr std::size_t most_to_spool = 16u << 20; // bytes that wait to be written

} // namespace

RecordingPlayer::RecordingPlayer(IngestQueue &queue, int feeder, QString path, double speed)
    : queue_(queue), feeder_(feeder), path_(std::move(path)), speed_(speed) {}

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
    reader_ = std::make_unique<RecordingReader>(std::move(*reader));
    openSpool();
    RecordingBegins begins;
    begins.head = reader_->head();
    begins.warnings = reader_->warnings();
    begins.path = path_;
    begins.id = QStringLiteral("recording-%1-%2").arg(reader_->time_of(0)).arg(reader_->size());
    begins.spool = spool_;
    begins.spool_folder = spool_folder_;
    say(std::move(begins));
    timer_ = new QTimer(this);
    connect(timer_, &QTimer::timeout, this, &RecordingPlayer::play);
    clock_.start();
    timer_->start(15);
    play();
}

// Without a spool only the newest rows can be looked back at.
void RecordingPlayer::openSpool() {
    spool_folder_ = std::make_shared<QTemporaryDir>();
    TripHead head;
    head.started = reader_->time_of(0);
    head.installation = reader_->head().installation;
    auto trip = TripFile::create(
        std::filesystem::path(spool_folder_->path().toStdString()) / "spool.trip.gpkg", head);
    if (!trip)
        return;
    trip->database().run("PRAGMA synchronous = OFF"); // it need not survive anything
    spool_ = std::make_shared<Journal>(std::move(*trip), [](const Fault &) {});
}

void RecordingPlayer::setSpeed(double speed) {
    speed_ = speed;
    clock_.restart();
}

void RecordingPlayer::take(Ping ping) {
    SoundingSettings settings;
    settings.range_m = ping.range_m();
    settings.frequency_hz = ping.frequency_hz;
    settings.gain = ping.beams.empty() ? 0 : static_cast<int>(ping.beams.front().gain_db);
    const auto stream = stream_of(ping);
    const auto i = static_cast<std::size_t>(stream);
    auto row = assemblers_[i].take(std::move(ping), settings);
    if (!row)
        return;
    RowTaken taken{stream, 0, rows_[i]++, *row, next_, 0};
    if (spool_)
        taken.number = spool_->sounded(std::move(*row), stream);
    say(std::move(taken));
}

void RecordingPlayer::play() {
    if (!reader_ || ended_)
        return;
    played_s_ += static_cast<double>(clock_.nsecsElapsed()) * 1e-9 * speed_;
    clock_.restart();
    const UnixNs begin = reader_->time_of(0);
    for (int n = 0; n < 200 && next_ < reader_->size() && !given_up_; ++n) {
        // The drawing thread and the disk set the pace: a file can wait, so nothing of it is ever dropped.
        if (queue_.size() > most_queued || queue_.bytes() > IngestQueue::most_bytes / 2 ||
            (spool_ && spool_->waiting_bytes() > most_to_spool))
            return;
        const double due = seconds_between(begin, reader_->time_of(next_));
        if (speed_ < 1000 && due > played_s_)
            return;
        played_s_ = std::max(played_s_, due);
        auto ping = reader_->ping(next_++);
        if (ping) {
            take(std::move(*ping));
        } else {
            if (!told_damage_)
                say(ping.error());
            told_damage_ = true;
        }
    }
    if (next_ >= reader_->size()) {
        ended_ = true;
        say(RecordingEnds{});
    }
}

} // namespace heron::app
