// Small pictures in the colours of the map in use, and the words for what they show.
#pragma once

#include "picture/chip.hpp"

#include <QImage>
#include <QString>
#include <string_view>

namespace heron::app {

/// The chip's levels in the colours of the map in use.
QImage imageOf(const Chip &chip);
/// "fish", "rock pile": the word for a family or kind.
QString wordFor(std::string_view familyOrKind);

} // namespace heron::app
