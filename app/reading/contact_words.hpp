// What is said of a contact, in words: its name, its doubt, where it lies, how tall it is.
#pragma once

#include "picture/row_facts.hpp"
#include "reading/contact.hpp"
#include "reading/measure.hpp"
#include "units/units.hpp"

#include <QString>
#include <QStringList>
#include <array>
#include <optional>
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
/// What the guide's hand has measured of a contact instead of the program.
struct HandMeasure {
    bool moved = false; ///< the handles stand where the hand put them
    std::optional<MeasureHandles> handles;
    std::optional<Measurement> measured;
};
/// All that Read tells of a contact in figures: head line, when and where it was seen, four figures with
/// their doubt, and how the first of them follows.
struct ContactSheet {
    QString title, seen;
    std::array<ContactFact, 4> figures;
    QString why;
};
/// `row`: facts of the row that shows it best.
ContactSheet contactSheet(const Contact &contact, const RowFacts &row, const HandMeasure &hand,
                          UnitSystem units);
/// Height, side distance and depth, as far as they are told.
std::vector<ContactFact> contactFacts(const Contact &contact, UnitSystem units);

} // namespace heron::app
