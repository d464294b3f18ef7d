#include "units/number_text.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>

namespace heron {
namespace {

std::string_view without_blanks(std::string_view text) {
    text.remove_prefix(std::min(text.find_first_not_of(" \t\r\n\v\f"), text.size()));
    return text;
}

} // namespace

std::optional<double> take_number(std::string_view &text) {
    auto from = without_blanks(text);
    if (from.starts_with('+')) {
        from.remove_prefix(1);
        if (from.starts_with('-'))
            return std::nullopt;
    }
    double value = 0;
    const auto [end, error] = std::from_chars(from.data(), from.data() + from.size(), value);
    if (error != std::errc() || !std::isfinite(value))
        return std::nullopt;
    text = from.substr(static_cast<std::size_t>(end - from.data()));
    return value;
}

std::optional<double> number_in_text(std::string_view text) {
    const auto value = take_number(text);
    return without_blanks(text).empty() ? value : std::nullopt;
}

} // namespace heron
