// What a guide cannot look up about a sounder, estimated from what it sounded.
#pragma once

#include "picture/scan.hpp"
#include "tuning/budget.hpp"

#include <string>
#include <vector>

namespace heron {

struct GearEstimate {
    Gear gear;
    std::vector<std::string> said; ///< one line for each thing that was estimated, and from how much
};

/// Ping rate, beam widths and bandwidth as the rows tell them; for each band that was used the source level,
/// from how far a bottom of the given kind stood over the noise of the water column. Rows [first, end); what
/// they do not tell stays as in `known`. The source level is as good as the guess of the bottom: ±6 dB.
GearEstimate estimate_gear(const Scan &scan, std::size_t first, std::size_t end, const Gear &known,
                           const WaterState &water);

} // namespace heron
