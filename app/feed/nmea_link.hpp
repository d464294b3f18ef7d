// One source of NMEA 0183: a TCP server, UDP on a port, or a serial device. Connects, reads, comes back.
#pragma once

#include "feed_queue.hpp"
#include "recording/nmea.hpp"
#include "source_config.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <QTimer>

class QIODevice;

namespace heron::app {

class Intake;

class NmeaLink : public QObject {
    Q_OBJECT
  public:
    NmeaLink(Intake &intake, int number, SourceConfig config);

  private:
    void connectAgain();
    void watch();
    void opened();
    void lost(const QString &why);
    void take(const QByteArray &bytes);

    Intake &intake_;
    int number_;
    SourceConfig config_;
    QIODevice *device_ = nullptr;
    QTimer timer_;
    NmeaLines lines_;
    QElapsedTimer heard_;
    bool open_ = false, silent_ = false;
};

} // namespace heron::app
