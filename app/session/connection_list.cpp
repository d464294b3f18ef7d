#include "session/connection_list.hpp"

#include "ingest/host_clock.hpp"
#include "units/units.hpp"

#include <QStringList>
#include <algorithm>

namespace heron::app {

ConnectionList::ConnectionList(Connections &connections, QObject *parent)
    : IdListModel(parent), connections_(connections) {
    connect(&connections_, &Connections::changed, this, &ConnectionList::arrange);
    arrange();
}

void ConnectionList::arrange() {
    std::vector<QString> ids;
    for (const auto &c : connections_.all())
        ids.push_back(c.config.text());
    setIds(std::move(ids));
}

const ConnectionStatus *ConnectionList::find(const QString &id) const {
    const auto &all = connections_.all();
    const auto at = std::find_if(all.begin(), all.end(),
                                 [&](const ConnectionStatus &c) { return c.config.text() == id; });
    return at == all.end() ? nullptr : &*at;
}

QString ConnectionList::delivers(const ConnectionStatus &c) {
    if (c.config.kind == SourceConfig::Kind::sounder) {
        const auto n = c.delivered.find("ping");
        return n == c.delivered.end() ? tr("nothing yet") : tr("%1 pings").arg(n->second);
    }
    QStringList things;
    const auto has = [&](std::initializer_list<const char *> types) {
        for (const char *t : types)
            if (c.delivered.contains(t))
                return true;
        return false;
    };
    if (has({"GGA", "RMC"}))
        things << tr("position");
    if (has({"HDT", "HDG", "HDM"}))
        things << tr("heading");
    if (has({"VTG", "RMC"}))
        things << tr("speed");
    if (has({"DPT", "DBT"}))
        things << tr("depth");
    if (has({"MTW"}))
        things << tr("temperature");
    if (c.damaged > 0)
        things << tr("%1 sentences damaged").arg(c.damaged);
    return things.isEmpty() ? tr("nothing yet") : things.join(QStringLiteral(" · "));
}

QString ConnectionList::stateOf(const ConnectionStatus &c) {
    switch (c.state) {
    case LinkState::Is::connecting:
        return tr("looking for it");
    case LinkState::Is::open:
        break;
    case LinkState::Is::silent:
        return tr("silent");
    case LinkState::Is::spare:
        return tr("connected, not mixed in: another of its kind is sounding");
    case LinkState::Is::lost:
        return c.detail.isEmpty() ? tr("lost, tried again") : tr("lost: %1").arg(c.detail);
    }
    if (c.last_heard == 0)
        return tr("open, nothing heard");
    const double age = seconds_between(c.last_heard, host_now());
    return tr("last heard %1 s ago").arg(QString::fromStdString(print_number(std::max(0.0, age), 1)));
}

QVariant ConnectionList::dataOf(const QString &id, int role) const {
    const auto *c = find(id);
    if (c == nullptr)
        return {};
    const auto kind = c->config.kind == SourceConfig::Kind::sounder ? tr("Sounder") : tr("NMEA 0183");
    const auto way = c->config.way == SourceConfig::Way::tcp   ? tr("TCP")
                     : c->config.way == SourceConfig::Way::udp ? tr("UDP")
                                                               : tr("serial");
    switch (role) {
    case id_role:
        return id;
    case Qt::DisplayRole:
        return tr("%1 · %2 %3").arg(kind, way, c->config.address);
    case subtitle_role:
        return tr("delivers %1").arg(delivers(*c));
    case detail_role:
        return stateOf(*c);
    case alarm_role:
        return c->state == LinkState::Is::lost || c->state == LinkState::Is::silent;
    default:
        return {};
    }
}

} // namespace heron::app
