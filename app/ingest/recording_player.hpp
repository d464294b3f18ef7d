// Plays a recording through the same queue as a live sounder. Lives in a thread of its own.
#pragma once

#include "ingest/ingest_queue.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <QTimer>
#include <memory>

namespace heron::app {

class RecordingPlayer : public QObject {
    Q_OBJECT
  public:
    RecordingPlayer(IngestQueue &queue, int feeder, QString path);

  public slots:
    void start();
    /// 0: paused; otherwise how many times faster than it was recorded; everything at once from 1000 on.
    void setSpeed(double speed);

  private:
    void play();
    void say(IngestContent content) { queue_.push({feeder_, std::move(content)}); }

    IngestQueue &queue_;
    int feeder_;
    QString path_;
    std::shared_ptr<RecordingReader> reader_;
    RowAssembler assembler_;
    QTimer *timer_ = nullptr;
    QElapsedTimer clock_;
    double speed_ = 8, played_s_ = 0; // seconds of the recording that are due
    std::size_t next_ = 0, rows_ = 0;
    bool told_damage_ = false, ended_ = false;
};

} // namespace heron::app
