// One source of NMEA 0183: a TCP server, UDP on a port, or a serial device. Connects, reads, comes back.
#pragma once

#include "ingest/ingest_queue.hpp"
#include "ingest/source_config.hpp"
#include "recording/nmea.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <QTimer>

class QIODevice;

namespace heron::app {

class LiveIntake;

class NmeaLink : public QObject {
    Q_OBJECT
  public:
    NmeaLink(LiveIntake &intake, int number, SourceConfig config);

  private:
    void connectAgain();
    void watch();
    void opened();
    void lost(const QString &why);
    void take(const QByteArray &bytes);

    LiveIntake &intake_;
    int number_;
    SourceConfig config_;
    QIODevice *device_ = nullptr;
    QTimer timer_;
    NmeaLines lines_;
    QElapsedTimer heard_;
    bool open_ = false, silent_ = false;
};

} // namespace heron::app
