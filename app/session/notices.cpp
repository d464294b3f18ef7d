#include "session/notices.hpp"

#include <QThread>
#include <algorithm>

namespace heron::app {
namespace {

// What is lost if it is overlooked comes first.
int rank(const QString &topic) {
    return topic == QLatin1String("marks") || topic == QLatin1String("trip") ||
                   topic == QLatin1String("source")
               ? 0
               : 1;
}

bool same(const Fault &a, const Fault &b) {
    return a.happened == b.happened && a.kept == b.kept && a.to_do == b.to_do;
}

} // namespace

Notices::Notices(QObject *parent) : QObject(parent) {}

void Notices::raise(const QString &topic, const Fault &fault) {
    if (QThread::currentThread() != thread()) {
        QMetaObject::invokeMethod(
            this, [this, topic, fault] { raise(topic, fault); }, Qt::QueuedConnection);
        return;
    }
    const auto had =
        std::find_if(standing_.begin(), standing_.end(), [&](const Standing &s) { return s.topic == topic; });
    if (had != standing_.end()) {
        if (same(had->fault, fault))
            return;
        standing_.erase(had);
    }
    const auto at = std::find_if(standing_.begin(), standing_.end(),
                                 [&](const Standing &s) { return rank(s.topic) >= rank(topic); });
    standing_.insert(at, {topic, fault});
    emit standingChanged();
}

void Notices::pass(const QString &topic) {
    if (std::erase_if(standing_, [&](const Standing &s) { return s.topic == topic; }) > 0)
        emit standingChanged();
}

void Notices::putAway(const QString &topic) {
    for (auto &s : standing_)
        if (s.topic == topic)
            s.put_away = true;
    emit standingChanged();
}

void Notices::say(const QString &topic, const QString &text) {
    emit said(topic, text);
}

const Notices::Standing *Notices::first() const {
    const auto at =
        std::find_if(standing_.begin(), standing_.end(), [](const Standing &s) { return !s.put_away; });
    return at != standing_.end() ? &*at : nullptr;
}

std::size_t Notices::waiting() const {
    const auto shown =
        std::count_if(standing_.begin(), standing_.end(), [](const Standing &s) { return !s.put_away; });
    return static_cast<std::size_t>(std::max<std::ptrdiff_t>(0, shown - 1));
}

} // namespace heron::app
