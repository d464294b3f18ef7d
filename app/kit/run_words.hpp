// "4.9 mi", "7.9 km": how far the boat ran.
#pragma once

#include "units/units.hpp"

#include <QCoreApplication>

namespace heron::app {

inline QString runWords(double metres, UnitSystem units) {
    return units == UnitSystem::feet
               ? QCoreApplication::translate("Run", "%1 mi").arg(metres / metres_per_mile, 0, 'f', 1)
               : QCoreApplication::translate("Run", "%1 km").arg(metres / 1000, 0, 'f', 1);
}

} // namespace heron::app
