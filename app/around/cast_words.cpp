#include "around/cast_words.hpp"

#include "session/free_words.hpp"

#include <QStringList>
#include <cmath>

namespace heron::app {
namespace {

QString sideOf(double degrees) {
    return degrees < 0 ? tr("left") : tr("right");
}

} // namespace

QString castLength(double metres, UnitSystem units, int decimals) {
    // A whole metre is too coarse for a cast.
    return QString::fromStdString(
        print_length(metres, units, units == UnitSystem::metres ? 1 : decimals).figure);
}

QString castUnit(UnitSystem units) {
    return units == UnitSystem::feet ? tr("ft") : tr("m");
}

QString castStanding(const Cast &cast, UnitSystem units) {
    const auto length = [units](double m) { return castLength(m, units); };
    const auto unit = castUnit(units);
    // What is missing is told no smaller than it is.
    const double step = units == UnitSystem::feet ? metres_per_foot : 0.1;
    const auto upward = [step](double metres) { return std::ceil(metres / step) * step; };
    QString words;
    if (cast.in_reach())
        words = tr("in reach, %1 %2 to spare").arg(length(cast.spare_m), unit);
    else if (cast.come_up_m)
        words = tr("out of reach by %1 %3: come up %2 %3")
                    .arg(length(upward(-cast.spare_m)), length(upward(*cast.come_up_m)), unit);
    else
        words = tr("out of reach by %1 %2").arg(length(upward(-cast.spare_m)), unit);
    QStringList past, over;
    for (const auto &name : cast.past)
        past << QString::fromStdString(name);
    for (const auto seat : cast.over)
        over << QString::number(seat + 1);
    if (!over.isEmpty())
        words +=
            (over.size() == 1 ? tr("; over seat %1") : tr("; over seats %1")).arg(over.join(tr(" and ")));
    if (!past.isEmpty())
        words += tr("; past %1").arg(past.join(QStringLiteral(", ")));
    return words;
}

QString castSaid(const Seat &seat, const Cast &cast, UnitSystem units) {
    const double degrees = std::round(cast.off_bow.degrees);
    return tr("%1: %2 o'clock, %3° %4, %5 %6, %7")
        .arg(QString::fromStdString(seat.name), QString::fromStdString(cast.off_bow.clock()))
        .arg(std::abs(degrees))
        .arg(sideOf(degrees), castLength(cast.distance_m, units), castUnit(units), castStanding(cast, units));
}

QString castsSpoken(const OwnBoat &boat, const std::vector<Cast> &casts, UnitSystem units) {
    QStringList all;
    for (std::size_t i = 0; i < casts.size() && i < boat.seats.size(); ++i) {
        const auto &cast = casts[i];
        const auto clock = QString::fromStdString(cast.off_bow.clock());
        auto words =
            tr("%1, %2, %3 %4")
                .arg(QString::fromStdString(boat.seats[i].name),
                     clock.endsWith(QLatin1String(":00"))
                         ? tr("%1 o'clock").arg(clock.chopped(3))
                         : QString(clock).replace(QLatin1Char(':'), QLatin1Char(' ')),
                     QString::number(std::lround(units == UnitSystem::feet ? feet_from_metres(cast.distance_m)
                                                                           : cast.distance_m)),
                     units == UnitSystem::feet ? tr("feet") : tr("metres"));
        if (!cast.in_reach())
            words += tr(", out of reach");
        if (!cast.over.empty())
            words += tr(", over seat %1").arg(cast.over.front() + 1);
        all << words;
    }
    return all.join(QStringLiteral("; "));
}

} // namespace heron::app
