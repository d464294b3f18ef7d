// Numbers in text that comes from outside.
#pragma once

#include <optional>
#include <string_view>

namespace heron {

/// Takes a finite number off the front of `text`, with blanks and a plus sign before it; the rest is left.
/// The decimal sign is a point whatever the locale. Nothing, and `text` as it was, where there is none.
std::optional<double> take_number(std::string_view &text);

/// A finite number and nothing else but blanks around it.
std::optional<double> number_in_text(std::string_view text);

} // namespace heron
