// Chips as grey PNG pictures and back.
#pragma once

#include "picture/chip.hpp"

#include <optional>
#include <string>
#include <string_view>

namespace heron {

/// Eight bits of grey; nothing of where or when it was seen.
std::string png_of_chip(const Chip &chip);
/// A grey (or coloured, then its lightness) PNG of up to 4096 pixels each way; nothing for anything else.
std::optional<Chip> chip_from_png(std::string_view bytes);

} // namespace heron
