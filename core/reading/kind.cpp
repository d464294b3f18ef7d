#include "reading/kind.hpp"

#include <algorithm>

namespace heron {
namespace {

constexpr std::array<std::string_view, kind_count> names{
    "none",  "fish",  "fish_group", "bait_ball", "boulder", "rock_pile", "stump",   "log", "tree",
    "brush", "weeds", "built",      "hole",      "hump",    "ledge",     "channel", "bed"};

constexpr std::array<std::string_view, 6> family_names{"none",   "fish",   "structure",
                                                       "bottom", "hazard", "unsure"};

} // namespace

std::string_view name_of(Kind kind) {
    return names[static_cast<std::size_t>(kind)];
}

std::string_view name_of(Family family) {
    return family_names[static_cast<std::size_t>(family)];
}

std::optional<Family> family_named(std::string_view name) {
    const auto at = std::find(family_names.begin(), family_names.end(), name);
    if (at == family_names.end())
        return std::nullopt;
    return static_cast<Family>(at - family_names.begin());
}

std::span<const Kind> kinds_of(Family family) {
    static constexpr auto all = [] {
        std::array<Kind, kind_count - 1> kinds{};
        for (std::size_t i = 0; i < kinds.size(); ++i)
            kinds[i] = static_cast<Kind>(i + 1);
        return kinds;
    }();
    const auto from = [](Kind first, Kind last) {
        const auto begin = static_cast<std::size_t>(first) - 1, end = static_cast<std::size_t>(last);
        return std::span(all).subspan(begin, end - begin);
    };
    switch (family) {
    case Family::none:
        return {};
    case Family::fish:
        return from(Kind::fish, Kind::bait_ball);
    case Family::structure:
        return from(Kind::boulder, Kind::built);
    case Family::bottom:
        return from(Kind::hole, Kind::bed);
    case Family::hazard:
    case Family::unsure:
        break;
    }
    return all;
}

std::optional<Kind> kind_named(std::string_view name) {
    const auto at = std::find(names.begin(), names.end(), name);
    if (at == names.end())
        return std::nullopt;
    return static_cast<Kind>(at - names.begin());
}

Family family_of(Kind kind) {
    if (kind == Kind::none)
        return Family::none;
    if (kind <= Kind::bait_ball)
        return Family::fish;
    return kind <= Kind::built ? Family::structure : Family::bottom;
}

} // namespace heron
