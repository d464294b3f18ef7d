#include "marks/level.hpp"

#include <algorithm>

namespace heron {
namespace {

constexpr std::array<std::string_view, 4> levels{"me", "crew", "client", "anyone"};
constexpr std::array<std::string_view, field_count> fields{
    "name", "kind", "place", "measures", "time", "picture", "note", "tags", "settings", "story", "outcomes"};

template <class Enum, std::size_t n>
std::optional<Enum> named(const std::array<std::string_view, n> &names, std::string_view name) {
    const auto at = std::find(names.begin(), names.end(), name);
    return at == names.end() ? std::nullopt : std::optional(static_cast<Enum>(at - names.begin()));
}

} // namespace

std::string_view name_of(Level level) {
    return levels[static_cast<std::size_t>(level)];
}
std::optional<Level> level_named(std::string_view name) {
    return named<Level>(levels, name);
}
std::string_view name_of(Field field) {
    return fields[static_cast<std::size_t>(field)];
}
std::optional<Field> field_named(std::string_view name) {
    return named<Field>(fields, name);
}

Level usual_level(Field field, bool hazard) {
    switch (field) {
    case Field::kind:
    case Field::place:
    case Field::measures:
        return Level::anyone;
    case Field::name:
    case Field::time:
    case Field::picture:
        return hazard ? Level::crew : Level::client;
    case Field::note:
    case Field::tags:
    case Field::settings:
    case Field::story:
    case Field::outcomes:
        break;
    }
    return Level::crew;
}

} // namespace heron
