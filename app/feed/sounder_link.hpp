// A sounder on its socket: connects, reads pings, sends settings, comes back.
#pragma once

#include "feed_queue.hpp"
#include "source_config.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <QTcpSocket>
#include <QTimer>

namespace heron::app {

class Intake;

class SounderLink : public QObject {
    Q_OBJECT
  public:
    SounderLink(Intake &intake, int number, SourceConfig config);
    void ask(const SoundingSettings &settings);

  private:
    void read();
    void watch();
    void take(const Frame &frame);

    Intake &intake_;
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
