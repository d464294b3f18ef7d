#include "marks/mark_share.hpp"

#include "files/atomic_file.hpp"
#include "kit/counted.hpp"

#include <QDateTime>
#include <QFile>
#include <QSettings>
#include <QSysInfo>

namespace heron::app {
namespace {

const QString share_topic = QStringLiteral("share"), group = QStringLiteral("share/");

UnixNs wall() {
    return static_cast<UnixNs>(QDateTime::currentMSecsSinceEpoch()) * 1'000'000;
}

} // namespace

MarkShare::MarkShare(Session &session, MarkLibrary &marks, QObject *parent)
    : QObject(parent), session_(session), marks_(marks) {
    connect(&turn_, &QTimer::timeout, this, &MarkShare::turn);
    turn_.setInterval(100);
    keep_.setSingleShot(true);
    keep_.setInterval(1000);
    connect(&keep_, &QTimer::timeout, this, &MarkShare::keep);
    marks_.shareWith([this](const MarkWrites &writes) {
        if (!shared_)
            return;
        for (const auto &m : writes.saved)
            say(shared_->edited(m, wall()));
        for (const auto &id : writes.removed)
            say(shared_->removed(id, wall()));
        keep_.start();
    });
}

MarkShare::~MarkShare() {
    marks_.shareWith({});
    if (keep_.isActive())
        keep();
}

// Beside the library: what of it was said, and when.
QString MarkShare::statePath() const {
    return marks_.path() + QStringLiteral(".shared");
}

void MarkShare::begin(const Settings &settings) {
    link_.reset();
    settings_ = settings;
    auto shared = std::make_unique<SharedMarks>(settings.service.toStdString(), settings.screen.toStdString(),
                                                settings.role);
    if (QFile::exists(statePath())) {
        constexpr std::uintmax_t most_bytes = 1u << 30;
        const auto state = read_whole_file(statePath().toStdString(), most_bytes);
        const auto passed_over = state ? shared->load(*state) : 0;
        if (!state)
            session_.notices.raise(share_topic, state.error());
        else if (passed_over > 0)
            session_.notices.say(share_topic, tr("%1 of what was shared before could not be read.")
                                                  .arg(counted(passed_over, tr("word"), tr("words"))));
    }
    auto link = BrokerLink::connect(settings.broker, settings.screen.toStdString(), shared->topics(), {});
    if (!link) {
        session_.notices.raise(share_topic, link.error());
        emit stateChanged();
        return;
    }
    shared_ = std::move(shared);
    link_ = std::move(*link);
    session_.notices.pass(share_topic);
    QSettings kept;
    kept.setValue(group + QStringLiteral("host"), QString::fromStdString(settings.broker.host));
    kept.setValue(group + QStringLiteral("port"), settings.broker.port);
    kept.setValue(group + QStringLiteral("user"), QString::fromStdString(settings.broker.user));
    kept.setValue(group + QStringLiteral("ca"), QString::fromStdString(settings.broker.ca_file));
    kept.setValue(group + QStringLiteral("screen"), settings.screen);
    kept.setValue(group + QStringLiteral("service"), settings.service);
    kept.setValue(group + QStringLiteral("role"), static_cast<int>(settings.role));
    kept.setValue(group + QStringLiteral("on"), true);
    shareAll();
    turn_.start();
    emit stateChanged();
}

void MarkShare::beginAsBefore() {
    const QSettings kept;
    if (!kept.value(group + QStringLiteral("on")).toBool())
        return;
    Settings s;
    s.broker.host = kept.value(group + QStringLiteral("host")).toString().toStdString();
    s.broker.port = kept.value(group + QStringLiteral("port")).toInt();
    s.broker.user = kept.value(group + QStringLiteral("user")).toString().toStdString();
    s.broker.ca_file = kept.value(group + QStringLiteral("ca")).toString().toStdString();
    s.screen = kept.value(group + QStringLiteral("screen")).toString();
    s.service = kept.value(group + QStringLiteral("service")).toString();
    s.role =
        static_cast<SharedMarks::Role>(std::clamp(kept.value(group + QStringLiteral("role")).toInt(), 0, 2));
    begin(s);
}

void MarkShare::end() {
    link_.reset();
    turn_.stop();
    QSettings().setValue(group + QStringLiteral("on"), false);
    session_.notices.pass(share_topic);
    emit stateChanged();
}

// What was made while nobody listened.
void MarkShare::shareAll() {
    for (const auto &m : marks_.all())
        say(shared_->edited(m, wall()));
    // What went from the library since.
    std::vector<std::string> gone;
    for (const auto &[id, m] : shared_->replica().marks())
        if (!m.gone() && marks_.find(QString::fromStdString(id)) == nullptr && marks_.isOpen())
            gone.push_back(id);
    for (const auto &id : gone)
        say(shared_->removed(id, wall()));
    keep_.start();
}

void MarkShare::say(const std::vector<BrokerLink::Word> &words) {
    for (const auto &w : words)
        if (link_)
            link_->publish(w.topic, w.payload);
}

void MarkShare::turn() {
    if (!link_)
        return;
    std::vector<Mark> changed;
    std::vector<std::string> removed;
    std::map<std::string, Mark> newest; // several words of one mark in one turn
    for (const auto &word : link_->taken()) {
        const auto id = word.topic.substr(word.topic.rfind('/') + 1);
        const auto in_turn = newest.find(id);
        const auto *own =
            in_turn != newest.end() ? &in_turn->second : marks_.find(QString::fromStdString(id));
        auto brought = shared_->heard(word, own, wall());
        if (brought.refused && ++refused_ == 1)
            session_.notices.say(share_topic, tr("A word from another screen was refused: %1.")
                                                  .arg(QString::fromStdString(brought.refused->happened)));
        lost_.insert(lost_.end(), brought.lost.begin(), brought.lost.end());
        if (brought.mark)
            newest[id] = *brought.mark;
        if (!brought.gone.empty()) {
            newest.erase(id);
            if (marks_.find(QString::fromStdString(id)) != nullptr)
                removed.push_back(brought.gone);
        }
        say(brought.answer);
    }
    constexpr std::size_t most_lost = 1000;
    if (lost_.size() > most_lost)
        lost_.erase(lost_.begin(), lost_.end() - most_lost);
    for (auto &[id, m] : newest)
        changed.push_back(std::move(m));
    if (!changed.empty() || !removed.empty()) {
        marks_.takeFromOthers(changed, removed);
        keep_.start();
    }
    const bool now = link_->state().connected;
    if (now != was_connected_) {
        was_connected_ = now;
        session_.notices.say(share_topic,
                             now ? tr("Marks are shared with the other screens.")
                                 : tr("The other screens are not heard; marks are kept and sent later."));
        emit stateChanged();
    }
}

void MarkShare::keep() {
    if (!shared_)
        return;
    if (auto written = write_file_atomically(statePath().toStdString(), shared_->state()); !written)
        session_.notices.raise(share_topic, written.error());
}

QString MarkShare::state() const {
    if (!link_)
        return tr("off");
    const auto s = link_->state();
    auto text = s.connected     ? tr("with the others, as %1").arg(settings_.screen)
                : s.why.empty() ? tr("no line yet")
                                : tr("no line: %1").arg(QString::fromStdString(s.why));
    if (s.waiting_to_go > 0)
        text += tr("; %1 wait").arg(s.waiting_to_go);
    if (s.dropped > 0)
        text += tr("; %1 were too many").arg(s.dropped);
    return text;
}

} // namespace heron::app
