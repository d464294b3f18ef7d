// heron-sounder: a sounder, a receiver and a compass that do not exist, on sockets of the loopback as real
// ones would be.
#include "recording/nmea.hpp"
#include "recording/recording.hpp"
#include "sim/sounder.hpp"

#include <CLI/CLI.hpp>
#include <QCoreApplication>
#include <QElapsedTimer>
#include <QTcpServer>
#include <QTcpSocket>
#include <QTimer>
#include <chrono>
#include <cmath>
#include <fmt/format.h>
#include <functional>
#include <map>
#include <optional>

namespace {

using namespace heron;

// Any number of listeners on one port; those that do not keep up lose whole messages, never parts.
class Port : public QObject {
  public:
    bool listen(quint16 port) { return server_.listen(QHostAddress::LocalHost, port); }
    quint16 number() const { return server_.serverPort(); }
    QString error() const { return server_.errorString(); }

    std::function<void(QTcpSocket &)> joined;
    std::function<void(QTcpSocket &)> said;

    void start() {
        connect(&server_, &QTcpServer::newConnection, this, [this] {
            while (auto *socket = server_.nextPendingConnection()) {
                sockets_.push_back(socket);
                connect(socket, &QTcpSocket::disconnected, this, [this, socket] {
                    std::erase(sockets_, socket);
                    socket->deleteLater();
                });
                connect(socket, &QTcpSocket::readyRead, this, [this, socket] {
                    if (said)
                        said(*socket);
                    else
                        socket->readAll();
                });
                if (joined)
                    joined(*socket);
            }
        });
    }
    void send(const char *data, std::size_t size) {
        constexpr qint64 most_waiting = 8 << 20;
        for (auto *s : sockets_)
            if (s->bytesToWrite() < most_waiting)
                s->write(data, static_cast<qint64>(size));
    }
    void send(const Bytes &b) { send(reinterpret_cast<const char *>(b.data()), b.size()); }

  private:
    QTcpServer server_;
    std::vector<QTcpSocket *> sockets_;
};

UnixNs now() {
    return std::chrono::duration_cast<std::chrono::nanoseconds>(
               std::chrono::system_clock::now().time_since_epoch())
        .count();
}

// The port of one device: it introduces itself, says its settings, and takes what is asked.
class DevicePort {
  public:
    std::function<SounderHello()> hello;
    std::function<SoundingSettings()> settings;
    std::function<void(const SoundingSettings &)> ask;
    std::function<void(Helm)> steer;
    Port port;

    void start() {
        port.joined = [this](QTcpSocket &socket) {
            for (const auto &frame : {encode_frame(FrameType::hello, encode_hello(hello())),
                                      encode_frame(FrameType::settings, encode_settings(settings()))})
                socket.write(reinterpret_cast<const char *>(frame.data()), static_cast<qint64>(frame.size()));
            readers_[&socket];
            QObject::connect(&socket, &QTcpSocket::disconnected,
                             [this, &socket] { readers_.erase(&socket); });
        };
        port.said = [this](QTcpSocket &socket) {
            const auto bytes = socket.readAll();
            auto &reader = readers_[&socket];
            reader.push({reinterpret_cast<const std::uint8_t *>(bytes.data()),
                         static_cast<std::size_t>(bytes.size())});
            while (const auto frame = reader.next()) {
                if (frame->type == FrameType::note) {
                    if (const auto helm = decode_helm(frame->payload))
                        steer(*helm);
                    continue;
                }
                if (frame->type != FrameType::request)
                    continue;
                if (const auto wanted = decode_settings(frame->payload))
                    ask(*wanted);
                port.send(encode_frame(FrameType::settings, encode_settings(settings())));
            }
        };
        port.start();
    }

