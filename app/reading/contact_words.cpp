#include "reading/contact_words.hpp"

#include "kit/kind_words.hpp"

#include <QCoreApplication>
#include <cmath>

namespace heron::app {
namespace {

QString tr(const char *words) {
    return QCoreApplication::translate("ContactWords", words);
}

QString length(double metres, UnitSystem units, int decimals = 1) {
    return QString::fromStdString(print_length(metres, units, decimals).text());
}

QString doubt(double sd, UnitSystem units) {
    return tr("± %1").arg(QString::fromStdString(print_doubt(sd, units)));
}

QString sideWord(const Contact &c) {
    return c.side == Side::port ? tr("left") : tr("right");
}

} // namespace

QString contactTitle(const Contact &c) {
    if (c.family == Family::unsure)
        return tr("not sure");
    return c.kind_sure ? wordFor(c.kind) : tr("%1, kind not sure").arg(wordFor(c.family));
}

QString inHundred(double chance) {
    return tr("%1 in 100").arg(std::lround(100 * chance));
}

QString contactWhere(const Contact &c, UnitSystem units, int decimals) {
    if (c.zone == Zone::track)
        return tr("under the boat");
    return tr("%1 %2").arg(length(c.ground_m.value, units, decimals), sideWord(c));
}

std::vector<ContactFact> contactFacts(const Contact &c, UnitSystem units) {
    std::vector<ContactFact> facts;
    if (c.height_m)
        facts.push_back(
            {c.placement == Placement::suspended ? tr("Off the bottom")
             : c.height_m->value < 0             ? tr("Hollow")
                                                 : tr("Height"),
             (c.height_at_least ? tr("at least ") : QString()) + length(std::fabs(c.height_m->value), units),
             doubt(c.height_m->sd, units)});
    if (c.zone != Zone::track)
        facts.push_back({tr("Aside"), length(c.ground_m.value, units),
                         tr("%1 %2").arg(doubt(c.ground_m.sd, units), sideWord(c))});
    facts.push_back({tr("Depth there"), length(c.depth_m, units), QString()});
    return facts;
}

} // namespace heron::app
