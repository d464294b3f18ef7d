// What a thing may be: kinds and their families, as recordings' results name them (docs/recording.md).
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <span>
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

/// What a contact is read as, and what a mark is kept as. `none`: nothing but the ground, no mark is that;
/// `hazard`: only marks, of any kind.
enum class Family : std::uint8_t { none, fish, structure, bottom, hazard, unsure };

std::string_view name_of(Kind kind);
std::string_view name_of(Family family);
std::optional<Kind> kind_named(std::string_view name);
std::optional<Family> family_named(std::string_view name);
Family family_of(Kind kind);
/// Kinds by family, as the glyphs know them; of `hazard` and `unsure` all, of `none` none.
std::span<const Kind> kinds_of(Family family);

/// A probability for each kind; they sum to one.
using KindChances = std::array<double, kind_count>;

} // namespace heron