  private:
    std::map<QTcpSocket *, FrameReader> readers_;
};

// `tells`: says on the standard output how far it is, a hundredth a line.
int record(sim::Sounder &sounder, const std::string &path, double seconds, bool of_head, bool tells) {
    RecordingHead head;
    head.title = sounder.scene().name;
    head.summary = "Made by heron-sounder; the lake does not exist";
    head.platform_name = "simulated boat";
    head.sonar_model = "heron-sounder";
    head.installation =
        of_head ? sounder.scene().boat.head_installation() : sounder.scene().boat.installation;
    head.water_temperature_c = sounder.scene().temperature_c;
    std::vector<Ping> pings;
    NmeaDecoder decoder;
    UnixNs start = 0;
    int told = -1;
    while (true) {
        auto event = sounder.next();
        if (start == 0)
            start = event.time;
        if (seconds_between(start, event.time) >= seconds)
            break;
        if (const int hundredths = static_cast<int>(100 * seconds_between(start, event.time) / seconds);
            tells && hundredths > told) {
            told = hundredths;
            fmt::print("{}\n", told);
            std::fflush(stdout);
        }
        for (auto &line : event.sentences) {
            decoder.take(line, event.time, head.nav);
            while (!line.empty() && (line.back() == '\n' || line.back() == '\r'))
                line.pop_back();
            head.sentences.emplace_back(event.time, line);
        }
        if (event.ping)
            pings.push_back(std::move(event.ping->ping));
        if (event.ray)
            pings.push_back(std::move(event.ray->ping));
    }
    if (!pings.empty())
        head.sound_speed_m_s = pings.front().sound_speed_m_s;
    auto writer = RecordingWriter::create(path, head);
    Result<void> result;
    if (!writer)
        result = tl::unexpected(writer.error());
    for (const auto &p : pings)
        if (result)
            result = writer->add(p);
    if (result)
        result = writer->finish();
    if (!result) {
        fmt::print(stderr, "heron-sounder: {}\n", result.error().line());
        return 2;
    }
    fmt::print("{} pings written to {}\n", pings.size(), path);
    return 0;
}

} // namespace

