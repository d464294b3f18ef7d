#include "session/session.hpp"

#include "session/free_words.hpp"

#include <QSettings>
#include <QStringList>
#include <algorithm>
#include <cmath>

namespace heron::app {

Session::Session() {
    for (const auto *s : {&sounder, &head})
        QObject::connect(s, &Sounder::refused, &notices, [this] {
            notices.say(QStringLiteral("settings"),
                        tr("This unit is looked at, not steered: set it by its own keys."));
        });
    QObject::connect(&sources, &Sources::stateChanged, &awake,
                     [this] { awake.keepAwake(sources.live() && sources.flow() == Sources::Flow::flowing); });
}

void Session::chooseSources(const std::vector<SourceConfig> &chosen) {
    QStringList lines;
    for (const auto &c : chosen)
        lines << c.text();
    QSettings().setValue(sources_key, lines);
    sources.listenTo(chosen);
}

void Session::sayCaution() {
    notices.say(QStringLiteral("caution"),
                tr("Look out first: a screen is no lookout, and nothing here is for navigation. Life "
                   "jackets on; local rules come first."));
}

void Session::correctBottom(std::size_t first, const std::vector<double> &altitudes) {
    const auto before = shown.strokes().size();
    shown.correctBottom(first, altitudes);
    if (shown.strokes().size() == before)
        return;
    trip.keepStrokes();
    const auto rows = shown.strokes().back().altitude_m.size();
    notices.say(
        QStringLiteral("bottom"),
        sources.source() == Sources::Source::recording
            ? tr("Bottom drawn for %1 pings; kept while this recording is open. U takes it back.").arg(rows)
            : tr("Bottom drawn for %1 pings and kept with the trip. U takes it back.").arg(rows));
}

void Session::undoBottom() {
    if (!shown.canUndoBottom())
        return;
    const bool whole = shown.undoBottom();
    trip.keepStrokes();
    notices.say(QStringLiteral("bottom"),
                whole ? tr("The bottom is as it was.")
                      : tr("Taken back: the bottom is as found when the trip is opened anew."));
}

void Session::setPositionsLate(double seconds) {
    seconds = std::clamp(seconds, -Installation::most_late_s, Installation::most_late_s);
    for (auto *s : {&shown, &around}) {
        s->setPositionsLate(seconds);
        trip.keepInstallation(s->stream(), s->scan().installation);
    }
    const auto which = sources.source() == Sources::Source::recording
                           ? tr("kept while this recording is open")
                           : tr("kept with the trip");
    notices.say(
        QStringLiteral("positionsLate"),
        seconds == 0
            ? tr("Positions are taken as they are told; marks stay where they were made.")
            : tr("Positions are taken %1 s %2 than they are told, %3; marks stay where they were made.")
                  .arg(std::fabs(seconds), 0, 'f', 1)
                  .arg(seconds > 0 ? tr("earlier") : tr("later"), which));
}

} // namespace heron::app
