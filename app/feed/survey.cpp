#include "survey.hpp"

#include "exchange/gpx.hpp"
#include "recording_player.hpp"
#include "shell/counted.hpp"

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
}

Survey::~Survey() {
    stopFeeder(pending_);
    stopFeeder(active_);
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
    ++scan_number_;
    nmea_ = NmeaDecoder();
    last_number_.reset();
    lost_pings_ = 0;
    window_rows_ = 0;
    emit scanReplaced();
    emit stateChanged();
}

void Survey::listenTo(const Endpoint &pings, const Endpoint &nmea) {
    sounder_ = {pings, nmea};
    backToSounder();
}

void Survey::backToSounder() {
    if (!sounder_)
        return;
    stopFeeder(pending_);
    stopFeeder(active_);
    source_ = Source::sounder;
    source_name_ = tr("Sounder");
    flow_ = Flow::waiting;
    hello_.reset();
    beginScan();
    const int number = ++feeders_;
    active_ = startFeeder(new SounderLink(queue_, number, sounder_->first, sounder_->second), number);
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
    if (auto *link = qobject_cast<SounderLink *>(active_.worker))
        QMetaObject::invokeMethod(
            link, [link, settings] { link->ask(settings); }, Qt::QueuedConnection);
}

QString Survey::stateText() const {
    if (source_ == Source::recording)
        return flow_ == Flow::ended ? tr("played to its end")
               : play_speed_ == 0   ? tr("paused")
                                    : tr("playing");
    switch (flow_) {
    case Flow::waiting:
        return tr("looking for the sounder");
    case Flow::flowing:
        return settings_.pinging ? tr("live") : tr("not pinging");
    case Flow::silent:
        return tr("the sounder is silent");
    case Flow::lost:
        return tr("connection lost");
    case Flow::ended:
        return tr("ended");
    }
    return {};
}

void Survey::drain() {
    QElapsedTimer work;
    work.start();
    const auto before = scan_->end();
    const int number = scan_number_;
    while (work.elapsed() < 10) {
        auto item = queue_.pop();
        if (!item)
            break;
        if (item->source == pending_.number) {
            if (std::holds_alternative<RecordingEnds>(item->content)) {
                stopFeeder(pending_);
                continue;
            }
            if (std::holds_alternative<RecordingBegins>(item->content)) {
                stopFeeder(active_);
                active_ = std::exchange(pending_, Feeder());
                setPlaySpeed(play_speed_);
            }
            take(item->content);
        } else if (item->source == active_.number) {
            take(item->content);
        }
    }
    if (scan_->end() != before || scan_number_ != number) {
        settleWindow();
        emit rowsAdded();
    }
    if (queue_.dropped() > told_dropped_) {
        told_dropped_ = queue_.dropped();
        emit faultRaised(QStringLiteral("queue"),
                         {tr("this machine is too slow for what comes in; %1 dropped so far")
                              .arg(counted(told_dropped_, tr("message was"), tr("messages were")))
                              .toStdString(),
                          tr("all else is kept").toStdString(), tr("close other programs").toStdString()});
    }
}