int main(int argc, char **argv) {
    CLI::App options{"A simulated sounder: NMEA 0183 on one TCP port of the loopback, pings on another, a "
                     "turning head's on a "
                     "third (docs/wire.md)."};
    std::string scene_path, record_path;
    int ping_port = 10121, nmea_port = 10110, head_port = 10122;
    std::string device = "side";
    bool hold = false;
    double speed_up = 1, seconds = 60;
    std::string start_text;
    options.add_option("SCENE", scene_path, "The lake, as docs/scene.md describes it (JSON)")->required();
    options.add_option("--port", ping_port, "TCP port for pings and settings; 0 takes any free one")
        ->capture_default_str();
    options.add_option("--nmea-port", nmea_port, "TCP port for NMEA 0183; 0 takes any free one")
        ->capture_default_str();
    options.add_option("--device", device, "What sounds: side, head, or both")
        ->check(CLI::IsMember({"side", "head", "both"}))
        ->capture_default_str();
    options.add_option("--head-port", head_port, "TCP port for the turning head; 0 takes any free one")
        ->capture_default_str();
    options.add_flag("--hold", hold, "The boat holds over the spot of the scene from the start");
    options.add_option("--speed-up", speed_up, "How many times faster than real time it runs")
        ->check(CLI::Range(0.01, 1000.0))
        ->capture_default_str();
    options.add_option("--start", start_text, "Simulated time at the start (RFC 3339); now, if not given");
    options.add_option("--record", record_path, "Write a recording (.nc) instead of opening ports");
    options.add_option("--seconds", seconds, "How much of it to record")
        ->check(CLI::Range(0.1, 86400.0))
        ->capture_default_str();
    std::optional<double> range_m, band_khz, gain, tvg_log, step_deg, sector_from_deg, sector_wide_deg;
    std::optional<int> pace;
    options.add_option("--range", range_m, "Range to each side or of the head, metres")
        ->check(CLI::Range(5.0, 60.0));
    options.add_option("--step", step_deg, "Of the head: degrees from ray to ray")
        ->check(CLI::Range(0.9, 5.4));
    options.add_option("--pace", pace, "Of the head: 1, slow, to 5, fast")->check(CLI::Range(1, 5));
    options.add_option("--sector-from", sector_from_deg, "Of the head: degrees clockwise off the bow")
        ->check(CLI::Range(-180.0, 360.0));
    options
        .add_option("--sector", sector_wide_deg, "Of the head: how wide its sector is, degrees; 360 is all")
        ->check(CLI::Range(10.0, 360.0));
    options.add_option("--band", band_khz, "Band, kHz; the nearest that there is")
        ->check(CLI::Range(1.0, 1e5));
    options.add_option("--gain", gain, "Gain, in steps")->check(CLI::Range(0.0, 100.0));
    options.add_option("--tvg", tvg_log, "Time-varied gain: so many times log10 of the range")
        ->check(CLI::Range(0.0, 60.0));
    bool tells = false;
    options.add_flag("--progress", tells,
                     "With --record: say how far it is, a line a hundredth, from 0 to 99");
    bool of_scatterers = false;
    options.add_flag("--scatterers", of_scatterers,
                     "Hear the lake as the coherent sum over scatterers: slower, apart from the rays");
    CLI11_PARSE(options, argc, argv);

    auto scene = sim::read_scene_file(scene_path);
    if (!scene) {
        fmt::print(stderr, "heron-sounder: {}\n", scene.error().line());
        return 2;
    }
    if (of_scatterers && scene->cold) {
        fmt::print(stderr,
                   "heron-sounder: {} has layered water, which scatterers do not hear: hear it by rays\n",
                   scene_path);
        return 2;
    }
    if (of_scatterers)
        scene->engine = sim::Engine::scatterers;
    UnixNs start = now();
    if (!start_text.empty()) {
        const auto t = parse_rfc3339(start_text);
        if (!t) {
            fmt::print(stderr, "heron-sounder: '{}' is no RFC 3339 time, such as 2026-05-14T06:12:40Z\n",
                       start_text);
            return 2;
        }
        start = *t;
    }
    sim::Sounder sounder(std::move(*scene), start);
    const auto as_asked = [&](SoundingSettings first) {
        first.range_m = range_m.value_or(first.range_m);
        first.frequency_hz = band_khz ? *band_khz * 1000 : first.frequency_hz;
        first.gain = static_cast<int>(std::lround(gain.value_or(first.gain)));
        first.tvg_log = tvg_log.value_or(first.tvg_log);
        return first;
    };
    const bool side_sounds = device != "head", head_sounds = device != "side";
    auto first = as_asked(sounder.settings());
    first.pinging = side_sounds;
    sounder.ask(first);
    if (head_sounds) {
        auto turns = device == "head" ? as_asked(sounder.head_settings()) : sounder.head_settings();
        turns.pinging = true;
        turns.turning->step_deg = step_deg.value_or(turns.turning->step_deg);
        turns.turning->pace = pace.value_or(turns.turning->pace);
        turns.turning->from_deg = sector_from_deg.value_or(turns.turning->from_deg);
        turns.turning->wide_deg = sector_wide_deg.value_or(turns.turning->wide_deg);
        sounder.ask_head(turns);
    }
    if (hold && !sounder.scene().boat.hold) {
        fmt::print(stderr, "heron-sounder: {} has no spot to hold over; docs/scene.md: boat, hold\n",
                   scene_path);
        return 2;
    }
    if (hold)
        sounder.put_on_hold();
    if (!record_path.empty())
        return record(sounder, record_path, seconds, !side_sounds, tells);

    const QCoreApplication application(argc, argv);
    DevicePort side, turning;
    Port nmea;
    auto &pings = side.port, &rays = turning.port;
    if (!pings.listen(static_cast<quint16>(ping_port)) || !nmea.listen(static_cast<quint16>(nmea_port)) ||
        (head_sounds && !rays.listen(static_cast<quint16>(head_port)))) {
        fmt::print(stderr, "heron-sounder: a port cannot be opened: {} {} {}; is another one running?\n",
                   pings.error().toStdString(), nmea.error().toStdString(), rays.error().toStdString());
        return 2;
    }
    side.hello = [&] { return sounder.hello(); };
    side.settings = [&] { return sounder.settings(); };
    side.ask = [&](const SoundingSettings &s) { sounder.ask(s); };
    turning.hello = [&] { return sounder.head_hello(); };
    turning.settings = [&] { return sounder.head_settings(); };
    turning.ask = [&](const SoundingSettings &s) { sounder.ask_head(s); };
    side.steer = turning.steer = [&](Helm helm) { sounder.hold(helm == Helm::hold); };
    side.start();
    if (head_sounds)
        turning.start();
    nmea.start();
    fmt::print("pings on {}, NMEA 0183 on {}", pings.number(), nmea.number());
    if (head_sounds)
        fmt::print(", head on {}", rays.number());
    fmt::print("\n");
    std::fflush(stdout);

    QElapsedTimer clock;
    clock.start();
    std::optional<sim::Sounder::Event> waiting;
    QTimer timer;
    QObject::connect(&timer, &QTimer::timeout, [&] {
        const UnixNs due =
            start + static_cast<std::int64_t>(static_cast<double>(clock.nsecsElapsed()) * speed_up);
        // A machine too slow for the speed asked falls behind rather than freeze: at most 20 ms of work in
        // one go.
        QElapsedTimer work;
        work.start();
        while (work.elapsed() < 20) {
            if (!waiting)
                waiting = sounder.next();
            if (waiting->time > due)
                break;
            if (waiting->ping)
                pings.send(encode_frame(FrameType::ping, encode_ping(*waiting->ping)));
            if (waiting->ray)
                rays.send(encode_frame(FrameType::ping, encode_ping(*waiting->ray)));
            for (const auto &line : waiting->sentences)
                nmea.send(line.data(), line.size());
            waiting.reset();
        }
    });
    timer.setTimerType(Qt::PreciseTimer);
    timer.start(5);
    return QCoreApplication::exec();
}
