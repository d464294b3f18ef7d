// The sonar's panel on a photograph of a screen: a quadrilateral, not a box.
#pragma once

#include "screen/screen_picture.hpp"

#include <array>
#include <optional>

namespace heron {

/// Looks for what is uneven beside the camera's own grain, and takes its four sides as straight lines along
/// which what lies outside gives way to something else. Upper left, upper right, lower right, lower left.
/// Nothing where a side is not borne out by half of what lies along it, and of circles. Of glass that is
/// nearly flat, held within some 20 degrees of upright.
std::optional<std::array<Pixel, 4>> panel_on_photograph(const ScreenPicture &picture);

} // namespace heron
