// How far something lies, as it is told over ground: nobody steers by tenths of what lies far off.
#pragma once

#include "units/units.hpp"

#include <QString>

namespace heron::app {

/// With tenths up to 30 m, whole beyond.
inline QString distanceWords(double metres, UnitSystem units) {
    constexpr double tenths_up_to_m = 30;
    return QString::fromStdString(print_length(metres, units, metres < tenths_up_to_m ? 1 : 0).text());
}

} // namespace heron::app
