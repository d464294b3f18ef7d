// Enumerations by their names, as files and words hold them.
#pragma once

#include <algorithm>
#include <array>
#include <optional>
#include <string_view>

namespace heron {

/// The value whose name stands at its place in `names`, from 0; none when no name is that.
template <class Enum, std::size_t n>
std::optional<Enum> named(const std::array<std::string_view, n> &names, std::string_view name) {
    const auto at = std::find(names.begin(), names.end(), name);
    return at == names.end() ? std::nullopt : std::optional(static_cast<Enum>(at - names.begin()));
}

} // namespace heron
