// A contact in the few words that an ear keeps.
#pragma once

#include "reading/contact.hpp"
#include "units/units.hpp"

#include <QString>

namespace heron::app {

/// "40 feet": rounded to five feet, or to two metres.
QString spokenLength(double metres, UnitSystem units);
/// "stump, left, 40 feet".
QString contactSpoken(const Contact &contact, UnitSystem units);

} // namespace heron::app
