// The sounder and the NMEA source on their sockets: connects, reads, reconnects. Lives in a thread of its
// own.
#pragma once

#include "feed_queue.hpp"
#include "recording/nmea.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <QTcpSocket>
#include <QTimer>

namespace heron::app {

struct Endpoint {
    QString host;
    quint16 port = 0;
};

class SounderLink : public QObject {
    Q_OBJECT
  public:
    SounderLink(FeedQueue &queue, int source, Endpoint pings, Endpoint nmea);

  public slots:
    void start();
    void ask(const heron::SoundingSettings &settings);

  private:
    void readPings();
    void readNmea();
    void watch();
    void tell(LinkState::Port port, LinkState::Is is, const QString &detail = {});
    void push(FeedContent content) { queue_.push({source_, std::move(content)}); }

    FeedQueue &queue_;
    int source_;
    Endpoint ping_end_, nmea_end_;
    QTcpSocket *pings_ = nullptr, *nmea_ = nullptr;
    QTimer *timer_ = nullptr;
    FrameReader frames_;
    NmeaLines lines_;
    QElapsedTimer heard_;
    bool silent_ = false, pinging_ = true, told_version_ = false, told_damage_ = false, ping_open_ = false,
         nmea_open_ = false;
    std::uint64_t skipped_at_open_ = 0;
};

} // namespace heron::app
Q_DECLARE_METATYPE(heron::SoundingSettings)
