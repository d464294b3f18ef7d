#include "sounder_link.hpp"

#include <QDateTime>

namespace heron::app {
namespace {

constexpr int silent_after_ms = 3000;
constexpr int retry_ms = 1000;

} // namespace

SounderLink::SounderLink(FeedQueue &queue, int source, Endpoint pings, Endpoint nmea)
    : queue_(queue), source_(source), ping_end_(std::move(pings)), nmea_end_(std::move(nmea)) {}

void SounderLink::tell(LinkState::Port port, LinkState::Is is, const QString &detail) {
    push(LinkState{port, is, detail});
}

void SounderLink::start() {
    pings_ = new QTcpSocket(this);
    nmea_ = new QTcpSocket(this);
    timer_ = new QTimer(this);
    connect(pings_, &QTcpSocket::readyRead, this, &SounderLink::readPings);
    connect(nmea_, &QTcpSocket::readyRead, this, &SounderLink::readNmea);
    connect(pings_, &QTcpSocket::connected, this, [this] {
        frames_.reset();
        skipped_at_open_ = frames_.skipped_bytes();
        silent_ = told_version_ = told_damage_ = false;
        ping_open_ = true;
        heard_.start();
        tell(LinkState::Port::pings, LinkState::Is::open);
    });
    connect(nmea_, &QTcpSocket::connected, this, [this] {
        nmea_open_ = true;
        tell(LinkState::Port::nmea, LinkState::Is::open);
    });
    connect(pings_, &QTcpSocket::disconnected, this, [this] {
        ping_open_ = false;
        tell(LinkState::Port::pings, LinkState::Is::lost, pings_->errorString());
    });
    connect(nmea_, &QTcpSocket::disconnected, this, [this] {
        nmea_open_ = false;
        tell(LinkState::Port::nmea, LinkState::Is::lost, nmea_->errorString());
    });
    connect(timer_, &QTimer::timeout, this, &SounderLink::watch);
    tell(LinkState::Port::pings, LinkState::Is::connecting);
    timer_->start(retry_ms);
    watch();
}

// Every second: what is not connected is tried again; what is connected and says nothing is told.
void SounderLink::watch() {
    const auto retry = [](QTcpSocket &socket, const Endpoint &end) {
        if (socket.state() != QAbstractSocket::UnconnectedState)
            return;
        socket.connectToHost(end.host, end.port);
    };
    retry(*pings_, ping_end_);
    retry(*nmea_, nmea_end_);
    if (ping_open_ && pinging_ && !silent_ && heard_.elapsed() > silent_after_ms) {
        silent_ = true;
        tell(LinkState::Port::pings, LinkState::Is::silent);
    }
}

void SounderLink::ask(const SoundingSettings &settings) {
    if (pings_ == nullptr || !ping_open_)
        return;
    pinging_ = settings.pinging;
    heard_.start();
    const auto frame = encode_frame(FrameType::request, encode_settings(settings));
    pings_->write(reinterpret_cast<const char *>(frame.data()), static_cast<qint64>(frame.size()));
}

void SounderLink::readPings() {
    const auto bytes = pings_->readAll();
    frames_.push(
        {reinterpret_cast<const std::uint8_t *>(bytes.constData()), static_cast<std::size_t>(bytes.size())});
    while (auto frame = frames_.next()) {
        std::optional<Fault> fault;
        switch (frame->type) {
        case FrameType::hello:
            if (auto hello = decode_hello(frame->payload))
                push(std::move(*hello));
            else
                fault = hello.error();
            break;
        case FrameType::ping:
            if (auto ping = decode_ping(frame->payload)) {
                if (ping->ping.time == 0)
                    ping->ping.time = QDateTime::currentMSecsSinceEpoch() * 1'000'000;
                push(std::move(*ping));
                heard_.start();
                if (silent_) {
                    silent_ = false;
                    tell(LinkState::Port::pings, LinkState::Is::open);
                }
            } else {
                fault = ping.error();
            }
            break;
        case FrameType::settings:
            if (auto settings = decode_settings(frame->payload)) {
                pinging_ = settings->pinging;
                push(SettingsTold{*settings});
            } else {
                fault = settings.error();
            }
            break;
        case FrameType::request:
        case FrameType::note:
            break; // a request is ours to send; notes are for later versions
        }
        if (fault && !told_damage_) {
            told_damage_ = true;
            push(*fault);
        }
    }
    if (frames_.other_version() && !told_version_) {
        told_version_ = true;
        push(Fault{tr("the sounder speaks version %1 of the protocol, this program version %2")
                       .arg(*frames_.other_version())
                       .arg(wire_version)
                       .toStdString(),
                   tr("the picture so far and all marks are kept").toStdString(),
                   tr("bring both to the same version").toStdString()});
    }
    constexpr std::uint64_t much = 64 << 10;
    if (frames_.skipped_bytes() - skipped_at_open_ > much && !told_damage_ && !told_version_) {
        told_damage_ = true;
        push(Fault{tr("much of what the sounder sends is damaged").toStdString(),
                   tr("whole pings are taken, the rest is left out").toStdString(),
                   tr("check the cable and its plugs").toStdString()});
    }
}

void SounderLink::readNmea() {
    const auto bytes = nmea_->readAll();
    const UnixNs now = QDateTime::currentMSecsSinceEpoch() * 1'000'000;
    for (auto &line : lines_.push({bytes.constData(), static_cast<std::size_t>(bytes.size())}))
        push(NmeaHeard{now, std::move(line)});
}

} // namespace heron::app
