// Who may see what: from the guide alone to anyone.
#pragma once

#include <array>
#include <cstdint>
#include <map>
#include <optional>
#include <string_view>

namespace heron {

/// Each sees what those after it see, and more. What is `me` never leaves.
enum class Level : std::uint8_t { me, crew, client, anyone };
std::string_view name_of(Level level);
std::optional<Level> level_named(std::string_view name);

/// Whether what stands at `level` may go to a receiver of that level.
constexpr bool open_to(Level level, Level receiver) {
    return receiver != Level::me ? level >= receiver : true;
}

/// What of a mark may be kept back.
enum class Field : std::uint8_t {
    name,
    kind,
    place,
    measures, ///< depth, height, length, bottom, shape
    time,
    picture, ///< chips
    note,
    tags,     ///< and the lake
    settings, ///< range, band, gain, side, distances from the boat
    story,    ///< sightings, source, who, what confirmed it
    outcomes,
};
inline constexpr std::size_t field_count = 11;
std::string_view name_of(Field field);
std::optional<Field> field_named(std::string_view name);

using FieldLevels = std::map<Field, Level>;

/// Who sees a field where the mark says nothing of it: kind, place and measures anyone; name, time and
/// picture the client; note, tags, settings and story the crew; outcomes the guide alone. Of a hazard kind,
/// place and measures anyone, and all else the crew.
Level usual_level(Field field, bool hazard);

} // namespace heron
