#include "reading/kind.hpp"

#include <algorithm>

namespace heron {
namespace {

constexpr std::array<std::string_view, kind_count> names{
    "none",  "fish",  "fish_group", "bait_ball", "boulder", "rock_pile", "stump",   "log", "tree",
    "brush", "weeds", "built",      "hole",      "hump",    "ledge",     "channel", "bed"};

} // namespace

std::string_view name_of(Kind kind) {
    return names[static_cast<std::size_t>(kind)];
}

std::string_view name_of(KindFamily family) {
    switch (family) {
    case KindFamily::none:
        return "none";
    case KindFamily::fish:
        return "fish";
    case KindFamily::structure:
        return "structure";
    case KindFamily::bottom:
        return "bottom";
    case KindFamily::unsure:
        break;
    }
    return "unsure";
}

std::optional<Kind> kind_named(std::string_view name) {
    const auto at = std::find(names.begin(), names.end(), name);
    if (at == names.end())
        return std::nullopt;
    return static_cast<Kind>(at - names.begin());
}

KindFamily family_of(Kind kind) {
    if (kind == Kind::none)
        return KindFamily::none;
    if (kind <= Kind::bait_ball)
        return KindFamily::fish;
    return kind <= Kind::built ? KindFamily::structure : KindFamily::bottom;
}

} // namespace heron
