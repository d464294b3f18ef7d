// Small pictures in the colours of the map in use.
#pragma once

#include "marks/kept_chip.hpp"

#include <QImage>

namespace heron::app {

/// The chip's levels in the colours of the map in use.
QImage imageOf(const Chip &chip);
QImage imageOf(const KeptChip &chip); ///< null where there is none

} // namespace heron::app
