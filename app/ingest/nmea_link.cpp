#include "ingest/nmea_link.hpp"

#include "ingest/live_intake.hpp"

#include <QNetworkDatagram>
#include <QSerialPort>
#include <QTcpSocket>
#include <QUdpSocket>

namespace heron::app {
namespace {

constexpr int nmea_retry_ms = 1000;
constexpr int nmea_silent_after_ms = 5000;

} // namespace

NmeaLink::NmeaLink(LiveIntake &intake, int number, SourceConfig config)
    : QObject(&intake), intake_(intake), number_(number), config_(std::move(config)) {
    intake_.say({number_, LinkState::Is::connecting, {}});
    connect(&timer_, &QTimer::timeout, this, &NmeaLink::watch);
    timer_.start(nmea_retry_ms);
    connectAgain();
}

void NmeaLink::connectAgain() {
    if (device_ == nullptr) {
        if (config_.way == SourceConfig::Way::tcp) {
            auto *socket = new QTcpSocket(this);
            connect(socket, &QTcpSocket::connected, this, &NmeaLink::opened);
            connect(socket, &QTcpSocket::disconnected, this, [this, socket] { lost(socket->errorString()); });
            connect(socket, &QTcpSocket::readyRead, this, [this, socket] { take(socket->readAll()); });
            device_ = socket;
        } else if (config_.way == SourceConfig::Way::udp) {
            auto *socket = new QUdpSocket(this);
            connect(socket, &QUdpSocket::readyRead, this, [this, socket] {
                while (socket->hasPendingDatagrams())
                    take(socket->receiveDatagram().data());
            });
            device_ = socket;
        } else {
            auto *port = new QSerialPort(this);
            connect(port, &QSerialPort::readyRead, this, [this, port] { take(port->readAll()); });
            connect(port, &QSerialPort::errorOccurred, this, [this, port](QSerialPort::SerialPortError e) {
                if (e == QSerialPort::ResourceError) {
                    port->close(); // it was pulled
                    lost(port->errorString());
                }
            });
            device_ = port;
        }
    }
    const auto end = config_.host_port();
    if (auto *tcp = qobject_cast<QTcpSocket *>(device_)) {
        if (tcp->state() == QAbstractSocket::UnconnectedState && end)
            tcp->connectToHost(end->host, end->port);
    } else if (auto *udp = qobject_cast<QUdpSocket *>(device_)) {
        if (udp->state() != QAbstractSocket::BoundState && end &&
            udp->bind(QHostAddress(end->host), end->port, QUdpSocket::ShareAddress))
            opened();
    } else if (auto *port = qobject_cast<QSerialPort *>(device_)) {
        const auto device = config_.device();
        if (port->isOpen() || !device)
            return;
        port->setPortName(device->path);
        port->setBaudRate(device->baud);
        if (port->open(QIODevice::ReadOnly))
            opened();
    }
}

void NmeaLink::opened() {
    open_ = true;
    silent_ = false;
    heard_.start();
    intake_.say({number_, LinkState::Is::open, {}});
}

void NmeaLink::lost(const QString &why) {
    open_ = false;
    intake_.say({number_, LinkState::Is::lost, why});
}

// Every second: what is not connected is tried again; what is connected and says nothing is told.
void NmeaLink::watch() {
    connectAgain();
    if (open_ && !silent_ && heard_.elapsed() > nmea_silent_after_ms) {
        silent_ = true;
        intake_.say({number_, LinkState::Is::silent, {}});
    }
}

void NmeaLink::take(const QByteArray &bytes) {
    auto lines = lines_.push({bytes.constData(), static_cast<std::size_t>(bytes.size())});
    if (!lines.empty()) {
        heard_.start();
        if (silent_) {
            silent_ = false;
            intake_.say({number_, LinkState::Is::open, {}});
        }
    }
    for (auto &line : lines)
        intake_.heard(number_, std::move(line));
}

} // namespace heron::app
