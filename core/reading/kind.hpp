// What a thing may be: kinds and their families, as recordings' results name them (docs/recording.md).
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string_view>

namespace heron {

enum class Kind : std::uint8_t {
    none, ///< nothing but the ground's own texture
    fish,
    fish_group,
    bait_ball,
    boulder,
    rock_pile,
    stump,
    log,
    tree,
    brush,
    weeds,
    built,
    hole,
    hump,
    ledge,
    channel,
    bed,
};
inline constexpr std::size_t kind_count = 17;

enum class KindFamily : std::uint8_t { none, fish, structure, bottom, unsure };

std::string_view name_of(Kind kind);
std::string_view name_of(KindFamily family);
std::optional<Kind> kind_named(std::string_view name);
KindFamily family_of(Kind kind);

/// A probability for each kind; they sum to one.
using KindChances = std::array<double, kind_count>;

} // namespace heron
