#include "views/screen/kept_screens.hpp"

#include <QDateTime>
#include <QFileInfo>
#include <QLocale>

namespace heron::app {
namespace {

QString idOf(const ScreenSighting &s) {
    return QString::fromStdString(s.recording.filename().string());
}

} // namespace

void KeptScreens::refresh(const QString &folder) {
    kept_ = sightings_in(folder.toStdString());
    std::vector<QString> ids;
    for (const auto &s : kept_)
        ids.push_back(idOf(s));
    setIds(std::move(ids));
}

const ScreenSighting *KeptScreens::find(const QString &id) const {
    const auto at = std::find_if(kept_.begin(), kept_.end(), [&](const auto &s) { return idOf(s) == id; });
    return at == kept_.end() ? nullptr : &*at;
}

QString KeptScreens::pictureOf(const QString &recording) {
    return recording + QStringLiteral(".png");
}

QImage KeptScreens::picture(const QString &id) const {
    const auto *s = find(id);
    if (s == nullptr)
        return {};
    auto [at, fresh] = pictures_.try_emplace(id);
    if (fresh)
        at->second = QImage(pictureOf(QString::fromStdString(s->recording.string())));
    return at->second;
}

QVariant KeptScreens::dataOf(const QString &id, int role) const {
    const auto *s = find(id);
    if (s == nullptr)
        return {};
    switch (role) {
    case id_role:
        return id;
    case Qt::DisplayRole: {
        const auto time = QDateTime::fromMSecsSinceEpoch(s->read_at / 1'000'000, Qt::UTC);
        return tr("%1 · read %2 %3 UTC")
            .arg(QString::fromStdString(s->original.filename().string()),
                 QLocale().toString(time.date(), QLocale::ShortFormat),
                 time.time().toString(QStringLiteral("hh:mm")));
    }
    case subtitle_role:
        return QFileInfo::exists(QString::fromStdString(s->original.string()))
                   ? QString::fromStdString(s->original.parent_path().string())
                   : tr("the original is no longer at %1; what was read of it is here")
                         .arg(QString::fromStdString(s->original.parent_path().string()));
    case detail_role:
        return s->film                         ? tr("a film")
               : s->calibration.circle_bow_deg ? tr("a picture of a circle")
                                               : tr("a picture");
    default:
        return {};
    }
}

} // namespace heron::app
