// Small pictures in the colours of the map in use.
#pragma once

#include "picture/chip.hpp"

#include <QImage>

namespace heron::app {

/// The chip's levels in the colours of the map in use.
QImage imageOf(const Chip &chip);

} // namespace heron::app
