#include "session/session.hpp"

#include "session/free_words.hpp"

#include <QSettings>
#include <QStringList>

namespace heron::app {
Session::Session() {
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

} // namespace heron::app
