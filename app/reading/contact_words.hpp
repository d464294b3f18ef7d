// What is said of a contact, in words: its name, its doubt, where it lies, how tall it is.
#pragma once

#include "reading/contact.hpp"
#include "units/units.hpp"

#include <QString>
#include <QStringList>
#include <vector>

namespace heron::app {

/// "rock pile", "structure, kind not sure", "not sure".
QString contactTitle(const Contact &contact);
/// "78 in 100".
QString inHundred(double chance);
/// "31 ft left", "under the boat"; `decimals` of the figure.
QString contactWhere(const Contact &contact, UnitSystem units, int decimals = 0);
/// One fact of a contact: its label, its figure with unit, its doubt.
struct ContactFact {
    QString label, figure, doubt;
};
/// Height, side distance and depth, as far as they are told.
std::vector<ContactFact> contactFacts(const Contact &contact, UnitSystem units);

} // namespace heron::app
