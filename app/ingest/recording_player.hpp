// Plays a recording through the same queue as a live sounder. Lives in a thread of its own. What it plays
// goes into a spool as well, a trip in a temporary folder, so that rows can be fetched again without opening
// the recording a second time.
#pragma once

#include "ingest/ingest_queue.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <QTemporaryDir>
#include <QTimer>
#include <array>
#include <atomic>
#include <memory>

namespace heron::app {

class RecordingPlayer : public QObject {
    Q_OBJECT
  public:
    RecordingPlayer(IngestQueue &queue, int feeder, QString path, double speed);
    /// It is not wanted any more: stops at the next ping. From any thread.
    void giveUp() { given_up_ = true; }

  public slots:
    void start();
    /// 0: paused; otherwise how many times faster than it was recorded; everything at once from 1000 on.
    void setSpeed(double speed);

  private:
    void play();
    void openSpool();
    void take(Ping ping);
    void say(IngestContent content) { queue_.push({feeder_, std::move(content)}); }

    IngestQueue &queue_;
    int feeder_;
    QString path_;
    std::unique_ptr<RecordingReader> reader_;
    std::shared_ptr<QTemporaryDir> spool_folder_;
    std::shared_ptr<Journal> spool_;
    std::array<RowAssembler, stream_count> assemblers_;
    std::array<std::size_t, stream_count> rows_{};
    QTimer *timer_ = nullptr;
    QElapsedTimer clock_;
    double speed_, played_s_ = 0; // seconds of the recording that are due
    std::size_t next_ = 0;
    std::atomic<bool> given_up_ = false;
    bool told_damage_ = false, ended_ = false;
};

} // namespace heron::app
