#include "ingest/live_intake.hpp"

#include "ingest/host_clock.hpp"
#include "ingest/nmea_link.hpp"
#include "ingest/sounder_link.hpp"

#include <QDateTime>
#include <QDir>

namespace heron::app {

LiveIntake::LiveIntake(IngestQueue &queue, int feeder, std::vector<SourceConfig> sources, QString trips, QString water)
    : queue_(queue), feeder_(feeder), sources_(std::move(sources)), trips_(std::move(trips)),
      water_(std::move(water)) {}

LiveIntake::~LiveIntake() = default;

void LiveIntake::start() {
    int number = 0;
    for (const auto &s : sources_) {
        if (s.kind == SourceConfig::Kind::sounder)
            sounders_.push_back(new SounderLink(*this, number, s));
        else
            new NmeaLink(*this, number, s);
        ++number;
    }
}

void LiveIntake::ask(const SoundingSettings &settings) {
    for (auto *s : sounders_)
        s->ask(settings);
}

void LiveIntake::heard(int link, std::string line) {
    const UnixNs now = host_now();
    if (journal_)
        journal_->heard({now, static_cast<std::uint8_t>(link), line});
    push(NmeaHeard{link, now, std::move(line)});
}

void LiveIntake::greeted(SounderHello hello) {
    hello_ = hello;
    push(std::move(hello));
}

void LiveIntake::told(const SoundingSettings &settings) {
    push(SettingsTold{settings});
}

void LiveIntake::sounded(WirePing ping) {
    const UnixNs now = host_now();
    if (ping.ping.time == 0)
        ping.ping.time = now; // a sounder that does not know the time
    auto row = assembler_.take(std::move(ping.ping), ping.settings);
    if (!row)
        return;
    if (!journal_ && !trip_failed_ && !trips_.isEmpty())
        beginTrip(row->ping.time);
    RowTaken taken{rows_, *row, ping.number, ping.monotonic_ns, now};
    ++rows_;
    if (journal_)
        taken.number = journal_->sounded(std::move(*row));
    push(std::move(taken));
}

// A trip begins with the first row: named by its day and its water.
void LiveIntake::beginTrip(UnixNs time) {
    TripHead head;
    head.started = time;
    head.water = water_.toStdString();
    if (hello_) {
        head.sounder = hello_->name;
        head.installation = hello_->installation;
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
