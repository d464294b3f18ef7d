#include "parts/condition_words.hpp"

#include <QCoreApplication>

namespace heron::app {

std::vector<ConditionKeys> conditionKeys(QWidget *parent, const QString &prefix) {
    const auto tr = [](const char *words) { return QCoreApplication::translate("ConditionsBox", words); };
    std::vector<ConditionKeys> all;
    const auto row = [&](const QString &label, const QStringList &choices, const QString &name) {
        ConditionKeys r{label, {}};
        for (const auto &choice : choices) {
            auto *key = new KeyButton({}, choice, {}, label + QStringLiteral(": ") + choice, parent);
            key->setCheckable(true);
            key->setObjectName(prefix + name + QString::number(r.keys.size()));
            r.keys.push_back(key);
        }
        all.push_back(std::move(r));
    };
    row(tr("Wind"), {tr("calm"), tr("light"), tr("strong")}, QStringLiteral("wind"));
    row(tr("Sky"), {tr("bright"), tr("cloud"), tr("rain")}, QStringLiteral("sky"));
    row(tr("Clarity"), {tr("clear"), tr("stained"), tr("muddy")}, QStringLiteral("clarity"));
    row(tr("Level"), {tr("low"), tr("normal"), tr("high")}, QStringLiteral("level"));
    return all;
}

} // namespace heron::app