void Survey::take(FeedContent &content) {
    if (auto *ping = std::get_if<WirePing>(&content)) {
        take(*ping);
    } else if (const auto *heard = std::get_if<NmeaHeard>(&content)) {
        take(*heard);
    } else if (auto *hello = std::get_if<SounderHello>(&content)) {
        source_name_ = QString::fromStdString(hello->name);
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
    if (state.port == LinkState::Port::nmea) {
        if (state.is == LinkState::Is::lost)
            emit faultRaised(
                QStringLiteral("nmea"),
                {tr("positions and headings have stopped").toStdString(),
                 tr("the picture goes on; new marks have no place until they are back").toStdString(),
                 tr("check the receiver; it is tried again every second").toStdString()});
        else
            emit faultPassed(QStringLiteral("nmea"));
        return;
    }
    switch (state.is) {
    case LinkState::Is::connecting:
        flow_ = Flow::waiting;
        break;
    case LinkState::Is::open:
        flow_ = Flow::flowing;
        last_number_.reset();
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
    // Sentences without a time of their own belong to the receiver's last epoch, so many host seconds ago.
    UnixNs time = heard.host_time;
    if (const auto told = nmea_.receiver_time())
        time = *told + std::clamp<std::int64_t>(heard.host_time - receiver_heard_, 0, ns_per_s);
    const auto before = nmea_.receiver_time();
    nmea_.take(heard.line, time, scan_->nav);
    if (nmea_.receiver_time() != before)
        receiver_heard_ = heard.host_time;
}

void Survey::take(WirePing &wire) {
    if (last_number_ && wire.number > *last_number_ + 1)
        lost_pings_ += static_cast<std::size_t>(wire.number - *last_number_ - 1);
    last_number_ = wire.number;
    scan_->push(std::move(wire.ping), wire.settings);
}

void Survey::take(RecordingBegins &begins) {
    source_ = Source::recording;
    flow_ = Flow::flowing;
    source_name_ = QFileInfo(begins.path).completeBaseName();
    hello_.reset();
    recording_pings_ = begins.pings;
    beginScan();
    scan_->nav = std::move(begins.head.nav);
    scan_->installation = begins.head.installation;
    if (begins.warnings.empty()) {
        emit faultPassed(QStringLiteral("source"));
    } else {
        const auto more = begins.warnings.size() - 1;
        emit faultRaised(
            QStringLiteral("source"),
            {tr("%1: %2").arg(source_name_, QString::fromStdString(begins.warnings.front())).toStdString(),
             more > 0 ? tr("%1 odd about it; the rest was read")
                            .arg(counted(more, tr("more thing is"), tr("more things are")))
                            .toStdString()
                      : tr("the rest was read").toStdString(),
             ""});
    }
    emit settingsChanged();
}

// The window follows the levels while they are new (a new scan, band or gain) and then every few seconds, and
// only moves when it has strayed, so that the picture does not flicker.
void Survey::settleWindow() {
    if (scan_->empty())
        return;
    const auto &newest = scan_->newest();
    if (newest.ping.frequency_hz != window_frequency_ || newest.settings.gain != window_gain_) {
        window_frequency_ = newest.ping.frequency_hz;
        window_gain_ = newest.settings.gain;
        window_rows_ = scan_->end(); // look closely for the next hundred rows
    }
    const auto since = scan_->end() - std::min(scan_->end(), window_rows_);
    static constexpr std::size_t steps[] = {8, 30, 100};
    const bool due = std::find(std::begin(steps), std::end(steps), since) != std::end(steps) ||
                     since % 200 == 0 || scan_->end() == 1;
    if (!due)
        return;
    const auto fitting = scan_->levels().fitting_window();
    if (std::fabs(fitting.floor_db - window_.floor_db) < 1.5 &&
        std::fabs(fitting.span_db - window_.span_db) < 2.5)
        return;
    window_ = fitting;
    emit windowChanged();
}

std::optional<double> Survey::headingNow() const {
    if (scan_->empty())
        return std::nullopt;
    if (const auto fix = scan_->nav.fix_at(scan_->newest().ping.time))
        return fix->pose.heading_deg;
    return std::nullopt;
}

std::optional<double> Survey::speedNow() const {
    if (scan_->empty())
        return std::nullopt;
    return scan_->nav.speed_at(scan_->newest().ping.time);
}

void Survey::setUnits(UnitSystem units) {
    units_ = units;
    emit unitsChanged();
}

void Survey::openMarks(const QString &path) {
    auto book = MarkBook::open(path.toStdString());
    if (!book) {
        emit faultRaised(QStringLiteral("marks"), book.error());
        return;
    }
    book_.emplace(std::move(*book));
    emit marksChanged();
}

const std::vector<Mark> &Survey::marks() const {
    static const std::vector<Mark> none;
    return book_ ? book_->marks() : none;
}

const Mark *Survey::findMark(const QString &id) const {
    return book_ ? book_->find(id.toStdString()) : nullptr;
}

void Survey::selectMark(const QString &id) {
    if (id == selected_)
        return;
    selected_ = id;
    emit selectionChanged();
}

bool Survey::done(const Result<void> &result) {
    if (!result) {
        emit faultRaised(QStringLiteral("marks"), result.error());
        return false;
    }
    emit faultPassed(QStringLiteral("marks"));
    if (!findMark(selected_))
        selectMark({});
    emit marksChanged();
    return true;
}

bool Survey::addMark(const Mark &mark) {
    if (!book_)
        return done(fail(tr("the file of marks is not open").toStdString(),
                         tr("the mark was not taken").toStdString(),
                         tr("start the program again with --marks and another file").toStdString()));
    if (!done(book_->add(mark)))
        return false;
    selectMark(QString::fromStdString(mark.id));
    return true;
}

bool Survey::changeMark(const Mark &mark) {
    return book_ && done(book_->change(mark));
}
bool Survey::removeMark(const QString &id) {
    return book_ && done(book_->remove(id.toStdString()));
}
bool Survey::undoMark() {
    return book_ && book_->can_undo() && done(book_->undo());
}

bool Survey::exportMarks(const QString &path) {
    const auto left_out = write_gpx(path.toStdString(), marks());
    if (!left_out)
        return done(tl::unexpected(left_out.error()));
    auto text =
        tr("%1 written to %2.")
            .arg(counted(marks().size() - *left_out, tr("mark"), tr("marks")), QFileInfo(path).fileName());
    if (*left_out > 0)
        text += QLatin1Char(' ') + tr("%1 without a place stayed out.").arg(*left_out);
    emit word(QStringLiteral("export"), text);
    return true;
}

bool Survey::importMarks(const QString &path) {
    if (!book_)
        return false;
    auto contents = read_gpx(path.toStdString());
    if (!contents)
        return done(tl::unexpected(contents.error()));
    if (!done(book_->add_all(contents->marks)))
        return false;
    auto text =
        tr("%1 taken in from %2; Undo takes them back.")
            .arg(counted(contents->marks.size(), tr("mark"), tr("marks")), QFileInfo(path).fileName());
    if (!contents->warnings.empty())
        emit faultRaised(QStringLiteral("marks"),
                         {contents->warnings.front(), text.toStdString(),
                          contents->warnings.size() > 1
                              ? tr("%1 more were left out").arg(contents->warnings.size() - 1).toStdString()
                              : ""});
    else
        emit word(QStringLiteral("import"), text);
    return true;
}

} // namespace heron::app
