#include "screen/newest.hpp"

#include "screen/scroll.hpp"
#include "screen/straighten.hpp"

#include <algorithm>
#include <array>

namespace heron {

std::optional<NewestAt> newest_of(std::span<const ScreenPicture> pictures,
                                  const ScreenCalibration &calibration) {
    if (calibration.circle_bow_deg)
        return std::nullopt;
    constexpr std::array ways{NewestAt::top, NewestAt::bottom, NewestAt::left, NewestAt::right};
    std::array<ScrollFollower, ways.size()> followers;
    std::array<int, ways.size()> rows{};
    for (const auto &picture : pictures) {
        const auto upright = upright_panel(picture, calibration);
        for (std::size_t i = 0; i < ways.size(); ++i) {
            const auto scroll = followers[i].next(panel_of(upright, ways[i]));
            if (scroll.state == ScrollState::scrolled || scroll.state == ScrollState::covered)
                rows[i] += scroll.rows;
        }
    }
    auto ordered = rows;
    std::sort(ordered.begin(), ordered.end(), std::greater<>());
    if (ordered[0] == 0 || ordered[0] <= 2 * ordered[1])
        return std::nullopt;
    return ways[static_cast<std::size_t>(std::max_element(rows.begin(), rows.end()) - rows.begin())];
}

} // namespace heron
