#include "session/sources.hpp"

#include "ingest/live_intake.hpp"
#include "ingest/recording_player.hpp"
#include "kit/counted.hpp"
#include "trip/open_trip.hpp"

#include <QFileInfo>
#include <algorithm>
#include <utility>

namespace heron::app {

/// An old trip, opened beside the window.
struct Sources::OpenedTrip {
    std::shared_ptr<TripFile> file;
    std::array<std::unique_ptr<Scan>, stream_count> scans;
    std::array<Overview, stream_count> overviews;
    std::vector<BottomStroke> strokes;
    std::size_t passed_over = 0; ///< parts that make no sense
};

Sources::Sources(const Parts &parts, QObject *parent) : QObject(parent), parts_(parts) {
    qRegisterMetaType<SoundingSettings>();
    qRegisterMetaType<StreamId>();
    timer_.setTimerType(Qt::PreciseTimer);
    connect(&timer_, &QTimer::timeout, this, &Sources::drain);
    timer_.start(16);
    knowledge_clock_.start();
    connect(&parts_.connections, &Connections::sounderLineChanged, this, &Sources::lineChanged);
    connect(&parts_.trip, &TripKeeper::waterChanged, this, &Sources::stateChanged);
    connect(&parts_.playback, &Playback::stateChanged, this, &Sources::stateChanged);
    connect(&parts_.playback, &Playback::speedChanged, this, [this](double speed) {
        if (auto *player = qobject_cast<RecordingPlayer *>(active_.worker))
            QMetaObject::invokeMethod(
                player, [player, speed] { player->setSpeed(speed); }, Qt::QueuedConnection);
    });
    const auto toIntake = [this](auto word) {
        if (auto *intake = qobject_cast<LiveIntake *>(active_.worker))
            QMetaObject::invokeMethod(
                intake, [intake, word] { word(*intake); }, Qt::QueuedConnection);
    };
    for (auto *sounder : parts_.sounders) {
        connect(sounder, &Sounder::asked, this, [=](StreamId stream, const SoundingSettings &settings) {
            toIntake([=](LiveIntake &intake) { intake.ask(stream, settings); });
        });
        connect(sounder, &Sounder::steered, this, [=](StreamId stream, Helm helm) {
            toIntake([=](LiveIntake &intake) { intake.steer(stream, helm); });
        });
    }
}

Sources::~Sources() {
    stopOpening();
    retire(pending_);
    retire(active_);
    parts_.trip.close();
    for (auto *t : retired_)
        t->wait();
}

Sources::Feeder Sources::start(QObject *worker) {
    Feeder feeder{new QThread(this), worker, ++feeders_};
    worker->moveToThread(feeder.thread);
    connect(feeder.thread, &QThread::finished, worker, &QObject::deleteLater);
    feeder.thread->start();
    QMetaObject::invokeMethod(worker, "start", Qt::QueuedConnection);
    return feeder;
}

void Sources::retire(Feeder &feeder) {
    if (feeder.thread != nullptr) {
        auto *thread = feeder.thread;
        if (auto *player = qobject_cast<RecordingPlayer *>(feeder.worker))
            player->giveUp();
        connect(thread, &QThread::finished, this, [this, thread] {
            std::erase(retired_, thread);
            thread->deleteLater();
        });
        retired_.push_back(thread);
        thread->quit();
    }
    feeder = Feeder();
}

void Sources::begin(Source source) {
    source_ = source;
    for (auto *s : parts_.shown) {
        s->begin();
        s->setCourseServes(source == Source::sounder);
    }
    parts_.playback.stop();
    parts_.connections.forgetTimes();
    for (auto *s : parts_.sounders)
        s->forget();
    spool_ = RowStore();
    emit stateChanged();
}

void Sources::listenTo(std::vector<SourceConfig> sources) {
    sources_ = std::move(sources);
    parts_.connections.setSources(sources_);
    if (!sources_.empty())
        return backToSounder();
    if (source_ != Source::sounder)
        return;
    const auto kept = parts_.trip.path();
    retire(active_);
    parts_.trip.close();
    flow_ = Flow::ended;
    begin(Source::none);
    if (!kept.isEmpty())
        openTrip(kept);
}

void Sources::backToSounder() {
    if (sources_.empty())
        return;
    stopOpening();
    retire(pending_);
    retire(active_);
    parts_.trip.close();
    flow_ = Flow::waiting;
    begin(Source::sounder);
    active_ =
        start(new LiveIntake(queue_, feeders_ + 1, sources_, parts_.trip.folder(), parts_.trip.water()));
}

void Sources::beginNewTrip() {
    if (source_ == Source::sounder)
        backToSounder();
}

void Sources::open(const QString &path) {
    if (path.endsWith(QLatin1String(TripFile::suffix)))
        openTrip(path);
    else
        openRecording(path);
}

void Sources::openRecording(const QString &path) {
    stopOpening();
    parts_.notices.pass(QStringLiteral("source"));
    retire(pending_);
    pending_ = start(new RecordingPlayer(queue_, feeders_ + 1, path, parts_.playback.speed()));
}

void Sources::stopOpening() {
    if (opening_)
        opening_->cancel();
    opening_.reset();
    ++openings_;
}

void Sources::openTrip(const QString &path) {
    stopOpening();
    parts_.notices.pass(QStringLiteral("source"));
    if (source_ == Source::trip && QFileInfo(path) == QFileInfo(parts_.trip.path())) {
        emit opened(); // it is shown already
        return;
    }
    if (parts_.trip.keeping() && QFileInfo(path) == QFileInfo(parts_.trip.path())) {
        parts_.notices.raise(QStringLiteral("source"),
                             {tr("this trip is being kept now").toStdString(),
                              tr("it goes on undisturbed").toStdString(),
                              tr("scroll back in Scan, or begin a new trip first").toStdString()});
        return;
    }
    using Opened = std::shared_ptr<OpenedTrip>;
    opening_ = parts_.storage.run<Opened>(
        tr("opening the trip"), this,
        [path = std::filesystem::path(path.toStdString())](JobControl &control) -> Result<Opened> {
            auto file = TripFile::open_or_read_only(path);
            if (!file)
                return tl::unexpected(file.error());
            auto opened = std::make_shared<OpenedTrip>();
            opened->file = std::make_shared<TripFile>(std::move(*file));
            for (const auto stream : all_streams) {
                if (control.cancelled())
                    return fail("opening was stopped");
                const auto i = static_cast<std::size_t>(stream);
                opened->scans[i] = std::make_unique<Scan>();
                if (auto r = open_into(*opened->file, *opened->scans[i], opened->overviews[i], stream); !r)
                    return tl::unexpected(r.error());
                opened->passed_over += opened->file->extent(stream).passed_over;
            }
            opened->strokes = strokes_from(opened->file->value(bottom_by_hand_key));
            return opened;
        },
        [this, number = openings_](Result<Opened> result) {
            if (number != openings_)
                return; // another one was asked for since
            opening_.reset();
            if (!result) {
                auto fault = result.error();
                if (fault.kept.empty())
                    fault.kept = tr("the picture and all marks are as they were").toStdString();
                parts_.notices.raise(QStringLiteral("source"), fault);
                emit stateChanged();
                return;
            }
            show(std::move(**result));
        });
    emit stateChanged();
}

void Sources::show(OpenedTrip trip) {
    retire(pending_);
    retire(active_);
    parts_.trip.close();
    flow_ = Flow::ended;
    source_ = Source::trip;
    parts_.connections.forgetTimes();
    for (auto *s : parts_.sounders)
        s->forget();
    spool_ = RowStore();
    file_name_ = QFileInfo(QString::fromStdString(trip.file->path().string())).completeBaseName();
    RowStore store(trip.file);
    for (std::size_t i = 0; i < stream_count; ++i) {
        trip.scans[i]->set_fetch(store.fetchOf(all_streams[i]));
        parts_.shown[i]->begin(std::move(trip.scans[i]), std::move(trip.overviews[i]),
                               i == 0 ? std::move(trip.strokes) : std::vector<BottomStroke>());
    }
    parts_.playback.begin();
    parts_.trip.lookAt(std::move(store));
    parts_.notices.pass(QStringLiteral("source"));
    if (trip.passed_over > 0)
        parts_.notices.raise(QStringLiteral("source"),
                             {tr("%1: %2 of what it keeps claim more than the file can hold")
                                  .arg(file_name_, counted(trip.passed_over, tr("part"), tr("parts")))
                                  .toStdString(),
                              tr("all the rest is shown").toStdString(),
                              tr("bring back a copy of the trip, if there is one").toStdString()});
    for (auto *shown : parts_.shown)
        shown->tellRows();
    emit stateChanged();
    emit this->opened();
}

Sources::Flow Sources::flow() const {
    if (source_ != Source::trip)
        return flow_;
    switch (parts_.playback.state()) {
    case Playback::State::playing:
        return Flow::flowing;
    case Playback::State::paused:
        return Flow::paused;
    case Playback::State::none:
    case Playback::State::ended:
        break;
    }
    return Flow::ended;
}

QString Sources::name() const {
    const auto water = parts_.trip.water();
    switch (source_) {
    case Source::none:
        return {};
    case Source::recording:
        return file_name_;
    case Source::trip:
        return water.isEmpty() ? file_name_ : water;
    case Source::sounder:
        break;
    }
    if (!water.isEmpty())
        return water;
    const auto &hello = parts_.sounders[0]->hello();
    return hello ? QString::fromStdString(hello->name) : tr("Sounder");
}

QString Sources::id() const {
    return source_ == Source::recording ? recording_id_ : parts_.trip.id();
}

QString Sources::stateText() const {
    if (opening_)
        return tr("opening a trip …");
    switch (source_) {
    case Source::none:
        return tr("no source");
    case Source::recording:
        return flow_ == Flow::ended ? tr("recording, at its end") : tr("recording");
    case Source::trip:
        return flow() == Flow::flowing ? tr("trip, playing") : tr("trip");
    case Source::sounder:
        break;
    }
    switch (flow_) {
    case Flow::waiting:
        return tr("looking for the sounder");
    case Flow::flowing:
        return parts_.sounders[0]->settings().pinging ? tr("live") : tr("not pinging");
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

void Sources::drain() {
    QElapsedTimer work;
    work.start();
    auto &shown = *parts_.shown[0];
    const auto before = shown.end();
    const auto bow_before = parts_.shown[1]->end();
    const int number = shown.number();
    while (work.elapsed() < 10) {
        auto item = queue_.pop();
        if (!item)
            break;
        if (item->feeder == pending_.number) {
            if (std::holds_alternative<RecordingBegins>(item->content)) {
                retire(active_);
                parts_.trip.close();
                active_ = std::exchange(pending_, Feeder());
            }
            take(item->content);
        } else if (item->feeder == active_.number) {
            take(item->content);
        }
    }
    if (source_ == Source::trip)
        parts_.playback.advance();
    if (shown.end() != before || shown.number() != number)
        shown.tellRows();
    if (parts_.shown[1]->end() != bow_before || shown.number() != number)
        parts_.shown[1]->tellRows();
    for (auto *s : parts_.shown)
        s->trim(); // what a look back has fetched, too
    if (knowledge_clock_.elapsed() > 1000) {
        knowledge_clock_.restart();
        parts_.trip.writeKnowledge();
        parts_.connections.tellAges();
    }
    if (queue_.dropped() > told_dropped_) {
        told_dropped_ = queue_.dropped();
        parts_.notices.raise(
            QStringLiteral("queue"),
            {tr("this machine is too slow for what comes in; %1 not shown so far")
                 .arg(counted(told_dropped_, tr("message was"), tr("messages were")))
                 .toStdString(),
             (parts_.trip.keeping() ? tr("the trip keeps them all") : tr("all else is kept")).toStdString(),
             tr("close other programs").toStdString()});
    }
}

void Sources::take(IngestContent &content) {
    if (auto *row = std::get_if<RowTaken>(&content)) {
        parts_.connections.took(*row);
        parts_.shown[static_cast<std::size_t>(row->stream)]->take(std::move(*row));
    } else if (const auto *heard = std::get_if<NavHeard>(&content)) {
        for (auto *s : parts_.shown)
            s->addNav(heard->samples);
        parts_.connections.take(*heard);
    } else if (auto *hello = std::get_if<HelloTold>(&content)) {
        const auto i = static_cast<std::size_t>(hello->stream);
        // No sounder knows of the receiver's clock; what was found out about it stays.
        hello->hello.installation.positions_late_s = parts_.shown[i]->scan().installation.positions_late_s;
        parts_.shown[i]->setInstallation(hello->hello.installation);
        if (hello->stream == StreamId::around && parts_.trip.keeping())
            parts_.trip.keepInstallation(StreamId::around, hello->hello.installation);
        parts_.sounders[i]->greet(std::move(hello->hello));
        emit stateChanged();
    } else if (const auto *told = std::get_if<SettingsTold>(&content)) {
        parts_.sounders[static_cast<std::size_t>(told->stream)]->tell(told->settings);
        emit stateChanged();
    } else if (const auto *clock = std::get_if<ClockTold>(&content)) {
        parts_.connections.take(*clock);
    } else if (const auto *state = std::get_if<LinkState>(&content)) {
        parts_.connections.take(*state);
    } else if (auto *trip = std::get_if<TripBegins>(&content)) {
        parts_.trip.begin(std::move(trip->journal));
        if (const auto &head = parts_.sounders[1]->hello())
            parts_.trip.keepInstallation(StreamId::around, head->installation);
        emit stateChanged();
    } else if (auto *begins = std::get_if<RecordingBegins>(&content)) {
        take(*begins);
    } else if (std::holds_alternative<RecordingEnds>(content)) {
        if (source_ == Source::recording)
            flow_ = Flow::ended;
        emit stateChanged();
    } else if (const auto *fault = std::get_if<Fault>(&content)) {
        parts_.notices.raise(QStringLiteral("source"), *fault);
    }
}

// A head at the bow comes and goes beside the picture of the sides.
void Sources::headLineChanged(LinkState::Is now) {
    const auto topic = QStringLiteral("head");
    if (now == LinkState::Is::open) {
        parts_.shown[1]->forgetCount();
        parts_.notices.pass(topic);
    } else if (now == LinkState::Is::lost || now == LinkState::Is::silent) {
        const bool lost = now == LinkState::Is::lost;
        parts_.notices.raise(topic, {(lost ? tr("the connection to the turning head was lost")
                                           : tr("the turning head has said nothing for three seconds"))
                                         .toStdString(),
                                     tr("the picture of the sides goes on").toStdString(),
                                     (lost ? tr("check its power; it is tried again every second")
                                           : tr("check its power and its cable"))
                                         .toStdString()});
    }
}

// What the picture hangs on is the sounder that sounds the sides, or the only one there is. A spare one is
// told in Connections alone.
void Sources::lineChanged(const LinkState &state) {
    if (state.aside) {
        if (state.stream == StreamId::around)
            headLineChanged(state.is);
        return;
    }
    switch (const auto now = state.is) {
    case LinkState::Is::connecting:
        flow_ = Flow::waiting;
        break;
    case LinkState::Is::spare:
        break;
    case LinkState::Is::open:
        flow_ = Flow::flowing;
        parts_.shown[static_cast<std::size_t>(state.stream.value_or(StreamId::side))]->forgetCount();
        parts_.notices.pass(QStringLiteral("sounder"));
        if (was_lost_)
            parts_.notices.say(QStringLiteral("sounder"),
                               tr("The sounder is back after %1 s.").arg(lost_for_.elapsed() / 1000));
        was_lost_ = false;
        break;
    case LinkState::Is::silent:
    case LinkState::Is::lost: {
        const bool lost = now == LinkState::Is::lost;
        flow_ = lost ? Flow::lost : Flow::silent;
        if (!was_lost_)
            lost_for_.start();
        was_lost_ = true;
        parts_.notices.raise(QStringLiteral("sounder"),
                             {(lost ? tr("the connection to the sounder was lost")
                                    : tr("the sounder has said nothing for three seconds"))
                                  .toStdString(),
                              tr("%1 and all marks are kept")
                                  .arg(counted(parts_.shown[0]->scan().end(), tr("ping"), tr("pings")))
                                  .toStdString(),
                              (lost ? tr("check its power; it is tried again every second")
                                    : tr("check its power and its cable"))
                                  .toStdString()});
        break;
    }
    }
    emit stateChanged();
}

void Sources::take(RecordingBegins &begins) {
    flow_ = Flow::flowing;
    begin(Source::recording);
    file_name_ = QFileInfo(begins.path).completeBaseName();
    recording_id_ = begins.id;
    spool_ = RowStore(begins.spool, begins.spool_folder);
    for (auto *s : parts_.shown) {
        s->setNav(begins.head.nav);
        s->setInstallation(begins.head.installation);
        s->setFetch(spool_.fetchOf(s->stream()));
    }
    if (begins.warnings.empty()) {
        parts_.notices.pass(QStringLiteral("source"));
    } else {
        const auto more = begins.warnings.size() - 1;
        parts_.notices.raise(
            QStringLiteral("source"),
            {tr("%1: %2").arg(file_name_, QString::fromStdString(begins.warnings.front())).toStdString(),
             more > 0 ? tr("%1 odd about it; the rest was read")
                            .arg(counted(more, tr("more thing is"), tr("more things are")))
                            .toStdString()
                      : tr("the rest was read").toStdString(),
             ""});
    }
    emit stateChanged();
    emit opened();
}

} // namespace heron::app
