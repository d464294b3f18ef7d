#include "ingest/live_intake.hpp"

#include "ingest/host_clock.hpp"
#include "ingest/nmea_link.hpp"
#include "ingest/sounder_link.hpp"

#include <QDateTime>
#include <QDir>
#include <cmath>

namespace heron::app {

LiveIntake::LiveIntake(IngestQueue &queue, int feeder, std::vector<SourceConfig> sources, QString trips,
                       QString water)
    : queue_(queue), feeder_(feeder), sources_(std::move(sources)), trips_(std::move(trips)),
      water_(std::move(water)) {}

LiveIntake::~LiveIntake() = default;

void LiveIntake::start() {
    int number = 0;
    for (const auto &s : sources_) {
        if (s.kind == SourceConfig::Kind::sounder)
            sounders_[number] = new SounderLink(*this, number, s);
        else
            new NmeaLink(*this, number, s);
        ++number;
    }
}

void LiveIntake::ask(StreamId stream, const SoundingSettings &settings) {
    if (const auto link = of(stream).link)
        sounders_.at(*link)->ask(settings);
}

void LiveIntake::steer(StreamId stream, Helm helm) {
    if (const auto link = of(stream).link)
        sounders_.at(*link)->steer(helm);
}

std::optional<StreamId> LiveIntake::stream_of_link(int link) const {
    for (const auto s : all_streams)
        if (streams_[static_cast<std::size_t>(s)].link == link)
            return s;
    return std::nullopt;
}

// The first sounder of a kind has the stream; a second one is told, and not mixed in.
std::optional<StreamId> LiveIntake::claim(int link, StreamId stream) {
    if (const auto had = stream_of_link(link))
        return had;
    auto &s = of(stream);
    if (s.link) {
        if (spare_.insert(link).second)
            push(LinkState{link, LinkState::Is::spare, {}, {}, asideOf(link)});
        return std::nullopt;
    }
    s.link = link;
    if (const auto hello = greetings_.find(link); hello != greetings_.end()) {
        s.hello = hello->second;
        push(HelloTold{stream, hello->second});
    }
    if (const auto settings = first_settings_.find(link); settings != first_settings_.end())
        push(SettingsTold{stream, settings->second});
    return stream;
}

void LiveIntake::heard(int link, std::string line) {
    const UnixNs now = host_now();
    auto &feed = feeds_[link];
    NavHeard told;
    told.link = link;
    told.host_time = now;
    const auto before = feed.decoder().receiver_time();
    feed.take(line, now, told.samples);
    if (const auto time = feed.decoder().receiver_time(); time && time != before)
        for (auto &s : streams_)
            s.clock.position(now, *time);
    if (const auto sentence = parse_nmea(line))
        told.type = sentence->type;
    told.positions = feed.guard().positions();
    told.headings = feed.guard().headings();
    told.damaged = feed.decoder().damaged();
    told.water_temperature_c = feed.decoder().water_temperature_c();
    if (journal_)
        journal_->heard({now, static_cast<std::uint8_t>(link), std::move(line)});
    push(std::move(told));
}

void LiveIntake::greeted(int link, SounderHello hello) {
    greetings_[link] = hello;
    if (const auto had = stream_of_link(link)) {
        of(*had).hello = hello;
        push(HelloTold{*had, std::move(hello)});
    } else if (hello.stream) {
        claim(link, *hello.stream);
    } else if (!of(StreamId::side).link) {
        // One that does not say what it is: most look aside; its first ping tells if it does not.
        push(HelloTold{StreamId::side, std::move(hello)});
    }
}

void LiveIntake::told(int link, const SoundingSettings &settings) {
    first_settings_[link] = settings;
    if (const auto stream = stream_of_link(link))
        push(SettingsTold{*stream, settings});
    else if (!of(StreamId::side).link && !greetings_[link].stream)
        push(SettingsTold{StreamId::side, settings});
}

bool LiveIntake::asideOf(int link) {
    const auto &side = of(StreamId::side).link;
    return side && *side != link;
}

void LiveIntake::say(LinkState state) {
    spare_.erase(state.link);
    state.stream = stream_of_link(state.link);
    state.aside = asideOf(state.link);
    if (state.stream && state.is == LinkState::Is::open)
        of(*state.stream).clock.restart();
    push(std::move(state));
}

void LiveIntake::sounded(int link, WirePing ping) {
    const UnixNs now = host_now();
    const auto stream = claim(link, stream_of(ping.ping));
    if (!stream)
        return;
    auto &s = of(*stream);
    if (ping.ping.time == 0)
        ping.ping.time = now; // a sounder that does not know the time
    const auto stamp = s.clock.stamp(ping.ping.time, ping.monotonic_ns, now);
    ping.ping.time = stamp.time;
    const auto difference = s.clock.difference_s();
    if (stamp.was_set || difference.has_value() != s.told_difference_s.has_value() ||
        (difference && std::fabs(*difference - *s.told_difference_s) > 0.01)) {
        s.told_difference_s = difference;
        push(ClockTold{*stream, difference, stamp.was_set});
    }
    auto row = s.assembler.take(std::move(ping.ping), ping.settings);
    if (!row)
        return;
    if (!journal_ && !trip_failed_ && !trips_.isEmpty())
        beginTrip(row->ping.time);
    RowTaken taken{*stream, link, s.rows, *row, ping.number, now};
    ++s.rows;
    if (journal_)
        taken.number = journal_->sounded(std::move(*row), *stream);
    push(std::move(taken));
}

// A trip begins with the first row: named by its day and its water.
void LiveIntake::beginTrip(UnixNs time) {
    TripHead head;
    head.started = time;
    head.water = water_.toStdString();
    const auto &stern = of(StreamId::side).hello, &bow = of(StreamId::around).hello;
    if (const auto &hello = stern ? stern : bow) {
        head.sounder = hello->name;
        head.installation = hello->installation;
    }
    const QDir folder(trips_);
    folder.mkpath(QStringLiteral("."));
    auto base =
        QDateTime::fromMSecsSinceEpoch(time / 1'000'000, Qt::UTC).toString(QStringLiteral("yyyy-MM-dd-hhmm"));
    if (!water_.isEmpty()) {
        auto plain = water_.toLower();
        for (auto &c : plain)
            if (!c.isLetterOrNumber())
                c = QLatin1Char('-');
        base += QLatin1Char('-') + plain;
    }
    auto name = base;
    for (int n = 2; folder.exists(name + QLatin1String(TripFile::suffix)); ++n)
        name = QStringLiteral("%1-%2").arg(base).arg(n);
    auto trip = TripFile::create(folder.filePath(name + QLatin1String(TripFile::suffix)).toStdString(), head);
    if (!trip) {
        trip_failed_ = true;
        auto fault = trip.error();
        fault.kept = tr("the picture goes on, but this trip is not kept").toStdString();
        push(fault);
        return;
    }
    journal_ =
        std::make_shared<Journal>(std::move(*trip), [&queue = queue_, feeder = feeder_](const Fault &why) {
            auto fault = why;
            fault.kept = tr("the picture goes on; what was written stays").toStdString();
            queue.push({feeder, fault});
        });
    push(TripBegins{journal_});
}

} // namespace heron::app
