#include "ingest/source_config.hpp"

#include <QStringList>

namespace heron::app {

QString SourceConfig::text() const {
    const auto k = kind == Kind::sounder ? QStringLiteral("sounder") : QStringLiteral("nmea");
    const auto w = way == Way::tcp   ? QStringLiteral("tcp")
                   : way == Way::udp ? QStringLiteral("udp")
                                     : QStringLiteral("serial");
    return QStringList{k, w, address}.join(QLatin1Char(' '));
}

std::optional<SourceConfig> SourceConfig::from(const QString &text) {
    const auto words = text.split(QLatin1Char(' '), Qt::SkipEmptyParts);
    if (words.size() != 3)
        return std::nullopt;
    SourceConfig c;
    if (words[0] == QLatin1String("sounder"))
        c.kind = Kind::sounder;
    else if (words[0] != QLatin1String("nmea"))
        return std::nullopt;
    if (words[1] == QLatin1String("udp"))
        c.way = Way::udp;
    else if (words[1] == QLatin1String("serial"))
        c.way = Way::serial;
    else if (words[1] != QLatin1String("tcp"))
        return std::nullopt;
    c.address = words[2];
    // Pings need a stream that loses nothing and takes settings back.
    if (!c.usable() || (c.kind == Kind::sounder && c.way != Way::tcp))
        return std::nullopt;
    return c;
}

std::optional<SourceConfig::HostPort> SourceConfig::host_port() const {
    const auto colon = address.lastIndexOf(QLatin1Char(':'));
    bool good = false;
    const auto port = address.mid(colon + 1).toUShort(&good);
    if (colon <= 0 || !good || port == 0)
        return std::nullopt;
    return HostPort{address.left(colon), port};
}

std::optional<SourceConfig::Device> SourceConfig::device() const {
    const auto at = address.indexOf(QLatin1Char('@'));
    Device d;
    d.path = address.left(at < 0 ? address.size() : at);
    if (at >= 0) {
        bool good = false;
        d.baud = address.mid(at + 1).toInt(&good);
        if (!good || d.baud < 300 || d.baud > 4'000'000)
            return std::nullopt;
    }
    if (!d.path.startsWith(QLatin1Char('/')))
        return std::nullopt;
    return d;
}

} // namespace heron::app
