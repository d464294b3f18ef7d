// What is connected: sounders and NMEA sources, and how each is reached.
#pragma once

#include <QString>
#include <optional>

namespace heron::app {

struct SourceConfig {
    enum class Kind { sounder, nmea };
    enum class Way { tcp, udp, serial };
    Kind kind = Kind::nmea;
    Way way = Way::tcp;
    QString address; ///< host:port, or the device's path with its speed behind an @
    bool operator==(const SourceConfig &) const = default;

    /// "nmea tcp 127.0.0.1:10110", as it is kept between starts.
    QString text() const;
    /// Nothing for text that is no such line or whose address cannot be used.
    static std::optional<SourceConfig> from(const QString &text);

    struct HostPort {
        QString host;
        quint16 port = 0;
    };
    std::optional<HostPort> host_port() const;
    struct Device {
        QString path;
        int baud = 4800; ///< the speed of NMEA 0183
    };
    std::optional<Device> device() const;
    bool usable() const { return way == Way::serial ? device().has_value() : host_port().has_value(); }
};

} // namespace heron::app
