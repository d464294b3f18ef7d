// A cast in words: for the card, for the voice.
#pragma once

#include "around/cast.hpp"
#include "units/units.hpp"

#include <QString>
#include <vector>

namespace heron::app {

/// In reach or not, what to do, and what the line goes past or over.
QString castStanding(const Cast &cast, UnitSystem units);
/// "bow: 12:45 o'clock, 22° right, 38 ft, in reach …".
QString castSaid(const Seat &seat, const Cast &cast, UnitSystem units);
/// All seats in the few words that an ear keeps: "bow, 12 45, 38 feet; stern, 1 o'clock, 52 feet, out of
/// reach".
QString castsSpoken(const OwnBoat &boat, const std::vector<Cast> &casts, UnitSystem units);
/// The figure alone, as casts tell lengths: whole feet, tenths of a metre.
QString castLength(double metres, UnitSystem units, int decimals = 0);
QString castUnit(UnitSystem units);

} // namespace heron::app
