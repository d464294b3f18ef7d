// Where nothing was heard or sounded, grids hold no number.
#pragma once

#include <limits>

namespace heron {

inline constexpr float unknown = std::numeric_limits<float>::quiet_NaN();

} // namespace heron
