#include "reading/contact_said.hpp"

#include "kit/kind_words.hpp"
#include "session/free_words.hpp"

#include <algorithm>
#include <cmath>

namespace heron::app {
QString spokenLength(double metres, UnitSystem units) {
    const bool feet = units == UnitSystem::feet;
    const double shown = feet ? feet_from_metres(metres) : metres, step = feet ? 5 : 2;
    const auto figure = std::lround(std::max(step, std::round(shown / step) * step));
    return tr("%1 %2").arg(figure).arg(feet ? tr("feet") : tr("metres"));
}

QString contactSpoken(const Contact &c, UnitSystem units) {
    const auto name = c.family == Family::unsure ? tr("something")
                      : c.kind_sure              ? wordFor(c.kind)
                                                 : wordFor(c.family);
    if (c.zone == Zone::track)
        return tr("%1, under the boat").arg(name);
    return tr("%1, %2, %3")
        .arg(name, c.side == Side::port ? tr("left") : tr("right"), spokenLength(c.ground_m.value, units));
}

} // namespace heron::app
