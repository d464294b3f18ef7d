// A sounder on its socket: connects, reads pings, sends settings, comes back.
#pragma once

#include "ingest/ingest_queue.hpp"
#include "ingest/source_config.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <QTcpSocket>
#include <QTimer>

namespace heron::app {

class LiveIntake;

class SounderLink : public QObject {
    Q_OBJECT
  public:
    SounderLink(LiveIntake &intake, int number, SourceConfig config);
    void ask(const SoundingSettings &settings);
    void steer(Helm helm);

  private:
    void read();
    void watch();
    void take(const Frame &frame);

    LiveIntake &intake_;
    int number_;
    SourceConfig config_;
    QTcpSocket socket_;
    QTimer timer_;
    FrameReader frames_;
    QElapsedTimer heard_;
    bool open_ = false, silent_ = false, pinging_ = true, told_version_ = false, told_damage_ = false;
    std::uint64_t skipped_at_open_ = 0;
};

} // namespace heron::app
