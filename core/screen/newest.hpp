// At which edge of a panel new rows come in: what a film tells and a still does not.
#pragma once

#include "screen/calibration.hpp"
#include "screen/screen_picture.hpp"

#include <optional>
#include <span>

namespace heron {

/// Follows the panel of `calibration` over pictures that came one after the other, by each of the four ways
/// in which it may scroll; the way by which most rows came new, where that is no tie. Nothing where nothing
/// scrolled, and of a circle.
std::optional<NewestAt> newest_of(std::span<const ScreenPicture> pictures,
                                  const ScreenCalibration &calibration);

} // namespace heron
