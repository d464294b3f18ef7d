#include "session/connections.hpp"

#include <algorithm>

namespace heron::app {

Connections::Connections(Notices &notices, QObject *parent) : QObject(parent), notices_(notices) {}

void Connections::setSources(const std::vector<SourceConfig> &sources) {
    all_.clear();
    for (const auto &s : sources)
        all_.push_back({s, LinkState::Is::connecting, {}, 0, {}, 0});
    emit changed();
}

bool Connections::hasSounder() const {
    return std::any_of(all_.begin(), all_.end(), [](const ConnectionStatus &c) {
        return c.config.kind == SourceConfig::Kind::sounder;
    });
}

void Connections::take(const LinkState &state) {
    const auto i = static_cast<std::size_t>(state.link);
    if (i >= all_.size())
        return;
    auto &c = all_[i];
    c.state = state.is;
    c.detail = state.detail;
    emit changed();
    if (c.config.kind == SourceConfig::Kind::sounder) {
        if (state.is == LinkState::Is::spare)
            notices_.say(QStringLiteral("sounder"),
                         tr("A second sounder of that kind is connected; its picture is not mixed in."));
        emit sounderLineChanged(state);
        return;
    }
    const auto topic = QStringLiteral("nmea");
    if (state.is == LinkState::Is::lost || state.is == LinkState::Is::silent)
        notices_.raise(
            topic, {tr("%1 has stopped").arg(c.config.address).toStdString(),
                    tr("the picture goes on; new marks have no place while positions or headings are missing")
                        .toStdString(),
                    tr("check that receiver; it is tried again every second").toStdString()});
    else if (state.is == LinkState::Is::open)
        notices_.pass(topic);
}

void Connections::take(const NavHeard &heard) {
    if (heard.water_temperature_c)
        water_temperature_c_ = heard.water_temperature_c;
    const auto i = static_cast<std::size_t>(heard.link);
    if (i >= all_.size())
        return;
    auto &c = all_[i];
    c.last_heard = heard.host_time;
    c.damaged = heard.damaged;
    c.positions = heard.positions;
    c.headings = heard.headings;
    if (!heard.type.empty())
        ++c.delivered[heard.type];
}

void Connections::take(const ClockTold &told) {
    if (told.stream == StreamId::side)
        clock_difference_s_ = told.difference_s;
    if (told.was_set)
        notices_.say(QStringLiteral("clock"),
                     tr("The sounder's clock was set; rows follow its own counter."));
}

void Connections::took(const RowTaken &row) {
    const auto i = static_cast<std::size_t>(row.link);
    if (i >= all_.size() || row.host_time == 0)
        return;
    all_[i].last_heard = row.host_time;
    ++all_[i].delivered["ping"];
}

void Connections::forgetTimes() {
    clock_difference_s_.reset();
    water_temperature_c_.reset();
    for (auto &c : all_)
        c.positions = c.headings = NavGuard::State::fine;
}

NavGuard::State Connections::positionState() const {
    for (const auto &c : all_)
        if (c.positions != NavGuard::State::fine)
            return c.positions;
    return NavGuard::State::fine;
}

NavGuard::State Connections::headingState() const {
    for (const auto &c : all_)
        if (c.headings != NavGuard::State::fine)
            return c.headings;
    return NavGuard::State::fine;
}

void Connections::tellAges() {
    emit changed();
    tellNavStates();
}

// What became of positions and headings.
void Connections::tellNavStates() {
    const auto tell = [this](NavGuard::State now, NavGuard::State &told, const QString &topic,
                             const QString &leaps, const QString &frozen, const QString &meanwhile) {
        if (now == told)
            return;
        told = now;
        if (now == NavGuard::State::fine)
            notices_.pass(topic);
        else
            notices_.raise(topic,
                           {(now == NavGuard::State::leaping ? leaps : frozen).toStdString(),
                            meanwhile.toStdString(), tr("check that receiver and its cable").toStdString()});
    };
    tell(positionState(), told_positions_, QStringLiteral("positions"),
         tr("the position leapt farther than a boat can go"),
         tr("the position stands still while the boat moves"),
         tr("pings meanwhile have no place; the picture goes on"));
    tell(headingState(), told_headings_, QStringLiteral("headings"),
         tr("the heading leapt faster than a boat can turn"), tr("the compass is frozen"),
         tr("the course over ground serves where the boat runs straight, with a wider error"));
}

} // namespace heron::app
