#include "ingest/sounder_link.hpp"

#include "ingest/live_intake.hpp"

namespace heron::app {
namespace {

constexpr int silent_after_ms = 3000;
constexpr int retry_ms = 1000;
constexpr qint64 most_unread = 1 << 20;
constexpr std::uint64_t much = 64 << 10; // bytes of garbage that are worth a word

} // namespace

SounderLink::SounderLink(LiveIntake &intake, int number, SourceConfig config)
    : QObject(&intake), intake_(intake), number_(number), config_(std::move(config)) {
    socket_.setReadBufferSize(most_unread); // who sends faster than it is taken waits
    connect(&socket_, &QTcpSocket::readyRead, this, &SounderLink::read);
    connect(&socket_, &QTcpSocket::connected, this, [this] {
        frames_.reset();
        skipped_at_open_ = frames_.skipped_bytes();
        silent_ = told_version_ = told_damage_ = false;
        open_ = true;
        heard_.start();
        intake_.say({number_, LinkState::Is::open, {}});
    });
    connect(&socket_, &QTcpSocket::disconnected, this, [this] {
        open_ = false;
        intake_.say({number_, LinkState::Is::lost, socket_.errorString()});
    });
    connect(&timer_, &QTimer::timeout, this, &SounderLink::watch);
    intake_.say({number_, LinkState::Is::connecting, {}});
    timer_.start(retry_ms);
    watch();
}

// Every second: what is not connected is tried again; what is connected and says nothing is told.
void SounderLink::watch() {
    const auto end = config_.host_port();
    if (socket_.state() == QAbstractSocket::UnconnectedState && end)
        socket_.connectToHost(end->host, end->port);
    if (open_ && pinging_ && !silent_ && heard_.elapsed() > silent_after_ms) {
        silent_ = true;
        intake_.say({number_, LinkState::Is::silent, {}});
    }
}

void SounderLink::ask(const SoundingSettings &settings) {
    if (!open_)
        return;
    pinging_ = settings.pinging;
    heard_.start();
    const auto frame = encode_frame(FrameType::request, encode_settings(settings));
    socket_.write(reinterpret_cast<const char *>(frame.data()), static_cast<qint64>(frame.size()));
}

void SounderLink::steer(Helm helm) {
    if (!open_)
        return;
    const auto frame = encode_frame(FrameType::note, encode_helm(helm));
    socket_.write(reinterpret_cast<const char *>(frame.data()), static_cast<qint64>(frame.size()));
}

void SounderLink::take(const Frame &frame) {
    std::optional<Fault> fault;
    switch (frame.type) {
    case FrameType::hello:
        if (auto hello = decode_hello(frame.payload))
            intake_.greeted(number_, std::move(*hello));
        else
            fault = hello.error();
        break;
    case FrameType::ping:
        if (auto ping = decode_ping(frame.payload)) {
            intake_.sounded(number_, std::move(*ping));
            heard_.start();
            if (silent_) {
                silent_ = false;
                intake_.say({number_, LinkState::Is::open, {}});
            }
        } else {
            fault = ping.error();
        }
        break;
    case FrameType::settings:
        if (const auto settings = decode_settings(frame.payload)) {
            pinging_ = settings->pinging;
            intake_.told(number_, *settings);
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
        intake_.push(*fault);
    }
}

void SounderLink::read() {
    const auto bytes = socket_.readAll();
    frames_.push(
        {reinterpret_cast<const std::uint8_t *>(bytes.constData()), static_cast<std::size_t>(bytes.size())});
    while (const auto frame = frames_.next())
        take(*frame);
    if (frames_.other_version() && !told_version_) {
        told_version_ = true;
        intake_.push(Fault{tr("the sounder speaks version %1 of the protocol, this program version %2")
                               .arg(*frames_.other_version())
                               .arg(wire_version)
                               .toStdString(),
                           tr("the picture so far and all marks are kept").toStdString(),
                           tr("bring both to the same version").toStdString()});
    }
    if (frames_.skipped_bytes() - skipped_at_open_ > much && !told_damage_ && !told_version_) {
        told_damage_ = true;
        intake_.push(Fault{tr("much of what the sounder sends is damaged").toStdString(),
                           tr("whole pings are taken, the rest is left out").toStdString(),
                           tr("check the cable and its plugs").toStdString()});
    }
}

} // namespace heron::app
