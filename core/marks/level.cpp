#include "marks/level.hpp"

#include "files/named.hpp"

namespace heron {
namespace {

constexpr std::array<std::string_view, 4> level_names{"me", "crew", "client", "anyone"};
constexpr std::array<std::string_view, field_count> field_names{
    "name", "kind", "place", "measures", "time", "picture", "note", "tags", "settings", "story", "outcomes"};

} // namespace

std::string_view name_of(Level level) {
    return level_names[static_cast<std::size_t>(level)];
}
std::optional<Level> level_named(std::string_view name) {
    return named<Level>(level_names, name);
}
std::string_view name_of(Field field) {
    return field_names[static_cast<std::size_t>(field)];
}
std::optional<Field> field_named(std::string_view name) {
    return named<Field>(field_names, name);
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
