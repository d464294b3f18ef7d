#include "session/survey.hpp"

#include "ingest/host_clock.hpp"
#include "ingest/live_intake.hpp"
#include "ingest/recording_player.hpp"
#include "kit/counted.hpp"

#include <QFileInfo>
#include <algorithm>
#include <cmath>
#include <utility>

namespace heron::app {

Survey::Survey(QObject *parent) : QObject(parent) {
    qRegisterMetaType<SoundingSettings>();
    timer_.setTimerType(Qt::PreciseTimer);
    connect(&timer_, &QTimer::timeout, this, &Survey::drain);
    timer_.start(16);
    knowledge_clock_.start();
    play_clock_.start();
}

Survey::~Survey() {
    stopFeeder(pending_);
    stopFeeder(active_);
    closeTrip();
}

Survey::Feeder Survey::startFeeder(QObject *worker, int number) {
    Feeder feeder{std::make_unique<QThread>(), worker, number};
    worker->moveToThread(feeder.thread.get());
    connect(feeder.thread.get(), &QThread::finished, worker, &QObject::deleteLater);
    feeder.thread->start();
    QMetaObject::invokeMethod(worker, "start", Qt::QueuedConnection);
    return feeder;
}

void Survey::stopFeeder(Feeder &feeder) {
    if (feeder.thread) {
        feeder.thread->quit();
        feeder.thread->wait();
    }
    feeder = Feeder();
}

void Survey::beginScan() {
    scan_ = std::make_unique<Scan>();
    scan_->nav.course_serves_where_compass_fails = source_ == Source::sounder;
    overview_.clear();
    strokes_.clear();
    before_strokes_.clear();
    ++scan_number_;
    feeds_.clear();
    clocks_.clear();
    clock_shift_s_ = 0;
    sounder_base_.reset();
    last_transmission_.reset();
    lost_pings_ = 0;
    levels_ = LevelHistogram();
    angles_.clear();
    window_rows_ = 0;
    window_follows_ = true;
    head_ = 0;
    emit scanReplaced();
    emit stateChanged();
}

void Survey::listenTo(std::vector<SourceConfig> sources) {
    sources_ = std::move(sources);
    connections_.clear();
    for (const auto &s : sources_)
        connections_.push_back({s, LinkState::Is::connecting, {}, 0, {}, 0});
    emit connectionsChanged();
    backToSounder();
}

bool Survey::hasSounder() const {
    return std::any_of(sources_.begin(), sources_.end(),
                       [](const SourceConfig &s) { return s.kind == SourceConfig::Kind::sounder; });
}

void Survey::backToSounder() {
    if (sources_.empty())
        return;
    stopFeeder(pending_);
    stopFeeder(active_);
    closeTrip();
    source_ = Source::sounder;
    source_name_ = water_.isEmpty() ? tr("Sounder") : water_;
    flow_ = Flow::waiting;
    hello_.reset();
    beginScan();
    const int number = ++feeders_;
    active_ = startFeeder(new LiveIntake(queue_, number, sources_, trip_folder_, water_), number);
}

void Survey::beginNewTrip() {
    if (source_ == Source::sounder)
        backToSounder();
}

void Survey::openRecording(const QString &path) {
    // What runs goes on until the recording has proved to be one.
    stopFeeder(pending_);
    const int number = ++feeders_;
    pending_ = startFeeder(new RecordingPlayer(queue_, number, path), number);
}

void Survey::setPlaySpeed(double speed) {
    play_speed_ = speed;
    if (auto *player = qobject_cast<RecordingPlayer *>(active_.worker))
        QMetaObject::invokeMethod(
            player, [player, speed] { player->setSpeed(speed); }, Qt::QueuedConnection);
    emit settingsChanged();
}

void Survey::ask(const SoundingSettings &settings) {
    asked_ = settings;
    asked_clock_.start();
    if (auto *intake = qobject_cast<LiveIntake *>(active_.worker))
        QMetaObject::invokeMethod(
            intake, [intake, settings] { intake->ask(settings); }, Qt::QueuedConnection);
}

QString Survey::stateText() const {
    switch (source_) {
    case Source::none:
        return tr("no source");
    case Source::recording:
        return flow_ == Flow::ended ? tr("recording, at its end") : tr("recording");
    case Source::trip:
        return flow_ == Flow::flowing ? tr("trip, playing") : tr("trip");
    case Source::sounder:
        break;
    }
    switch (flow_) {
    case Flow::waiting:
        return tr("looking for the sounder");
    case Flow::flowing:
        return settings_.pinging ? tr("live") : tr("not pinging");
    case Flow::silent:
        return tr("the sounder is silent");
    case Flow::lost:
        return tr("connection lost");
    case Flow::paused:
    case Flow::ended:
        return tr("ended");
    }
    return {};
}

void Survey::drain() {
    QElapsedTimer work;
    work.start();
    const auto before = end();
    const int number = scan_number_;
    while (work.elapsed() < 10) {
        auto item = queue_.pop();
        if (!item)
            break;
        if (item->feeder == pending_.number) {
            if (std::holds_alternative<RecordingEnds>(item->content)) {
                stopFeeder(pending_);
                continue;
            }
            if (std::holds_alternative<RecordingBegins>(item->content)) {
                stopFeeder(active_);
                closeTrip();
                active_ = std::exchange(pending_, Feeder());
                setPlaySpeed(play_speed_);
            }
            take(item->content);
        } else if (item->feeder == active_.number) {
            take(item->content);
        }
    }
    if (source_ == Source::trip)
        advancePlay();
    if (end() != before || scan_number_ != number) {
        settleWindow();
        emit rowsAdded();
    }
    scan_->trim(); // what a look back has fetched, too
    if (knowledge_clock_.elapsed() > 1000) {
        knowledge_clock_.restart();
        writeKnowledge(false);
        tellNavStates();
    }
    if (queue_.dropped() > told_dropped_) {
        told_dropped_ = queue_.dropped();
        emit faultRaised(QStringLiteral("queue"),
                         {tr("this machine is too slow for what comes in; %1 not shown so far")
                              .arg(counted(told_dropped_, tr("message was"), tr("messages were")))
                              .toStdString(),
                          (journal_ ? tr("the trip keeps them all") : tr("all else is kept")).toStdString(),
                          tr("close other programs").toStdString()});
    }
}

void Survey::take(IngestContent &content) {
    if (auto *row = std::get_if<RowTaken>(&content)) {
        take(*row);
    } else if (const auto *heard = std::get_if<NmeaHeard>(&content)) {
        take(*heard);
    } else if (auto *hello = std::get_if<SounderHello>(&content)) {
        source_name_ = water_.isEmpty() ? QString::fromStdString(hello->name) : water_;
        scan_->installation = hello->installation;
        hello_ = std::move(*hello);
        emit stateChanged();
        emit settingsChanged();
    } else if (const auto *told = std::get_if<SettingsTold>(&content)) {
        settings_ = told->settings;
        emit settingsChanged();
        emit stateChanged();
    } else if (const auto *state = std::get_if<LinkState>(&content)) {
        take(*state);
    } else if (auto *trip = std::get_if<TripBegins>(&content)) {
        take(*trip);
    } else if (auto *begins = std::get_if<RecordingBegins>(&content)) {
        take(*begins);
    } else if (std::holds_alternative<RecordingEnds>(content)) {
        if (source_ == Source::recording)
            flow_ = Flow::ended;
        emit stateChanged();
    } else if (const auto *fault = std::get_if<Fault>(&content)) {
        emit faultRaised(QStringLiteral("source"), *fault);
    }
}

void Survey::take(const LinkState &state) {
    const auto i = static_cast<std::size_t>(state.link);
    if (i >= connections_.size())
        return;
    auto &c = connections_[i];
    c.state = state.is;
    c.detail = state.detail;
    emit connectionsChanged();
    if (c.config.kind == SourceConfig::Kind::nmea) {
        if (state.is == LinkState::Is::lost || state.is == LinkState::Is::silent)
            emit faultRaised(
                QStringLiteral("nmea"),
                {tr("%1 has stopped").arg(c.config.address).toStdString(),
                 tr("the picture goes on; new marks have no place while positions or headings are missing")
                     .toStdString(),
                 tr("check that receiver; it is tried again every second").toStdString()});
        else if (state.is == LinkState::Is::open)
            emit faultPassed(QStringLiteral("nmea"));
        return;
    }
    switch (state.is) {
    case LinkState::Is::connecting:
        flow_ = Flow::waiting;
        break;
    case LinkState::Is::open:
        flow_ = Flow::flowing;
        last_transmission_.reset();
        sounder_base_.reset();
        emit faultPassed(QStringLiteral("sounder"));
        if (was_lost_)
            emit word(QStringLiteral("sounder"),
                      tr("The sounder is back after %1 s.").arg(lost_for_.elapsed() / 1000));
        was_lost_ = false;
        break;
    case LinkState::Is::silent:
    case LinkState::Is::lost: {
        const bool lost = state.is == LinkState::Is::lost;
        flow_ = lost ? Flow::lost : Flow::silent;
        if (!was_lost_)
            lost_for_.start();
        was_lost_ = true;
        emit faultRaised(QStringLiteral("sounder"),
                         {(lost ? tr("the connection to the sounder was lost")
                                : tr("the sounder has said nothing for three seconds"))
                              .toStdString(),
                          tr("%1 and all marks are kept")
                              .arg(counted(scan_->end(), tr("ping"), tr("pings")))
                              .toStdString(),
                          (lost ? tr("check its power; it is tried again every second")
                                : tr("check its power and its cable"))
                              .toStdString()});
        break;
    }
    }
    emit stateChanged();
}

void Survey::take(const NmeaHeard &heard) {
    auto &feed = feeds_[heard.link];
    const auto before = feed.decoder().receiver_time();
    feed.take(heard.line, heard.host_time, scan_->nav);
    if (const auto now = feed.decoder().receiver_time(); now && now != before)
        clocks_.position(heard.host_time, *now);
    const auto i = static_cast<std::size_t>(heard.link);
    if (i < connections_.size()) {
        auto &c = connections_[i];
        c.last_heard = heard.host_time;
        c.damaged = feed.decoder().damaged();
        if (const auto s = parse_nmea(heard.line))
            ++c.delivered[s->type];
    }
}

// A sounder's time of day may be set while it runs; its own counter never is, so rows follow the counter from
// the first time told. What is left between it and the receiver's clock is added once it has proved to be
// more than the cables' delay.
UnixNs Survey::timeOf(const RowTaken &taken) {
    UnixNs time = taken.row.ping.time;
    if (source_ != Source::sounder)
        return time;
    if (taken.monotonic_ns != 0) {
        if (!sounder_base_)
            sounder_base_ = time - taken.monotonic_ns;
        if (std::fabs(seconds_between(*sounder_base_ + taken.monotonic_ns, time)) > 0.5)
            emit word(QStringLiteral("clock"),
                      tr("The sounder's clock was set; rows follow its own counter."));
        time = *sounder_base_ + taken.monotonic_ns;
    }
    clocks_.ping(taken.host_time, time);
    constexpr double worth_it_s = 0.4;
    if (const auto d = clocks_.seconds(); d && std::fabs(*d - clock_shift_s_) > worth_it_s)
        clock_shift_s_ = std::fabs(*d) > worth_it_s ? *d : 0;
    return time + static_cast<UnixNs>(clock_shift_s_ * 1e9);
}

void Survey::take(RowTaken &taken) {
    if (last_transmission_ && taken.transmission > *last_transmission_ + 1 && source_ == Source::sounder)
        lost_pings_ += static_cast<std::size_t>(taken.transmission - *last_transmission_ - 1);
    last_transmission_ = taken.transmission;
    if (source_ == Source::recording)
        recording_rows_.push_back(static_cast<std::size_t>(taken.transmission) - 1);
    for (auto &c : connections_)
        if (c.config.kind == SourceConfig::Kind::sounder) {
            c.last_heard = taken.host_time;
            ++c.delivered["ping"];
            break;
        }
    // Rows that this thread was too slow for are in the trip.
    while (scan_->end() < taken.number)
        scan_->push_gap();
    taken.row.ping.time = timeOf(taken);
    overview_.add(taken.row.ping);
    scan_->push(std::move(taken.row));
    showRow(scan_->end() - 1);
}

// What every row does when it comes or is played.
void Survey::showRow(std::size_t row) {
    const auto &ping = scan_->ping(row);
    levels_.add(ping, scan_->bottom(row));
    angles_.add(ping, scan_->bottom(row));
    emit rowArrived(row);
}

void Survey::take(RecordingBegins &begins) {
    source_ = Source::recording;
    flow_ = Flow::flowing;
    source_name_ = QFileInfo(begins.path).completeBaseName();
    hello_.reset();
    beginScan();
    recording_ = begins.reader;
    recording_path_ = begins.path;
    recording_rows_.clear();
    const auto &head = recording_->head();
    scan_->nav = head.nav;
    scan_->installation = head.installation;
    scan_->set_fetch([this](std::size_t first, std::size_t count) {
        std::vector<SoundedRow> rows;
        for (auto n = first; n < std::min(first + count, recording_rows_.size()); ++n) {
            auto ping = recording_->ping(recording_rows_[n]);
            rows.push_back({ping ? std::move(*ping) : Ping(), std::nullopt, scan_->settings(n)});
        }
        return rows;
    });
    const auto &warnings = recording_->warnings();
    if (warnings.empty()) {
        emit faultPassed(QStringLiteral("source"));
    } else {
        const auto more = warnings.size() - 1;
        emit faultRaised(
            QStringLiteral("source"),
            {tr("%1: %2").arg(source_name_, QString::fromStdString(warnings.front())).toStdString(),
             more > 0 ? tr("%1 odd about it; the rest was read")
                            .arg(counted(more, tr("more thing is"), tr("more things are")))
                            .toStdString()
                      : tr("the rest was read").toStdString(),
             ""});
    }
    emit settingsChanged();
}

std::vector<std::size_t> Survey::recordingRows(std::size_t first, std::size_t end) const {
    end = std::min(end, recording_rows_.size());
    first = std::min(first, end);
    return {recording_rows_.begin() + static_cast<std::ptrdiff_t>(first),
            recording_rows_.begin() + static_cast<std::ptrdiff_t>(end)};
}

NavGuard::State Survey::positionState() const {
    for (const auto &[link, feed] : feeds_)
        if (feed.guard().positions() != NavGuard::State::fine)
            return feed.guard().positions();
    return NavGuard::State::fine;
}
NavGuard::State Survey::headingState() const {
    for (const auto &[link, feed] : feeds_)
        if (feed.guard().headings() != NavGuard::State::fine)
            return feed.guard().headings();
    return NavGuard::State::fine;
}

// Once a second: what became of positions and headings.
void Survey::tellNavStates() {
    emit connectionsChanged();
    const auto tell = [this](NavGuard::State now, NavGuard::State &told, const QString &topic,
                             const QString &leaps, const QString &frozen, const QString &meanwhile) {
        if (now == told)
            return;
        told = now;
        if (now == NavGuard::State::fine)
            emit faultPassed(topic);
        else
            emit faultRaised(topic, {(now == NavGuard::State::leaping ? leaps : frozen).toStdString(),
                                     meanwhile.toStdString(),
                                     tr("check that receiver and its cable").toStdString()});
    };
    tell(positionState(), told_positions_, QStringLiteral("positions"),
         tr("the position leapt farther than a boat can go"),
         tr("the position stands still while the boat moves"),
         tr("pings meanwhile have no place; the picture goes on"));
    tell(headingState(), told_headings_, QStringLiteral("headings"),
         tr("the heading leapt faster than a boat can turn"), tr("the compass is frozen"),
         tr("the course over ground serves where the boat runs straight, with a wider error"));
}

// The window follows the levels while they are new (a new scan, band or gain) and then every few seconds, and
// only moves when it has strayed, so that the picture does not flicker.
void Survey::settleWindow() {
    if (empty() || !window_follows_)
        return;
    const auto row = newest();
    const double frequency = scan_->settings(row).frequency_hz;
    if (frequency != window_frequency_) {
        // Another band: its levels are its own, and the angles too.
        if (window_frequency_ != 0) {
            levels_ = LevelHistogram();
            angles_.clear();
            levels_.add(scan_->ping(row), scan_->bottom(row));
        }
        window_frequency_ = frequency;
        window_rows_ = end(); // look closely for the next hundred rows
    }
    const auto since = end() - std::min(end(), window_rows_);
    static constexpr std::size_t steps[] = {2, 8, 30, 100};
    const bool due = std::find(std::begin(steps), std::end(steps), since) != std::end(steps) ||
                     since % 200 == 0 || end() == 1;
    if (!due)
        return;
    const auto fitting = levels_.fitting_window();
    if (std::fabs(fitting.floor_db - window_.floor_db) < 1.5 &&
        std::fabs(fitting.span_db - window_.span_db) < 2.5)
        return;
    window_ = fitting;
    emit windowChanged();
}

void Survey::levelAt(std::size_t row) {
    if (!window_follows_ || scan_->empty())
        return;
    levels_ = LevelHistogram();
    angles_.clear();
    const auto first = row > 150 ? row - 150 : scan_->first();
    for (auto n = std::max(first, scan_->first()); n < std::min(first + 300, scan_->end()); ++n) {
        levels_.add(scan_->ping(n), scan_->bottom(n));
        angles_.add(scan_->ping(n), scan_->bottom(n));
    }
    scan_->trim();
    window_ = levels_.fitting_window();
    emit windowChanged();
}

void Survey::setWindow(const DisplayWindow &window) {
    window_ = window;
    window_follows_ = false;
    emit windowChanged();
}

void Survey::followWindow() {
    window_follows_ = true;
    if (!levels_.empty())
        window_ = levels_.fitting_window();
    emit windowChanged();
}

void Survey::setFilters(const PictureFilters &filters) {
    if (filters == filters_)
        return;
    filters_ = filters;
    emit windowChanged();
}

std::optional<double> Survey::headingNow() const {
    if (empty())
        return std::nullopt;
    if (const auto fix = scan_->nav.fix_at(scan_->facts(newest()).time))
        return fix->pose.heading_deg;
    return std::nullopt;
}

std::optional<double> Survey::waterTemperature() const {
    for (const auto &[link, feed] : feeds_)
        if (const auto t = feed.decoder().water_temperature_c())
            return t;
    return std::nullopt;
}

std::optional<double> Survey::speedNow() const {
    if (empty())
        return std::nullopt;
    return scan_->nav.speed_at(scan_->facts(newest()).time);
}

void Survey::setUnits(UnitSystem units) {
    units_ = units;
    emit unitsChanged();
}

} // namespace heron::app
