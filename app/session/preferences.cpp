#include "session/preferences.hpp"

#include <QSettings>
#include <QStringList>

namespace heron::app {
namespace {

const auto units_key = QStringLiteral("units"), speech_key = QStringLiteral("speech"),
           kinds_key = QStringLiteral("speech_kinds");

} // namespace

UnitSystem Preferences::unitsAtHomeIn(const QLocale &desktop) {
    return desktop.language() != QLocale::C && desktop.measurementSystem() == QLocale::MetricSystem
               ? UnitSystem::metres
               : UnitSystem::feet;
}

Preferences::Preferences(QObject *parent) : QObject(parent) {
    const QSettings kept;
    const auto units = kept.value(units_key).toString();
    units_ = units == QLatin1String("metres") ? UnitSystem::metres
             : units == QLatin1String("feet") ? UnitSystem::feet
                                              : unitsAtHomeIn(QLocale::system());
    speaks_ = kept.value(speech_key, false).toBool();
    const auto kinds = kept.value(kinds_key).toStringList();
    spoken_kinds_ = QSet<QString>(kinds.begin(), kinds.end());
}

void Preferences::setUnits(UnitSystem units) {
    units_ = units;
    QSettings().setValue(units_key,
                         units == UnitSystem::feet ? QStringLiteral("feet") : QStringLiteral("metres"));
    emit unitsChanged();
}

void Preferences::nextUnits() {
    setUnits(units_ == UnitSystem::feet ? UnitSystem::metres : UnitSystem::feet);
}

void Preferences::setSpeaks(bool on) {
    speaks_ = on;
    QSettings().setValue(speech_key, on);
    emit speechChanged();
}

void Preferences::setKindSpoken(const QString &kind, bool on) {
    if (on)
        spoken_kinds_.insert(kind);
    else
        spoken_kinds_.remove(kind);
    auto kinds = spoken_kinds_.values();
    kinds.sort();
    QSettings().setValue(kinds_key, QStringList(kinds));
    emit speechChanged();
}

void Preferences::setInCompany(bool on) {
    if (in_company_ == on)
        return;
    in_company_ = on;
    emit companyChanged();
}

} // namespace heron::app
